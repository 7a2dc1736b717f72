#include "support/anyedit.h"

#include "song/model/history.h"
#include "song/model/levels.h"
#include "song/out/tomidi.h"
#include "song/shape/pluginplace.h"
#include "song/snags/snags.h"

#include <random>

using namespace support;

namespace {

/// Any edit at all, with any values.
Song anyEdit(const Song& song, std::mt19937& random) {
    const PartId part =
        static_cast<PartId>(random() % (song.parts.size() + 2)); // sometimes one that is not there
    const auto number = static_cast<int>(random() % 41) - 20;
    switch (random() % 16) {
    case 0: return edits::rename(song, part, "Name " + std::to_string(number % 4));
    case 1: return edits::setColour(song, part, number);
    case 2: return edits::moveTo(song, part, number);
    case 3: return edits::chooseSound(song, part, {"house", 0, (number + 128) % 128, "x"});
    case 4: return edits::followFile(song, part);
    case 5: return edits::setLevel(song, part, number * 5);
    case 6: return edits::setPan(song, part, number / 10.0);
    case 7: return edits::setOctaves(song, part, number);
    case 8: return edits::volumeIntoLevel(song, part);
    case 9: return edits::setRole(song, part, static_cast<Role>(random() % 3));
    case 10: return edits::putInFront(song, part);
    case 11: return edits::setKeyShift(song, number * 2);
    case 12: return edits::setBackLevel(song, number * 3);
    case 13: return edits::giveProgram(song, part, Program{static_cast<std::uint8_t>(random() % 128)});
    case 14: return edits::settle(song, "snag " + std::to_string(number));
    default: return edits::allBut(song, part);
    }
}

} // namespace

class TestEdits : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void undoAllGivesTheStartRedoAllTheEnd();
    void aGestureIsOneStep();
    void aGestureThatEndsWhereItBeganIsNoStep();
    void cleanIsWhereItWasSaved();
    void namesStayUnlikeAndValuesInRange();
    void anUnknownPartChangesNothing();
    void aPluginIsSetWhereItIs();
    void volumeBecomesLevel();
    void movingVolumeStays();
    void shapingLosesNoNote();
    void shapingIsUndone();
    void whatIsWrittenReadsBackTheSame();
    void nothingThatIsShapedBreaks();
    void rolesMakeMixes();
};

void TestEdits::undoAllGivesTheStartRedoAllTheEnd() {
    std::mt19937 random(11);
    for (int round = 0; round < 20; ++round) {
        const Song start = demoSong(round % 2 ? "lantern_quay.mid" : "SLACKW~1.MID");
        History<Song> history(start);
        std::vector<Song> values = {start};
        for (int i = 0; i < 60; ++i) {
            const Song next = anyEdit(history.now(), random);
            if (!(next == history.now())) values.push_back(next);
            history.push(next, "edit");
        }
        for (auto at = values.rbegin(); at != values.rend(); ++at) {
            QVERIFY(history.now() == *at);
            history.undo();
        }
        QVERIFY(!history.canUndo() && history.now() == start);
        while (history.canRedo()) history.redo();
        QVERIFY(history.now() == values.back());
    }
}

void TestEdits::aGestureIsOneStep() {
    History<int> history(0);
    for (int value : {1, 2, 3}) history.push(value, "drag", "level 1");
    history.push(9, "drag", "level 2");
    QCOMPARE(history.now(), 9);
    history.undo();
    QCOMPARE(history.now(), 3);
    history.undo();
    QCOMPARE(history.now(), 0);
    history.redo();
    history.push(4, "drag", "level 1"); // a gesture that was undone is over
    history.undo();
    QCOMPARE(history.now(), 3);
    history.push(5, "drag", "level 1");
    history.endGesture();
    history.push(6, "drag", "level 1"); // another drag
    history.undo();
    QCOMPARE(history.now(), 5);
}

void TestEdits::aGestureThatEndsWhereItBeganIsNoStep() {
    History<int> history(0);
    history.push(1, "a");
    history.markClean();
    for (int value : {2, 3, 1}) history.push(value, "drag", "level 1");
    QVERIFY(history.isClean());
    QCOMPARE(history.undoName(), std::string("a"));
    history.push(4, "drag", "level 1"); // it goes on
    QCOMPARE(history.now(), 4);
    history.undo();
    QCOMPARE(history.now(), 1);
    history.undo();
    QCOMPARE(history.now(), 0);
}

