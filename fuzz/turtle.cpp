/// Any text at all as the description of plug-ins (Turtle, in a bundle's manifest): it is listed or not, and
/// what is listed can be asked.
#include "insist.h"

#include "sound/pluginworld.h"

#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <serd/serd.h>
#include <string_view>
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

/// Whether a plug-in without a name stands there: lilv 0.24 ends the program then, as it does in the helper
/// that reads each bundle first.
bool hasNamelessPlugin(const std::string& text) {
    bool found = false;
    SerdReader* const reader = serd_reader_new(
        SERD_TURTLE, &found, nullptr, nullptr, nullptr,
        [](void* self, SerdStatementFlags, const SerdNode*, const SerdNode* subject,
           const SerdNode* predicate, const SerdNode* object, const SerdNode*, const SerdNode*) {
            const auto ends = [](const SerdNode* node, std::string_view end) {
                return std::string_view(reinterpret_cast<const char*>(node->buf), node->n_bytes)
                    .ends_with(end);
            };
            if (subject->type == SERD_BLANK && ends(predicate, "type") && ends(object, "Plugin"))
                *static_cast<bool*>(self) = true;
            return SERD_SUCCESS;
        },
        nullptr);
    serd_reader_set_error_sink(
        reader, [](void*, const SerdError*) { return SERD_SUCCESS; }, nullptr);
    serd_reader_read_string(reader, reinterpret_cast<const std::uint8_t*>(text.c_str()));
    serd_reader_free(reader);
    return found;
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    if (hasNamelessPlugin({reinterpret_cast<const char*>(data), size})) return 0;
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
