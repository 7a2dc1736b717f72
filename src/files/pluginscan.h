/// Finding LV2 plug-ins without running their code in this process.
#pragma once
#include "font/catalogue.h"

#include <filesystem>
#include <functional>
#include <stop_token>
#include <vector>

namespace cobbleway {

struct PluginScan {
    std::vector<PluginInfo> usable;       ///< by name
    std::vector<PluginSetAside> setAside; ///< crashed, hung, or would not start
    bool confined = false; ///< the helper could read and write nothing of the person's while it tried them
};

struct PluginScanOptions {
    std::filesystem::path helper; ///< the program cobbleway-plugin-helper
    std::filesystem::path bundle; ///< plug-ins that ship; may be empty
    std::filesystem::path cache;  ///< what was found out before; empty: nothing is kept
    /// Of processor time for one plug-in, or of standing still, before it counts as hung.
    double secondsEach = 8;
    std::stop_token stop;
    std::function<void(const std::string& name)> trying; ///< called before each plug-in that is tried
    /// Called with what listPlugins() gives, before the first is tried.
    std::function<void(PluginScan)> listed = {};
};

/// Lists all plug-ins by their descriptions, with what was found when they were tried; nothing of theirs is
/// run. Those that were not tried yet count as usable: in a process of their own they harm nobody.
PluginScan listPlugins(const PluginScanOptions& options);

/// Lists them and lets the helper, which gives way to everything else, load and play each that is new or has
/// changed. One that crashes or hangs takes the helper with it, is named and set aside; the helper goes on
/// with the next.
PluginScan scanPlugins(const PluginScanOptions& options);

/// Forgets what was found of a plug-in, so that the next scan tries it again.
void forgetVerdict(const std::filesystem::path& cache, const std::string& uri);

/// The helper beside this program, or the one that the environment variable COBBLEWAY_PLUGIN_HELPER names.
std::filesystem::path pluginHelper();
/// Where the cache lies by the XDG rules.
std::filesystem::path pluginCache();

} // namespace cobbleway
