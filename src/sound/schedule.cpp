#include "sound/schedule.h"

#include "song/model/devicestate.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <iterator>

namespace cobbleway {
namespace {

std::int64_t frameOf(const SongFrame& song, Tick tick, int rate) {
    const double frame = song.tempo->seconds(tick) * rate;
    return std::llround(std::min(frame, static_cast<double>(TimedEvent::lastFrame)));
}

/// Number of a match's sound among those kept, adding it when new.
std::uint8_t soundNumber(std::vector<std::optional<SoundRef>>& sounds, const std::optional<SoundRef>& sound) {
    const auto at = std::find(sounds.begin(), sounds.end(), sound);
    if (at != sounds.end()) return static_cast<std::uint8_t>(at - sounds.begin());
    if (sounds.size() < 127) sounds.push_back(sound);
    return static_cast<std::uint8_t>(sounds.size() - 1);
}

/// Which ends of notes end a key: of notes of one key that overlap, the last. Synthesisers end all of them at
/// the first.
class KeysSounding {
  public:
    /// Takes a note's start or end; false for an end that is to be left out.
    bool take(const Event& event) {
        int& count = m_counts[event.data1 & 0x7FU];
        if (event.isNoteOn())
            ++count;
        else if (event.isNoteOff() && count > 0 && --count > 0)
            return false;
        return true;
    }

  private:
    std::array<int, 128> m_counts{};
};

} // namespace

void Schedule::setMarks() {
    marks.clear();
    LaneState state;
    for (std::size_t i = 0; i < events.size(); ++i) {
        if (i > 0 && i % markStep == 0) marks.push_back(state);
        state.take(events[i]);
    }
}

std::size_t Schedule::firstAt(double frame) const {
    const auto at = std::partition_point(events.begin(), events.end(), [frame](const TimedEvent& event) {
        return static_cast<double>(event.frame) < frame;
    });
    return static_cast<std::size_t>(at - events.begin());
}

LaneState Schedule::stateBefore(std::size_t event) const {
    const std::size_t mark = std::min(event / markStep, marks.size());
    LaneState state = mark > 0 ? marks[mark - 1] : LaneState();
    for (std::size_t i = mark * markStep; i < event; ++i) state.take(events[i]);
    return state;
}

namespace {

/// What device messages among a part's events tell its lane, in order of tick.
std::vector<TimedEvent> deviceEventsOf(const SongFrame& song, const Part& part, int rate) {
    std::vector<TimedEvent> found;
    song.eachBesideNotes(*part.source.events, [&](const Event& event, EventRef ref) {
        if (!event.isSysex()) return;
        const DeviceSettings settings = deviceSettingsAt(song, ref);
        const std::int64_t frame = frameOf(song, song.tickOf(ref), rate);
        const auto tell = [&](std::uint8_t message, int value) {
            found.push_back({frame, message, static_cast<std::uint8_t>(value >> 8),
                             static_cast<std::uint8_t>(value & 0xFF)});
        };
        const bool resets = settings.reset != Dialect::None;
        if (settings.volume || resets)
            tell(lanemessage::volume, static_cast<int>(std::lround(settings.volume.value_or(1) * 0xFFFF)));
        if (part.source.drums) return;
        if (settings.tuning || resets) tell(lanemessage::tuneAll, settings.tuning.value_or(0) + 1000);
        for (const KeyTuning& tuning : settings.keyTunings)
            tell(lanemessage::tuneKey, tuning.key << 8 | (tuning.cents + 100));
        for (int key = 0; resets && key < 12; ++key) tell(lanemessage::tuneKey, key << 8 | 100);
    });
    return found;
}

/// Puts what device messages tell before what is played at their frame.
void addDeviceEvents(Schedule& schedule, const SongFrame& song, const Part& part, int rate) {
    const auto told = deviceEventsOf(song, part, rate);
    if (told.empty()) return;
    std::vector<TimedEvent> all;
    all.reserve(schedule.events.size() + told.size());
    std::merge(told.begin(), told.end(), schedule.events.begin(), schedule.events.end(),
               std::back_inserter(all),
               [](const TimedEvent& a, const TimedEvent& b) { return a.frame < b.frame; });
    schedule.events = std::move(all);
}

} // namespace

Schedule scheduleOf(const SongFrame& song, const Part& part, std::span<const Event> heard,
                    const PartMatch& match, int rate) {
    Schedule schedule;
    schedule.drums = part.source.drums;
    schedule.events.reserve(heard.size() + 1);
    std::vector<std::uint8_t> choices, stretches; // the sound of each ask, of each stretch
    for (const Match& ask : match.matches) choices.push_back(soundNumber(schedule.sounds, ask.sound));
    for (const Match& stretch : match.stretches)
        stretches.push_back(soundNumber(schedule.sounds, stretch.sound));
    std::uint8_t chosen = 0;
    const auto choose = [&](std::int64_t frame, std::uint8_t sound) {
        schedule.events.push_back({frame, 0xC0, sound, 0});
        chosen = sound;
    };
    if (!choices.empty()) choose(0, choices[0]);
    // A choice stands before the first note that asks for it: at one tick others may come before its program.
    AskReader reader(song, part);
    KeysSounding sounding;
    std::size_t ask = 0;
    const auto soundAt = [&](Tick tick) {
        for (std::size_t i = 0; i < stretches.size(); ++i)
            if (part.sound.stretches[i].start <= tick && tick < part.sound.stretches[i].end)
                return stretches[i];
        return choices[ask];
    };
    for (const Event& event : heard) {
        const std::int64_t frame = frameOf(song, event.tick, rate);
        reader.take(event, event.tick);
        if (event.isNoteOn() && !choices.empty()) {
            if (ask + 1 < choices.size() && match.asks[ask + 1].sameAs(reader.current())) ++ask;
            if (const std::uint8_t wanted = soundAt(event.tick); wanted != chosen) choose(frame, wanted);
        }
        if (event.choosesSound() || !sounding.take(event)) continue;
        schedule.events.push_back({frame, event.status, event.data1, event.data2});
    }
    addDeviceEvents(schedule, song, part, rate);
    schedule.setMarks();
    return schedule;
}

Schedule scheduleOfLayer(const SongFrame& song, const Part& part, std::span<const Event> heard,
                         const Layer& layer, const Match& match, int rate) {
    Schedule schedule;
    schedule.drums = part.source.drums;
    schedule.events.reserve(heard.size() + 1);
    schedule.sounds = {match.sound};
    schedule.events.push_back({0, 0xC0, 0, 0});
    KeysSounding sounding;
    for (const Event& event : heard) {
        if (event.choosesSound() || !sounding.take(event)) continue;
        TimedEvent timed{frameOf(song, event.tick, rate), event.status, event.data1, event.data2};
        const int kind = event.kind();
        if (kind == 0x80 || kind == 0x90 || kind == 0xA0) {
            if (event.data1 < layer.keys.lowest || event.data1 > layer.keys.highest) continue;
            if (!part.source.drums) timed.data1 = shiftedKey(Key{event.data1}, 12 * layer.octaves).value;
        }
        schedule.events.push_back(timed);
    }
    addDeviceEvents(schedule, song, part, rate);
    schedule.setMarks();
    return schedule;
}

std::int64_t endFrame(const SongFrame& song, int rate) { return frameOf(song, song.end, rate); }

} // namespace cobbleway
