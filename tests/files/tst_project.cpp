#include "support/anyedit.h"

#include "files/base64.h"
#include "files/partjson.h"
#include "files/project.h"
#include "files/songfile.h"
#include "song/model/asks.h"
#include "song/shape/mixes.h"
#include "song/shape/tidy.h"
#include "song/shape/timeedits.h"

#include <QTemporaryDir>
#include <limits>
#include <nlohmann/json.hpp>
#include <random>

using namespace support;

namespace {

SongSet someSet() {
    SongSet set;
    set.name = "Lantern festival";
    Recipe recipe;
    recipe.name = "Rehearsal";
    recipe.alone = true;
    set.recipes.push_back(recipe);
    Song quay =
        edits::chooseSound(edits::setPan(edits::setLevel(demoSong("lantern_quay.mid"), 3, -4.5), 2, 0.25), 7,
                           {"house", 0, 32, "Acoustic Bass"});
    quay =
        edits::settle(edits::moveTo(edits::rename(edits::volumeIntoLevel(edits::setOctaves(quay, 8, -1), 1),
                                                  4, "Squeezebox “left”"),
                                    9, 0),
                      "bass-on-guitar:7");
    set.songs.emplace_back(edits::putInFront(edits::setKeyShift(quay, -2), 3));
    set.songs.emplace_back(edits::giveProgram(demoSong("SLACKW~1.MID"), 2, Program{57}));
    set.loudness.push_back({fileDigest(*set.songs[0]->source), -23.5, -4.25});
    set.ticks.push_back({fileDigest(*set.songs[0]->source), {"full", "front 3", "kept Evening"}});
    return set;
}

} // namespace

class TestProject : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void savedAndOpenedIsEqual();
    void anyShapingIsSaved();
    void versionOneIsRead();
    void earlierVersionsAreRead_data();
    void earlierVersionsAreRead();
    void trimsOfVersionFourAreRead();
    void programsLentUpToVersionFive();
    void aSongIsAsItWasReadWhenItWasSaved();
    void partsAreWhatTheProjectSays();
    void eventsAreNamedShortly();
    void idsAreNeverUsedAgain();
    void highIdsAreKept();
    void hostileNumbersAreHeld();
    void everyFieldOfAPartCounts();
    void manySongsStandInOrder();
    void isPlainJson();
    void aDamagedProjectIsRefusedWhole_data();
    void aDamagedProjectIsRefusedWhole();
    void anyProjectSettles();
    void survivesAnyBytes();
    void savingLeavesOldOrNew();
    void fileNames_data();
    void fileNames();
    void findsMidiFilesInFolders();
};

void TestProject::savedAndOpenedIsEqual() {
    QTemporaryDir folder;
    const auto path = folder.filePath(QStringLiteral("festival.cobbleway")).toStdString();
    const SongSet set = someSet();
    QVERIFY(saveProject(set, path).ok());
    const auto opened = openProject(path);
    QVERIFY2(opened.ok(), opened ? "" : opened.error().message().c_str());
    QVERIFY(opened.value() == set);
    QCOMPARE(projectText(opened.value()), projectText(set));
}

void TestProject::anyShapingIsSaved() {
    std::mt19937 random(71);
    for (int round = 0; round < 60; ++round) {
        Song song = songOf(randomFile(random));
        for (int i = 0; i < 15; ++i) song = anyShaping(song, random);
        song = edits::setMidiShape(song, {round % 2 == 0, round % 3 == 0, round % 5 == 0});
        SongSet set;
        set.songs.emplace_back(song);
        const auto opened = parseProject(projectText(set), "x");
        QVERIFY2(opened.ok(), opened ? "" : opened.error().message().c_str());
        const Song& again = *opened.value().songs[0];
        QVERIFY(again.parts == song.parts);
        QVERIFY(again.tempo == song.tempo && again.sections == song.sections && again.made == song.made);
        QVERIFY(again == song);
    }
}

