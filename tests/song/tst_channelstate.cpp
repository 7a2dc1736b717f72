/// A channel has one state, whichever track sends it (MIDI 1.0, "Channel Voice Messages"; SMF 1.0 on format
/// 1: "one or more simultaneous tracks"). A little device in this file hears the original; parts, part files
/// and written files must be heard the same.
#include "support/randomsong.h"

#include "song/heard/notes.h"
#include "song/heard/realise.h"
#include "song/model/asks.h"
#include "song/out/tomidi.h"
#include "song/shape/edits.h"
#include "song/shape/join.h"
#include "song/shape/splits.h"

#include <map>
#include <random>
#include <set>

using namespace cobbleway;
using namespace support;

namespace {

/// What a device knows of a channel.
struct State {
    int program = 0, msb = 0, bank = 0, bend = 8192, pressure = 0, parameter = -1;
    std::map<int, int> controllers, parameters;
    void take(const Event& event) {
        switch (event.kind()) {
        case 0xC0: program = event.data1, bank = msb; break;
        case 0xD0: pressure = event.data1; break;
        case 0xE0: bend = event.bend(); break;
        case 0xB0:
            if (event.data1 == cc::bankMsb)
                msb = event.data2;
            else if (event.data1 == cc::rpnMsb || event.data1 == cc::rpnLsb)
                parameter = event.data1 == cc::rpnLsb ? event.data2 : parameter;
            else if (event.data1 == cc::dataEntryMsb)
                parameters[parameter] = event.data2;
            else
                controllers[event.data1] = event.data2;
            break;
        default: break;
        }
    }
    [[nodiscard]] std::string text() const {
        std::string said = std::to_string(bank) + ":" + std::to_string(program) + " bend " +
                           std::to_string(bend) + " pressure " + std::to_string(pressure);
        for (const auto& [number, value] : controllers)
            said += " c" + std::to_string(number) + "=" + std::to_string(value);
        for (const auto& [number, value] : parameters)
            said += " p" + std::to_string(number) + "=" + std::to_string(value);
        return said;
    }
};

/// One channel's events in order: a text for each note that begins.
void hear(const std::vector<Event>& events, std::multiset<std::string>& notes) {
    State state;
    for (const Event& event : events) {
        if (!event.isNoteOn())
            state.take(event);
        else
            notes.insert(std::to_string(event.tick) + " key " + std::to_string(event.data1) + " " +
                         state.text());
    }
}

/// A file in a device: events by tick, then track, then place.
std::multiset<std::string> device(const MidiFile& file) {
    std::map<int, std::vector<Event>> channels;
    for (const Track& track : file.tracks)
        for (const Event& event : track.events)
            if (event.isChannel()) channels[event.channel().value].push_back(event);
    std::multiset<std::string> notes;
    for (auto& [channel, events] : channels) {
        std::stable_sort(events.begin(), events.end(),
                         [](const Event& a, const Event& b) { return a.tick < b.tick; });
        hear(events, notes);
    }
    return notes;
}

std::multiset<std::string> ours(const Song& song) {
    std::multiset<std::string> notes;
    for (const Part& part : song.parts) hear(realisedEvents(song, part), notes);
    return notes;
}

const Part& partOn(const Song& song, int track) {
    for (const Part& part : song.parts)
        if (part.source.track == track) return part;
    return song.parts.front();
}

/// Several tracks of a few channels; each aspect of a channel is said by one track alone.
MidiFile spreadFile(std::mt19937& random) {
    MidiFile file;
    file.type = 1;
    file.division.ticksPerQuarter = 480;
    file.tracks.resize(2 + random() % 4);
    const auto anyTrack = [&] { return random() % file.tracks.size(); };
    for (int channel = 0; channel < 3; ++channel) {
        const auto on = static_cast<std::uint8_t>(channel);
        for (const int number : {1, 7, 10, 11, 64, 67, 74, 91, 93}) {
            const std::size_t t = anyTrack();
            for (unsigned i = random() % 6; i > 0; --i)
                file.addChannel(t, static_cast<Tick>(random() % 4000 * 2),
                                static_cast<std::uint8_t>(0xB0 | on), static_cast<std::uint8_t>(number),
                                static_cast<std::uint8_t>(random() % 128));
        }
        for (const int kind : {0xC0, 0xD0, 0xE0}) {
            const std::size_t t = anyTrack();
            for (unsigned i = random() % 4; i > 0; --i) {
                const auto tick = static_cast<Tick>(random() % 4000 * 2);
                if (kind == 0xC0 && random() % 2)
                    file.addChannel(t, tick, static_cast<std::uint8_t>(0xB0 | on), cc::bankMsb,
                                    static_cast<std::uint8_t>(random() % 9));
                file.addChannel(t, tick, static_cast<std::uint8_t>(kind | on),
                                static_cast<std::uint8_t>(random() % 128),
                                kind == 0xE0 ? static_cast<std::uint8_t>(random() % 128) : std::uint8_t{0});
            }
        }
        const std::size_t t = anyTrack();
        for (unsigned i = random() % 3; i > 0; --i) {
            const auto tick = static_cast<Tick>(random() % 4000 * 2);
            file.addChannel(t, tick, static_cast<std::uint8_t>(0xB0 | on), cc::rpnMsb, 0);
            file.addChannel(t, tick, static_cast<std::uint8_t>(0xB0 | on), cc::rpnLsb, 0);
            file.addChannel(t, tick, static_cast<std::uint8_t>(0xB0 | on), cc::dataEntryMsb,
                            static_cast<std::uint8_t>(random() % 24));
        }
        for (unsigned i = 5 + random() % 20; i > 0; --i) {
            const std::size_t at = anyTrack();
            const auto tick = static_cast<Tick>(random() % 4000 * 2 + 1); // never at the tick of a controller
            const auto key = static_cast<std::uint8_t>(20 * at + random() % 20);
            file.addChannel(at, tick, static_cast<std::uint8_t>(0x90 | on), key, 80);
            file.addChannel(at, tick + 100, static_cast<std::uint8_t>(0x80 | on), key, 0);
        }
    }
    file.sortTracks();
    return file;
}

} // namespace

