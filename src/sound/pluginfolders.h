#pragma once
#include <filesystem>
#include <vector>

namespace cobbleway {

/// The folders in which LV2 plug-ins are looked for, in order: those of the environment variable
/// COBBLEWAY_LV2_PATH when it is set (separated by ":"), else of LV2_PATH, else the usual ones. Some may not
/// be there.
std::vector<std::filesystem::path> pluginFolders();

/// The bundles in these folders, by name within each: folders that hold a manifest.ttl. A name with control
/// characters in it is passed over.
std::vector<std::filesystem::path> pluginBundles();

} // namespace cobbleway