void TestProject::versionOneIsRead() {
    SongSet set;
    set.songs.emplace_back(Builder().cc(0, 0, 7, 90).note(0, 0, 1, 60).song());
    auto json = nlohmann::json::parse(projectText(set));
    json["version"] = 1;
    json["songs"][0].erase("encoding");
    json["songs"][0].erase("tracks");
    auto& part = json["songs"][0]["parts"][0];
    part.erase("source");
    part.update(
        {{"levelDb", 0}, {"pan", 0}, {"octaves", 0}, {"role", "back"}, {"droppedControllers", {7, 300}}});
    const auto opened = parseProject(json.dump(), "x");
    QVERIFY(opened.ok());
    QVERIFY(opened.value().songs[0]->parts[0].recipe.drops(7));
}

void TestProject::earlierVersionsAreRead_data() {
    QTest::addColumn<int>("version");
    for (int version = 3; version <= projectVersion; ++version)
        QTest::newRow(qPrintable(QString::number(version))) << version;
}

/// Written by the last program of each version, with what it heard of each part beside it.
void TestProject::earlierVersionsAreRead() {
    QFETCH(int, version);
    const std::string stem = TEST_SOURCES "/files/projects/version" + std::to_string(version);
    const auto opened = openProject(stem + ".cobbleway");
    QVERIFY2(opened.ok(), opened ? "" : opened.error().message().c_str());
    QString heard;
    for (const auto& song : opened.value().songs)
        for (const Part& part : song->parts) {
            std::int64_t starts = 0, ends = 0, keys = 0, hard = 0;
            const auto notes = realise(*song, part).notes;
            for (const Note& n : notes) {
                starts += n.start;
                ends += n.end;
                keys += n.key.value;
                hard += n.velocity.value;
            }
            heard += QStringLiteral("%1|%2|%3|%4|%5|%6|")
                         .arg(QString::fromStdString(song->title))
                         .arg(part.id)
                         .arg(QString::fromStdString(part.name))
                         .arg(int(part.source.drums))
                         .arg(part.source.port)
                         .arg(part.source.channel.value) +
                     QStringLiteral("%1|%2|%3|%4|%5\n")
                         .arg(notes.size())
                         .arg(starts)
                         .arg(ends)
                         .arg(keys)
                         .arg(hard);
        }
    QFile expected(QString::fromStdString(stem + ".expected"));
    QVERIFY(expected.open(QIODevice::ReadOnly));
    QCOMPARE(heard, QString::fromUtf8(expected.readAll()));
    QCOMPARE(opened.value().fontOrder, std::vector<std::string>{"house"});
    const auto& settled = opened.value().songs[0]->settled;
    QVERIFY(settled.contains(version == 3 ? "fixed-volume:1" : "bass-on-guitar:2"));
    // Saved by this version it is the same again.
    const auto again = parseProject(projectText(opened.value()), "x");
    QVERIFY(again.ok());
    QVERIFY(again.value() == opened.value());
}

void TestProject::trimsOfVersionFourAreRead() {
    auto json = nlohmann::json::parse(projectText(someSet()));
    json["version"] = 4;
    json["songs"][0]["parts"][0]["recipe"]["keyVelocity"] = {
        {{"key", 42}, {"scale", 0.5}, {"offset", -7}, {"compress", 0.25}}, {{"key", 200}, {"scale", 1}}};
    const auto opened = parseProject(json.dump(), "x");
    QVERIFY(opened.ok());
    const auto& map = opened.value().songs[0]->parts[0].recipe.drumMap;
    QCOMPARE(map.size(), std::size_t{1});
    QVERIFY((map.at(42) == DrumPlan{{}, {0.5, -7, 0.25}, false}));
}

void TestProject::programsLentUpToVersionFive() {
    Builder b(1, 2);
    b.note(0, 0.1, 0.5, 60, 80, 0).cc(0, 1, 0, 8, 1).program(0, 1, 40, 1).note(0, 1.1, 0.5, 62, 80, 1);
    Song song = b.song();
    for (Part& part : song.parts) { // as those versions had it: a part's own events alone
        std::vector<EventRef> own;
        for (const EventRef ref : *part.source.events)
            if (ref.track == static_cast<std::uint32_t>(part.source.track)) own.push_back(ref);
        part.source.events = Shared<EventRefs>(own);
    }
    SongSet set;
    set.songs.emplace_back(song);
    auto json = nlohmann::json::parse(projectText(set));
    const auto asked = [&](int version) {
        json["version"] = version;
        const auto opened = parseProject(json.dump(), "x");
        return opened.ok() ? asksOf(*opened.value().songs[0], opened.value().songs[0]->parts[0]).front()
                           : Ask{};
    };
    QCOMPARE(asked(6).program, std::optional<Program>());
    QCOMPARE(asked(5).program, std::optional(Program{40}));
    QCOMPARE(asked(5).bankMsb, std::optional(8));
}

