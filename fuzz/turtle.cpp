/// Any text at all as the description of plug-ins (Turtle, in a bundle's manifest): it is listed or not, and
/// what is listed can be asked.
#include "insist.h"

#include "sound/pluginworld.h"

#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <unistd.h>

using namespace cobbleway;
namespace fs = std::filesystem;

namespace {

/// A bundle in memory, of this process alone; the description of the standard itself stands beside it.
const fs::path& bundle() {
    static const fs::path folder = [] {
        setenv("COBBLEWAY_LV2_PATH", "/nonexistent", 1);
        fs::path made = fs::path("/dev/shm") / ("cobbleway-fuzz-" + std::to_string(getpid()) + ".lv2");
        fs::create_directories(made);
        std::atexit([] { fs::remove_all(bundle()); });
        return made;
    }();
    return folder;
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    std::ofstream(bundle() / "manifest.ttl", std::ios::binary)
        .write(reinterpret_cast<const char*>(data), static_cast<std::streamsize>(size));
    const PluginWorld world(bundle());
    for (const PluginInfo& plugin : world.usable()) {
        insist(!plugin.uri.empty() && !plugin.name.empty(), "it has a name");
        for (const PluginControl& control : world.controls(plugin.uri))
            insist(control.least <= control.most, "its range is one");
        (void)world.presets(plugin.uri);
        (void)world.library(plugin.uri);
    }
    return 0;
}
