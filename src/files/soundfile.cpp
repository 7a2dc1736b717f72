#include "files/soundfile.h"

#include <algorithm>
#include <cmath>
#include <ebur128.h>
#include <sndfile.h>

namespace cobbleway {
namespace {

struct CloseSound {
    void operator()(SNDFILE* file) const { sf_close(file); }
};
struct CloseMeter {
    void operator()(ebur128_state* state) const { ebur128_destroy(&state); }
};

} // namespace

struct WavWriter::State {
    explicit State(const std::filesystem::path& path) : file(path), target(path) {}
    AtomicFile file;
    std::filesystem::path target;
    std::unique_ptr<SNDFILE, CloseSound> sound;
    std::unique_ptr<ebur128_state, CloseMeter> meter;
    int rate = 0;
    std::int64_t frames = 0;
    float peak = 0;
    bool failed = false;
};

WavWriter::WavWriter(std::unique_ptr<State> state) : m_state(std::move(state)) {}
WavWriter::~WavWriter() = default;

Result<std::unique_ptr<WavWriter>> WavWriter::open(const std::filesystem::path& path, int rate) {
    auto state = std::make_unique<State>(path);
    SF_INFO info{};
    info.samplerate = rate;
    info.channels = 2;
    info.format = SF_FORMAT_WAV | SF_FORMAT_PCM_24;
    state->rate = rate;
    state->sound.reset(sf_open(state->file.temporaryPath().c_str(), SFM_WRITE, &info));
    if (!state->sound)
        return Error{std::string("The sound file cannot be made (") + sf_strerror(nullptr) + ").",
                     path.string(), "Choose another folder."};
    sf_command(state->sound.get(), SFC_SET_CLIPPING, nullptr, SF_TRUE);
    state->meter.reset(
        ebur128_init(2, static_cast<unsigned long>(rate), EBUR128_MODE_I | EBUR128_MODE_HISTOGRAM));
    return std::unique_ptr<WavWriter>(new WavWriter(std::move(state)));
}

bool WavWriter::write(std::span<const float> samples) {
    State& s = *m_state;
    const auto frames = static_cast<sf_count_t>(samples.size() / 2);
    for (const float sample : samples) s.peak = std::max(s.peak, std::abs(sample));
    if (s.meter) ebur128_add_frames_float(s.meter.get(), samples.data(), static_cast<std::size_t>(frames));
    s.failed = s.failed || sf_writef_float(s.sound.get(), samples.data(), frames) != frames;
    s.frames += frames;
    return !s.failed;
}

Result<Measured> WavWriter::finish() {
    State& s = *m_state;
    const bool closed = sf_close(s.sound.release()) == 0;
    if (s.failed || !closed)
        return Error{"The sound file could not be written whole.", s.target.string(),
                     "Check the room on the disk."};
    if (auto done = s.file.commit(); !done) return done.error();
    Measured measured{static_cast<double>(s.frames) / s.rate,
                      s.peak <= 1e-6F ? -120 : 20 * std::log10(s.peak), -120};
    double lufs = 0;
    if (s.meter && ebur128_loudness_global(s.meter.get(), &lufs) == EBUR128_SUCCESS && std::isfinite(lufs))
        measured.lufs = lufs;
    return measured;
}

} // namespace cobbleway
