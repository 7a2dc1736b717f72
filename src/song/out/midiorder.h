/// Which MIDI file of a song is to be written.
#pragma once
#include "song/out/tomidi.h"

#include <optional>
#include <utility>

namespace cobbleway {

struct MidiOrder {
    Layout layout = Layout::TrackPerPart;
    PartId part = 0;      ///< this one alone, with the conductor; 0: all
    bool asHeard = false; ///< as the mix stands now (onlyHeard()); not for one part
    std::optional<std::pair<Tick, Tick>> stretch = {}; ///< from and to before, in the song; none: all of it
    bool keepsPlace = false;      ///< the stretch stays where it is in the song; false: it begins at bar 1
    std::optional<int> port = {}; ///< of a song with several, this one alone (portAlone())
    bool notesOnly = false;       ///< for programs with sounds of their own (notesAndNames())
};

/// The file by Song::midi, of no event when the part is not there.
MidiFile midiOf(const Song& song, const MidiOrder& order);

/// The song with the parts that are heard in the mix as it stands: those that are off, muted, set aside, or
/// not among those that play solo, are gone, and what stands back while another part leads has that in its
/// level.
Song onlyHeard(Song song);

} // namespace cobbleway