void TestProject::aSongIsAsItWasReadWhenItWasSaved() {
    // A note that never ends, so that the reader fixes: as another reader might have, at another place.
    const Bytes damaged = joined({header(0, 1), track(hex("00C105 00913C40 30914040 30814000 60FF2F00"))});
    Song song = songOf(damaged);
    QVERIFY(!song.source->damage.empty());
    song = edits::setLevel(song, 1, -3);
    SongSet set;
    set.songs.emplace_back(song);
    auto json = nlohmann::json::parse(projectText(set));
    QVERIFY(json["songs"][0].contains("mended"));
    // The bytes stand for a reader that takes them otherwise: it would give the note another end.
    const Bytes otherwise =
        joined({header(0, 1), track(hex("00C105 00913C40 30914040 30814000 8300FF2F00"))});
    json["songs"][0]["midi"] =
        QByteArray(reinterpret_cast<const char*>(otherwise.data()), qsizetype(otherwise.size()))
            .toBase64()
            .toStdString();
    const auto opened = parseProject(json.dump(), "x");
    QVERIFY(opened.ok());
    const Song& again = *opened.value().songs[0];
    QCOMPARE(realise(again, again.parts[0]).notes, realise(song, song.parts[0]).notes);
    QVERIFY(again.parts == song.parts);
    // With no copy to go by it says what differs.
    json["songs"][0].erase("mended");
    const auto told = parseProject(json.dump(), "x");
    QVERIFY(told.ok());
    const auto& damage = told.value().songs[0]->source->damage;
    QVERIFY(std::any_of(damage.begin(), damage.end(), [](const Damage& d) {
        return d.track == 1 && d.what == Message("damage.read-differently");
    }));
    // A whole file needs no copy.
    SongSet whole;
    whole.songs.emplace_back(demoSong("lantern_quay.mid"));
    QVERIFY(projectText(whole).find("\"repaired\"") == std::string::npos);
}

void TestProject::partsAreWhatTheProjectSays() {
    // Other rules for drums, names and channels would change nothing: the parts are kept, not found anew.
    SongSet set;
    set.songs.emplace_back(demoSong("lantern_quay.mid"));
    auto json = nlohmann::json::parse(projectText(set));
    auto& parts = json["songs"][0]["parts"];
    parts[0]["source"]["drums"] = true;
    parts[1]["source"]["channel"] = 14;
    parts[2]["name"] = "Bell buoy";
    json["songs"][0]["dialect"] = "XG";
    const auto opened = parseProject(json.dump(), "x");
    QVERIFY(opened.ok());
    const Song& song = *opened.value().songs[0];
    QVERIFY(song.parts[0].source.drums);
    QCOMPARE(int(song.parts[1].source.channel.value), 14);
    QCOMPARE(song.parts[2].name, std::string("Bell buoy"));
    QVERIFY(song.dialect == Dialect::XG);
}

void TestProject::eventsAreNamedShortly() {
    std::mt19937 random(5);
    for (int round = 0; round < 50; ++round) {
        Song song = songOf(randomFile(random));
        for (int i = 0; i < 8; ++i) song = anyShaping(song, random);
        for (const Part& part : song.parts) {
            const auto again = eventsNamed(eventNames(*part.source.events), song);
            QVERIFY(again.has_value());
            QVERIFY(std::is_permutation(again->begin(), again->end(), part.source.events->begin(),
                                        part.source.events->end()));
        }
    }
    const Song song = demoSong("lantern_quay.mid");
    QVERIFY(!eventsNamed("A===", song) && !eventsNamed("/////w==", song));
    QVERIFY(!fromBase64("AA=A") && !fromBase64("AAA") && fromBase64("AA==")->size() == 1);
}

