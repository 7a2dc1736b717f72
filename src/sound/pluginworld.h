/// LV2 plug-ins: what is installed, and loading one. See the LV2 specifications at lv2plug.in/ns.
#pragma once
#include "midi/result.h"
#include "song/model/song.h"
#include "sound/pluginunit.h"

#include <filesystem>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace cobbleway {

/// A control port, or a parameter (LV2 patch:writable), that a person can set.
struct PluginControl {
    enum class Kind { Number, File };
    /// Of a port its symbol; of a parameter its URI.
    std::string symbol, name, unit; ///< the unit as shown after the value, "dB"; may be empty
    std::string group;              ///< name of the group it belongs to (LV2 port groups); empty for none
    Kind kind = Kind::Number;
    float least = 0, most = 1, normal = 0;
    bool whole = false, toggled = false, logarithmic = false;
    std::vector<std::pair<float, std::string>> points; ///< values with names, in order; lv2:scalePoint
    bool choice = false;                               ///< only the points are meant (lv2:enumeration)
};

struct PluginPreset {
    std::string uri, name;
};

/// A plug-in by its description.
struct PluginFound {
    PluginInfo plugin;
    std::optional<Message> unfit; ///< why it cannot be used; none when it can
};

/// Which descriptions a PluginWorld reads.
struct PluginPlaces {
    std::filesystem::path shipped;              ///< a bundle beside those of pluginBundles(); empty for none
    std::vector<std::filesystem::path> leftOut; ///< bundles that are not read
    /// Told of each bundle before anything in it is read: a description can end the program that reads it.
    std::function<void(const std::filesystem::path& bundle)> reading = {};
};

/// The plug-ins of this computer and those that ship. Reads their descriptions; runs no code of theirs before
/// load(). For one thread at a time.
class PluginWorld final : public PluginMaker {
  public:
    explicit PluginWorld(PluginPlaces places);
    explicit PluginWorld(const std::filesystem::path& shipped) : PluginWorld(PluginPlaces{shipped, {}}) {}
    ~PluginWorld() override;

    /// Every plug-in by name: instruments (notes in, sound out; sound in as well where it says that it is
    /// one) and effects (sound in and out), and those that this host cannot run, with a sentence that says
    /// why.
    [[nodiscard]] std::vector<PluginFound> list() const;
    [[nodiscard]] std::vector<PluginInfo> usable() const; ///< those that can be run, by name
    [[nodiscard]] std::vector<PluginControl> controls(const std::string& uri) const;
    [[nodiscard]] std::vector<PluginPreset> presets(const std::string& uri) const; ///< by name
    /// Its own window, where it has one that can be shown here (X11).
    [[nodiscard]] std::optional<WindowPlace> window(const std::string& uri) const;
    /// Where the plug-in's code lies; empty when there is no such plug-in.
    [[nodiscard]] std::filesystem::path library(const std::string& uri) const;

    /// Loads it into this process.
    Result<std::unique_ptr<PluginUnit>> load(const std::string& uri, const PluginSettings& settings, int rate,
                                             bool offline) override;

  private:
    struct Inner;
    void listBundle(const std::filesystem::path& bundle, std::vector<PluginFound>& found) const;
    std::unique_ptr<Inner> m_inner;
    PluginPlaces m_places;
    std::vector<std::filesystem::path> m_bundles; ///< what was read
};

} // namespace cobbleway
