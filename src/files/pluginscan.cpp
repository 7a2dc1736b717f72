#include "files/pluginscan.h"

#include "files/childprocess.h"
#include "files/folders.h"
#include "files/verdicts.h"
#include "font/fileversion.h"

#include <algorithm>
#include <cstdlib>
#include <optional>
#include <set>
#include <sstream>

namespace cobbleway {
namespace fs = std::filesystem;
namespace {

std::vector<std::string> fieldsOf(const std::string& line) {
    std::vector<std::string> fields;
    std::istringstream list(line);
    for (std::string field; std::getline(list, field, '\t');) fields.push_back(field);
    return fields;
}

struct Listed {
    PluginInfo plugin;
    std::string version; ///< library, its time and size: another after every change
    std::string unfit;   ///< why it cannot be used, by its description; empty when it can
};

/// Of a line of the helper's list.
PluginInfo infoOf(const std::vector<std::string>& fields) {
    const auto number = [&](std::size_t at) { return std::atoi(fields[at].c_str()); };
    PluginInfo info{fields[0], fields[1], fields[2], fields[3] == "instrument"};
    info.kind = static_cast<PluginKind>(std::clamp(number(6), 0, pluginKindCount - 1));
    info.in = number(7);
    info.out = number(8);
    info.controls = number(9);
    info.window = number(10) != 0;
    info.file = number(11) != 0;
    return info;
}

std::vector<std::string> helperWords(const PluginScanOptions& options, const char* what,
                                     const std::vector<fs::path>& leftOut) {
    std::vector<std::string> words = {what};
    words.push_back(options.bundle.empty() ? "-" : options.bundle.string());
    for (const fs::path& bundle : leftOut) words.push_back(bundle.string());
    return words;
}

struct Descriptions {
    std::vector<Listed> plugins;
    std::vector<fs::path> unreadable; ///< bundles that ended the helper, or kept it for too long
};

/// What a helper lists. Gives the bundle at which it ended or fell silent; nothing when it came to its end.
std::optional<fs::path> listOnce(const PluginScanOptions& options, Descriptions& found) {
    found.plugins.clear();
    ChildProcess helper(options.helper, helperWords(options, "list", found.unreadable));
    std::string line;
    fs::path reading;
    while (helper.started() &&
           helper.readLineWhileWorking(line, options.secondsEach, options.stop) == ChildProcess::Got::Line) {
        const auto fields = fieldsOf(line);
        if (line == "done") return std::nullopt;
        if (fields.size() == 2 && fields[0] == "reading") reading = fields[1];
        constexpr std::size_t all = 12;
        if (fields.size() == all)
            found.plugins.push_back(
                {infoOf(fields), fileVersion(fields[4]), fields[5] == "-" ? "" : fields[5]});
    }
    if (options.stop.stop_requested() || reading.empty()) return std::nullopt;
    return reading;
}

/// All plug-ins with a description that fits. A bundle that cannot be read is left out and all read again.
Descriptions listAll(const PluginScanOptions& options) {
    Descriptions found;
    while (const auto bad = listOnce(options, found)) {
        if (std::find(found.unreadable.begin(), found.unreadable.end(), *bad) != found.unreadable.end())
            break;
        found.unreadable.push_back(*bad);
    }
    return found;
}

/// Another text after every change of the plug-in's library.
std::string keyOf(const Listed& listed) { return listed.plugin.uri + "\t" + listed.version; }

std::string howItEnded(int code) {
    if (code < 0) return "plugin.crashed";
    return "plugin.ended";
}

/// Lets one helper try plug-ins in order, until all are tried or one ends it. Gives how many were.
std::size_t tryFrom(const PluginScanOptions& options, const std::vector<fs::path>& leftOut,
                    const std::vector<const Listed*>& open, std::size_t first, Verdicts& verdicts) {
    auto words = helperWords(options, "try", leftOut);
    words.emplace_back("--");
    for (std::size_t i = first; i < open.size(); ++i) words.push_back(open[i]->plugin.uri);
    ChildProcess helper(options.helper, words);
    for (std::size_t at = first; at < open.size(); ++at) {
        if (options.stop.stop_requested()) return open.size();
        if (options.trying) options.trying(open[at]->plugin.name);
        std::string line;
        switch (helper.started() ? helper.readLineWhileWorking(line, options.secondsEach, options.stop)
                                 : ChildProcess::Got::End) {
        case ChildProcess::Got::Line: // "ok", or why not
            verdicts.set(keyOf(*open[at]), line == "ok" ? "" : line);
            break;
        case ChildProcess::Got::Nothing:
            helper.kill();
            if (options.stop.stop_requested()) return open.size(); // no verdict on what was not waited for
            verdicts.set(keyOf(*open[at]), "plugin.no-answer");
            return at + 1;
        case ChildProcess::Got::End:
            if (at > first) return at; // one before it may be to blame: it is asked once more, alone
            verdicts.set(keyOf(*open[at]), helper.started() ? howItEnded(helper.wait()) : "plugin.no-helper");
            return at + 1;
        }
    }
    return open.size();
}

/// Whether the helper can be kept from the person's files on this system.
bool canBeConfined(const fs::path& program) {
    ChildProcess helper(program, {"confined"});
    std::string line;
    return helper.started() && helper.readLine(line, 5) == ChildProcess::Got::Line && line == "landlock";
}

/// What is known of the plug-ins that are listed; of those that were not tried yet, that they may be used.
PluginScan knownOf(const PluginScanOptions& options, const Descriptions& listed, const Verdicts& verdicts) {
    PluginScan scan;
    scan.confined = canBeConfined(options.helper);
    for (const fs::path& bundle : listed.unreadable)
        scan.setAside.push_back({{bundle.string(), bundle.filename().string(), "-", false},
                                 {"plugin.unreadable", {{"bundle", bundle.string()}}},
                                 bundle});
    for (const Listed& one : listed.plugins) {
        const std::string* why = verdicts.find(keyOf(one));
        if (!one.unfit.empty())
            scan.setAside.push_back({one.plugin, fromLine(one.unfit)});
        else if (!why || why->empty())
            scan.usable.push_back(one.plugin);
        else
            scan.setAside.push_back({one.plugin, fromLine(*why), {}, true});
    }
    return scan;
}

} // namespace

PluginScan listPlugins(const PluginScanOptions& options) {
    return knownOf(options, listAll(options), Verdicts(options.cache));
}

PluginScan scanPlugins(const PluginScanOptions& options) {
    const Descriptions all = listAll(options);
    Verdicts verdicts(options.cache);
    std::vector<const Listed*> open;
    std::set<std::string> there;
    for (const Listed& listed : all.plugins) {
        there.insert(keyOf(listed));
        if (listed.unfit.empty() && !verdicts.find(keyOf(listed))) open.push_back(&listed);
    }
    if (options.listed && !open.empty()) options.listed(knownOf(options, all, verdicts));
    for (std::size_t at = 0; at < open.size();) at = tryFrom(options, all.unreadable, open, at, verdicts);
    if (!options.stop.stop_requested())
        verdicts.save([&](const std::string& version) { return there.contains(version); });
    return knownOf(options, all, verdicts);
}

void forgetVerdict(const fs::path& cache, const std::string& uri) {
    const Verdicts verdicts(cache);
    verdicts.save([&](const std::string& version) { return !version.starts_with(uri + "\t"); });
}

fs::path pluginHelper() {
    if (const char* named = std::getenv("COBBLEWAY_PLUGIN_HELPER")) return named;
    std::error_code error;
    return fs::read_symlink("/proc/self/exe", error).parent_path() / "cobbleway-plugin-helper";
}

fs::path pluginCache() {
    const fs::path folder = cacheFolder();
    return folder.empty() ? folder : folder / "plugins";
}

} // namespace cobbleway