void TestProject::idsAreNeverUsedAgain() {
    Song song = demoSong("lantern_quay.mid");
    const PartId last = song.parts.back().id;
    Song split = edits::split(song, 1, splitByPitch(song, song.parts[0], Key{72}));
    PartId fresh = 0;
    for (const Part& part : split.parts) fresh = std::max(fresh, part.id);
    QVERIFY(fresh > last);
    Song joined = edits::join(split, {1, fresh});
    QVERIFY(!joined.part(fresh));
    SongSet set;
    set.songs.emplace_back(joined);
    joined = *parseProject(projectText(set), "x").value().songs[0]; // also after saving
    split = edits::split(joined, 1, splitByPitch(joined, *joined.part(1), Key{72}));
    QVERIFY(!split.part(fresh));
    QCOMPARE(split.parts.size(), song.parts.size() + 1);
}

/// A part that was taken apart and joined a hundred times has a high id: what goes by ids still finds it
/// after saving and opening.
void TestProject::highIdsAreKept() {
    Song song = demoSong("lantern_quay.mid");
    PartId part = song.parts[1].id;
    for (int round = 0; round < 100; ++round) {
        for (int i = 0; i < 60; ++i) (void)song.takeId(); // what a kit that was taken apart took
        song = edits::split(song, part, splitByPitch(song, *song.part(part), Key{64}));
        const PartId fresh = song.ids.last;
        QVERIFY(song.part(fresh));
        song = edits::join(song, {fresh, part});
        part = song.part(fresh) ? fresh : part;
    }
    song = edits::keepMix(edits::setLevel(song, part, -7), "Rehearsal");
    song = edits::setLevel(song, part, 0);
    QVERIFY(song.ids.last > 4096);
    SongSet set;
    set.songs.emplace_back(song);
    const auto opened = parseProject(projectText(set), "x");
    QVERIFY(opened.ok());
    const Song& again = *opened.value().songs[0];
    for (std::size_t i = 0; i < song.parts.size(); ++i) QCOMPARE(again.parts[i].id, song.parts[i].id);
    QVERIFY(again.mixes == song.mixes);
    QVERIFY(again.settled == song.settled);
}

void TestProject::hostileNumbersAreHeld() {
    SongSet set;
    set.songs.emplace_back(demoSong("lantern_quay.mid"));
    const auto json = nlohmann::json::parse(projectText(set));
    const auto openedWith = [](const nlohmann::json& j) { return parseProject(j.dump(), "x"); };
    auto ids = json; // far away, below one, twice
    for (const int id : {2147483647, 0, -5, 3}) {
        ids["songs"][0]["parts"][1]["id"] = id;
        const auto opened = openedWith(ids);
        QVERIFY(opened.ok());
        std::set<PartId> seen;
        for (const Part& part : opened.value().songs[0]->parts) {
            QVERIFY(part.id >= 1 && part.id <= 4096 && seen.insert(part.id).second);
            QVERIFY(!part.source.events->empty());
        }
        QCOMPARE(seen.size(), set.songs[0]->parts.size());
    }
    auto far = json;
    const auto tick = std::numeric_limits<std::int64_t>::min();
    far["songs"][0]["trackStarts"] = {tick};
    far["songs"][0]["end"] = std::numeric_limits<std::int64_t>::max();
    far["songs"][0]["made"] = {{0, tick, 0x90, 60, 60, 0}, {99, 0, 0x90, 60, 60, 0}};
    far["songs"][0]["tempo"] = {{"tempos", {{tick, 0}}}, {"metres", {{tick, 0, 0}}}};
    const auto opened = openedWith(far);
    QVERIFY(opened.ok());
    QVERIFY(opened.value().songs[0]->bars() >= 1);
    auto old = json; // version 3, with one run named again and again
    old["version"] = 3;
    auto& part = old["songs"][0]["parts"][0];
    part.update({{"track", 0}, {"port", 0}, {"channel", 0}, {"drums", false}});
    part["events"] = nlohmann::json::array();
    for (int i = 0; i < 100'000; ++i) part["events"].push_back({0, 0, 1'000'000'000});
    const auto run = openedWith(old);
    QVERIFY(run.ok());
    QVERIFY(run.value().songs[0]->parts[0].source.events->size() <=
            run.value().songs[0]->source->midi.tracks[0].events.size());
    auto sections = json;
    for (int i = 0; i < 20'000; ++i)
        sections["songs"][0]["sections"].push_back({{"start", i * 5}, {"name", "S" + std::to_string(i)}});
    QVERIFY(openedWith(sections).ok());
    // A control that is no number costs itself, not the set.
    Song odd = *set.songs[0];
    odd.parts[0].sound.settings.controls = {{"a", std::numeric_limits<float>::infinity()}, {"b", 0.5F}};
    SongSet oddSet;
    oddSet.songs.emplace_back(odd);
    const auto again = parseProject(projectText(oddSet), "x");
    QVERIFY(again.ok());
    QCOMPARE(again.value().songs[0]->parts[0].sound.settings.controls.size(), std::size_t{1});
    auto null = nlohmann::json::parse(projectText(oddSet));
    null["songs"][0]["parts"][0]["sound"]["settings"]["controls"]["c"] = nullptr;
    QVERIFY(openedWith(null).ok());
}

