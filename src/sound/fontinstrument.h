/// Soundfont voices, by libfluidsynth.
#pragma once
#include "midi/result.h"
#include "sound/crew.h"
#include "sound/fontsamples.h"
#include "sound/instrument.h"

#include <filesystem>
#include <memory>

namespace cobbleway {

/// How a font is loaded.
struct FontUse {
    std::shared_ptr<Crew> crew = nullptr; ///< many voices are made on several processors; it must not serve
                                          ///< another thread meanwhile
    std::shared_ptr<SampleCache> cache = nullptr;
    /// Which thread makes what: see Instrument::setShares(). Without a crew.
    std::span<const std::uint8_t> shareOfSlot = {};
    bool live = false;  ///< no note waits for its sample
    bool whole = false; ///< all samples are read at once
};

/// Loads a soundfont for `slots` parts at `rate` Hz: its lists, which takes some milliseconds; samples come
/// when they are prepared or played, and are shared by all instruments of one font in the process. What is no
/// SF2 or SF3 is loaded whole. Call it beside the audio thread.
///
/// Volume and expression follow the General MIDI law (40·log10(v/127) dB each); for the rest see FontChannel.
/// There is no reverberation or chorus in its output: the room is the mix's matter.
Result<std::unique_ptr<Instrument>> loadFontInstrument(const std::filesystem::path& font, int slots, int rate,
                                                       const FontUse& use = {});

/// The amplitude that the instrument gives a full-scale sample; leaves room for many voices.
inline constexpr double fontGain = 0.28;
/// The most voices that sound at once in 64 slots (half as many in each of two shares); with a crew in 16,
/// and half as many in each 16 of more.
inline constexpr int fontVoices = 512;

} // namespace cobbleway
