/// What is known of the 128 programs as instruments: where they sound, how a note starts and goes on.
#pragma once
#include "font/soundfont.h"

#include <array>
#include <optional>

namespace cobbleway {

/// How a note begins.
enum class Start { Struck, Plucked, Blown, Bowed, Swelling };
/// How it goes on while the key is held.
enum class Hold { Dies, Holds, Short };

struct InstrumentFacts {
    /// Sounding range, lowest to highest key. Of orchestral instruments after N. Rimsky-Korsakov, Principles
    /// of Orchestration (1913), tables A–F, from memory; of others common practice, no source.
    KeyRange range;
    bool oneNote = false; ///< plays one note at a time
    Start start = Start::Struck;
    Hold hold = Hold::Dies;
    int kin = 0; ///< instruments that stand in for one another; 0–17
};

const InstrumentFacts& instrumentFacts(Program program);

/// The compass of an instrument that people build and play, sounding; none for those that a synthesiser alone
/// makes, sections and effects. As InstrumentFacts::range.
std::optional<KeyRange> compassOf(Program program);

/// Length of notes on each key, 0–127, in ticks or any other unit.
using KeyWeights = std::array<double, 128>;

/// The share of a part's notes, 0–1 by length, that lies outside a range; 0 for no notes.
double shareOutside(const KeyWeights& notes, const KeyRange& range);

/// How far one program is from another as a stand-in, from 0 for the same. Added up: 8 for other kin, 4 for
/// another family of General MIDI (strings and ensembles count as one), 3 for another start, 3 for another
/// way to hold, 1 where one plays chords and the other cannot, a third for each octave between the middles of
/// their ranges, up to 1 by number, 20 for a sound effect; and 3 times the share of `notes` outside the range
/// of `other`, when given.
double farness(Program program, Program other, const KeyWeights* notes = nullptr);

} // namespace cobbleway