namespace {

/// Each field of a part's values changed alone, by name. A field that one of them gets does not compile here
/// until it is changed too.
std::map<std::string, Part> eachFieldChanged(const Part& part) {
    std::map<std::string, Part> changed;
    const auto with = [&](const char* name, auto change) {
        Part other = part;
        change(other);
        changed[name] = other;
    };
    const SoundRef sound{"house", 0, 40, "Violin"};
    {
        [[maybe_unused]] const auto& [id, name, nameGiven, colour, aside, keyNames] = part.identity();
        with("name", [](Part& p) { p.name = "Another"; });
        with("nameGiven", [](Part& p) { p.nameGiven = !p.nameGiven; });
        with("colour", [](Part& p) { p.colour = 11 - p.colour; });
        with("aside", [](Part& p) { p.aside = !p.aside; });
        with("keyNames", [](Part& p) { p.keyNames = {{36, "Bombo"}, {127, "Große Trommel"}}; });
    }
    {
        [[maybe_unused]] const auto& [events, track, port, channel, drums] = part.source;
        with("events", [](Part& p) {
            std::vector<EventRef> fewer = *p.source.events;
            fewer.pop_back();
            p.source.events = Shared<EventRefs>(fewer);
        });
        with("port", [](Part& p) { p.source.port = 3; });
        with("channel", [](Part& p) { p.source.channel = Channel{15}; });
        with("drums", [](Part& p) { p.source.drums = !p.source.drums; });
    }
    {
        [[maybe_unused]] const auto& [octaves, semitones, folded, controllers, velocity, drumMap, hitLength,
                                      unisons] = part.recipe;
        with("octaves", [](Part& p) { p.recipe.octaves = 2; });
        with("semitones", [](Part& p) { p.recipe.semitones = -3; });
        with("folded", [](Part& p) { p.recipe.folded = KeyRange{60, 84}; });
        with("controllers", [](Part& p) { p.recipe.controllers[7] = {true, 0}; });
        with("velocity", [](Part& p) { p.recipe.velocity.offset = 9; });
        with("drumMap", [](Part& p) {
            p.recipe.drumMap[60] = {Key{62}, {0.5, 0, 0}, false};
            p.recipe.drumMap[64] = {{}, {}, true};
        });
        with("hitLength", [](Part& p) { p.recipe.hitLength = 30; });
        with("unisons", [](Part& p) { p.recipe.unisons = Unisons::Cut; });
    }
    {
        [[maybe_unused]] const auto& [chosen, settings, stretches, layers, programGiven, followsPrograms] =
            part.sound;
        with("chosen", [&](Part& p) { p.sound.chosen = sound; });
        with("settings", [](Part& p) { p.sound.settings.controls["cutoff"] = 0.5F; });
        with("stretches", [&](Part& p) { p.sound.stretches = {{10, 20, sound}}; });
        with("layers", [&](Part& p) { p.sound.layers = {{sound, {}, -3, 1, {0, 60}}}; });
        with("programGiven", [](Part& p) { p.sound.programGiven = Program{9}; });
        with("followsPrograms", [](Part& p) { p.sound.followsPrograms = false; });
    }
    {
        [[maybe_unused]] const auto& [levelDb, pan, room, roomBeforeLevel, role, muted, solo, effects] =
            part.mix;
        with("levelDb", [](Part& p) { p.mix.levelDb = -5; });
        with("pan", [](Part& p) { p.mix.pan = 0.5; });
        with("room", [](Part& p) { p.mix.room = 0.25; });
        with("roomBeforeLevel", [](Part& p) { p.mix.roomBeforeLevel = true; });
        with("role", [](Part& p) { p.mix.role = Role::Lead; });
        with("muted", [](Part& p) { p.mix.muted = true; });
        with("solo", [](Part& p) { p.mix.solo = true; });
        with("effects", [](Part& p) { p.mix.effects = {{"urn:x", "X", {}, true}}; });
    }
    return changed;
}

} // namespace