class TestChannelState : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void aSetupTrackIsFollowed();
    void parametersAndBendsAreApart();
    void programsOfOthers();
    void banksAlone();
    void eachKeepsItsOwn();
    void anEndOnAnotherTrack();
    void aProgramWithTheFirstNote();
    void splitJoinedAndMoved();
    void patternsAreApart();
    void randomFilesAsADevice();
};

void TestChannelState::aSetupTrackIsFollowed() {
    Builder b(1, 3);
    b.cc(0, 0, 7, 60, 0).cc(0, 0, 10, 0, 0).cc(0, 0.5, 64, 127, 0).cc(0, 1.0, 7, 90, 0).program(0, 0, 40, 0);
    b.note(0, 0.1, 0.2, 60, 80, 1).note(0, 0.6, 0.2, 62, 80, 1).note(0, 1.1, 0.2, 64, 80, 1);
    b.note(0, 0.7, 0.2, 48, 80, 2);
    const Song song = b.song();
    QCOMPARE(ours(song), device(song.source->midi));
    const auto alone = device(toMidi(song, partOn(song, 2)));
    QCOMPARE(alone.size(), std::size_t{1});
    QVERIFY2(alone.begin()->find("0:40") != std::string::npos, alone.begin()->c_str());
    for (const char* said : {"c7=60", "c10=0", "c64=127"})
        QVERIFY2(alone.begin()->find(said) != std::string::npos, alone.begin()->c_str());
    // What is written whole says each thing once.
    QCOMPARE(contentOf(toMidi(song, Layout::TrackPerPart)), contentOf(song.source->midi));
    QCOMPARE(contentOf(toMidi(song, Layout::SingleTrack)), contentOf(song.source->midi));
}

void TestChannelState::parametersAndBendsAreApart() {
    // RPN 0 (MIDI 1.0): the range is set on one track, the bends are on another.
    Builder b(1, 2);
    b.cc(0, 0, 101, 0, 0).cc(0, 0, 100, 0, 0).cc(0, 0, 6, 12, 0);
    b.file.addChannel(1, 0, 0xE0, 0, 0x50);
    b.note(0, 0.1, 0.2, 60, 80, 1);
    const Song song = b.song();
    QCOMPARE(ours(song), device(song.source->midi));
    QVERIFY(ours(song).begin()->find("p0=12") != std::string::npos);
}

void TestChannelState::programsOfOthers() {
    // A program in bar 2 of another track counts from there on.
    Builder late(1, 2);
    late.program(0, 2.0, 56, 0).note(0, 0.1, 0.5, 60, 80, 1).note(0, 2.1, 0.5, 60, 80, 1);
    const Song bar2 = late.song();
    const auto asks = asksOf(bar2, partOn(bar2, 1));
    QCOMPARE(asks.size(), std::size_t{2});
    QCOMPARE(asks[0].program, std::optional<Program>());
    QCOMPARE(asks[1].program, std::optional(Program{56}));
    // A set-up program holds until the track's own.
    Builder setup(1, 2);
    setup.program(0, 0, 40, 0)
        .note(0, 0.1, 0.5, 60, 80, 1)
        .program(0, 2.0, 56, 1)
        .note(0, 2.1, 0.5, 60, 80, 1);
    const Song both = setup.song();
    QCOMPARE(asksOf(both, partOn(both, 1))[0].program, std::optional(Program{40}));
    QCOMPARE(asksOf(both, partOn(both, 1))[1].program, std::optional(Program{56}));
    // The first in time counts, not the first track.
    Builder three(1, 3);
    three.note(0, 0.1, 0.5, 60, 80, 0)
        .program(0, 1.0, 40, 1)
        .program(0, 0, 56, 2)
        .note(0, 1.1, 0.5, 60, 80, 0);
    const Song ordered = three.song();
    QCOMPARE(asksOf(ordered, partOn(ordered, 0))[0].program, std::optional(Program{56}));
    QCOMPARE(asksOf(ordered, partOn(ordered, 0))[1].program, std::optional(Program{40}));
}

