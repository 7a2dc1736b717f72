/// Any calls at all of the bus's interface for playing: what comes of them is within the song, its set and
/// the range of paces.
#include "insist.h"

#include "app/session/mediawish.h"

#include <cstring>

using namespace cobbleway;

namespace {

/// Numbers from bytes, one after the other; 0 where there are none left.
class Numbers {
  public:
    Numbers(const std::uint8_t* data, std::size_t size) : m_at(data), m_left(size) {}
    [[nodiscard]] bool any() const { return m_left > 0; }
    template <class T> T next() {
        T number{};
        const std::size_t count = m_left < sizeof(T) ? m_left : sizeof(T);
        std::memcpy(&number, m_at, count);
        m_at += count;
        m_left -= count;
        return number;
    }

  private:
    const std::uint8_t* m_at;
    std::size_t m_left;
};

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    Numbers numbers(data, size);
    MediaPlace now;
    now.length = numbers.next<std::uint32_t>() * std::int64_t{1000};
    now.position = std::min<std::int64_t>(now.length, numbers.next<std::uint32_t>());
    now.songs = 1 + numbers.next<std::uint16_t>();
    now.song = numbers.next<std::uint16_t>() % now.songs;
    MediaWish wish;
    while (numbers.any()) {
        switch (numbers.next<std::uint8_t>() % 5) {
        case 0: wish.setPosition(now, numbers.next<std::int64_t>()); break;
        case 1: wish.seek(now, numbers.next<std::int64_t>()); break;
        case 2: wish.setRate(numbers.next<double>()); break;
        case 3: wish.skip(now, numbers.next<std::int8_t>() > 0 ? 1 : -1); break;
        default: wish.play = numbers.next<std::uint8_t>() & 1; break;
        }
        insist(!wish.position || (*wish.position >= 0 && *wish.position <= now.length),
               "it is within the song");
        insist(wish.hasSong(now, 0), "the song is there");
        insist(!wish.pace || (*wish.pace >= 25 && *wish.pace <= 200), "the pace is one");
    }
    return 0;
}
