#include "sound/render.h"
#include "support/support.h"

#include "files/exports.h"
#include "files/spool.h"
#include "midi/text.h"
#include "song/shape/edits.h"
#include "song/shape/mixes.h"
#include "sound/otherfonts.h"
#include "words/letters.h"

#include <QTemporaryDir>
#include <csignal>
#include <cstdio>
#include <numeric>
#include <sndfile.h>
#include <sys/mount.h>
#include <sys/resource.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

using namespace support;

namespace {

struct Wav {
    SF_INFO info{};
    std::vector<float> samples;
};

/// Reads a sound file with libsndfile.
Wav readWav(const std::filesystem::path& path) {
    Wav wav;
    SNDFILE* file = sf_open(path.c_str(), SFM_READ, &wav.info);
    if (!file) return wav;
    wav.samples.resize(static_cast<std::size_t>(wav.info.frames * wav.info.channels));
    sf_readf_float(file, wav.samples.data(), wav.info.frames);
    sf_close(file);
    return wav;
}

Song smallSong() {
    Song song = Builder().program(0, 0, 0).note(0, 0, 1, 60).program(1, 0, 0).note(1, 0, 1, 69).song();
    song.title = "Small";
    song.room = 0;
    return song;
}

std::vector<ExportItem> itemsOf(const Song& song, std::initializer_list<ExportItem::Kind> kinds) {
    std::vector<ExportItem> items;
    for (const ExportItem& item : exportItems(song))
        if (std::find(kinds.begin(), kinds.end(), item.kind) != kinds.end()) items.push_back(item);
    return items;
}

} // namespace

class TestExports : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void aSpoolGoesOnOnTheDisk();
    void filesAreTheSameFromMemoryAndDisk();
    void spareThreadsAreLentAndGivenBack();
    void offersEveryMixOfEveryPart();
    void writesWhatItMeasures();
    void midiIsWrittenAsAsked();
    void fullIsTheWholeBandWhateverStands();
    void mixesHoldTheRightParts();
    void loudnessIsThatOfTheStandard();
    void stoppingLeavesNothingHalf();
    void aFolderThatCannotBeMade();
    void paceMakesItLonger();
    void whatIsSilentIsTold();
    void aDiskThatTakesNoMoreLeavesNoHalfFile();
    void whatTheDiskRefusesCostsNoOther();
    void nothingIsReplacedUnasked();
    void namesSuitEveryDisk();
    void linksAndRightsAreKept();
    void whatAKilledProgramLeftIsRemoved();
};

void TestExports::offersEveryMixOfEveryPart() {
    const auto items = exportItems(demoSong("SLACKW~1.MID"));
    // Two MIDI files, the whole song, the part sheet; of each of 12 parts (the empty one is not offered) a
    // MIDI file, in front, alone, without, as a stem; the names of two drum parts.
    QCOMPARE(items.size(), std::size_t{5 + 5 * 12 + 2});
    std::set<std::string> names;
    for (const ExportItem& item : items) names.insert(item.fileName);
    QCOMPARE(names.size(), items.size());
}

void TestExports::writesWhatItMeasures() {
    QTemporaryDir folder;
    const Song song = smallSong();
    const auto items =
        itemsOf(song, {ExportItem::Kind::Midi, ExportItem::Kind::MidiHeard, ExportItem::Kind::Full});
    const auto outcomes = writeExports(song, testFont(), items,
                                       {.folder = folder.filePath(QStringLiteral("new/place")).toStdString(),
                                        .rate = 44100,
                                        .pace = 100,
                                        .stop = {},
                                        .progress = {}});
    for (const ExportOutcome& outcome : outcomes) QVERIFY2(outcome.written, outcome.error.message().c_str());
    const auto base = std::filesystem::path(folder.path().toStdString()) / "new/place";
    const Wav wav = readWav(base / items[2].fileName);
    QCOMPARE(wav.info.samplerate, 44100);
    QCOMPARE(wav.info.channels, 2);
    QCOMPARE(wav.info.format & SF_FORMAT_SUBMASK, SF_FORMAT_PCM_24);
    QVERIFY(std::abs(outcomes[2].measured.seconds - double(wav.info.frames) / 44100) < 1e-6);
    QVERIFY(std::abs(outcomes[2].measured.peakDb - 20 * std::log10(peak(wav.samples))) < 0.01);
    QVERIFY(outcomes[2].measured.seconds > 1 && outcomes[2].measured.seconds < 2);
    QCOMPARE(openSong(base / items[0].fileName).value().source->midi.type, 1);
}

