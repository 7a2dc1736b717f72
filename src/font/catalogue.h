/// All sounds that the computer has.
#pragma once
#include "font/soundfont.h"
#include "words/message.h"

#include <filesystem>
#include <functional>
#include <map>
#include <memory>
#include <string>
#include <vector>

namespace cobbleway {

inline constexpr const char* houseFontId = "house";

/// What a sound is played by.
enum class SoundKind {
    Preset, ///< of a soundfont
    Plugin, ///< an LV2 instrument
    Port    ///< an instrument outside, behind a MIDI port
};

/// One sound, as a part or a project names it.
struct SoundRef {
    std::string font; ///< SoundFont::id; of a plug-in its URI; of a port its PortInfo::id
    int bank = 0;     ///< as in the font: 0–127, 128 for kits; of a port the bank MSB
    int program = 0;  ///< 0-based
    std::string name; ///< for people; takes no part in comparison
    SoundKind kind = SoundKind::Preset;
    int channel = 0; ///< of a port, 0-based
    bool operator==(const SoundRef& other) const {
        return font == other.font && bank == other.bank && program == other.program && kind == other.kind &&
               channel == other.channel;
    }
};

/// What an effect does.
enum class PluginKind {
    Reverb,
    Compressor, ///< also limiters, gates and expanders
    Equaliser,
    Delay,
    Chorus, ///< also flangers and phasers
    Distortion,
    Filter,
    Pitch,
    Other,
    Meter ///< looks at the sound and leaves it as it is
};
inline constexpr int pluginKindCount = 10;

/// An LV2 instrument or effect that can be used here.
struct PluginInfo {
    std::string uri, name, maker;
    bool instrument = false; ///< takes notes; otherwise it takes sound
    PluginKind kind = PluginKind::Other;
    int in = 0, out = 0; ///< channels of sound, without side chains
    int controls = 0;    ///< how many can be set
    bool window = false; ///< has one that can be shown here
    bool file = false;   ///< can be given a file
    bool operator==(const PluginInfo&) const = default;
};

/// A plug-in that is not used, and why.
struct PluginSetAside {
    PluginInfo plugin;
    Message why; ///< one sentence
    /// Set when nothing is known of the plug-ins in this folder: their description ends what reads it.
    std::filesystem::path bundle = {};
    bool wasTried = false; ///< it may be tried again
    bool operator==(const PluginSetAside&) const = default;
};

/// A MIDI port that notes can be sent to.
struct PortInfo {
    std::string id, name;
    bool standIn = false; ///< the sound module that ships: heard, and rendered, like a soundfont
    bool operator==(const PortInfo&) const = default;
};

using FontPtr = std::shared_ptr<const SoundFont>;

/// A soundfont as a project remembers it, so that it is found again under another name or path.
struct FontMemory {
    std::string id, name;
    std::uint64_t size = 0;   ///< bytes
    std::uint64_t digest = 0; ///< SoundFont::digest
    bool operator==(const FontMemory&) const = default;
};

/// A value: fonts, and which of them serves first; plug-ins; ports. Cheap to copy.
class Catalogue {
  public:
    Catalogue() = default;
    /// `fonts` in the order shown; the default is the font with id `defaultId`, else the first.
    Catalogue(std::vector<FontPtr> fonts, std::string defaultId);

    [[nodiscard]] const std::vector<FontPtr>& fonts() const { return m_fonts; }
    /// The font with this id, or the one that it has moved to; null when there is none.
    [[nodiscard]] const SoundFont* font(const std::string& id) const;
    [[nodiscard]] const SoundFont* defaultFont() const; ///< null only when there is no font at all
    /// Fonts in the order in which they are asked: those preferred, the first of all when none is, then the
    /// house font.
    [[nodiscard]] std::vector<const SoundFont*> order() const;
    [[nodiscard]] const Preset* find(const SoundRef& sound) const;
    [[nodiscard]] std::size_t soundCount() const; ///< presets, LV2 instruments and ports
    [[nodiscard]] Catalogue withDefault(const std::string& id) const { return withOrder({id}); }
    /// "First this font, then that one for what it lacks." Unknown ids are passed over; an empty order leaves
    /// the catalogue as it is.
    [[nodiscard]] Catalogue withOrder(const std::vector<std::string>& ids) const;
    /// Without a font that cannot be played.
    [[nodiscard]] Catalogue without(const std::string& id) const;