void TestEdits::cleanIsWhereItWasSaved() {
    History<int> history(0);
    QVERIFY(history.isClean());
    history.push(1, "a", "g");
    history.markClean();
    history.push(2, "b", "g"); // what is on disk is never merged away
    QVERIFY(!history.isClean());
    history.undo();
    QVERIFY(history.isClean() && history.now() == 1);
    history.undo();
    history.push(5, "c");
    QVERIFY(!history.isClean());
    history.undo();
    QVERIFY(!history.isClean()); // the saved value is gone
}

void TestEdits::namesStayUnlikeAndValuesInRange() {
    std::mt19937 random(12);
    Song song = demoSong("TIDEMILL.MID");
    for (int i = 0; i < 400; ++i) {
        song = anyEdit(song, random);
        std::set<std::string> names;
        for (const Part& part : song.parts) {
            names.insert(part.name);
            QVERIFY(!part.name.empty() && part.colour >= 0 && part.colour < 12 &&
                    std::abs(part.mix.pan) <= 1 && std::abs(part.recipe.octaves) <= 5);
            QVERIFY(part.mix.levelDb >= lowestLevelDb && part.mix.levelDb <= highestLevelDb);
        }
        QCOMPARE(names.size(), song.parts.size());
        QCOMPARE(song.parts.size(), std::size_t{8});
        QVERIFY(std::abs(song.keyShift) <= 24);
    }
}

void TestEdits::anUnknownPartChangesNothing() {
    const Song song = demoSong("TIDEMILL.MID");
    QVERIFY(edits::rename(song, 99, "x") == song);
    QVERIFY(edits::moveTo(song, 99, 0) == song);
    QVERIFY(edits::volumeIntoLevel(song, 99) == song);
    QVERIFY(edits::rename(song, 1, "   ") == song);
}

void TestEdits::aPluginIsSetWhereItIs() {
    const auto with = [](float value) {
        PluginSettings settings;
        settings.controls = {{"level", value}};
        return settings;
    };
    Song song = Builder().note(0, 0, 1, 60).note(1, 0, 1, 67).song();
    song = edits::addLayer(song, 2, {"urn:a", 0, 0, "A", SoundKind::Plugin, 0});
    song = edits::addLayer(song, 2, {"urn:b", 0, 0, "B", SoundKind::Plugin, 0});
    song = edits::setEffects(song, 2, {{"urn:c", "C", {}, true}, {"urn:d", "D", {}, false}});
    song = edits::setEffects(song, 0, {{"urn:e", "E", {}, true}});
    const PluginPlace places[] = {{1, -1, -1}, {2, -1, -1}, {2, 0, -1}, {2, 1, -1},
                                  {2, -1, 0},  {2, -1, 1},  {0, -1, 0}};
    for (std::size_t i = 0; i < std::size(places); ++i)
        song = edits::setSettingsAt(song, places[i], with(0.1F * static_cast<float>(i + 1)));
    for (std::size_t i = 0; i < std::size(places); ++i)
        QCOMPARE(settingsAt(song, places[i])->controls.at("level"), 0.1F * static_cast<float>(i + 1));
    QCOMPARE(song.part(2)->sound.layers[1].settings.controls.at("level"), 0.4F);
    QCOMPARE(song.part(2)->sound.layers[1].sound.name, std::string("B"));
    QVERIFY(!song.part(2)->mix.effects[1].on);
    for (const PluginPlace nowhere :
         {PluginPlace{3, -1, -1}, {0, -1, -1}, {0, 0, -1}, {2, 2, -1}, {2, -1, 2}, {0, -1, 1}, {9, -1, 0}}) {
        QVERIFY(!settingsAt(song, nowhere));
        QVERIFY(edits::setSettingsAt(song, nowhere, with(1)) == song);
    }
}

void TestEdits::volumeBecomesLevel() {
    const Song song = Builder().cc(0, 0, 7, 64).note(0, 0.1, 1, 60).song();
    QCOMPARE(fixedVolume(song, song.parts[0]), std::optional(64));
    const Song repaired = edits::volumeIntoLevel(song, 1);
    QVERIFY(repaired.parts[0].recipe.drops(cc::volume));
    // General MIDI: 40·log10(v/127); what is left is counted from the default of 100.
    QVERIFY(std::abs(repaired.parts[0].mix.levelDb - 40 * std::log10(64 / 100.0)) < 1e-9);
    QVERIFY(!fixedVolume(repaired, repaired.parts[0]));
}