void TestProject::everyFieldOfAPartCounts() {
    const Song song = demoSong("lantern_quay.mid");
    for (const auto& [field, part] : eachFieldChanged(*song.part(3))) {
        Song changed = song;
        *changed.part(3) = part;
        QVERIFY2(!(changed == song), field.c_str());
        SongSet set;
        set.songs.emplace_back(changed);
        const auto opened = parseProject(projectText(set), "x");
        QVERIFY2(opened.ok() && *opened.value().songs[0] == changed, field.c_str());
        // Joined to a part that differs in this alone: it is carried, or told.
        Song pair = song;
        Part twin = part;
        twin.id = 99;
        pair.parts.push_back(twin);
        const bool ofThePart = field == "name" || field == "nameGiven" || field == "colour" ||
                               field == "aside" || field == "keyNames" || field == "events" ||
                               field == "port" || field == "channel";
        const auto clashes = clashesOf(pair, {3, 99});
        const auto plain = clashesOf(
            [&] {
                Song same = song;
                Part equal = *song.part(3);
                equal.id = 99;
                same.parts.push_back(equal);
                return same;
            }(),
            {3, 99});
        const bool told = std::any_of(clashes.begin(), clashes.end(), [&](const Clash& clash) {
            return std::none_of(plain.begin(), plain.end(),
                                [&](const Clash& c) { return c.kind == clash.kind; });
        });
        QVERIFY2(ofThePart || told, field.c_str());
    }
}

/// Threads make the texts of songs: they stand in order, as the library would lay out the whole.
void TestProject::manySongsStandInOrder() {
    SongSet set;
    for (int i = 0; i < 60; ++i) {
        Builder b;
        b.program(0, 0, i).note(0, 0, 1, 60);
        Song song = b.song();
        song.title = "Song " + std::to_string(i) + "\n \"songs\": [";
        set.songs.emplace_back(std::move(song));
    }
    const std::string text = projectText(set);
    const auto json = nlohmann::json::parse(text);
    QCOMPARE(text, json.dump(1) + "\n");
    QCOMPARE(json["songs"].size(), set.songs.size());
    for (std::size_t i = 0; i < set.songs.size(); ++i)
        QCOMPARE(json["songs"][i]["title"].get<std::string>(), set.songs[i]->title);
    QCOMPARE(projectText(SongSet{}), nlohmann::json::parse(projectText(SongSet{})).dump(1) + "\n");
}

void TestProject::isPlainJson() {
    const auto json = nlohmann::json::parse(projectText(someSet()));
    QCOMPARE(json["format"].get<std::string>(), std::string("cobbleway"));
    QCOMPARE(json["version"].get<int>(), projectVersion);
    // RFC 4648, 4: the MIDI file inside is base64.
    const QByteArray midi =
        QByteArray::fromBase64(QByteArray::fromStdString(json["songs"][0]["midi"].get<std::string>()),
                               QByteArray::AbortOnBase64DecodingErrors);
    const Bytes wanted = fileBytes(QStringLiteral(DEMO_FOLDER "/lantern_quay.mid"));
    QCOMPARE(midi,
             QByteArray(reinterpret_cast<const char*>(wanted.data()), static_cast<qsizetype>(wanted.size())));
}

