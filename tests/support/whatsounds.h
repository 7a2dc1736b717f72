/// What a song sounds like, note by note: when, which key, how hard, in which sound, how loud. For property
/// tests: two songs with the same notes in other sounds, or at other levels, are not the same.
#pragma once
#include "support/support.h"

#include "song/derived.h"
#include "song/model/levels.h"
#include "sound/schedule.h"

#include <map>
#include <set>

namespace support {

/// Frame, key, velocity, sound, gain in hundredths of a dB, pan, share of the room, effects.
using Sounding = std::tuple<std::int64_t, int, int, std::string, int, int, int, std::string>;

inline void addSounding(const Song& song, const Part& part, const Schedule& schedule, double layerDb,
                        std::multiset<Sounding>& all) {
    std::map<int, int> controllers = {{cc::volume, defaultVolume}, {cc::expression, 127}, {cc::pan, 64}};
    std::string sound;
    for (const TimedEvent& event : schedule.events) {
        const int kind = event.status & 0xF0;
        if (kind == 0xC0) {
            const auto& chosen = schedule.sounds[event.data1];
            sound = chosen ? chosen->font + ":" + std::to_string(chosen->bank) + ":" +
                                 std::to_string(chosen->program)
                           : std::string("none");
        }
        if (kind == 0xB0) controllers[event.data1] = event.data2;
        if (kind != 0x90 || event.data2 == 0) continue;
        const double gain = gainToDb(mixGain(song, part)) + layerDb + volumeDb(controllers[cc::volume]) +
                            volumeDb(controllers[cc::expression]);
        std::string effects;
        for (const Effect& effect : part.mix.effects) effects += effect.uri + (effect.on ? "+" : "-");
        all.insert({event.frame, event.data1, event.data2, sound, static_cast<int>(std::lround(gain * 100)),
                    static_cast<int>(std::lround(part.mix.pan * 100)) * 128 + controllers[cc::pan],
                    static_cast<int>(std::lround(part.mix.room * 100)) * 2 + part.mix.roomBeforeLevel,
                    effects});
    }
}

/// All notes of all parts and layers, as they sound with some fonts.
inline std::multiset<Sounding> whatSounds(const Song& song, const Catalogue& fonts) {
    std::multiset<Sounding> all;
    const auto matches = matchSong(song, fonts);
    for (std::size_t i = 0; i < song.parts.size(); ++i) {
        const Part& part = song.parts[i];
        const std::vector<Event> heard = realisedEvents(song, part);
        addSounding(song, part, scheduleOf(song, part, heard, matches[i], rate), 0, all);
        for (std::size_t l = 0; l < part.sound.layers.size(); ++l)
            addSounding(song, part,
                        scheduleOfLayer(song, part, heard, part.sound.layers[l], matches[i].layers[l], rate),
                        part.sound.layers[l].levelDb, all);
    }
    return all;
}

} // namespace support
