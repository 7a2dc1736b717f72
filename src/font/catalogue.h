/// All sounds that the computer has.
#pragma once
#include "font/soundfont.h"

#include <filesystem>
#include <memory>
#include <string>
#include <vector>

namespace cobbleway {

inline constexpr const char* houseFontId = "house";

/// One sound of a soundfont, as a part or a project names it.
struct SoundRef {
    std::string font; ///< SoundFont::id
    int bank = 0;     ///< as in the font: 0–127, 128 for kits
    int program = 0;  ///< 0-based
    std::string name; ///< for people; takes no part in comparison
    bool operator==(const SoundRef& other) const {
        return font == other.font && bank == other.bank && program == other.program;
    }
};

using FontPtr = std::shared_ptr<const SoundFont>;

/// A value: fonts, and which of them serves first. Cheap to copy.
class Catalogue {
  public:
    Catalogue() = default;
    /// `fonts` in the order shown; the default is the font with id `defaultId`, else the first.
    Catalogue(std::vector<FontPtr> fonts, std::string defaultId);

    [[nodiscard]] const std::vector<FontPtr>& fonts() const { return m_fonts; }
    [[nodiscard]] const SoundFont* font(const std::string& id) const; ///< null when there is none
    [[nodiscard]] const SoundFont* defaultFont() const; ///< null only when there is no font at all
    /// Fonts in the order in which they are asked: the default, then the house font.
    [[nodiscard]] std::vector<const SoundFont*> order() const;
    [[nodiscard]] const Preset* find(const SoundRef& sound) const;
    [[nodiscard]] std::size_t soundCount() const;
    [[nodiscard]] Catalogue withDefault(const std::string& id) const;

  private:
    std::vector<FontPtr> m_fonts;
    std::string m_defaultId;
};

struct FontFolders {
    std::filesystem::path houseFont;            ///< the font that ships; may be missing in tests
    std::vector<std::filesystem::path> folders; ///< looked through for *.sf2 and *.sf3, not deeper
    std::vector<std::filesystem::path> files;   ///< single fonts beside the folders
};

/// The standard folders: /usr/share/sounds/sf2 and sf3, /usr/share/soundfonts, and soundfonts/ under the
/// user's XDG data folder.
std::vector<std::filesystem::path> standardFontFolders();

/// The font that the system names as its default for General MIDI; empty when there is none.
std::filesystem::path systemDefaultFont();

/// A font that could not be read, and why.
struct FontProblem {
    std::filesystem::path path;
    Error error;
};

/// Reads all fonts; a file reached by several names is taken once. Unreadable ones go to `problems`.
/// `defaultId` chooses the default; when empty, the system's default font, else the house font.
Catalogue scanFonts(const FontFolders& where, const std::string& defaultId,
                    std::vector<FontProblem>* problems = nullptr);

} // namespace cobbleway
