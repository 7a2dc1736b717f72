/// Stretches cut out of MIDI files: what sounds in them, and in what state it sounds.
#include "support/randomsong.h"

#include "midi/cut.h"

using namespace support;

namespace {

/// A note with all that decides how it sounds: what was said to its channel before, as plain values.
struct Sounded {
    Tick on = 0, off = 0;
    int port = 0, channel = 0, key = 0, velocity = 0;
    std::map<std::string, int> state;
    bool operator==(const Sounded&) const = default;
};

/// The state of one channel, by the words of MIDI 1.0: the last value of everything; parameters by number.
struct State {
    std::map<std::string, int> values;
    int parameter = -1;
    void take(const Event& event) {
        const std::string number = std::to_string(event.data1);
        if (event.isProgram()) values["program"] = event.data1;
        if (event.kind() == 0xE0) values["bend"] = event.bend();
        if (event.kind() == 0xD0) values["pressure"] = event.data1;
        if (event.kind() == 0xA0) values["key pressure " + number] = event.data2;
        if (event.kind() != 0xB0) return;
        const int value = event.data2;
        switch (event.data1) {
        case 99: parameter = 1 << 14 | value << 7 | (parameter & 127); break;
        case 101: parameter = value << 7 | (parameter & 127); break;
        case 98: parameter = 1 << 14 | (parameter & 127 << 7) | value; break;
        case 100: parameter = (parameter & 127 << 7) | value; break;
        case 6: // begins anew what steps have changed
            values["coarse of " + std::to_string(parameter)] = value;
            values.erase("up of " + std::to_string(parameter));
            values.erase("down of " + std::to_string(parameter));
            break;
        case 38: values["fine of " + std::to_string(parameter)] = value; break;
        case 96: ++values["up of " + std::to_string(parameter)]; break;
        case 97: ++values["down of " + std::to_string(parameter)]; break;
        default: values["controller " + number] = value;
        }
    }
};

/// Notes in order of their beginning; those of one key end in the order in which they began.
std::vector<Sounded> soundedIn(const MidiFile& file) {
    std::vector<Sounded> notes;
    for (const Track& track : file.tracks) {
        std::map<std::pair<int, int>, State> states;
        std::map<std::tuple<int, int, int>, std::vector<std::size_t>> open;
        for (const Event& event : track.events) {
            if (!event.isChannel()) continue;
            State& state = states[{event.port, event.channel().value}];
            auto& here = open[{event.port, event.channel().value, event.data1}];
            if (event.isNoteOn()) {
                here.push_back(notes.size());
                notes.push_back({event.tick, track.end, event.port, event.channel().value, event.data1,
                                 event.data2, state.values});
            } else if (event.isNoteOff()) {
                if (here.empty()) continue;
                notes[here.front()].off = event.tick;
                here.erase(here.begin());
            } else
                state.take(event);
        }
    }
    std::sort(notes.begin(), notes.end(), [](const Sounded& a, const Sounded& b) {
        return std::tie(a.on, a.channel, a.key, a.velocity, a.off) <
               std::tie(b.on, b.channel, b.key, b.velocity, b.off);
    });
    return notes;
}

/// What is to sound of a file between two ticks. A note that has begun before sounds in the state that holds
/// at the first tick; only its place and force are compared.
std::vector<Sounded> wantedOf(const MidiFile& file, Tick from, Tick to, Tick shift) {
    std::vector<Sounded> wanted;
    for (Sounded note : soundedIn(file)) {
        if (note.on >= to || note.off < from || (note.off == from && note.on < from)) continue;
        if (note.on < from) note.state.clear();
        note.on = std::max(note.on, from) - shift;
        note.off = std::min(note.off, to) - shift;
        wanted.push_back(note);
    }
    std::sort(wanted.begin(), wanted.end(), [](const Sounded& a, const Sounded& b) {
        return std::tie(a.on, a.channel, a.key, a.velocity, a.off) <
               std::tie(b.on, b.channel, b.key, b.velocity, b.off);
    });
    return wanted;
}

/// Random music with parameters, pressure and resets among its controllers.
MidiFile anyFile(std::mt19937& random) {
    MidiFile file = randomFile(random);
    constexpr int numbers[] = {6, 38, 96, 97, 98, 99, 100, 101, 7, 10, 121};
    for (std::size_t t = 0; t < file.tracks.size(); ++t)
        for (int i = 0; i < 60; ++i) {
            const auto channel = static_cast<std::uint8_t>(random() % 3);
            const auto value = static_cast<std::uint8_t>(random() % 4);
            if (random() % 8 == 0)
                file.addChannel(t, random() % 20000, 0xD0 | channel, value);
            else
                file.addChannel(t, random() % 20000, 0xB0 | channel,
                                static_cast<std::uint8_t>(numbers[random() % std::size(numbers)]), value);
        }
    file.sortTracks();
    return file;
}

QByteArray told(const std::vector<Sounded>& notes) {
    QByteArray text;
    for (const Sounded& note : notes) {
        text += QByteArray::number(note.on) + "-" + QByteArray::number(note.off) + " ch " +
                QByteArray::number(note.channel) + " key " + QByteArray::number(note.key) + " vel " +
                QByteArray::number(note.velocity);
        for (const auto& [name, value] : note.state)
            text += ", " + QByteArray::fromStdString(name) + "=" + QByteArray::number(value);
        text += "\n";
    }
    return text;
}

} // namespace

