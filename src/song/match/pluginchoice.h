/// Plug-ins as a person chooses among them: by kind, by words, those kept and those used lately.
#pragma once
#include "font/catalogue.h"

#include <optional>
#include <string>
#include <vector>

namespace cobbleway {

/// Groups of plug-ins: the kinds, by number, then these.
enum PluginGroup {
    suggestedPlugins = pluginKindCount, ///< one of each kind
    favouritePlugins,
    lastUsedPlugins,
    allPlugins,
    unusablePlugins,
    pluginGroupCount
};

/// "Reverb", "Suggested": what a kind or group is called.
std::string pluginGroupName(int group);

/// One that can be chosen, or cannot.
struct PluginChoice {
    PluginInfo plugin;
    std::optional<Message> why = {}; ///< why it cannot be used; none when it can
    std::string words = {};          ///< what a search may hit, as of plainWords()
};

/// By URI, the newest first.
struct PluginsKept {
    std::vector<std::string> favourites, lastUsed;
};

/// The instruments, or the effects, of a catalogue.
class PluginChoices {
  public:
    PluginChoices(const Catalogue& catalogue, bool instruments);
    /// Those of a group that fit a search: all its words occur in name, maker or kind, accents and case
    /// aside; first those whose name begins with it, then those that have it in their name. Without a search
    /// by name, in the groups of kept and used ones the newest first; meters after all others.
    [[nodiscard]] std::vector<const PluginChoice*> in(int group, const std::string& search,
                                                      const PluginsKept& kept) const;

  private:
    /// Of each kind one: a favourite, else the one used last, else one that ships, else the one with two
    /// channels that has the fewest controls.
    [[nodiscard]] std::vector<const PluginChoice*> suggested(const PluginsKept& kept) const;
    std::vector<PluginChoice> m_all; ///< by name; those that cannot be used last
};

} // namespace cobbleway