void TestExports::midiIsWrittenAsAsked() {
    // Of each kind: type, place and what is in it.
    QTemporaryDir folder;
    Builder b;
    b.note(0, 0, 1, 60).note(1, 0, 4, 67).note(2, 2, 1, 72).program(1, 0.5, 40).cc(1, 1, cc::volume, 70);
    b.file.addText(0, 0, meta::marker, "Verse");
    b.file.addText(0, Builder::at(2), meta::marker, "Chorus");
    Song song = edits::onlyPart(b.song(), 2);
    const auto items =
        itemsOf(song, {ExportItem::Kind::Midi, ExportItem::Kind::MidiHeard, ExportItem::Kind::MidiPart});
    QCOMPARE(items.size(), std::size_t{5});
    ExportOptions options;
    options.folder = folder.path().toStdString();
    const auto written = [&](const ExportItem& item) {
        const auto outcomes = writeExports(song, testFont(), {item}, options);
        return openSong(outcomes[0].path).value();
    };
    QCOMPARE(written(items[0]).parts.size(), std::size_t{3}); // silent ones as well
    QCOMPARE(written(items[1]).parts.size(), std::size_t{1});
    QCOMPARE(written(items[1]).parts[0].source.channel.value, 1);
    QCOMPARE(written(items[2]).parts.size(), std::size_t{1});
    QCOMPARE(written(items[2]).source->midi.type, 1);
    options.midi.singleTrack = true;
    for (const auto& item : items) QCOMPARE(written(item).source->midi.type, 0);
    options.midi = {};
    ExportItem chorus = items[0];
    chorus.section = 1;
    QCOMPARE(song.sections[1].name, std::string("Chorus"));
    const Song cut = written(chorus);
    QVERIFY(cut.parts.size() == 3 && cut.parts[2].aside); // silent there
    QCOMPARE(cut.end, Builder::at(2));
    options.midi.keepsPlace = true;
    QCOMPARE(written(chorus).end, Builder::at(4));
    options.midi = {};
    options.stretch = {Builder::at(1), Builder::at(2)};
    QCOMPARE(written(items[0]).end, Builder::at(1));
    options.stretch = {};
    options.firstBar = options.lastBar = 2; // of 2 seconds each
    QCOMPARE(written(items[0]).end, Builder::at(2));
    options = {};
    options.folder = folder.path().toStdString();
    options.midi.notesOnly = true;
    const Song bare = written(items[3]);
    for (const Event& event : bare.source->midi.tracks.back().events)
        QVERIFY(!event.isProgram() && event.kind() != 0xB0);
}

void TestExports::fullIsTheWholeBandWhateverStands() {
    const Song plain = smallSong();
    const ExportItem full{ExportItem::Kind::Full, 0, {}, {}}, now{ExportItem::Kind::Now, 0, {}, {}};
    const std::pair<const char*, std::function<Song(Song)>> ways[] = {
        {"alone", [](Song s) { return edits::onlyPart(std::move(s), 1); }},
        {"in front", [](Song s) { return edits::putInFront(std::move(s), 1); }},
        {"muted", [](Song s) { return s.parts[0].mix.muted = true, s; }},
        {"solo", [](Song s) { return s.parts[0].mix.solo = true, s; }}};
    for (const auto& [name, way] : ways) {
        const Song standing = way(plain);
        QVERIFY2(standing != plain, name);
        QCOMPARE(songFor(standing, full), plain);
        QCOMPARE(songFor(standing, now), standing);
        QVERIFY2(!mixStanding(standing).empty(), name);
    }
    QVERIFY(mixStanding(plain).empty());
    QCOMPARE(inWords(mixStanding(edits::onlyPart(plain, 1))), plain.parts[0].name + " alone");
    QCOMPARE(inWords(mixStanding(edits::putInFront(plain, 1))), plain.parts[0].name + " in front");
}