class TestCut : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void whatSoundsIsWhatSoundedThere_data();
    void whatSoundsIsWhatSoundedThere();
    void aNoteThatEndsWhereItBeginsIsNotHeard();
    void tempoBarAndKeyReign();
    void messagesToDevicesStayInOrder();
    void namesStayAndTextsOfOtherTimesGo();
    void valuesAreSaidOnce();
    void anEmptyStretchHasNoNote();
    void notesAndNamesAlone();
};

void TestCut::whatSoundsIsWhatSoundedThere_data() {
    QTest::addColumn<bool>("keepsPlace");
    QTest::newRow("from bar 1") << false;
    QTest::newRow("in its place") << true;
}

void TestCut::whatSoundsIsWhatSoundedThere() {
    QFETCH(bool, keepsPlace);
    std::mt19937 random(5);
    for (int i = 0; i < 200; ++i) {
        const MidiFile file = anyFile(random);
        const Tick from = random() % 15000, to = from + 1 + random() % 8000;
        const MidiFile cut = cutOut(file, from, to, keepsPlace ? CutPlace::AsItWas : CutPlace::AtStart);
        auto heard = soundedIn(cut);
        const auto wanted = wantedOf(file, from, to, keepsPlace ? 0 : from);
        QCOMPARE(heard.size(), wanted.size());
        for (std::size_t n = 0; n < heard.size(); ++n)
            if (wanted[n].state.empty()) heard[n].state.clear();
        if (heard != wanted) QFAIL("wanted:\n" + told(wanted) + "heard:\n" + told(heard));
        for (const Track& track : cut.tracks) {
            QCOMPARE(track.end, keepsPlace ? to : to - from);
            QVERIFY(std::is_sorted(track.events.begin(), track.events.end(),
                                   [](const Event& a, const Event& b) { return a.tick < b.tick; }));
        }
        // And it is a file that can be written and read.
        const MidiFile again = readMidi(writeMidi(cut), "cut.mid").value().midi;
        QCOMPARE(contentOf(again), contentOf(cut));
    }
}

void TestCut::aNoteThatEndsWhereItBeginsIsNotHeard() {
    const MidiFile file =
        Builder().note(0, 0, 1, 60).note(0, 1, 1, 60).note(0, 0.5, 1, 64).song().source->midi;
    const auto notes = soundedIn(cutOut(file, Builder::at(1), Builder::at(2), CutPlace::AtStart));
    QCOMPARE(notes.size(), std::size_t{2});
    QCOMPARE(notes[0].key, 60);
    QCOMPARE(notes[0].off, Builder::at(1));
    QCOMPARE(notes[1].key, 64);
    QCOMPARE(notes[1].off, Builder::at(0.5));
}

void TestCut::tempoBarAndKeyReign() {
    Builder b;
    b.note(0, 0, 4, 60);
    b.file.addTempo(0, Builder::at(0.5), 300000);
    b.file.addTimeSignature(0, Builder::at(0.5), 3, 4);
    b.file.addMeta(0, Builder::at(0.5), meta::keySignature, hex("FD00"));
    b.file.addTempo(0, Builder::at(2), 250000);
    b.file.sortTracks();
    const MidiFile cut = cutOut(b.file, Builder::at(1), Builder::at(3), CutPlace::AtStart);
    std::vector<std::pair<Tick, int>> tempos, metres;
    int keys = 0;
    for (const Event& event : cut.tracks[0].events) {
        if (event.isMeta(meta::tempo)) tempos.emplace_back(event.tick, tempoOf(cut.bytes(event)));
        if (event.isMeta(meta::timeSignature)) metres.emplace_back(event.tick, cut.bytes(event)[0]);
        keys += event.isMeta(meta::keySignature) && event.tick == 0;
    }
    QCOMPARE(tempos, (std::vector<std::pair<Tick, int>>{{0, 300000}, {Builder::at(1), 250000}}));
    QCOMPARE(metres, (std::vector<std::pair<Tick, int>>{{0, 3}}));
    QCOMPARE(keys, 1);
    // In its place all of them stand where they stood.
    const MidiFile stays = cutOut(b.file, Builder::at(1), Builder::at(3), CutPlace::AsItWas);
    QCOMPARE(std::count_if(stays.tracks[0].events.begin(), stays.tracks[0].events.end(),
                           [](const Event& e) { return e.isMeta(meta::tempo); }),
             std::ptrdiff_t{3});
}

