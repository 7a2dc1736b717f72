#include "song/match/pluginchoice.h"

#include "song/model/plainwords.h"
#include "words/message.h"

#include <algorithm>
#include <array>
#include <sstream>
#include <tuple>

namespace cobbleway {
namespace {

constexpr const char* shipsFrom = "https://cobbleway.example/";

/// Where something is in a list; its length when it is not there.
std::size_t placeIn(const std::vector<std::string>& list, const std::string& uri) {
    return static_cast<std::size_t>(std::find(list.begin(), list.end(), uri) - list.begin());
}

bool isIn(const std::vector<std::string>& list, const std::string& uri) {
    return placeIn(list, uri) < list.size();
}

/// How little a plug-in is suggested for its kind.
auto unlikeliness(const PluginInfo& plugin, const PluginsKept& kept) {
    const bool stereo = plugin.in == 2 && plugin.out == 2;
    return std::tuple(placeIn(kept.favourites, plugin.uri), placeIn(kept.lastUsed, plugin.uri),
                      !plugin.uri.starts_with(shipsFrom), !stereo, plugin.controls, plugin.name);
}

std::vector<std::string> wordsOf(const std::string& search) {
    std::vector<std::string> words;
    std::istringstream plain(plainWords(search));
    for (std::string word; plain >> word;) words.push_back(word);
    return words;
}

} // namespace

std::string pluginGroupName(int group) {
    static constexpr std::array<const char*, pluginGroupCount> ids = {
        "plugins.reverb",     "plugins.compressor", "plugins.equaliser", "plugins.delay", "plugins.chorus",
        "plugins.distortion", "plugins.filter",     "plugins.pitch",     "plugins.other", "plugins.meters",
        "plugins.suggested",  "plugins.favourites", "plugins.last-used", "plugins.all",   "plugins.unusable"};
    return inWords({ids.at(static_cast<std::size_t>(group))});
}

PluginChoices::PluginChoices(const Catalogue& catalogue, bool instruments) {
    const auto add = [&](const PluginInfo& plugin, std::optional<Message> why) {
        std::string text = plugin.name + " " + plugin.maker;
        if (!plugin.instrument) text += " " + pluginGroupName(static_cast<int>(plugin.kind));
        m_all.push_back({plugin, std::move(why), plainWords(text)});
    };
    for (const PluginInfo& plugin : catalogue.plugins())
        if (plugin.instrument == instruments) add(plugin, {});
    for (const PluginSetAside& aside : catalogue.setAside())
        if (aside.plugin.instrument == instruments) add(aside.plugin, aside.why);
    std::stable_sort(m_all.begin(), m_all.end(), [](const PluginChoice& a, const PluginChoice& b) {
        const auto last = [](const PluginChoice& choice) {
            return std::pair(choice.why.has_value(), choice.plugin.kind == PluginKind::Meter);
        };
        return last(a) < last(b);
    });
}

std::vector<const PluginChoice*> PluginChoices::in(int group, const std::string& search,
                                                   const PluginsKept& kept) const {
    const auto belongs = [&](const PluginChoice& choice) {
        if (group == unusablePlugins || choice.why) return group == unusablePlugins && choice.why;
        if (group == favouritePlugins) return isIn(kept.favourites, choice.plugin.uri);
        if (group == lastUsedPlugins) return isIn(kept.lastUsed, choice.plugin.uri);
        return group == allPlugins || group == static_cast<int>(choice.plugin.kind);
    };
    std::vector<const PluginChoice*> found;
    if (group == suggestedPlugins)
        found = suggested(kept);
    else
        for (const PluginChoice& choice : m_all)
            if (belongs(choice)) found.push_back(&choice);
    if (group == favouritePlugins || group == lastUsedPlugins) {
        const auto& order = group == favouritePlugins ? kept.favourites : kept.lastUsed;
        std::stable_sort(found.begin(), found.end(), [&](const PluginChoice* a, const PluginChoice* b) {
            return placeIn(order, a->plugin.uri) < placeIn(order, b->plugin.uri);
        });
    }
    const auto words = wordsOf(search);
    if (words.empty()) return found;
    std::erase_if(found, [&](const PluginChoice* choice) {
        return !std::all_of(words.begin(), words.end(), [&](const std::string& word) {
            return choice->words.find(word) != std::string::npos;
        });
    });
    const auto rank = [&](const PluginChoice* choice) {
        const auto name = wordsOf(choice->plugin.name);
        const auto begins = [&](const std::string& word) { return word.starts_with(words.front()); };
        if (!name.empty() && begins(name.front())) return 0;
        return std::any_of(name.begin(), name.end(), begins) ? 1 : 2;
    };
    std::stable_sort(found.begin(), found.end(),
                     [&](const PluginChoice* a, const PluginChoice* b) { return rank(a) < rank(b); });
    return found;
}

std::vector<const PluginChoice*> PluginChoices::suggested(const PluginsKept& kept) const {
    std::array<const PluginChoice*, pluginKindCount> best{};
    for (const PluginChoice& choice : m_all) {
        if (choice.why || choice.plugin.instrument || choice.plugin.kind == PluginKind::Other ||
            choice.plugin.kind == PluginKind::Meter)
            continue;
        const PluginChoice*& of = best[static_cast<std::size_t>(choice.plugin.kind)];
        if (!of || unlikeliness(choice.plugin, kept) < unlikeliness(of->plugin, kept)) of = &choice;
    }
    std::vector<const PluginChoice*> found;
    for (const PluginChoice* choice : best)
        if (choice) found.push_back(choice);
    return found;
}

} // namespace cobbleway