void TestExports::mixesHoldTheRightParts() {
    QTemporaryDir folder;
    const Song song = smallSong();
    const auto all = exportItems(song);
    const auto outcomes = writeExports(
        song, testFont(), all,
        {.folder = folder.path().toStdString(), .rate = rate, .pace = 100, .stop = {}, .progress = {}});
    const auto tones = [&](ExportItem::Kind kind, PartId part) {
        for (const ExportItem& item : all)
            if (item.kind == kind && item.part == part) {
                const auto mono =
                    cut(readWav(std::filesystem::path(folder.path().toStdString()) / item.fileName).samples,
                        0, 0.2, 0.9);
                return std::pair(strength(mono, keyHz(60)), strength(mono, keyHz(69)));
            }
        return std::pair(0.0, 0.0);
    };
    const auto full = tones(ExportItem::Kind::Full, 0);
    const auto front = tones(ExportItem::Kind::Front, 1), alone = tones(ExportItem::Kind::Alone, 1),
               without = tones(ExportItem::Kind::Without, 1);
    QVERIFY(std::abs(db(front.first, full.first)) < 0.1 &&
            std::abs(db(front.second, full.second) + 10) < 0.1);
    QVERIFY(std::abs(db(alone.first, full.first)) < 0.1 && alone.second < full.second * 1e-3);
    QVERIFY(without.first < full.first * 1e-3 && std::abs(db(without.second, full.second)) < 0.1);
}

void TestExports::loudnessIsThatOfTheStandard() {
    // EBU Tech 3341, case 1: a stereo 1 kHz sine at −23.0 dBFS reads −23.0 ±0.1 LUFS; case 2: −33.0.
    QTemporaryDir folder;
    for (const double level : {-23.0, -33.0}) {
        auto writer = SoundWriter::open(folder.filePath(QStringLiteral("sine.wav")).toStdString(),
                                        {SoundFormat::Wav24, rate});
        QVERIFY(writer.ok());
        std::vector<float> sine;
        for (int f = 0; f < 20 * rate; ++f)
            for (int side = 0; side < 2; ++side)
                sine.push_back(static_cast<float>(std::pow(10, level / 20) *
                                                  std::sin(2 * std::numbers::pi * 1000 * f / rate)));
        QVERIFY(writer.value()->write(sine));
        const Measured measured = writer.value()->finish().value();
        QVERIFY(std::abs(measured.lufs - level) < 0.1);
        QVERIFY(std::abs(measured.peakDb - level) < 0.01);
        QCOMPARE(measured.seconds, 20.0);
    }
}

void TestExports::stoppingLeavesNothingHalf() {
    QTemporaryDir folder;
    const Song song = demoSong("lantern_quay.mid");
    std::stop_source source;
    const auto items = itemsOf(song, {ExportItem::Kind::Full, ExportItem::Kind::Alone});
    const auto outcomes = writeExports(song, fontsAt(HOUSE_FONT), items,
                                       {.folder = folder.path().toStdString(),
                                        .rate = 22050,
                                        .pace = 100,
                                        .stop = source.get_token(),
                                        .progress = [&](double share) {
                                            if (share > 0.1) source.request_stop();
                                        }});
    for (const ExportOutcome& outcome : outcomes) QVERIFY(!outcome.written && !outcome.error.what.empty());
    QVERIFY(QDir(folder.path()).entryList(QDir::Files | QDir::Hidden).isEmpty());
}

