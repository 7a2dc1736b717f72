#include "files/soundfile.h"

#include "files/soundlibrary.h"

#include <algorithm>
#include <cmath>
#include <mutex>

namespace cobbleway {
namespace {

/// Opens a file; null when it cannot be, and `why`, when given, then gets the reason. libsndfile keeps what
/// it says of a file that does not open in one place for all threads.
SoundHandle openSound(const std::filesystem::path& path, int mode, SF_INFO& info,
                      std::string* why = nullptr) {
    static std::mutex oneAtATime;
    const std::scoped_lock lock(oneAtATime);
    SoundHandle file(sf_open(path.c_str(), mode, &info));
    if (!file && why) *why = sf_strerror(nullptr);
    return file;
}

/// How many frames a file says that it holds; −1 when it cannot be read. A disk may lose the header without a
/// word.
sf_count_t framesIn(const std::filesystem::path& path) {
    SF_INFO info{};
    const SoundHandle file = openSound(path, SFM_READ, info);
    return file ? info.frames : -1;
}

/// Samples of 16 bits with triangular dither.
class Dither {
  public:
    /// Of whole frames of two sides. In two turns, the second of which a processor does on several at once.
    std::span<const short> of(std::span<const float> samples) {
        m_noise.resize(samples.size());
        for (std::size_t i = 0; i + 1 < samples.size(); i += 2) drawFor(i);
        m_out.resize(samples.size());
        for (std::size_t i = 0; i < samples.size(); ++i) {
            const float step = samples[i] * 32767 + (static_cast<float>(m_noise[i]) / 65536 - 1);
            const float held = std::min(std::max(step, -32768.0F), 32767.0F);
            m_out[i] = static_cast<short>(static_cast<int>(held + 32768.5F) - 32768);
        }
        return m_out;
    }

  private:
    /// Noise of −1 to 1 steps, triangular: the sum of two even numbers of 16 bits. Of one draw of 64 bits
    /// each side takes two (xorshift, Marsaglia 2003; a good deal quicker than the library's, and noise is
    /// all that it is for).
    void drawFor(std::size_t frame) {
        m_state ^= m_state << 13;
        m_state ^= m_state >> 7;
        m_state ^= m_state << 17;
        m_noise[frame] = static_cast<int>((m_state >> 48) + (m_state >> 32 & 0xFFFF));
        m_noise[frame + 1] = static_cast<int>((m_state >> 16 & 0xFFFF) + (m_state & 0xFFFF));
    }
    std::uint64_t m_state = 0x9E3779B97F4A7C15U;
    std::vector<int> m_noise;
    std::vector<short> m_out;
};

void tag(SNDFILE* file, const SoundTags& tags) {
    const auto set = [file](int which, const std::string& text) {
        if (!text.empty()) sf_set_string(file, which, text.c_str());
    };
    set(SF_STR_TITLE, tags.title);
    set(SF_STR_ARTIST, tags.artist);
    set(SF_STR_ALBUM, tags.album);
    set(SF_STR_COMMENT, tags.comment);
    if (tags.track > 0) set(SF_STR_TRACKNUMBER, std::to_string(tags.track));
}

} // namespace

struct SoundWriter::State {
    State(const std::filesystem::path& path, const SoundSpec& s)
        : file(path), target(path), spec(s), meter(s.rate, s.truePeak) {}
    AtomicFile file;
    std::filesystem::path target;
    SoundSpec spec;
    SoundHandle sound;
    LoudnessMeter meter;
    Dither dither;
    sf_count_t frames = 0;
    bool failed = false;
};

SoundWriter::SoundWriter(std::unique_ptr<State> state) : m_state(std::move(state)) {}
SoundWriter::~SoundWriter() = default;

Result<std::unique_ptr<SoundWriter>> SoundWriter::open(const std::filesystem::path& path,
                                                       const SoundSpec& spec) {
    if (auto problem = AtomicFile::refusalOf(path)) return *problem;
    auto state = std::make_unique<State>(path, spec);
    SF_INFO info{};
    info.samplerate = spec.rate;
    info.channels = 2;
    info.format = libraryCode(spec.format);
    std::string why;
    state->sound = openSound(state->file.temporaryPath(), SFM_WRITE, info, &why);
    if (!state->sound)
        return Error{{"error.sound-make", {{"reason", why}}}, path.string(), {"now.other-folder"}};
    SNDFILE* sound = state->sound.get();
    sf_command(sound, SFC_SET_CLIPPING, nullptr, SF_TRUE);
    if (!isLossless(spec.format)) {
        double quality = 0.7; // of 0 to 1
        sf_command(sound, SFC_SET_VBR_ENCODING_QUALITY, &quality, sizeof quality);
    }
    tag(sound, spec.tags);
    return std::unique_ptr<SoundWriter>(new SoundWriter(std::move(state)));
}

bool SoundWriter::write(std::span<const float> samples) {
    constexpr std::size_t most = 2 * 4096; // an encoder keeps what it is given on its stack
    State& s = *m_state;
    if (s.spec.measures) s.meter.take(samples);
    for (std::size_t at = 0; at < samples.size() && !s.failed; at += most) {
        const auto piece = samples.subspan(at, std::min(most, samples.size() - at));
        const auto frames = static_cast<sf_count_t>(piece.size() / 2);
        s.failed = (s.spec.format == SoundFormat::Wav16
                        ? sf_writef_short(s.sound.get(), s.dither.of(piece).data(), frames)
                        : sf_writef_float(s.sound.get(), piece.data(), frames)) != frames;
        s.frames += frames;
    }
    return !s.failed;
}

Error SoundWriter::refusal() const {
    return {{"error.sound-write"}, m_state->target.string(), {"now.check-room"}};
}

Result<Measured> SoundWriter::finish() {
    State& s = *m_state;
    const bool closed = sf_close(s.sound.release()) == 0;
    // An encoder that works in blocks may add or leave out a little at the ends.
    const sf_count_t there = framesIn(s.file.temporaryPath());
    const sf_count_t off = isLossless(s.spec.format) ? 0 : s.spec.rate / 4;
    if (s.failed || !closed || there < s.frames - off || there > s.frames + off || there < 0)
        return refusal();
    if (auto done = s.file.commit(); !done) return done.error();
    if (!s.spec.measures) return Measured{static_cast<double>(s.frames) / s.spec.rate};
    return s.meter.measured();
}

} // namespace cobbleway
