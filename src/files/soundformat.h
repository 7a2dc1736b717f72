/// The formats of sound files, as libsndfile writes them.
#pragma once
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace cobbleway {

enum class SoundFormat { Wav16, Wav24, Wav32Float, Flac, OggVorbis, Opus, Mp3 };

/// Those that the library at hand can write, in the order above.
std::vector<SoundFormat> soundFormats();

std::string_view formatName(SoundFormat format); ///< for people: "WAV, 16 bit"
std::string_view formatId(SoundFormat format);   ///< "wav16", "wav24", "wav32f", "flac", "ogg", "opus", "mp3"
std::string_view formatEnding(SoundFormat format); ///< ".wav"
std::optional<SoundFormat> formatOfId(std::string_view id);

/// Whether the format keeps every sample as it is given, but for its number of bits.
bool isLossless(SoundFormat format);

/// The rates in Hz that a format can have, of 44100, 48000 and 96000. Opus has 48000 alone (RFC 7845), MP3
/// none above it (ISO/IEC 11172-3).
std::vector<int> ratesOf(SoundFormat format);

} // namespace cobbleway