void TestChannelState::banksAlone() {
    // A bank takes effect at the next program (MIDI 1.0), also that of another track.
    Builder b(1, 2);
    b.cc(0, 0, 0, 8, 0).program(0, 0.1, 24, 1).note(0, 0.2, 0.5, 60, 80, 1);
    const Song song = b.song();
    QCOMPARE(asksOf(song, partOn(song, 1))[0].bankMsb, std::optional(8));
}

void TestChannelState::eachKeepsItsOwn() {
    Builder b(1, 2);
    b.program(0, 0, 40, 0).cc(0, 0, 7, 50, 0).note(0, 0.1, 0.5, 60, 80, 0).cc(0, 1, 7, 20, 0);
    b.program(0, 0, 56, 1).cc(0, 0, 7, 99, 1).note(0, 0.2, 0.5, 72, 80, 1).note(0, 1.2, 0.5, 72, 80, 1);
    const Song song = b.song();
    for (const int track : {0, 1})
        for (const EventRef ref : *partOn(song, track).source.events) QCOMPARE(int(ref.track), track);
}

void TestChannelState::anEndOnAnotherTrack() {
    MidiFile file;
    file.type = 1;
    file.division.ticksPerQuarter = 480;
    file.tracks.resize(2);
    file.addChannel(0, 0, 0x90, 60, 80);
    file.addChannel(0, 4000, 0x90, 64, 80);
    file.addChannel(0, 4100, 0x80, 64, 0);
    file.addChannel(1, 480, 0x80, 60, 0);
    file.addChannel(1, 960, 0x90, 67, 80);
    file.addChannel(1, 1000, 0x80, 67, 0);
    const Song song = songOf(file);
    const HeardPart heard = realise(song, partOn(song, 0));
    QCOMPARE(heard.notes[0].end, Tick{480});
    QCOMPARE(notesOf(song, partOn(song, 0).source)[0].end, Tick{480});
    QCOMPARE(realise(song, partOn(song, 1)).notes.size(), std::size_t{1});
    QCOMPARE(contentOf(toMidi(song, Layout::SingleTrack)), contentOf(song.source->midi));
}

void TestChannelState::aProgramWithTheFirstNote() {
    Builder b(1, 2);
    b.note(0, 0, 0.5, 60, 80, 0).note(0, 1, 0.5, 60, 80, 0).program(0, 0, 40, 1).note(0, 0, 0.5, 72, 80, 1);
    const Song song = b.song();
    const auto asks = asksOf(song, partOn(song, 0));
    QCOMPARE(asks.size(), std::size_t{1});
    QCOMPARE(asks[0].program, std::optional(Program{40}));
}

void TestChannelState::splitJoinedAndMoved() {
    Builder b(1, 2);
    b.program(0, 0, 40, 0).cc(0, 0, 7, 60, 0).cc(0, 0, 10, 20, 0);
    for (int i = 0; i < 8; ++i) b.note(0, 0.1 + i * 0.2, 0.1, i % 2 ? 48 : 72, 80, 1);
    const Song song = b.song();
    const PartId id = partOn(song, 1).id;
    const Song apart = edits::split(song, id, splitByPitch(song, *song.part(id), Key{60}));
    QCOMPARE(ours(apart), ours(song));
    QCOMPARE(device(toMidi(apart, Layout::TrackPerPart)), device(song.source->midi));
    for (const Part& part : apart.parts)
        if (!part.aside)
            for (const std::string& note : device(toMidi(apart, part)))
                QVERIFY2(note.find("0:40") != std::string::npos && note.find("c7=60") != std::string::npos,
                         note.c_str());
    const Song again = edits::join(apart, {apart.parts[0].id, apart.parts[1].id});
    QCOMPARE(ours(again), ours(song));
}

void TestChannelState::patternsAreApart() {
    // SMF 1.0: the tracks of format 2 are independent patterns.
    Builder b(2, 2);
    b.program(0, 0, 40, 0).note(0, 0.1, 0.5, 60, 80, 0).note(0, 0.1, 0.5, 62, 80, 1);
    const Song song = b.song();
    QCOMPARE(asksOf(song, partOn(song, 1))[0].program, std::optional<Program>());
}

void TestChannelState::randomFilesAsADevice() {
    std::mt19937 random(1401);
    for (int round = 0; round < 300; ++round) {
        const MidiFile file = spreadFile(random);
        const Song song = songOf(file);
        const auto heard = device(file);
        QCOMPARE(ours(song), heard);
        QCOMPARE(device(toMidi(song, Layout::TrackPerPart)), heard);
        QCOMPARE(device(toMidi(song, Layout::SingleTrack)), heard);
        std::multiset<std::string> alone;
        for (const Part& part : song.parts)
            if (!part.aside) alone.merge(device(toMidi(song, part)));
        QCOMPARE(alone, heard);
    }
}

QTEST_APPLESS_MAIN(TestChannelState)
#include "tst_channelstate.moc"
