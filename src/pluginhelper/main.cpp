/// cobbleway-plugin-helper: runs foreign code, and what reads damaged data, for the first time, so that what
/// crashes takes only this program with it.
///   list BUNDLE [WITHOUT…]        a line a plug-in: URI, name, maker, "instrument" or "effect", library, and
///                                 why it cannot be used ("-": it can), number of its PluginKind, channels
///                                 in and out, controls, 1 when it has a window, 1 when it takes a file;
///                                 tabs between. Before each bundle is
///                                 read "reading" and its folder; "done" last
///   try BUNDLE [WITHOUT…] -- URI…  loads each and plays a note on it; a line each: "ok", or why not
///   font FILE                     loads a soundfont and plays a note of each preset; "working" after each
///   few,
///                                 then "ok", or why not
///   serve BUNDLE [WITHOUT…]       reads the descriptions and says "ready"; then runs a plug-in in a process
///   of
///                                 its own for each two descriptors (memory, socket) that come by descriptor
///                                 3
///   confined                      "landlock" when it can be kept from the person's files here, else "no"
/// BUNDLE holds the plug-ins that ship; "-" for none; bundles WITHOUT are not read. It ends with its parent
/// (COBBLEWAY_PARENT), and can read nothing of the person's but plug-ins and the font, where the kernel can
/// keep it from that.
#include "font/soundfont.h"
#include "pluginhelper/confine.h"
#include "pluginhelper/x11window.h"
#include "song/shape/pluginfiles.h"
#include "sound/fontinstrument.h"
#include "sound/otherfonts.h"
#include "sound/pluginfolders.h"
#include "sound/pluginwire.h"
#include "sound/pluginworld.h"
#include "sound/remoteplugin.h"

#include <algorithm>
#include <array>
#include <csignal>
#include <cstdio>
#include <cstdlib>
#include <fcntl.h>
#include <filesystem>
#include <string_view>
#include <sys/resource.h>
#include <unistd.h>

namespace cobbleway {
namespace {

std::string plain(std::string text) {
    std::replace_if(
        text.begin(), text.end(), [](char c) { return c == '\t' || c == '\n'; }, ' ');
    return text.empty() ? "-" : text;
}

/// Where the parent reads. What foreign code prints goes nowhere: it must not be taken for a verdict.
std::FILE* answers() {
    static std::FILE* const stream = [] {
        const int own = fcntl(STDOUT_FILENO, F_DUPFD_CLOEXEC, 100);
        const int nowhere = open("/dev/null", O_WRONLY | O_CLOEXEC);
        if (own < 0 || nowhere < 0) return stdout;
        dup2(nowhere, STDOUT_FILENO);
        close(nowhere);
        std::FILE* opened = fdopen(own, "w");
        return opened ? opened : stdout;
    }();
    return stream;
}

/// What the parent must know before anything can end this program.
void say(const std::string& line) {
    std::fprintf(answers(), "%s\n", line.c_str());
    std::fflush(answers());
}

void list(PluginPlaces places) {
    places.reading = [](const std::filesystem::path& bundle) { say("reading\t" + bundle.string()); };
    const PluginWorld world(std::move(places));
    for (const auto& [p, unfit] : world.list())
        say(p.uri + "\t" + plain(p.name) + "\t" + plain(p.maker) + "\t" +
            (p.instrument ? "instrument" : "effect") + "\t" + plain(world.library(p.uri)) + "\t" +
            (unfit ? plain(asLine(*unfit)) : "-") + "\t" + std::to_string(static_cast<int>(p.kind)) + "\t" +
            std::to_string(p.in) + "\t" + std::to_string(p.out) + "\t" + std::to_string(p.controls) + "\t" +
            std::to_string(p.window) + "\t" + std::to_string(p.file));
    say("done");
}

/// Loads a plug-in, plays a note for half a second, and keeps it. Says why not. It is not ended: some crash
/// then, since threads of theirs still work; that harms nobody where each has a process, and is no reason to
/// do without them.
std::string tryOne(PluginWorld& world, const char* uri) {
    constexpr int rate = 48000;
    static std::vector<Result<std::unique_ptr<PluginUnit>>> tried;
    const auto& unit = tried.emplace_back(world.load(uri, {}, rate, true));
    if (!unit) return asLine(unit.error().what);
    std::array<float, maxFrames> left{}, right{};
    unit.value()->event(0x90, 60, 100);
    for (int at = 0; at < rate / 2; at += maxFrames) {
        left.fill(0);
        right.fill(0);
        unit.value()->run(left.data(), right.data(), maxFrames);
        if (unit.value()->fault() == PluginFault::NoSound) return "plugin.no-sound";
    }
    unit.value()->event(0x80, 60, 64);
    unit.value()->run(left.data(), right.data(), maxFrames);
    (void)unit.value()->settings();
    (void)world.controls(uri); // what a window asks of it
    (void)world.presets(uri);
    return "ok";
}

void tryAll(PluginPlaces places, int count, char** uris) {
    setpriority(PRIO_PROCESS, 0, 19); // nobody waits for it
    PluginWorld world(std::move(places));
    for (int i = 0; i < count; ++i) say(tryOne(world, uris[i]));
    std::_Exit(0); // with all that still works in them
}

std::string tryFont(const char* path) {
    const auto headers = readSoundFont(path);
    const auto read = headers ? headers : readOtherFont(path);
    if (!read) return asLine(read.error().what);
    const auto loaded = loadFontInstrument(path, 1, 22050);
    if (!loaded) return asLine(loaded.error().what);
    std::array<float, maxFrames> left{}, right{};
    const StereoBlock block{left.data(), right.data()};
    int played = 0;
    for (const Preset& preset : read.value().presets) {
        constexpr int few = 8;
        if (played++ % few == 0) say("working");
        if (preset.ranges.empty()) continue;
        const auto key = static_cast<std::uint8_t>(preset.span().lowest);
        loaded.value()->choose(0, {nullptr, preset.bank, preset.program, 0});
        loaded.value()->play(0, 0x90, key, 100);
        for (int i = 0; i < 4; ++i) loaded.value()->render({&block, 1}, maxFrames);
        loaded.value()->release(0);
    }
    return "ok";
}

/// The folders in which plug-ins are, and what links in them lead to.
std::vector<std::filesystem::path> foldersToRead() {
    auto folders = pluginFolders();
    std::error_code error;
    for (std::size_t i = 0, own = folders.size(); i < own; ++i) {
        folders[i] = std::filesystem::weakly_canonical(folders[i], error);
        for (const auto& bundle : std::filesystem::directory_iterator(folders[i], error))
            if (bundle.is_symlink(error))
                folders.push_back(std::filesystem::weakly_canonical(bundle.path(), error));
    }
    return folders;
}

/// Kept from all that is the person's but plug-ins and what is named.
Confined keepOut(const std::vector<std::filesystem::path>& named) {
    auto readable = foldersToRead();
    std::error_code error;
    readable.push_back(std::filesystem::read_symlink("/proc/self/exe", error).parent_path());
    for (const auto& path : named) readable.push_back(std::filesystem::weakly_canonical(path, error));
    if (const char* display = std::getenv("XAUTHORITY")) readable.emplace_back(display);
    const char* home = std::getenv("HOME");
    return confine(home ? home : "", readable);
}

/// A plug-in may read the folders of the files that it was given, since samples lie beside each other.
void keepToItsFiles(const std::filesystem::path& bundle, const PluginOrder& order) {
    std::vector<std::filesystem::path> named = {bundle};
    for (const std::string& path : pluginFilesOf(order.settings))
        named.push_back(std::filesystem::path(path).parent_path());
    (void)keepOut(named);
}

/// Splits off a process for each plug-in that is asked for.
void serve(const PluginPlaces& places) {
    constexpr int orders = 3; // a descriptor
    PluginWorld world(places);
    std::signal(SIGCHLD, SIG_IGN); // they end unseen
    say("ready");
    while (const auto given = receiveDescriptors(orders)) {
        const pid_t self = getpid();
        if (fork() == 0) {
            std::signal(SIGCHLD, SIG_DFL);
            close(orders);
            endWithParent(self);
            const auto prepare = [&](const PluginOrder& order) {
                // Its window may be made with that toolkit, whose one application is made with the plug-in.
                if (!order.offline && world.window(order.uri) && hasDisplay())
                    setenv("QT_QPA_PLATFORM", "xcb", 1);
                keepToItsFiles(places.shipped, order);
            };
            servePlugin(world, given->first, given->second, {prepare, openX11Window});
            std::_Exit(0);
        }
        close(given->first);
        close(given->second);
    }
}

} // namespace
} // namespace cobbleway

