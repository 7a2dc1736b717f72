/// All sounds in one list, and searching it.
#pragma once
#include "font/catalogue.h"

#include <string>
#include <vector>

namespace cobbleway {

/// Families on the shelf: the 16 of General MIDI, then these.
inline constexpr int kitFamily = 16, pluginFamily = 17, portFamily = 18, familyCount = 19;

struct ShelfSound {
    SoundRef sound;
    std::string place; ///< the font's name, the plug-in's maker, or "MIDI port"
    int family = 0;    ///< 0–18
};

/// "Kits", "LV2", "MIDI ports", or the family's name in General MIDI.
std::string shelfFamilyName(int family);

/// Every sound of a catalogue: fonts in its order, then those it has besides, LV2 instruments, MIDI ports.
std::vector<ShelfSound> shelfOf(const Catalogue& catalogue);

enum class Fit { No, Meant, Literal };

/// Whether a sound fits a search. Literally: all its words occur in name, family, place, General MIDI name or
/// "bank:program", accents and case aside. Or it is what the search means: it names the instrument in another
/// language (programFromName()), or drums.
Fit fitOf(const ShelfSound& sound, const std::string& search);

} // namespace cobbleway