void TestProject::aDamagedProjectIsRefusedWhole_data() {
    QTest::addColumn<QByteArray>("text");
    QTest::newRow("empty") << QByteArray();
    QTest::newRow("not JSON") << QByteArray("hello");
    QTest::newRow("other JSON") << QByteArray("{\"a\":1}");
    QTest::newRow("newer version") << QByteArray(
        R"({"format":"cobbleway","version":99,"name":"x","songs":[]})");
    QTest::newRow("no songs") << QByteArray(R"({"format":"cobbleway","version":1,"name":"x"})");
    QTest::newRow("song without MIDI")
        << QByteArray(R"({"format":"cobbleway","version":1,"name":"x","songs":[{}]})");
    QTest::newRow("MIDI that is none") << QByteArray(
        R"({"format":"cobbleway","version":1,"name":"x","songs":[{"midi":"AAAA","file":"x"}]})");
    QTest::newRow("wrong types") << QByteArray(
        R"({"format":"cobbleway","version":"one","name":3,"songs":{}})");
}

void TestProject::aDamagedProjectIsRefusedWhole() {
    QFETCH(QByteArray, text);
    const auto opened = parseProject(text.toStdString(), "x.cobbleway");
    QVERIFY(!opened.ok());
    QCOMPARE(opened.error().where.empty(), false);
    QVERIFY(!opened.error().whatNow.empty());
}

namespace {

/// All places in a document where something else could stand.
void placesIn(nlohmann::json& j, std::vector<nlohmann::json*>& places) {
    if (!j.is_structured()) return;
    for (auto& member : j) {
        places.push_back(&member);
        placesIn(member, places);
    }
}

nlohmann::json anyOther(const nlohmann::json& now, std::mt19937& random) {
    using nlohmann::json;
    static const std::vector<json> others = {nullptr,
                                             true,
                                             false,
                                             0,
                                             1,
                                             -1,
                                             7,
                                             96,
                                             127,
                                             128,
                                             300,
                                             5000,
                                             -100000,
                                             2147483647,
                                             -2147483648LL,
                                             9223372036854775807LL,
                                             0.5,
                                             -3.75,
                                             1e30,
                                             1e308,
                                             "",
                                             "x",
                                             "AAAA",
                                             "lead",
                                             "GM2",
                                             "chorus-depth",
                                             json::array(),
                                             json::object(),
                                             json::array({1, 2, 3}),
                                             json::array({{0, 9, "GM"}}),
                                             {{"0", {3, "17"}}},
                                             {{"key", 36}}};
    if (now.is_number() && random() % 2) return now.get<double>() + static_cast<int>(random() % 7) - 3;
    return others[random() % others.size()];
}

/// A set in which all there is to keep is kept.
SongSet fullSet() {
    SongSet set;
    set.name = "All of it";
    set.recipes.emplace_back().name = "Rehearsal";
    set.fontOrder = {"house"};
    set.fonts = {{"/fonts/quay.sf2", "Quay", 1234, 99}};
    Builder b(1, 3);
    b.program(0, 0, 5, 1).cc(0, 0, 7, 90, 1).note(0, 0.5, 1, 60, 90, 1).note(0, 2, 1, 64, 90, 1);
    b.note(9, 0.5, 0.2, 36, 90, 2).note(9, 2, 0.2, 38, 90, 2);
    b.file.addText(0, 0, meta::marker, "Verse");
    b.file.addText(0, 960, meta::marker, "Chorus");
    Song song = edits::removeLeadingSilence(b.song(), 100);
    song = edits::addSection(edits::renameSection(std::move(song), 0, "A"), 480, "B");
    song = edits::keepMix(edits::putInFront(std::move(song), 1), "Practice");
    song = edits::tidy(edits::setDrumOff(std::move(song), 2, {Key{36}}, true));
    song.effects = {{"urn:x", "X", {{{"gain", 0.5F}}, "urn:preset", ""}, true}};
    song.midi.folded = true;
    set.songs.emplace_back(std::move(song));
    return set;
}

} // namespace

