/// Which published convention a file follows, and which channels it makes drums by message.
#pragma once
#include "midi/event.h"

#include <string_view>
#include <vector>

namespace cobbleway {

enum class Dialect { None, GM, GM2, GS, XG };

/// "GM", "GM2", "GS", "XG", or "none said".
std::string_view dialectName(Dialect dialect);

/// The dialect of the resets that a file sends; of several the richest: XG, GS, GM2, GM.
Dialect dialectOf(const MidiFile& file);

/// A rhythm-part message (GS `40 1p 15`, XG `08 pp 07`): a channel made drums, or made pitched.
struct RhythmPart {
    Channel channel;
    bool drums = false;
    bool operator==(const RhythmPart&) const = default;
};

/// All rhythm-part messages of a file in order of track and tick. Checksums are not insisted on.
std::vector<RhythmPart> rhythmPartsOf(const MidiFile& file);

} // namespace cobbleway
