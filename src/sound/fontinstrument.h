/// Soundfont voices, by libfluidsynth.
#pragma once
#include "midi/result.h"
#include "sound/crew.h"
#include "sound/instrument.h"

#include <filesystem>
#include <memory>

namespace cobbleway {

/// Loads a soundfont for `slots` parts at `rate` Hz. Slow (it reads the samples): call it beside the audio
/// thread. Samples are shared by all instruments of one font in the process.
///
/// Volume and expression follow the General MIDI law (40·log10(v/127) dB each); for the rest see FontChannel.
/// There is no reverberation or chorus in its output: the room is the mix's matter.
/// With a crew, which must not serve another thread meanwhile, many voices are made on several processors.
/// Without one, `shareOfSlot` says which thread makes what: see Instrument::setShares().
Result<std::unique_ptr<Instrument>> loadFontInstrument(const std::filesystem::path& font, int slots, int rate,
                                                       std::shared_ptr<Crew> crew = nullptr,
                                                       std::span<const std::uint8_t> shareOfSlot = {});

/// The amplitude that the instrument gives a full-scale sample; leaves room for many voices.
inline constexpr double fontGain = 0.28;
/// The most voices that sound at once in 64 slots (half as many in each of two shares); with a crew in 16,
/// and half as many in each 16 of more.
inline constexpr int fontVoices = 512;

} // namespace cobbleway
