#include "files/soundfile.h"

#include "files/soundlibrary.h"

#include <algorithm>
#include <cerrno>
#include <cmath>
#include <mutex>
#include <sys/stat.h>
#include <unistd.h>

namespace cobbleway {
namespace {

/// What libsndfile writes to and reads from: the file that takes its place at the end. libsndfile forgets a
/// write that failed once an encoder stands between, so that is remembered here.
class Disk {
  public:
    explicit Disk(int file) : m_file(file) {}
    [[nodiscard]] bool failed() const { return m_failed; }
    SF_VIRTUAL_IO calls = {
        [](void* disk) { return static_cast<Disk*>(disk)->length(); },
        [](sf_count_t by, int whence, void* disk) { return static_cast<Disk*>(disk)->seek(by, whence); },
        [](void* to, sf_count_t count, void* disk) { return static_cast<Disk*>(disk)->read(to, count); },
        [](const void* from, sf_count_t count, void* disk) {
            return static_cast<Disk*>(disk)->write(from, count);
        },
        [](void* disk) { return static_cast<Disk*>(disk)->m_at; }};

  private:
    [[nodiscard]] sf_count_t length() const {
        struct stat file {};
        return fstat(m_file, &file) == 0 ? file.st_size : 0;
    }
    sf_count_t seek(sf_count_t by, int whence) {
        const sf_count_t from = whence == SEEK_SET ? 0 : whence == SEEK_CUR ? m_at : length();
        return m_at = std::max<sf_count_t>(0, from + by);
    }
    sf_count_t read(void* to, sf_count_t count) {
        const ssize_t got = pread(m_file, to, static_cast<std::size_t>(count), m_at);
        if (got > 0) m_at += got;
        return std::max<ssize_t>(0, got);
    }
    sf_count_t write(const void* from, sf_count_t count) {
        sf_count_t done = 0;
        while (done < count) {
            const ssize_t written = pwrite(m_file, static_cast<const char*>(from) + done,
                                           static_cast<std::size_t>(count - done), m_at + done);
            if (written < 0 && errno == EINTR) continue;
            if (written <= 0) break;
            done += written;
        }
        m_failed = m_failed || done < count;
        m_at += done;
        return done;
    }
    int m_file;
    sf_count_t m_at = 0;
    bool m_failed = false;
};

/// Opens a file; null when it cannot be, and `why`, when given, then gets the reason. libsndfile keeps what
/// it says of a file that does not open in one place for all threads.
SoundHandle openSound(Disk& disk, int mode, SF_INFO& info, std::string* why = nullptr) {
    static std::mutex oneAtATime;
    const std::scoped_lock lock(oneAtATime);
    SoundHandle file(sf_open_virtual(&disk.calls, mode, &info, &disk));
    if (!file && why) *why = sf_strerror(nullptr);
    return file;
}

/// How many frames a file holds; −1 when it cannot be read. A lossless one says it, and has room for exactly
/// those; of others the header is only a promise, so that all of it is read.
sf_count_t framesIn(int written, bool lossless) {
    Disk disk(written);
    SF_INFO info{};
    const SoundHandle file = openSound(disk, SFM_READ, info);
    if (!file) return -1;
    if (lossless) return info.frames;
    std::vector<float> heard(std::size_t{2} * 16384);
    sf_count_t frames = 0;
    while (const sf_count_t got = sf_readf_float(file.get(), heard.data(), 16384)) {
        if (got < 0) return -1;
        frames += got;
    }
    return sf_error(file.get()) == SF_ERR_NO_ERROR ? frames : -1;
}

/// What an encoder of blocks may add or leave out: two granules of MP3 with its decoder's delay (ISO/IEC
/// 11172-3), which is more than Opus and Vorbis do.
constexpr sf_count_t mostAddedFrames = 2 * 1152 + 529;

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

} // namespace

struct SoundWriter::State {
    State(std::unique_ptr<AtomicFile> made, const std::filesystem::path& path, const SoundSpec& s)
        : file(std::move(made)), disk(file->descriptor()), target(path), spec(s), meter(s.rate, s.truePeak) {}
    std::unique_ptr<AtomicFile> file;
    Disk disk;
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
    auto made = AtomicFile::open(path);
    if (!made) return made.error();
    auto state = std::make_unique<State>(std::move(made.value()), path, spec);
    SF_INFO info{};
    info.samplerate = spec.rate;
    info.channels = 2;
    info.format = libraryCode(spec.format);
    std::string why;
    state->sound = openSound(state->disk, SFM_WRITE, info, &why);
    if (!state->sound)
        return Error{{"error.sound-make", {{"reason", why}}}, path.string(), {"now.other-folder"}};
    SNDFILE* sound = state->sound.get();
    sf_command(sound, SFC_SET_CLIPPING, nullptr, SF_TRUE);
    if (!isLossless(spec.format)) {
        double quality = 0.7; // of 0 to 1
        sf_command(sound, SFC_SET_VBR_ENCODING_QUALITY, &quality, sizeof quality);
    }
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
    s.failed = s.failed || s.disk.failed();
    return !s.failed;
}

Error SoundWriter::refusal() const {
    return {{"error.sound-write"}, m_state->target.string(), {"now.check-room"}};
}

Result<Measured> SoundWriter::finish() {
    State& s = *m_state;
    const bool wrote = sf_error(s.sound.get()) == SF_ERR_NO_ERROR;
    const bool closed = sf_close(s.sound.release()) == 0;
    if (s.failed || !wrote || !closed || s.disk.failed()) return refusal();
    const double seconds = static_cast<double>(s.frames) / s.spec.rate;
    if (!writeTags(s.file->descriptor(), s.spec.format, s.spec.tags, seconds, s.spec.rate)) return refusal();
    // An encoder that works in blocks may add or leave out a little at the ends.
    const bool lossless = isLossless(s.spec.format);
    const sf_count_t there = framesIn(s.file->descriptor(), lossless);
    const sf_count_t off = lossless ? 0 : mostAddedFrames;
    if (there < std::max<sf_count_t>(0, s.frames - off) || there > s.frames + off) return refusal();
    if (auto done = s.file->commit(); !done) return done.error();
    if (!s.spec.measures) return Measured{seconds};
    return s.meter.measured();
}

} // namespace cobbleway
