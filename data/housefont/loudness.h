#pragma once
#include <filesystem>
#include <map>
#include <utility>

namespace fontmaker {

/// Plays each preset's middle keys through libfluidsynth and gives how loud it is, in dB, by bank and
/// program. Kits are measured by their kick, snare and hat.
std::map<std::pair<int, int>, double> measureLoudness(const std::filesystem::path& font);

} // namespace fontmaker
