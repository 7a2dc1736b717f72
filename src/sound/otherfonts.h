#pragma once
#include "font/soundfont.h"

namespace cobbleway {

/// Reads what a font of another format (DLS) offers by letting libfluidsynth load it: slow, and without key
/// ranges or names on keys, for which every key counts as playable. An error when it cannot be loaded, which
/// is so for every DLS file where libfluidsynth was built without that.
Result<SoundFont> readOtherFont(const std::filesystem::path& path);

} // namespace cobbleway
