/// Words of what is written, which file names, tags and play lists share.
#pragma once
#include "files/exports.h"

namespace cobbleway {

/// "full", "in front": what tells an item from others of its part.
std::string mixWord(const ExportItem& item);
std::string partName(const Song& song, PartId id);                   ///< empty for none
std::string paceWord(double pace);                                   ///< "70%"
double paceOf(const ExportItem& item, const ExportOptions& options); ///< percent, 25–200
/// The stretch of the song that an item has; none when it has all of it.
std::optional<std::pair<Tick, Tick>> stretchOf(const Song& song, const ExportItem& item,
                                               const ExportOptions& options);
SoundTags tagsOf(const Song& song, const ExportItem& item, const ExportOptions& options);

} // namespace cobbleway
