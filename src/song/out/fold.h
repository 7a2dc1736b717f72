/// All parts on the 16 channels of one port.
#pragma once
#include "song/model/song.h"
#include "words/message.h"

#include <vector>

namespace cobbleway {

/// Where each part goes, and whose sound it loses there.
struct Folding {
    std::vector<PortChannel> places; ///< in the song's order; all of port 0
    std::vector<int> soundsAs;       ///< index of the part whose sound is heard instead; −1 for none
    [[nodiscard]] bool loses(std::size_t part) const { return soundsAs[part] >= 0; }
};

/// Drums go to channel 10 and parts set aside where they are; the others keep what they have of their own on
/// the first port, or take a free one. Where there are more than fifteen, parts that ask for the same sound
/// share first, so that nothing is lost; then those with the fewest notes join the sound that is least far
/// (farness()). The number of notes whose sound changes is the least there can be: those of all sounds but
/// the fifteen with most notes.
Folding foldOnto16(const Song& song);

/// How many notes sound otherwise than their part asks.
int notesChanged(const Song& song, const Folding& folding);

/// How many notes parts that are not set aside begin.
int notesIn(const Song& song);

/// What folding does to a song that needs more than 16 channels: how many notes change their sound, then
/// which parts sound as which others; empty where 16 are enough. `done`: the song is folded, else it would
/// be.
std::vector<Message> foldingSaid(const Song& song, bool done);

} // namespace cobbleway