/// Whatever stands in a project: what is opened is saved as what is opened again.
void TestProject::anyProjectSettles() {
    std::mt19937 random(27);
    const auto whole = nlohmann::json::parse(projectText(fullSet()));
    int opened = 0;
    for (int round = 0; round < 4000; ++round) {
        auto json = whole;
        for (unsigned i = 0; i < 1 + random() % 3; ++i) {
            std::vector<nlohmann::json*> places;
            placesIn(json, places);
            nlohmann::json& place = *places[random() % places.size()];
            if (place.is_array() && !place.empty() && random() % 4 == 0)
                place.push_back(place[random() % place.size()]);
            else if (place.is_object() && !place.empty() && random() % 4 == 0)
                place.erase(std::next(place.begin(), static_cast<int>(random() % place.size())));
            else
                place = anyOther(place, random);
        }
        const auto first = parseProject(json.dump(), "/x/x.cobbleway");
        if (!first) continue;
        ++opened;
        const std::string saved = projectText(first.value());
        const auto second = parseProject(saved, "/x/x.cobbleway");
        const std::string what = nlohmann::json::diff(whole, json).dump().substr(0, 600);
        QVERIFY2(second.ok(), what.c_str());
        const std::string again = projectText(second.value());
        if (again != saved)
            QFAIL(("saved as another each time: " + what + " | " +
                   nlohmann::json::diff(nlohmann::json::parse(saved), nlohmann::json::parse(again)).dump())
                      .substr(0, 1500)
                      .c_str());
        QVERIFY2(second.value() == first.value(), what.c_str());
    }
    QVERIFY2(opened > 800, qPrintable(QString::number(opened)));
}

void TestProject::survivesAnyBytes() {
    std::mt19937 random(9);
    SongSet small;
    small.songs.emplace_back(Builder().program(0, 0, 1).note(0, 0, 1, 60).song());
    const std::string whole = projectText(small);
    for (int round = 0; round < 3000; ++round) {
        std::string text = whole;
        for (int i = 0; i < 3; ++i) text[random() % text.size()] = static_cast<char>(random() % 128);
        const auto opened = parseProject(text, "x");
        if (opened)
            for (const auto& song : opened.value().songs)
                QVERIFY(song->bars() >= 1 && std::abs(song->keyShift) <= 24);
    }
}

void TestProject::savingLeavesOldOrNew() {
    QTemporaryDir folder;
    const auto path = folder.filePath(QStringLiteral("a.cobbleway")).toStdString();
    QVERIFY(writeFile(path, std::string("old")).ok());
    {
        const auto unfinished = AtomicFile::open(path);
        QVERIFY(unfinished.ok() && unfinished.value()->write(Bytes{'n', 'e'}));
    } // dropped without commit()
    QCOMPARE(readFile(path).value(), (Bytes{'o', 'l', 'd'}));
    QCOMPARE(QDir(folder.path()).entryList(QDir::Files | QDir::Hidden).size(), 1);
    QVERIFY(writeFile(path, std::string("new")).ok());
    QCOMPARE(readFile(path).value(), (Bytes{'n', 'e', 'w'}));
    const auto refused = writeFile("/nowhere/at/all/x", std::string("x"));
    QVERIFY(!refused.ok());
    QVERIFY(!refused.error().whatNow.empty());
}

void TestProject::fileNames_data() {
    QTest::addColumn<QString>("text");
    QTest::addColumn<QString>("name");
    QTest::newRow("plain") << "Lantern Quay"
                           << "Lantern Quay";
    QTest::newRow("slashes") << "A/B\\C: \"D\"?"
                             << "A-B-C- -D--";
    QTest::newRow("hidden") << "..secret."
                            << "secret";
    QTest::newRow("nothing") << ""
                             << "song";
    QTest::newRow("letters of the world") << QString::fromUtf8("潮だるみ") << QString::fromUtf8("潮だるみ");
}

void TestProject::fileNames() {
    QFETCH(QString, text);
    QFETCH(QString, name);
    QCOMPARE(QString::fromStdString(fileNameFrom(text.toStdString())), name);
}

void TestProject::findsMidiFilesInFolders() {
    QTemporaryDir folder;
    QDir(folder.path()).mkdir(QStringLiteral("deeper"));
    for (const char* name : {"b.MID", "a.mid", "c.txt", "deeper/d.kar"}) {
        QFile file(folder.filePath(QLatin1String(name)));
        QVERIFY(file.open(QIODevice::WriteOnly));
    }
    QCOMPARE(midiFilesIn(folder.path().toStdString()).size(), std::size_t{3});
    QVERIFY(midiFilesIn("/nowhere/at/all").empty());
    const auto song = openSong(folder.filePath(QStringLiteral("a.mid")).toStdString());
    QVERIFY(!song.ok());
    QVERIFY(QString::fromStdString(inWords(song.error().what)).contains(QStringLiteral("empty")));
}

QTEST_APPLESS_MAIN(TestProject)
#include "tst_project.moc"
