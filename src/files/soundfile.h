/// Sound files, by libsndfile.
#pragma once
#include "files/atomicfile.h"
#include "files/loudness.h"
#include "files/soundtags.h"

#include <memory>
#include <span>

namespace cobbleway {

/// How a sound file is written.
struct SoundSpec {
    SoundFormat format = SoundFormat::Wav24;
    int rate = 48000; ///< Hz
    SoundTags tags = {};
    bool measures = true;  ///< finish() gives what was measured; else the length alone
    bool truePeak = false; ///< finish() gives the true peak, which takes longer to find than the sample peak
};

/// A stereo sound file that is written bit by bit and appears whole or not at all. 16 bits are dithered with
/// triangular noise of two steps (TPDF), the same in every run.
class SoundWriter {
  public:
    /// An error when the file cannot be made.
    static Result<std::unique_ptr<SoundWriter>> open(const std::filesystem::path& path,
                                                     const SoundSpec& spec);
    ~SoundWriter();
    SoundWriter(const SoundWriter&) = delete;
    SoundWriter& operator=(const SoundWriter&) = delete;

    /// Takes interleaved stereo; false when the disk takes no more. Samples past full scale are cut there,
    /// but for 32-bit floats.
    bool write(std::span<const float> samples);
    /// Why write() gave false.
    [[nodiscard]] Error refusal() const;
    /// Closes the file, looks whether all that was written is there, and puts it in its place.
    Result<Measured> finish();

  private:
    struct State;
    explicit SoundWriter(std::unique_ptr<State> state);
    std::unique_ptr<State> m_state;
};

} // namespace cobbleway