void TestExports::aFolderThatCannotBeMade() {
    const Song song = smallSong();
    const auto outcomes =
        writeExports(song, testFont(), exportItems(song),
                     {.folder = "/proc/no/such", .rate = rate, .pace = 100, .stop = {}, .progress = {}});
    for (const ExportOutcome& outcome : outcomes)
        QVERIFY(!outcome.written && outcome.error.message().find("/proc/no/such") != std::string::npos);
}

void TestExports::paceMakesItLonger() {
    QTemporaryDir folder;
    const Song song = smallSong();
    const auto items = itemsOf(song, {ExportItem::Kind::Full});
    const auto outcomes = writeExports(
        song, testFont(), items,
        {.folder = folder.path().toStdString(), .rate = rate, .pace = 50, .stop = {}, .progress = {}});
    QVERIFY(outcomes[0].measured.seconds > 2 && outcomes[0].measured.seconds < 2.6);
}

void TestExports::whatIsSilentIsTold() {
    // A plug-in that gives no sound on a part, one that is not there on another, and one on the whole mix.
    qputenv("COBBLEWAY_LV2_PATH", BAD_PLUGINS);
    QTemporaryDir folder;
    const std::string noise = "urn:cobbleway:test:noise", gone = "urn:cobbleway:test:not-there";
    const Catalogue all = testFont().withPlugins({{noise, "Noise", "", true}, {gone, "Gone", "", true}}, {});
    Song song = smallSong();
    song = edits::chooseSound(song, 1, {noise, 0, 0, "Noise", SoundKind::Plugin, 0});
    song = edits::chooseSound(song, 2, {gone, 0, 0, "Gone", SoundKind::Plugin, 0});
    const auto told = [&](const std::vector<ExportItem>& items, const Song& written) {
        std::vector<Error> errors;
        ExportOptions options{
            .folder = folder.path().toStdString(), .rate = rate, .pace = 100, .stop = {}, .progress = {}};
        options.silent = [&](const Error& error) { errors.push_back(error); };
        const auto outcomes = writeExports(written, all, items, options);
        const bool whole =
            std::all_of(outcomes.begin(), outcomes.end(), [](const auto& o) { return o.written; });
        return whole ? errors : std::vector<Error>(99);
    };
    const auto errors = told(exportItems(song), song);
    QCOMPARE(errors.size(), std::size_t{2});
    QCOMPARE(errors[0].where, song.part(2)->name + ", Gone");
    QCOMPARE(errors[1].where, song.part(1)->name);
    // On the mix: each mix has its own chain.
    Song mixed = smallSong();
    mixed.effects = {{noise, "Noise", {}, true}};
    const auto onTheMix = told(itemsOf(mixed, {ExportItem::Kind::Full, ExportItem::Kind::Alone}), mixed);
    QCOMPARE(onTheMix.size(), std::size_t{1});
    QCOMPARE(onTheMix[0].where, std::string("the whole mix"));
    // Effects that are not there, by place and name.
    mixed.effects = {{gone, "Gone", {}, true}};
    mixed = edits::setEffects(mixed, 1, mixed.effects);
    const auto missing = told(itemsOf(mixed, {ExportItem::Kind::Full}), mixed);
    QCOMPARE(missing.size(), std::size_t{2});
    QCOMPARE(missing[0].where, mixed.part(1)->name + ", Gone");
    QCOMPARE(missing[1].where, std::string("the whole mix, Gone"));
    QVERIFY(told(itemsOf(song, {ExportItem::Kind::Midi}), song).empty());
    qunsetenv("COBBLEWAY_LV2_PATH");
}

