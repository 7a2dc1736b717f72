#pragma once
#include "song/model/song.h"

namespace cobbleway::edits {

/// The song with another reading of its file, which has changed since: what was decided is kept. Events that
/// are the same (track, tick, bytes) stay in the parts that had them, and out of those from which a person
/// took them; new ones go where their neighbours of the track and channel are, by key; what comes on a track
/// and channel that no part had becomes a part. Ids, names, recipes, sounds and mixes stay; title, tempo and
/// sections follow the file where nobody changed them. Parts that have no notes any more are set aside.
Song readAnew(const Song& song, std::shared_ptr<const SourceFile> source);

} // namespace cobbleway::edits
