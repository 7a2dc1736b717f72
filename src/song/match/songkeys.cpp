#include "song/match/songkeys.h"

#include "song/heard/keysignature.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace cobbleway {
namespace {

constexpr int keyCount = 24; ///< major, then minor, by tonic

MusicalKey keyAt(int number) { return {number % 12, number >= 12, 0}; }

/// What all pitched parts play, without the song's own shift.
struct Together {
    std::map<Tick, KeyCheck::Window> windows;
    PitchClasses all{};
};

Together together(const Song& song, const std::function<KeyCheck::Melody(const Part&)>& melodyOf) {
    Together sum;
    for (const Part& part : song.parts) {
        if (part.source.drums || part.aside) continue;
        const KeyCheck::Melody melody = melodyOf(part);
        for (std::size_t i = 0; i < 12; ++i) sum.all[i] += melody.classes[i];
        for (const KeyCheck::Window& window : melody.windows) {
            KeyCheck::Window& whole = sum.windows[window.index];
            for (std::size_t i = 0; i < 12; ++i) whole.classes[i] += window.classes[i];
            whole.lowest = std::min(whole.lowest, window.lowest);
        }
    }
    return sum;
}

KeyHints hintsOf(const Song& song, int firstBass, int lastBass) {
    KeyHints hints;
    hints.firstBass = firstBass;
    hints.lastBass = lastBass;
    if (const auto signatures = signaturesOf(song); !signatures.empty()) {
        hints.sharps = signatures.front().sharps;
        hints.minor = signatures.front().minor;
    }
    return hints;
}

KeyHints hintsOf(const Song& song, const Together& sum) {
    if (sum.windows.empty()) return {};
    return hintsOf(song, sum.windows.begin()->second.lowest % 12, sum.windows.rbegin()->second.lowest % 12);
}

/// The major or the minor key of a scale, by all that plays in some windows.
MusicalKey ofItsScale(const MusicalKey& key, const Together& sum, std::size_t from, std::size_t to) {
    PitchClasses all{};
    const auto first = std::next(sum.windows.begin(), static_cast<std::ptrdiff_t>(from));
    const auto end = std::next(first, static_cast<std::ptrdiff_t>(to - from));
    for (auto at = first; at != end; ++at)
        for (std::size_t i = 0; i < 12; ++i) all[i] += at->second.classes[i];
    const KeyHints hints{first->second.lowest % 12, std::prev(end)->second.lowest % 12, sharpsOf(key),
                         key.minor};
    MusicalKey found = keyOf(all, hints);
    found.fit = 0;
    return sharpsOf(found) == sharpsOf(key) ? found : key;
}

MusicalKey shifted(MusicalKey key, int by) {
    key.tonic = pitchClass(key.tonic + by);
    return key;
}

/// How well the notes of a window fit a key, by its profile and by the share that is of its scale, so that
/// the sum over windows tells how well they all do.
double fitOf(const KeyCheck::Window& window, const MusicalKey& key) {
    const PitchClasses profile = profileOf(key);
    const double mean = sumOf(profile) / 12;
    double all = 0, sum = 0, square = 0;
    for (std::size_t i = 0; i < 12; ++i) {
        all += window.classes[i];
        sum += window.classes[i] * (profile[i] - mean);
        square += (profile[i] - mean) * (profile[i] - mean);
    }
    static constexpr std::array<bool, 12> majorScale = {1, 0, 1, 0, 1, 1, 0, 1, 0, 1, 0, 1},
                                          minorScale = {1, 0, 1, 1, 0, 1, 0, 1, 1, 0, 1, 1}; // both sevenths
    double within = 0;
    for (int i = 0; i < 12; ++i)
        if ((key.minor ? minorScale : majorScale)[static_cast<std::size_t>(pitchClass(i - key.tonic))])
            within += window.classes[static_cast<std::size_t>(i)];
    return all > 0 ? sum / all / std::sqrt(square) + within / all : 0;
}

constexpr double never = -std::numeric_limits<double>::infinity();

/// The best way through all windows, where a key holds for a while: each change costs as much as some bars
/// that fit a little worse, and again as much where the new key holds for less than `lasting` windows.
class KeyPath {
  public:
    /// `brief`: for how many windows a key holds at least, unless there are no more.
    KeyPath(std::size_t lasting, std::size_t brief) : m_lasting(lasting), m_brief(brief) {
        m_sums.emplace_back();
        m_here.push_back({0, -1, 0});
        m_held.fill({never, -1, 0});
    }

    void add(const std::array<double, keyCount>& fits) {
        const std::size_t now = m_sums.size(); // windows with this one
        m_sums.push_back(m_sums.back());
        Way best{never, -1, 0};
        for (int key = 0; key < keyCount; ++key) {
            const auto k = static_cast<std::size_t>(key);
            m_sums[now][k] += fits[k];
            Way& held = m_held[k]; // the best that ends here in this key
            held.points += fits[k];
            for (const std::size_t length : {m_lasting, m_brief})
                if (now >= length) better(held, wayFrom(now - length, key));
            if (now > m_brief) better(held, wayFrom(0, key));
            better(best, held);
        }
        m_here.push_back(best);
    }

