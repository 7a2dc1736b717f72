/// Plug-ins in processes of their own against the same in this one: eight instruments that play chords, in
/// pieces of 256 frames, as live. Processor time of all processes. Aim: at most 1.15 times.
/// Usage: bench-plugins [URI…]
#include "measure.h"

#include "files/pluginhost.h"
#include "files/pluginscan.h"
#include "files/shipped.h"

#include <array>
#include <cstdio>
#include <fstream>
#include <memory>
#include <sstream>

using namespace cobbleway;

namespace {

constexpr int rate = 48000, frames = 256, seconds = 20;

using Units = std::vector<std::unique_ptr<PluginUnit>>;

/// Processor time of this process and of the helpers that it started, in seconds.
double allSeconds() {
    double sum = 0;
    for (const auto& entry : std::filesystem::directory_iterator("/proc")) {
        const std::string name = entry.path().filename();
        if (name.find_first_not_of("0123456789") != std::string::npos) continue;
        std::ifstream environment(entry.path() / "environ", std::ios::binary);
        const std::string variables((std::istreambuf_iterator<char>(environment)), {});
        const bool ours = name == std::to_string(getpid()) ||
                          variables.find("COBBLEWAY_PARENT=" + std::to_string(getpid())) != std::string::npos;
        if (!ours) continue;
        for (const auto& task : std::filesystem::directory_iterator(entry.path() / "task")) {
            double nanoseconds = 0;
            std::ifstream(task.path() / "schedstat") >> nanoseconds;
            sum += nanoseconds * 1e-9;
        }
    }
    return sum;
}

double playedSeconds(Units& units) {
    const double before = allSeconds();
    for (int at = 0; at < rate * seconds; at += frames)
        for (std::size_t i = 0; i < units.size(); ++i) {
            std::array<float, frames> left{}, right{};
            const int chord = at / (rate / 2);
            if (at % (rate / 2) < frames)
                for (const int step : {0, 4, 7}) {
                    const auto key = [&](int number) {
                        return static_cast<std::uint8_t>(48 + number % 12 + step);
                    };
                    if (chord > 0) units[i]->event(0x80, key(chord - 1), 64);
                    units[i]->event(0x90, key(chord), 100);
                }
            units[i]->run(left.data(), right.data(), frames);
        }
    return allSeconds() - before;
}

Units eight(PluginMaker& maker, const std::vector<std::string>& uris) {
    Units units;
    for (std::size_t i = 0; i < 8; ++i)
        if (auto unit = maker.load(uris[i % uris.size()], {}, rate, true))
            units.push_back(std::move(unit.value()));
    return units;
}

} // namespace

int main(int count, char** words) {
    std::vector<std::string> uris(words + 1, words + count);
    if (uris.empty()) uris = {"https://cobbleway.example/plugins#quayreed"};
    PluginWorld world(shippedPlugins());
    PluginHost host(pluginHelper(), shippedPlugins(), {});
    double here = 1e9, there = 1e9;
    Units inside = eight(world, uris), outside = eight(host, uris);
    if (inside.size() < 8 || outside.size() < 8)
        return std::fprintf(stderr, "A plug-in cannot be loaded.\n"), 1;
    for (int round = 0; round < 3; ++round) {
        here = std::min(here, playedSeconds(inside));
        there = std::min(there, playedSeconds(outside));
    }
    std::printf("eight plug-ins, %d s of sound: in processes of their own %.3f s, here %.3f s: %.3f times "
                "(aim 1.15)\n",
                seconds, there, here, there / here);
}
