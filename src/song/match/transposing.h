/// Instruments whose notes are written at another pitch than they sound (common practice, no source).
#pragma once
#include <optional>
#include <span>
#include <string>
#include <string_view>

namespace cobbleway {

struct TransposingInstrument {
    std::string_view name;
    int semitones = 0; ///< from written to sounding
};

/// All that are known, the higher ones first.
std::span<const TransposingInstrument> transposingInstruments();

/// The instrument that a part's name tells, in any of the languages of readName(), with the pitch it is in
/// where the name says so: "Alto Sax 1" −9, "Corno in Fa" −7, "Tpt in B♭" −2, "Clarinet in A" −3,
/// "Piccolo" 12. None for instruments that sound as written.
std::optional<TransposingInstrument> transposingInstrument(const std::string& partName);

} // namespace cobbleway
