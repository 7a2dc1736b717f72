#include "sound/schedule.h"

#include <algorithm>
#include <cmath>

namespace cobbleway {
namespace {

std::int64_t frameOf(const Song& song, Tick tick, int rate) {
    return std::llround(song.tempo->seconds(tick) * rate);
}

/// Number of a match's sound among those kept, adding it when new.
std::uint8_t soundNumber(std::vector<std::optional<SoundRef>>& sounds, const std::optional<SoundRef>& sound) {
    const auto at = std::find(sounds.begin(), sounds.end(), sound);
    if (at != sounds.end()) return static_cast<std::uint8_t>(at - sounds.begin());
    if (sounds.size() < 127) sounds.push_back(sound);
    return static_cast<std::uint8_t>(sounds.size() - 1);
}

} // namespace

Schedule scheduleOf(const Song& song, const Part& part, const PartMatch& match, int rate) {
    Schedule schedule;
    schedule.drums = part.drums;
    std::vector<TimedEvent> choices;
    for (std::size_t i = 0; i < match.matches.size(); ++i)
        choices.push_back({frameOf(song, match.asks[i].tick, rate), 0xC0,
                           soundNumber(schedule.sounds, match.matches[i].sound), 0});
    auto choice = choices.begin();
    for (const Event& event : realise(song, part).events) {
        const std::int64_t frame = frameOf(song, event.tick, rate);
        while (choice != choices.end() && choice->frame <= frame) schedule.events.push_back(*choice++);
        if (event.isProgram() || event.isController(cc::bankMsb) || event.isController(cc::bankLsb)) continue;
        schedule.events.push_back({frame, event.status, event.data1, event.data2});
    }
    return schedule;
}

std::int64_t endFrame(const Song& song, int rate) { return frameOf(song, song.end, rate); }

} // namespace cobbleway