void TestExports::aDiskThatTakesNoMoreLeavesNoHalfFile() {
    // No file may grow past 100 kB: every sound file of the song is longer than that.
    QTemporaryDir folder;
    const Song song = demoSong("lantern_quay.mid");
    const auto items =
        itemsOf(song, {ExportItem::Kind::Midi, ExportItem::Kind::Full, ExportItem::Kind::Alone});
    rlimit before{};
    getrlimit(RLIMIT_FSIZE, &before);
    const auto handler = std::signal(SIGXFSZ, SIG_IGN);
    const rlimit small{100'000, before.rlim_max};
    setrlimit(RLIMIT_FSIZE, &small);
    const auto outcomes = writeExports(
        song, fontsAt(HOUSE_FONT), items,
        {.folder = folder.path().toStdString(), .rate = 22050, .pace = 100, .stop = {}, .progress = {}});
    setrlimit(RLIMIT_FSIZE, &before);
    std::signal(SIGXFSZ, handler);
    for (std::size_t i = 0; i < items.size(); ++i) {
        QCOMPARE(outcomes[i].written, items[i].isMidi());
        QCOMPARE(outcomes[i].error.what.empty(), items[i].isMidi());
    }
    QCOMPARE(QDir(folder.path()).entryList(QDir::Files | QDir::Hidden).size(), 1);
}

void TestExports::whatTheDiskRefusesCostsNoOther() {
    // Two files on a disk that has room for one and a half: one is whole, the other is told and not there.
    QTemporaryDir full, roomy;
    if (mount("tmpfs", full.path().toUtf8().constData(), "tmpfs", 0, "size=400k") != 0)
        QSKIP("a small disk can only be made as root");
    const auto unmount = qScopeGuard([&] { umount2(full.path().toUtf8().constData(), MNT_DETACH); });
    const Song song = smallSong(); // some 1.3 seconds: 290 kB
    InstrumentBank bank(rate, {});
    const auto plan = makePlan(song, testFont(), matchSong(song, testFont()), bank);
    const auto at = [](const QTemporaryDir& in, const char* name) {
        return std::filesystem::path(in.path().toStdString()) / name;
    };
    const auto results = writeSoundFiles(
        *plan, {{at(full, "1.wav"), song}, {at(full, "2.wav"), song}, {at(roomy, "3.wav"), song}});
    const auto whole = std::count_if(results.begin(), results.end(), [](const auto& r) { return r.ok(); });
    QCOMPARE(whole, 2);
    QVERIFY(results[2].ok());
    QVERIFY(results[0].ok() != results[1].ok());
    QCOMPARE(QDir(full.path()).entryList(QDir::Files | QDir::Hidden).size(), 1);
    const std::size_t there = results[0].ok() ? 0 : 1;
    QCOMPARE(double(readWav(at(full, there == 0 ? "1.wav" : "2.wav")).info.frames) / rate,
             results[there].value().seconds);
    QCOMPARE(results[there].value().seconds, results[2].value().seconds);
}

void TestExports::nothingIsReplacedUnasked() {
    QTemporaryDir folder;
    const auto base = std::filesystem::path(folder.path().toStdString());
    const Song song = smallSong();
    const auto items = itemsOf(song, {ExportItem::Kind::Midi});
    const auto path = base / items[0].fileName;
    QVERIFY(alreadyThere(items, base).empty());
    QVERIFY(writeFile(path, std::string("mine")).ok());
    QCOMPARE(alreadyThere(items, base), std::vector{path});
    ExportOptions options{.folder = base, .rate = rate, .pace = 100, .stop = {}, .progress = {}};
    options.existing = Existing::Leave;
    QVERIFY(!writeExports(song, testFont(), items, options)[0].written);
    options.existing = Existing::Number;
    const auto numbered = writeExports(song, testFont(), items, options);
    QVERIFY(numbered[0].written);
    QCOMPARE(numbered[0].path.filename().string(), path.stem().string() + " 2.mid");
    QCOMPARE(readFile(path).value().size(), std::size_t{4});
    options.existing = Existing::Replace;
    QVERIFY(writeExports(song, testFont(), items, options)[0].written);
    QVERIFY(readFile(path).value().size() > 4);
    // The file that the song was read from is never replaced.
    QVERIFY(writeFile(path, song.source->midi.pool).ok());
    const auto kept = writeExports(song, testFont(), items, options);
    QVERIFY(kept[0].written && kept[0].path != path);
    QVERIFY(readFile(path).value() == song.source->midi.pool);
}

void TestExports::namesSuitEveryDisk() {
    Song song = smallSong();
    song.parts[0].name = std::string(119, 'a') + "é"; // the cut would fall into the letter
    song.parts[1].name = std::string(119, 'A') + "É"; // another in capitals alone
    song.title = "CON";
    std::set<std::string> names;
    for (const ExportItem& item : exportItems(song)) {
        QVERIFY(names.insert(inSmallLetters(item.fileName)).second);
        QCOMPARE(validUtf8(item.fileName), item.fileName);
        QVERIFY(item.fileName.size() < 200);
        const bool front = item.kind == ExportItem::Kind::Front;
        QCOMPARE(item.fileName.find(" in front") != std::string::npos, front);
        QVERIFY(!item.fileName.starts_with("CON."));
    }
    // Whatever ending follows, the device is meant (common practice, no source).
    for (const auto& [named, written] :
         std::initializer_list<std::pair<const char*, const char*>>{{"lpt1.x", "lpt1-.x"},
                                                                    {"NUL", "NUL-"},
                                                                    {"con .mid", "con -.mid"},
                                                                    {"COM³", "COM³-"},
                                                                    {"conin$", "conin$-"},
                                                                    {"console", "console"},
                                                                    {"com12", "com12"}})
        QCOMPARE(fileNameFrom(named), std::string(written));
    QCOMPARE(inSmallLetters("ÉÀŽŁЖΩ"), std::string("éàžłжω"));
}

void TestExports::linksAndRightsAreKept() {
    QTemporaryDir folder;
    const auto base = std::filesystem::path(folder.path().toStdString());
    QVERIFY(writeFile(base / "real", std::string("old")).ok());
    std::filesystem::permissions(base / "real",
                                 std::filesystem::perms::owner_read | std::filesystem::perms::owner_write);
    std::filesystem::create_symlink("real", base / "link");
    QVERIFY(writeFile(base / "link", std::string("new")).ok());
    QVERIFY(std::filesystem::is_symlink(base / "link"));
    QCOMPARE(readFile(base / "real").value().size(), std::size_t{3});
    QCOMPARE(readFile(base / "real").value()[0], std::uint8_t{'n'});
    QCOMPARE(std::filesystem::status(base / "real").permissions(),
             std::filesystem::perms::owner_read | std::filesystem::perms::owner_write);
    QVERIFY(!writeFile("/dev/null", std::string("x")).ok());
    QVERIFY(std::filesystem::is_character_file("/dev/null"));
    QVERIFY(mkfifo((base / "pipe").c_str(), 0600) == 0);
    QVERIFY(!readFile(base / "pipe").ok()); // and waits for nobody
    QVERIFY(!readSoundFont(base / "pipe").ok());
    std::vector<FontProblem> problems;
    const auto fonts = scanFonts(FontFolders{{}, {}, {base / "pipe"}}, {}, &problems, readOtherFont);
    QVERIFY(fonts.fonts().empty() && problems.size() == 1);
}

void TestExports::whatAKilledProgramLeftIsRemoved() {
    QTemporaryDir folder;
    const auto base = std::filesystem::path(folder.path().toStdString());
    const pid_t child = fork();
    if (child == 0) {
        const auto file = AtomicFile::open(base / "song.wav");
        std::_Exit(file.ok() ? 0 : 1); // as if killed: nothing is cleaned up
    }
    int status = 0;
    waitpid(child, &status, 0);
    QCOMPARE(status, 0);
    const auto mine = AtomicFile::open(base / "other.wav"); // of a program that still runs
    QVERIFY(mine.ok());
    QCOMPARE(removeAbandoned(base), 1);
    QVERIFY(std::filesystem::exists(mine.value()->temporaryPath()));
}

/// Memory for three blocks of 2 MB and a little: two spools of 5 MB each are the same whatever holds what of
/// them.
void TestExports::aSpoolGoesOnOnTheDisk() {
    constexpr std::int64_t block = 2 << 20;
    QTemporaryDir folder;
    SpoolMemory memory(3 * block + 1000);
    {
        auto first = std::move(Spool::open(folder.path().toStdString(), memory).value());
        auto second = std::move(Spool::open(folder.path().toStdString(), memory).value());
        std::vector<float> samples(1400000);
        std::iota(samples.begin(), samples.end(), 1.0F);
        for (std::size_t at = 0; at < samples.size(); at += 2000) {
            const auto piece = std::span(samples).subspan(at, 2000);
            QVERIFY(first->write(piece));
            QVERIFY(second->write(piece));
        }
        QVERIFY(!first->isInMemory());
        QVERIFY(!second->isInMemory());
        QVERIFY(!memory.take().samples);
        for (const auto* spool : {first.get(), second.get()}) {
            QCOMPARE(spool->frames(), 700000);
            for (const std::int64_t from : {0, 262000, 262143, 524287, 524288, 699000, 699999, 700000}) {
                std::vector<float> read(3000, -1);
                const auto frames = spool->read(from, read);
                QCOMPARE(frames, static_cast<std::size_t>(std::min<std::int64_t>(1500, 700000 - from)));
                for (std::size_t i = 0; i < 2 * frames; ++i)
                    if (read[i] != static_cast<float>(2 * from + 1) + static_cast<float>(i))
                        QFAIL("another sample");
            }
        }
    }
    std::vector<SpoolMemory::Block> all;
    for (int i = 0; i < 3; ++i) all.push_back(memory.take());
    QVERIFY(all.back().samples && !memory.take().samples); // all were given back
    memory.giveBack(all);
    QVERIFY(QDir(folder.path()).isEmpty(QDir::AllEntries | QDir::Hidden | QDir::NoDotAndDotDot));
    QVERIFY(SpoolMemory::share() > 0 && SpoolMemory::share() <= std::int64_t{3} << 30);
}

/// With no memory at all and three threads lent, and with all memory and one thread.
void TestExports::filesAreTheSameFromMemoryAndDisk() {
    const Song song = smallSong();
    const auto items =
        itemsOf(song, {ExportItem::Kind::Full, ExportItem::Kind::Front, ExportItem::Kind::Without});
    QVERIFY(items.size() >= 3);
    std::vector<std::vector<std::uint8_t>> written[2];
    SpoolMemory none(0);
    ThreadShare spare(3);
    for (const bool onDisk : {false, true}) {
        QTemporaryDir folder;
        ExportOptions options{
            .folder = folder.path().toStdString(), .rate = rate, .pace = 100, .stop = {}, .progress = {}};
        options.finish = {.level = Level::Lufs18, .trim = true};
        options.workers = {1, onDisk ? &spare : nullptr};
        options.memory = onDisk ? &none : nullptr;
        for (const auto& outcome : writeExports(song, testFont(), items, options)) {
            QVERIFY(outcome.written);
            written[onDisk].push_back(readFile(outcome.path).value());
        }
    }
    QVERIFY(written[0] == written[1]);
    for (int i = 0; i < 3; ++i) QVERIFY(spare.takeOne()); // given back
    QVERIFY(!spare.takeOne());
}

void TestExports::spareThreadsAreLentAndGivenBack() {
    ThreadShare spare(1);
    QVERIFY(spare.takeOne());
    QVERIFY(!spare.takeOne());
    spare.giveBackOne();
    QVERIFY(spare.takeOne());
    QCOMPARE((Workers{2, nullptr}.ownCount()), 2);
    QVERIFY((Workers{}.ownCount()) >= 1);
}

QTEST_APPLESS_MAIN(TestExports)
#include "tst_exports.moc"