    /// Where each key begins, in windows.
    [[nodiscard]] std::vector<std::pair<std::size_t, int>> path() const {
        std::vector<std::pair<std::size_t, int>> found;
        std::size_t at = m_sums.size() - 1;
        if (at > 0 && at < m_brief) { // all of it is one
            const auto& sums = m_sums.back();
            return {{0, static_cast<int>(std::max_element(sums.begin(), sums.end()) - sums.begin())}};
        }
        for (; at > 0; at = m_here[at].from) {
            if (!found.empty() && found.back().second == m_here[at].key) found.pop_back();
            found.emplace_back(m_here[at].from, m_here[at].key);
        }
        std::reverse(found.begin(), found.end());
        return found;
    }

  private:
    static constexpr double change = 2; ///< in windows that fit wholly or not at all
    struct Way {
        double points = never;
        int key = -1;
        std::size_t from = 0; ///< where its last key begins
    };
    static void better(Way& way, const Way& other) {
        if (other.points > way.points) way = other;
    }
    /// The best way to `from`, then in one key up to now.
    [[nodiscard]] Way wayFrom(std::size_t from, int key) const {
        const auto k = static_cast<std::size_t>(key);
        const std::size_t length = m_sums.size() - 1 - from;
        const double cost = (from > 0 ? change : 0) + (length < m_lasting ? change : 0);
        return {m_here[from].points - cost + m_sums.back()[k] - m_sums[from][k], key, from};
    }
    std::size_t m_lasting, m_brief;
    std::vector<std::array<double, keyCount>> m_sums; ///< of the fits of each key, by windows so far
    std::vector<Way> m_here;                          ///< the best of all, the same
    std::array<Way, keyCount> m_held;
};

/// The sharps of the signature that holds at a tick; none where there is none, or it says little.
std::optional<int> sharpsAt(const std::vector<KeySignature>& signatures, Tick tick) {
    const auto after = std::partition_point(signatures.begin(), signatures.end(),
                                            [&](const KeySignature& s) { return s.tick <= tick; });
    if (after == signatures.begin()) return std::nullopt;
    const KeySignature& now = *(after - 1);
    return now.sharps == 0 && !now.minor && signatures.size() == 1 ? std::nullopt : std::optional(now.sharps);
}

} // namespace

void BassEnds::add(const Note& note) {
    const int key = std::clamp(note.key.value - m_shift, 0, 127);
    const auto take = [key](End& end, Tick window, bool farther) {
        if (end.window >= 0 && window == end.window)
            end.lowest = std::min(end.lowest, key);
        else if (end.window < 0 || farther)
            end = {window, key};
    };
    const Tick last =
        (std::min(std::max(note.end, note.start + 1), note.start + 4 * m_length) - 1) / m_length;
    take(m_first, note.start / m_length, note.start / m_length < m_first.window);
    take(m_last, last, last > m_last.window);
}

KeyHints BassEnds::hints(const Song& song) const {
    return hintsOf(song, m_first.window < 0 ? -1 : m_first.lowest % 12,
                   m_last.window < 0 ? -1 : m_last.lowest % 12);
}

MusicalKey keyOfSong(const Song& song, const std::function<KeyCheck::Melody(const Part&)>& melodyOf) {
    const Together sum = together(song, melodyOf);
    return shifted(keyOf(sum.all, hintsOf(song, sum)), song.keyShift);
}

MusicalKey keyOfSong(const Song& song) {
    return keyOfSong(song,
                     [&](const Part& part) { return KeyCheck::melodyOf(song, part, realise(song, part)); });
}

std::vector<KeyStretch> keysBySection(const Song& song) {
    return keysBySection(
        song, [&](const Part& part) { return KeyCheck::melodyOf(song, part, realise(song, part)); });
}

std::vector<KeyStretch> keysBySection(const Song& song,
                                      const std::function<KeyCheck::Melody(const Part&)>& melodyOf) {
    const Together sum = together(song, melodyOf);
    if (sum.windows.empty()) return {};
    const MusicalKey home = keyOf(sum.all, hintsOf(song, sum));
    const auto signatures = signaturesOf(song);
    const Tick length = KeyCheck::windowTicks(song);
    const Tick bar = song.tempo->barStart(2) - song.tempo->barStart(1);
    const auto bars = [&](Tick count) {
        return static_cast<std::size_t>(std::clamp<Tick>(count * bar / length, 4, 400));
    };
    KeyPath path(bars(8), bars(4));
    std::vector<Tick> at;
    for (const auto& [index, window] : sum.windows) {
        constexpr double atHome = 0.03, asSigned = 0.15; // a window
        const auto sharps = sharpsAt(signatures, index * length);
        std::array<double, keyCount> fits{};
        for (int number = 0; number < keyCount; ++number) {
            const MusicalKey key = keyAt(number);
            double& fit = fits[static_cast<std::size_t>(number)];
            fit = fitOf(window, key);
            if (key.tonic == home.tonic && key.minor == home.minor) fit += atHome;
            if (sharps && (sharpsOf(key) - *sharps) % 12 == 0) fit += asSigned;
        }
        path.add(fits);
        at.push_back(index * length);
    }
    const auto ways = path.path();
    if (ways.size() == 1) return {{0, shifted(home, song.keyShift)}};
    std::vector<KeyStretch> stretches;
    for (std::size_t i = 0; i < ways.size(); ++i) {
        const std::size_t from = ways[i].first, to = i + 1 < ways.size() ? ways[i + 1].first : at.size();
        const MusicalKey key = ofItsScale(keyAt(ways[i].second), sum, from, to);
        stretches.push_back({from == 0 ? 0 : at[from], shifted(key, song.keyShift)});
    }
    return stretches;
}

} // namespace cobbleway
