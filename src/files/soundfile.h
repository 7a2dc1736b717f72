/// WAV files, by libsndfile.
#pragma once
#include "files/atomicfile.h"
#include "files/loudness.h"

#include <memory>
#include <span>

namespace cobbleway {

/// A stereo WAV file of 24 bits that is written bit by bit and appears whole or not at all.
class WavWriter {
  public:
    /// `rate` in Hz. An error when the file cannot be made.
    static Result<std::unique_ptr<WavWriter>> open(const std::filesystem::path& path, int rate);
    ~WavWriter();
    WavWriter(const WavWriter&) = delete;
    WavWriter& operator=(const WavWriter&) = delete;

    /// Takes interleaved stereo; false when the disk takes no more. Samples past full scale are cut there.
    bool write(std::span<const float> samples);
    /// Why write() gave false.
    [[nodiscard]] Error refusal() const;
    /// Closes the file, looks whether all that was written is there, and puts it in its place.
    Result<Measured> finish();

  private:
    struct State;
    explicit WavWriter(std::unique_ptr<State> state);
    std::unique_ptr<State> m_state;
};

} // namespace cobbleway