int main(int count, char** words) {
    (void)cobbleway::answers(); // before any code of others runs
    setenv("QT_QPA_PLATFORM", "offscreen",
           1); // some plug-ins make an application of that toolkit, without a window
    const std::string_view what = count > 2 ? words[1] : "";
    // The kernel ends a process with the thread that started it. One that serves outlives that thread, and
    // ends when nobody is at the other end of its socket.
    const char* parent = std::getenv("COBBLEWAY_PARENT");
    if (what != "serve") cobbleway::endWithParent(parent ? std::strtol(parent, nullptr, 10) : 0);
    cobbleway::Confined kept = cobbleway::Confined::Not;
    if (what != "serve") // which keeps each of its processes to its own
        kept = cobbleway::keepOut(count > 2 ? std::vector<std::filesystem::path>{words[2]}
                                            : std::vector<std::filesystem::path>{});
    if (count == 2 && std::string_view(words[1]) == "confined") {
        cobbleway::say(kept == cobbleway::Confined::Landlock ? "landlock" : "no");
        return 0;
    }
    if (what == "font") {
        cobbleway::say(cobbleway::tryFont(words[2]));
        return 0;
    }
    if (what != "list" && what != "try" && what != "serve") {
        std::fprintf(stderr, "cobbleway-plugin-helper list BUNDLE [WITHOUT…], try BUNDLE [WITHOUT…] -- URI…, "
                             "serve BUNDLE [WITHOUT…], font FILE, or confined\n");
        return 2;
    }
    cobbleway::PluginPlaces places;
    if (std::string_view(words[2]) != "-") places.shipped = words[2];
    int at = 3;
    for (; at < count && std::string_view(words[at]) != "--"; ++at) places.leftOut.emplace_back(words[at]);
    if (what == "list")
        cobbleway::list(std::move(places));
    else if (what == "serve")
        cobbleway::serve(places);
    else
        cobbleway::tryAll(std::move(places), count - at - 1, words + at + 1);
    return 0;
}