    /// Finds fonts that are remembered under ids which are not here: by digest and size, else by digest.
    [[nodiscard]] Catalogue withMoved(const std::vector<FontMemory>& remembered) const;

    [[nodiscard]] const std::vector<PluginInfo>& plugins() const { return *m_plugins; }
    [[nodiscard]] const std::vector<PluginSetAside>& setAside() const { return *m_setAside; }
    [[nodiscard]] const PluginInfo* plugin(const std::string& uri) const;
    /// Bundles whose descriptions must not be read in this program.
    [[nodiscard]] std::vector<std::filesystem::path> unreadableBundles() const;
    [[nodiscard]] Catalogue withPlugins(std::vector<PluginInfo> plugins,
                                        std::vector<PluginSetAside> setAside) const;
    [[nodiscard]] const std::vector<PortInfo>& ports() const { return *m_ports; }
    [[nodiscard]] const PortInfo* port(const std::string& id) const;
    [[nodiscard]] Catalogue withPorts(std::vector<PortInfo> ports) const;
    /// True when both are made of the very same fonts, plug-ins and ports in the same order; equal ones that
    /// were found by different scans may be said to differ.
    [[nodiscard]] bool sameAs(const Catalogue& other) const;

  private:
    std::vector<FontPtr> m_fonts;
    std::vector<std::string> m_order;
    std::map<std::string, std::string> m_moved; ///< an id that is gone → the id of the font that it was
    std::shared_ptr<const std::vector<PluginInfo>> m_plugins = noneOf<PluginInfo>();
    std::shared_ptr<const std::vector<PluginSetAside>> m_setAside = noneOf<PluginSetAside>();
    std::shared_ptr<const std::vector<PortInfo>> m_ports = noneOf<PortInfo>();
    template <class T> static std::shared_ptr<const std::vector<T>> noneOf() {
        static const auto none = std::make_shared<const std::vector<T>>();
        return none;
    }
};

FontMemory memoryOf(const SoundFont& font);

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
    bool wasTried = false; ///< it may be tried again
};

/// Reads fonts and keeps what it read: a file is read again only when its time or size has changed. For one
/// thread at a time.
class FontScanner {
  public:
    /// Reads a file that is no SF2 or SF3.
    using ReadOther = std::function<Result<SoundFont>(const std::filesystem::path&)>;
    /// With `readOther`, *.dls are looked for too.
    explicit FontScanner(ReadOther readOther = {}) : m_readOther(std::move(readOther)) {}
    /// Reads all fonts; a file reached by several names is taken once. Unreadable ones go to `problems`.
    /// `defaultId` chooses the default; when empty, the system's default font, else the house font.
    Catalogue scan(const FontFolders& where, const std::string& defaultId,
                   std::vector<FontProblem>* problems = nullptr);
    [[nodiscard]] int filesRead() const { return m_filesRead; } ///< since it was made

  private:
    struct Kept {
        std::filesystem::file_time_type time;
        std::uintmax_t size = 0;
        std::string id;
        FontPtr font;        ///< null when it could not be read
        FontProblem problem; ///< then why
    };
    const Kept& read(const std::filesystem::path& real, const std::string& id);
    std::vector<std::filesystem::path> filesIn(const std::filesystem::path& folder) const;
    ReadOther m_readOther;
    std::map<std::filesystem::path, Kept> m_kept;
    int m_filesRead = 0;
};

/// One scan with nothing kept.
Catalogue scanFonts(const FontFolders& where, const std::string& defaultId,
                    std::vector<FontProblem>* problems = nullptr, FontScanner::ReadOther readOther = {});

} // namespace cobbleway
