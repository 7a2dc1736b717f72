#include "song/tomidi.h"

#include "song/levels.h"
#include "song/realise.h"

#include <algorithm>
#include <cmath>

namespace cobbleway {
namespace {

class MidiBuilder {
  public:
    MidiBuilder(const Song& song, int type) : m_song(song) {
        m_file.type = type;
        m_file.division = song.source->midi.division;
    }

    void addTrack() {
        m_file.tracks.emplace_back();
        m_file.tracks.back().end = m_song.end;
    }

    void addConductor() {
        for (const EventRef ref : *m_song.conductor) addMeta(ref);
    }

    void addPart(const Part& part) {
        const bool typeOne = m_file.type == 1;
        if (typeOne && part.port > 0)
            m_file.addMeta(track(), 0, meta::port, std::vector{static_cast<std::uint8_t>(part.port)});
        const bool renamed = part.nameGiven && typeOne;
        if (renamed) m_file.addText(track(), 0, meta::trackName, part.name);
        for (const EventRef ref : *part.events) {
            const Event& event = m_song.event(ref);
            const bool oldName = event.isMeta(meta::trackName) && renamed;
            if (!event.isChannel() && !oldName && !(event.isMeta(meta::port) && typeOne)) addMeta(ref);
        }
        addSound(part);
        addMixControllers(part);
        const double factor = std::pow(10.0, part.levelDb / 40); // of the controller's value
        for (Event event : realise(m_song, part).events) {
            if (event.isController(cc::volume) && part.levelDb != 0)
                event.data2 = scaled(event.data2, factor);
            if (event.isController(cc::pan) && part.pan != 0) event.data2 = panned(event.data2, part.pan);
            m_file.tracks.back().events.push_back(event);
        }
    }

    MidiFile finish() {
        m_file.sortTracks();
        return std::move(m_file);
    }

  private:
    [[nodiscard]] std::size_t track() const { return m_file.tracks.size() - 1; }

    void addMeta(EventRef ref) {
        Event event = m_song.event(ref);
        event.tick = m_song.tickOf(ref);
        event.payload = m_file.addPayload(m_song.source->midi.bytes(event));
        m_file.tracks.back().events.push_back(event);
    }

    void addController(const Part& part, std::uint8_t number, int value) {
        m_file.addChannel(track(), 0, static_cast<std::uint8_t>(0xB0 | part.channel.value), number,
                          static_cast<std::uint8_t>(value), static_cast<std::uint8_t>(part.port));
    }

    void addProgram(const Part& part, int program) {
        m_file.addChannel(track(), 0, static_cast<std::uint8_t>(0xC0 | part.channel.value),
                          static_cast<std::uint8_t>(program), 0, static_cast<std::uint8_t>(part.port));
    }

    void addSound(const Part& part) {
        if (part.chosen) {
            const bool kit = part.chosen->bank >= kitBank;
            if (!kit || m_song.dialect == Dialect::XG) {
                addController(part, cc::bankMsb, kit ? 127 : part.chosen->bank);
                addController(part, cc::bankLsb, 0);
            }
            addProgram(part, part.chosen->program);
        } else if (part.programGiven) {
            addProgram(part, part.programGiven->value);
        }
    }

    /// Level and pan for a part that has no such controller of its own to carry them.
    void addMixControllers(const Part& part) {
        const bool dropped = part.droppedControllers.contains(cc::volume);
        const auto has = [&](std::uint8_t number) {
            return std::any_of(part.events->begin(), part.events->end(),
                               [&](EventRef ref) { return m_song.event(ref).isController(number); });
        };
        if (dropped || (part.levelDb != 0 && !has(cc::volume)))
            addController(part, cc::volume, scaled(defaultVolume, std::pow(10.0, part.levelDb / 40)));
        if (part.pan != 0 && !has(cc::pan)) addController(part, cc::pan, panned(64, part.pan));
    }

    static std::uint8_t scaled(int value, double factor) {
        return static_cast<std::uint8_t>(std::clamp(static_cast<int>(std::lround(value * factor)), 0, 127));
    }
    static std::uint8_t panned(int value, double pan) {
        return static_cast<std::uint8_t>(std::clamp(static_cast<int>(std::lround(value + pan * 63)), 0, 127));
    }

    const Song& m_song;
    MidiFile m_file;
};

} // namespace

MidiFile toMidi(const Song& song, Layout layout) {
    const bool single = layout == Layout::SingleTrack;
    MidiBuilder builder(song, single ? 0 : 1);
    builder.addTrack();
    builder.addConductor();
    for (const Part& part : song.parts) {
        if (!single) builder.addTrack();
        builder.addPart(part);
    }
    return builder.finish();
}

MidiFile toMidi(const Song& song, const Part& part) {
    MidiBuilder builder(song, 1);
    builder.addTrack();
    builder.addConductor();
    builder.addTrack();
    builder.addPart(part);
    return builder.finish();
}

} // namespace cobbleway