void TestCut::messagesToDevicesStayInOrder() {
    Builder b;
    b.sysex("7E7F0901F7", 0)
        .sysex("41104212400004646000F7", 0.5)
        .sysex("7F7F04010000F7", 1.5)
        .note(0, 1, 1, 60);
    b.file.sortTracks();
    const MidiFile cut = cutOut(b.file, Builder::at(1), Builder::at(2), CutPlace::AtStart);
    std::vector<std::pair<Tick, std::size_t>> found;
    for (const Event& event : cut.tracks[0].events)
        if (event.isSysex()) found.emplace_back(event.tick, cut.bytes(event).size());
    QCOMPARE(found, (std::vector<std::pair<Tick, std::size_t>>{{0, 5}, {0, 11}, {Builder::at(0.5), 7}}));
}

void TestCut::namesStayAndTextsOfOtherTimesGo() {
    Builder b;
    b.note(0, 0, 4, 60);
    b.file.addText(0, 0, meta::trackName, "Alto");
    b.file.addText(0, 0, meta::lyric, "be-");
    b.file.addText(0, Builder::at(0.5), meta::marker, "Verse");
    b.file.addText(0, Builder::at(1.5), meta::lyric, "fore");
    b.file.addText(0, Builder::at(3), meta::marker, "End");
    b.file.sortTracks();
    std::vector<std::string> texts;
    const MidiFile cut = cutOut(b.file, Builder::at(1), Builder::at(2), CutPlace::AtStart);
    for (const Event& event : cut.tracks[0].events)
        if (event.isMeta() && !event.isMeta(meta::tempo)) texts.emplace_back(cut.rawText(event));
    QCOMPARE(texts, (std::vector<std::string>{"Alto", "fore"}));
}

void TestCut::valuesAreSaidOnce() {
    Builder b;
    for (int i = 0; i < 500; ++i) {
        b.cc(0, i * 0.002, cc::volume, i % 128).bend(0, i * 0.002, 8192 + i);
        b.cc(0, i * 0.002, 101, 0).cc(0, i * 0.002, 100, 0).cc(0, i * 0.002, 6, i % 24);
    }
    b.note(0, 2, 1, 60);
    b.file.sortTracks();
    const MidiFile cut = cutOut(b.file, Builder::at(1.5), Builder::at(3), CutPlace::AtStart);
    QVERIFY(cut.tracks[0].events.size() < 14);
}

void TestCut::anEmptyStretchHasNoNote() {
    const MidiFile file = Builder().note(0, 0, 4, 60).song().source->midi;
    for (const Tick to : {Builder::at(1), Builder::at(0.5)})
        QVERIFY(soundedIn(cutOut(file, Builder::at(1), to, CutPlace::AtStart)).empty());
    QVERIFY(soundedIn(cutOut(file, Builder::at(9), Builder::at(10), CutPlace::AtStart)).empty());
}

void TestCut::notesAndNamesAlone() {
    Builder b;
    b.program(0, 0, 40).cc(0, 0, cc::volume, 60).bend(0, 0, 9000).sysex("7E7F0901F7").note(0, 0, 1, 60);
    b.file.addText(0, 0, meta::trackName, "Alto");
    b.file.addText(0, 0, meta::marker, "Verse");
    b.file.addTimeSignature(0, 0, 3, 4);
    b.file.addMeta(0, 0, meta::sequencerSpecific, hex("00"));
    b.file.sortTracks();
    const MidiFile bare = notesAndNames(b.file);
    std::multiset<int> kinds;
    for (const Event& event : bare.tracks[0].events)
        kinds.insert(event.isMeta() ? event.data1 : event.kind() << 8);
    QCOMPARE(kinds, (std::multiset<int>{meta::trackName, meta::marker, meta::tempo, meta::timeSignature,
                                        0x90 << 8, 0x80 << 8}));
}

QTEST_GUILESS_MAIN(TestCut)
#include "tst_cut.moc"
