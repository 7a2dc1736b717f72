/// All sounds in one list, and searching it.
#pragma once
#include "font/catalogue.h"

#include <optional>
#include <string>
#include <vector>

namespace cobbleway {

/// Families on the shelf: the 16 of General MIDI, then these.
inline constexpr int kitFamily = 16, pluginFamily = 17, portFamily = 18, familyCount = 19;

struct ShelfSound {
    ShelfSound(SoundRef sound, std::string place, int family);
    SoundRef sound;
    std::string place; ///< the font's name, the plug-in's maker, or "MIDI port"
    int family = 0;    ///< 0–18
    std::string words; ///< what a search may hit, as of plainWords()
};

/// "Kits", "LV2", "MIDI ports", or the family's name in General MIDI.
std::string shelfFamilyName(int family);

/// Every sound of a catalogue: fonts in its order, then those it has besides, LV2 instruments, MIDI ports.
std::vector<ShelfSound> shelfOf(const Catalogue& catalogue);

enum class Fit { No, Meant, Literal };

/// What a person looks for, made ready once for all sounds.
class ShelfSearch {
  public:
    explicit ShelfSearch(const std::string& search);
    /// Whether a sound fits. Literally: all words of the search occur in name, family, place, General MIDI
    /// name or "bank:program", accents and case aside. Or it is what the search means: it names the
    /// instrument in another language (programFromName()), or drums.
    [[nodiscard]] Fit fit(const ShelfSound& sound) const;

  private:
    std::vector<std::string> m_words;   ///< folded
    std::vector<std::string> m_numbers; ///< words with digits, in small letters
    bool m_drums = false;
    std::optional<Program> m_program;
};

} // namespace cobbleway
