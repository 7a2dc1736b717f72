#pragma once
#include "timbres.h"

#include <array>

namespace fontmaker {

/// How one of the 128 programs is made of a timbre.
struct ProgramSpec {
    const char* name; ///< 19 letters at most
    Timbre timbre;
    double attack = 0.003; ///< seconds
    double decay = 0;      ///< seconds for a fall of 100 dB; 0: holds
    double sustainDb = 0;  ///< how far it falls
    double release = 0.12; ///< seconds
    double cutoff = 0;     ///< Hz of a low pass; 0 for none
    double sweep = 0;      ///< cents that the low pass opens at the start, or closes when negative
    double vibrato = 0;    ///< cents
    double second = 0;     ///< semitones from it to its second copy, when doubled
    bool doubled = false;  ///< a second copy sounds, 7 cents off
};

extern const std::array<ProgramSpec, 128> programs;

} // namespace fontmaker
