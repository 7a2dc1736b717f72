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
    std::vector<std::uint8_t> choices; // the sound of each ask
    for (const Match& one : match.matches) choices.push_back(soundNumber(schedule.sounds, one.sound));
    const auto choose = [&](std::int64_t frame, std::size_t ask) {
        schedule.events.push_back({frame, 0xC0, choices[ask], 0});
    };
    if (!choices.empty()) choose(0, 0);
    // A choice stands before the first note that asks for it: at one tick others may come before its program.
    AskReader reader(song, part);
    std::size_t at = 0;
    for (const Event& event : realise(song, part).events) {
        const std::int64_t frame = frameOf(song, event.tick, rate);
        reader.take(event, event.tick);
        if (event.isNoteOn() && at + 1 < choices.size() && match.asks[at + 1].sameAs(reader.current()))
            choose(frame, ++at);
        if (event.choosesSound()) continue;
        schedule.events.push_back({frame, event.status, event.data1, event.data2});
    }
    return schedule;
}

std::int64_t endFrame(const Song& song, int rate) { return frameOf(song, song.end, rate); }

} // namespace cobbleway
