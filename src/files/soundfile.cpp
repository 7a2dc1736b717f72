#include "files/soundfile.h"

#include <sndfile.h>

namespace cobbleway {
namespace {

struct CloseSound {
    void operator()(SNDFILE* file) const { sf_close(file); }
};

/// How many frames a file says that it holds; −1 when it cannot be read. A disk may lose the header without a
/// word.
sf_count_t framesIn(const std::filesystem::path& path) {
    SF_INFO info{};
    const std::unique_ptr<SNDFILE, CloseSound> file(sf_open(path.c_str(), SFM_READ, &info));
    return file ? info.frames : -1;
}

} // namespace

struct WavWriter::State {
    State(const std::filesystem::path& path, int rate) : file(path), target(path), meter(rate) {}
    AtomicFile file;
    std::filesystem::path target;
    std::unique_ptr<SNDFILE, CloseSound> sound;
    LoudnessMeter meter;
    sf_count_t frames = 0;
    bool failed = false;
};

WavWriter::WavWriter(std::unique_ptr<State> state) : m_state(std::move(state)) {}
WavWriter::~WavWriter() = default;

Result<std::unique_ptr<WavWriter>> WavWriter::open(const std::filesystem::path& path, int rate) {
    if (auto problem = AtomicFile::refusalOf(path)) return *problem;
    auto state = std::make_unique<State>(path, rate);
    SF_INFO info{};
    info.samplerate = rate;
    info.channels = 2;
    info.format = SF_FORMAT_WAV | SF_FORMAT_PCM_24;
    state->sound.reset(sf_open(state->file.temporaryPath().c_str(), SFM_WRITE, &info));
    if (!state->sound)
        return Error{std::string("The sound file cannot be made (") + sf_strerror(nullptr) + ").",
                     path.string(), "Choose another folder."};
    sf_command(state->sound.get(), SFC_SET_CLIPPING, nullptr, SF_TRUE);
    return std::unique_ptr<WavWriter>(new WavWriter(std::move(state)));
}

bool WavWriter::write(std::span<const float> samples) {
    State& s = *m_state;
    const auto frames = static_cast<sf_count_t>(samples.size() / 2);
    s.meter.take(samples);
    s.failed = s.failed || sf_writef_float(s.sound.get(), samples.data(), frames) != frames;
    s.frames += frames;
    return !s.failed;
}

Error WavWriter::refusal() const {
    return {"The sound file could not be written whole.", m_state->target.string(),
            "Check the room on the disk."};
}

Result<Measured> WavWriter::finish() {
    State& s = *m_state;
    const bool closed = sf_close(s.sound.release()) == 0;
    if (s.failed || !closed || framesIn(s.file.temporaryPath()) != s.frames) return refusal();
    if (auto done = s.file.commit(); !done) return done.error();
    return s.meter.measured();
}

} // namespace cobbleway
