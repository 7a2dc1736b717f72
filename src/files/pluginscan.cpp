#include "files/pluginscan.h"

#include "files/atomicfile.h"
#include "files/childprocess.h"

#include <algorithm>
#include <cstdlib>
#include <map>
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
};

std::string versionOf(const fs::path& library) {
    std::error_code error;
    const auto time = fs::last_write_time(library, error).time_since_epoch().count();
    const auto size = fs::file_size(library, error);
    return library.string() + " " + std::to_string(time) + " " + std::to_string(error ? 0 : size);
}

std::vector<std::string> helperWords(const PluginScanOptions& options, const char* what) {
    std::vector<std::string> words = {what};
    words.push_back(options.bundle.empty() ? "-" : options.bundle.string());
    return words;
}

/// The next line of a helper; nothing as soon as a stop is wanted.
ChildProcess::Got nextLine(ChildProcess& helper, std::string& line, double seconds,
                           const std::stop_token& stop) {
    constexpr double slice = 0.1;
    for (double waited = 0; waited < seconds && !stop.stop_requested(); waited += slice)
        if (const auto got = helper.readLine(line, slice); got != ChildProcess::Got::Nothing) return got;
    return ChildProcess::Got::Nothing;
}

/// All plug-ins with a description that fits: uri, name, maker, whether it is an instrument, library.
std::vector<Listed> listAll(const PluginScanOptions& options) {
    std::vector<Listed> all;
    ChildProcess helper(options.helper, helperWords(options, "list"));
    std::string line;
    while (helper.started() && nextLine(helper, line, 30, options.stop) == ChildProcess::Got::Line) {
        const auto fields = fieldsOf(line);
        if (fields.size() != 5) continue;
        all.push_back({{fields[0], fields[1], fields[2], fields[3] == "instrument"}, versionOf(fields[4])});
    }
    return all;
}

/// What was found out before: version and URI → why it is set aside, as an id or in the plug-in's words;
/// empty when it is not.
using Verdicts = std::map<std::string, std::string>;
std::string keyOf(const Listed& listed) { return listed.version + "\t" + listed.plugin.uri; }

Verdicts readCache(const fs::path& path) {
    Verdicts verdicts;
    const auto bytes = path.empty() ? Result<std::vector<std::uint8_t>>(Error{}) : readFile(path);
    if (!bytes) return verdicts;
    std::istringstream text(std::string(bytes.value().begin(), bytes.value().end()));
    for (std::string line; std::getline(text, line);) {
        const auto fields = fieldsOf(line);
        if (fields.size() >= 2) verdicts[fields[0] + "\t" + fields[1]] = fields.size() > 2 ? fields[2] : "";
    }
    return verdicts;
}

void writeCache(const fs::path& path, const std::vector<Listed>& all, const Verdicts& verdicts) {
    if (path.empty()) return;
    std::string text;
    for (const Listed& listed : all)
        if (const auto at = verdicts.find(keyOf(listed)); at != verdicts.end())
            text += at->first + "\t" + at->second + "\n";
    std::error_code error;
    fs::create_directories(path.parent_path(), error);
    (void)writeFile(path, text).ok(); // without a cache the next start takes longer, no more
}

std::string howItEnded(int code) {
    if (code < 0) return "plugin.crashed";
    return "plugin.ended";
}

/// Lets one helper try plug-ins in order, until all are tried or one ends it. Gives how many were.
std::size_t tryFrom(const PluginScanOptions& options, const std::vector<const Listed*>& open,
                    std::size_t first, Verdicts& verdicts) {
    auto words = helperWords(options, "try");
    for (std::size_t i = first; i < open.size(); ++i) words.push_back(open[i]->plugin.uri);
    ChildProcess helper(options.helper, words);
    for (std::size_t at = first; at < open.size(); ++at) {
        if (options.stop.stop_requested()) return open.size();
        if (options.trying) options.trying(open[at]->plugin.name);
        std::string line;
        switch (helper.started() ? nextLine(helper, line, options.secondsEach, options.stop)
                                 : ChildProcess::Got::End) {
        case ChildProcess::Got::Line: // "ok", or why not
            verdicts[keyOf(*open[at])] = line == "ok" ? "" : line;
            break;
        case ChildProcess::Got::Nothing:
            helper.kill();
            if (options.stop.stop_requested()) return open.size(); // no verdict on what was not waited for
            verdicts[keyOf(*open[at])] = "plugin.no-answer";
            return at + 1;
        case ChildProcess::Got::End:
            verdicts[keyOf(*open[at])] = helper.started() ? howItEnded(helper.wait()) : "plugin.no-helper";
            return at + 1;
        }
    }
    return open.size();
}

} // namespace

PluginScan scanPlugins(const PluginScanOptions& options) {
    const auto all = listAll(options);
    Verdicts verdicts = readCache(options.cache);
    std::vector<const Listed*> open;
    for (const Listed& listed : all)
        if (!verdicts.contains(keyOf(listed))) open.push_back(&listed);
    for (std::size_t at = 0; at < open.size();) at = tryFrom(options, open, at, verdicts);
    if (!options.stop.stop_requested()) writeCache(options.cache, all, verdicts);
    PluginScan scan;
    for (const Listed& listed : all) {
        const auto at = verdicts.find(keyOf(listed));
        if (at == verdicts.end()) continue; // stopped before it was tried
        if (at->second.empty())
            scan.usable.push_back(listed.plugin);
        else
            scan.setAside.push_back({listed.plugin, fromLine(at->second)});
    }
    return scan;
}

fs::path pluginHelper() {
    if (const char* named = std::getenv("COBBLEWAY_PLUGIN_HELPER")) return named;
    std::error_code error;
    return fs::read_symlink("/proc/self/exe", error).parent_path() / "cobbleway-plugin-helper";
}

fs::path pluginCache() {
    const char* cache = std::getenv("XDG_CACHE_HOME");
    const char* home = std::getenv("HOME");
    if (cache && *cache) return fs::path(cache) / "cobbleway/plugins";
    return home && *home ? fs::path(home) / ".cache/cobbleway/plugins" : fs::path();
}

} // namespace cobbleway
