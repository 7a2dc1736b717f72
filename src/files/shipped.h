#pragma once
#include "font/catalogue.h"

#include <filesystem>
#include <string>

namespace cobbleway {

/// Where a file that ships with the application is: in share/ beside the program's folder (also in the build
/// tree), or in the folder that the environment variable COBBLEWAY_DATA names. Empty when it is nowhere.
std::filesystem::path shippedFile(const std::string& name);

/// The bundle of LV2 plug-ins that ship with the application; empty when it is nowhere.
std::filesystem::path shippedPlugins();

/// The standard font folders with the house font; the environment variable COBBLEWAY_FONT_PATH (folders
/// separated by ":") stands in for them when set, so that tests never see the machine's own fonts.
FontFolders defaultFontFolders();

} // namespace cobbleway