void TestEdits::shapingLosesNoNote() {
    std::mt19937 random(61);
    for (int round = 0; round < 60; ++round) {
        Song song = songOf(randomFile(random));
        const std::size_t notes = notesHeld(song);
        for (int i = 0; i < 40; ++i) {
            song = anyShaping(song, random);
            QCOMPARE(notesHeld(song), notes);
        }
        std::set<PartId> ids;
        std::set<std::string> names;
        for (const Part& part : song.parts) {
            ids.insert(part.id);
            names.insert(part.name);
            QVERIFY(std::is_sorted(part.source.events->begin(), part.source.events->end(),
                                   [&](EventRef a, EventRef b) { return song.tickOf(a) < song.tickOf(b); }));
        }
        QCOMPARE(ids.size(), song.parts.size());
        QCOMPARE(names.size(), song.parts.size());
    }
}

void TestEdits::shapingIsUndone() {
    std::mt19937 random(62);
    for (int round = 0; round < 20; ++round) {
        const Song start = songOf(randomFile(random));
        History<Song> history(start);
        std::vector<Song> values = {start};
        for (int i = 0; i < 40; ++i) {
            const Song next = anyShaping(history.now(), random);
            if (!(next == history.now())) values.push_back(next);
            history.push(next, "edit");
        }
        for (auto at = values.rbegin(); at != values.rend(); ++at) {
            QVERIFY(history.now() == *at);
            history.undo();
        }
        QVERIFY(history.now() == start);
        while (history.canRedo()) history.redo();
        QVERIFY(history.now() == values.back());
    }
}

void TestEdits::whatIsWrittenReadsBackTheSame() {
    std::mt19937 random(63);
    for (int round = 0; round < 80; ++round) {
        Song song = songOf(randomFile(random));
        for (int i = 0; i < 12; ++i) song = anyShaping(song, random);
        const MidiFile file = toMidi(song, Layout::TrackPerPart);
        const auto read = readMidi(writeMidi(file), "x.mid");
        QVERIFY2(read.value().damage.empty(),
                 read.value().damage.empty() ? "" : inWords(read.value().damage[0].what).c_str());
        const Song again = songOf(file);
        QCOMPARE(notesHeard(again), notesHeard(song));
        QVERIFY(*again.tempo == *song.tempo);
        // Written again it is the same file.
        QVERIFY(contentOf(toMidi(again, Layout::TrackPerPart)) == contentOf(file));
        // A part in a file of its own has the part's notes.
        const Part& part = song.parts[random() % song.parts.size()];
        QCOMPARE(notesHeld(songOf(toMidi(song, part))), realise(song, part).notes.size());
    }
}

void TestEdits::nothingThatIsShapedBreaks() {
    std::mt19937 random(64);
    const Catalogue fonts = testFont();
    for (int round = 0; round < 40; ++round) {
        Song song = songOf(randomFile(random));
        for (int i = 0; i < 25; ++i) song = anyShaping(song, random);
        if (round % 2) song = edits::deleteEvents(song, song.parts[0].id, *song.parts[0].source.events);
        const auto snags = findSnags(song, fonts);
        for (const Snag& snag : snags)
            for (const Fix& fix : snag.fixes) QVERIFY(fix.apply(song).parts.size() >= 1);
        song.midi.folded = true;
        const MidiFile folded = toMidi(song, Layout::SingleTrack);
        for (const Event& event : folded.tracks[0].events) QVERIFY(!event.isChannel() || event.port == 0);
        QVERIFY(notCarriedOver(song).size() < 1000);
    }
}

void TestEdits::movingVolumeStays() {
    const Song song = demoSong("lantern_quay.mid");
    const auto strings = std::find_if(song.parts.begin(), song.parts.end(),
                                      [](const Part& p) { return p.name == "Harbour strings"; });
    QVERIFY(volumeMoves(song, *strings));
    QVERIFY(edits::volumeIntoLevel(song, strings->id) == song);
}

void TestEdits::rolesMakeMixes() {
    Song song = edits::putInFront(demoSong("lantern_quay.mid"), 3);
    QCOMPARE(mixGain(song, *song.part(3)), 1.0);
    QVERIFY(std::abs(gainToDb(mixGain(song, *song.part(4))) + 10) < 1e-9);
    song = edits::onlyPart(song, 3);
    QCOMPARE(mixGain(song, *song.part(4)), 0.0);
    song = edits::everyone(song);
    QCOMPARE(mixGain(song, *song.part(4)), 1.0); // nobody leads, so the back is not lowered
}

QTEST_APPLESS_MAIN(TestEdits)
#include "tst_edits.moc"
