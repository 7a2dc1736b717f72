/// Files of songs as people take them away: levels, ends, paces, formats, names, whole sets. Checked by
/// reading them with libsndfile, libebur128 and the programs of each format.
#include "sound/render.h"
#include "support/support.h"

#include "files/exports.h"
#include "files/lyricstext.h"
#include "files/namepattern.h"
#include "files/partsheet.h"
#include "files/project.h"
#include "song/shape/edits.h"
#include "song/shape/mixes.h"

#include <QProcess>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <ebur128.h>
#include <nlohmann/json.hpp>
#include <sndfile.h>
#include <sys/mount.h>

using namespace support;
using Kind = ExportItem::Kind;
namespace fs = std::filesystem;

namespace {

struct Sound {
    int rate = 0;
    std::vector<float> samples; ///< interleaved stereo
    std::map<int, std::string> tags;
    [[nodiscard]] double seconds() const { return static_cast<double>(samples.size()) / 2 / rate; }
};

Sound read(const fs::path& path) {
    Sound sound;
    SF_INFO info{};
    SNDFILE* file = sf_open(path.c_str(), SFM_READ, &info);
    if (!file) return sound;
    sound.rate = info.samplerate;
    sound.samples.resize(static_cast<std::size_t>(info.frames * info.channels));
    const auto got = sf_readf_float(file, sound.samples.data(), info.frames);
    sound.samples.resize(static_cast<std::size_t>(got * info.channels));
    for (const int tag : {SF_STR_TITLE, SF_STR_ALBUM, SF_STR_TRACKNUMBER, SF_STR_COMMENT})
        if (const char* text = sf_get_string(file, tag)) sound.tags[tag] = text;
    sf_close(file);
    return sound;
}

/// What libebur128 measures: integrated loudness, and true peak in dB.
std::pair<double, double> measured(const Sound& sound) {
    ebur128_state* meter =
        ebur128_init(2, static_cast<unsigned long>(sound.rate), EBUR128_MODE_I | EBUR128_MODE_TRUE_PEAK);
    ebur128_add_frames_float(meter, sound.samples.data(), sound.samples.size() / 2);
    double lufs = 0, left = 0, right = 0;
    ebur128_loudness_global(meter, &lufs);
    ebur128_true_peak(meter, 0, &left);
    ebur128_true_peak(meter, 1, &right);
    ebur128_destroy(&meter);
    return {lufs, 20 * std::log10(std::max(left, right))};
}

/// Two parts in 3/4 at 90: eight bars, the first note on the third beat of bar 1.
/// Any file of the waltz is longer, in seconds: its bass comes in after two seconds and ends at the last bar.
constexpr double shortest = 13.6;

Song waltz() {
    Builder b(1, 3);
    b.file.tracks[0].events.clear();
    b.file.addTempo(0, 0, 666667);
    b.file.addTimeSignature(0, 0, 3, 4);
    b.file.addText(0, 0, meta::marker, "Verse");
    b.file.addText(0, 5 * 3 * 480, meta::marker, "Chorus/2");
    const auto note = [&](int channel, double beat, double length, int key, std::size_t track) {
        b.file.addChannel(track, std::llround(beat * 480), static_cast<std::uint8_t>(0x90 | channel),
                          static_cast<std::uint8_t>(key), 100);
        b.file.addChannel(track, std::llround((beat + length) * 480),
                          static_cast<std::uint8_t>(0x80 | channel), static_cast<std::uint8_t>(key), 64);
    };
    b.file.addText(1, 0, meta::trackName, "Lead");
    b.file.addText(2, 0, meta::trackName, "Bass");
    for (int bar = 0; bar < 8; ++bar) {
        for (int beat = bar == 0 ? 2 : 0; beat < 3; ++beat)
            note(0, bar * 3 + beat, 0.8, 72 + (bar + beat) % 5, 1);
        if (bar > 0) note(1, bar * 3, 2.5, 48 + bar % 4, 2);
    }
    b.file.tracks[0].end = 24 * 480;
    b.file.sortTracks();
    Song song = songOf(b.file);
    song.title = "Quay Waltz";
    return song;
}

class Folder {
  public:
    [[nodiscard]] fs::path path() const { return m_dir.path().toStdString(); }
    std::vector<ExportOutcome> write(const Song& song, Recipe recipe, const std::vector<PartId>& only = {}) {
        std::set<std::string> taken;
        items = itemsFor(song, recipe, wantedBy(recipe, only), "Evening", 1, taken);
        outcomes = writeExports(song, testFont(), items, optionsOf(recipe, path()));
        return outcomes;
    }
    [[nodiscard]] const ExportOutcome* of(Kind kind, PartId part = 0, double pace = 100) const {
        for (const ExportOutcome& outcome : outcomes)
            if (items[outcome.item].kind == kind && items[outcome.item].part == part &&
                items[outcome.item].pace == pace)
                return &outcome;
        return nullptr;
    }
    [[nodiscard]] Sound sound(Kind kind, PartId part = 0, double pace = 100) const {
        const auto* outcome = of(kind, part, pace);
        return outcome ? read(outcome->path) : Sound{};
    }
    std::vector<ExportItem> items;
    std::vector<ExportOutcome> outcomes;

  private:
    QTemporaryDir m_dir;
};

std::string textOf(const fs::path& path) {
    const auto bytes = readFile(path);
    return bytes ? std::string(bytes.value().begin(), bytes.value().end()) : std::string();
}

Recipe plain() {
    Recipe recipe;
    recipe.finish = {};
    recipe.format = SoundFormat::Wav32Float;
    return recipe;
}

int ran(const char* program, const QStringList& words, QByteArray* out = nullptr) {
    QProcess process;
    process.setProcessChannelMode(QProcess::MergedChannels);
    process.start(QString::fromUtf8(program), words);
    if (!process.waitForFinished(20000)) return -1;
    if (out) *out = process.readAll();
    return process.exitCode();
}

} // namespace

class TestExportSet : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void stemsSumToTheMix();
    void withoutAndAloneSumToAll();
    void paceStretchesTime();
    void keyMovesByATone();
    void countInOfTwoBars();
    void theCountFollowsTheMusicsLevel();
    void clicksOnEveryBeat();
    void levelsAreThoseOfTheStandard_data();
    void levelsAreThoseOfTheStandard();
    void truePeaksAreThoseOfTheLibrary();
    void trimsAtTheFirstNoteAndTheEnd();
    void formatsAreReadByOthers_data();
    void formatsAreReadByOthers();
    void sixteenBitsAreDithered();
    void namesFollowThePattern();
    void barsAndSections();
    void keptMixes();
    void recipesAreReadAsWritten();
    void damagedRecipesAreRefused();
    void recipesOfEarlierVersionsMeanTheSame();
    void aSetOnSeveralThreads();
    void aFileForEachPort();
    void whatCanBeForeseen();
    void stoppingLeavesWholeFilesAlone();
    void aDiskThatRefuses_data();
    void aDiskThatRefuses();
    void aFolderThatIsTakenAway();
    void namesAreFilledInOnce();
    void wordsAndSheets();
};

void TestExportSet::stemsSumToTheMix() {
    for (const Level level : {Level::AsMixed, Level::Lufs18}) {
        Folder folder;
        Recipe recipe = plain();
        recipe.stems = true;
        recipe.finish.gainOfEach = false;
        recipe.finish.level = level;
        recipe.finish.trim = true;
        folder.write(waltz(), recipe);
        const Sound lead = folder.sound(Kind::Stem, 1), bass = folder.sound(Kind::Stem, 2);
        QVERIFY(!lead.samples.empty());
        QCOMPARE(lead.samples.size(), bass.samples.size()); // sample for sample
        Sound full = folder.sound(Kind::Full);
        const std::size_t both =
            std::min(full.samples.size(), lead.samples.size()) - 4 * 960; // before the fades
        full.samples.resize(both);
        Sound a = lead, b = bass;
        a.samples.resize(both);
        b.samples.resize(both);
        QVERIFY(nullOf({a.samples, b.samples}, full.samples) <= -90);
    }
}

void TestExportSet::withoutAndAloneSumToAll() {
    Folder folder;
    Recipe recipe = plain();
    recipe.alone = recipe.without = true;
    recipe.finish.level = Level::Lufs18;
    recipe.finish.gainOfEach = false;
    folder.write(waltz(), recipe);
    for (const PartId part : {1, 2})
        QVERIFY(nullOf({folder.sound(Kind::Alone, part).samples, folder.sound(Kind::Without, part).samples},
                       folder.sound(Kind::Full).samples) <= -90);
}

void TestExportSet::paceStretchesTime() {
    // The test font's programs are sines; a note begins where the sound rises from silence.
    Folder folder;
    Recipe recipe = plain();
    recipe.paces = {100, 50};
    const Song song = waltz();
    folder.write(song, recipe, {});
    QVERIFY(folder.of(Kind::Full, 0, 50)->path.filename().string().find("50%") != std::string::npos);
    const auto startsOf = [](const Sound& sound) {
        std::vector<double> starts;
        const int hold = sound.rate / 100;
        for (std::size_t i = 0, quiet = 0; i < sound.samples.size() / 2; ++i) {
            const bool loud = std::abs(sound.samples[2 * i]) > 1e-4F;
            if (loud && quiet >= static_cast<std::size_t>(hold))
                starts.push_back(static_cast<double>(i) / sound.rate);
            quiet = loud ? 0 : quiet + 1;
        }
        return starts;
    };
    const auto normal = startsOf(folder.sound(Kind::Full, 0, 100)),
               slow = startsOf(folder.sound(Kind::Full, 0, 50));
    QVERIFY(!normal.empty());
    QVERIFY(slow.size() >= normal.size());
    QVERIFY(std::abs(slow.front() - 2 * normal.front()) < 0.003); // events fall on blocks of 64 frames
    const double tail = folder.sound(Kind::Full, 0, 50).seconds() - 2 * song.seconds();
    QVERIFY(tail > 0 && tail < 3);
}

void TestExportSet::keyMovesByATone() {
    const Song song = Builder().program(0, 0, 0).note(0, 0, 2, 69).song();
    Folder folder;
    folder.write(edits::setKeyShift(song, 2), plain());
    const auto mono = cut(folder.sound(Kind::Full).samples, 0, 0.3, 1.7);
    const double wanted = keyHz(71);
    const auto at = [&](double cents) { return strength(mono, wanted * std::pow(2, cents / 1200)); };
    double best = 0, most = 0;
    for (double cents = -6; cents <= 6; cents += 0.25)
        if (at(cents) > most) {
            most = at(cents);
            best = cents;
        }
    QVERIFY2(std::abs(best) <= 1, qPrintable(QString::number(best)));
}

void TestExportSet::countInOfTwoBars() {
    const Song song = waltz();
    const CountIn count = countInBefore(*song.tempo, 0, 2, 1);
    QCOMPARE(count.clicks.size(), std::size_t{6}); // two bars of 3/4
    QVERIFY(count.clicks[0] == (Click{0, Beat::Bar}));
    QVERIFY(count.clicks[3].beat == Beat::Bar && count.clicks[4].beat == Beat::Inner);
    QVERIFY(std::abs(count.clicks[1].seconds - 60.0 / 90) < 1e-5);
    QVERIFY(std::abs(count.seconds - 4) < 1e-4);
    Folder folder;
    Recipe recipe = plain();
    recipe.finish.countIn = 2;
    recipe.finish.trim = true;
    folder.write(song, recipe);
    const Sound sound = folder.sound(Kind::Full);
    QVERIFY(firstLoud(sound.samples, sound.rate, 0.01F) < 0.002); // the first click, at 0.000 s
    for (int click = 0; click < 6; ++click) {                     // each is there, and silence before it
        const auto loudest = [&](double from, double to) { return peak(cut(sound.samples, 0, from, to)); };
        const double at = click * 60.0 / 90;
        QVERIFY(loudest(at, at + 0.01) > 0.1);
        QVERIFY(click == 0 || loudest(at - 0.2, at - 0.01) < 1e-3);
    }
    // The bar of the pick-up follows: its first note comes on the third beat.
    const auto after = cut(sound.samples, 0, 4, 4 + 1.30);
    QVERIFY(peak(after) < 1e-3);
    QVERIFY(peak(cut(sound.samples, 0, 4 + 1.33, 4 + 1.6)) > 0.01);
}

/// The click is as loud beside soft music as beside loud.
void TestExportSet::theCountFollowsTheMusicsLevel() {
    const auto clickPeakAt = [](Level level, double clickDb) {
        Folder folder;
        Recipe recipe = plain();
        recipe.finish.countIn = 1;
        recipe.finish.level = level;
        recipe.finish.clickShape.levelDb = clickDb;
        folder.write(waltz(), recipe);
        const Sound sound = folder.sound(Kind::Full);
        return db(peak(cut(sound.samples, 0, 0, 0.05)), 1);
    };
    const double usual = clickPeakAt(Level::Lufs18, 0);
    QVERIFY(std::abs(usual - db(clickPeak, 1)) < 0.6); // within what was written of −18 LUFS
    QVERIFY(std::abs(clickPeakAt(Level::Lufs23, 0) - usual + 5) < 0.6);
    QVERIFY(std::abs(clickPeakAt(Level::Lufs18, -6) - usual + 6) < 0.1);
}

void TestExportSet::clicksOnEveryBeat() {
    Builder b(0, 1);
    b.file.addTimeSignature(0, 0, 3, 4);
    b.file.addTimeSignature(0, 480, 4, 4); // a pick-up: a short first bar
    const Song song = b.note(0, 0, 4, 60).song();
    const auto clicks = clicksOf(*song.tempo, 0, 480 * 9, 1);
    QCOMPARE(clicks.size(), std::size_t{9});
    QVERIFY(clicks[0].beat == Beat::Inner && clicks[1].beat == Beat::Bar && clicks[2].beat == Beat::Inner &&
            clicks[5].beat == Beat::Bar);
    QVERIFY(std::abs(clicks[8].seconds - 4) < 1e-9);
    QVERIFY(std::abs(clicksOf(*song.tempo, 0, 480 * 9, 0.5)[8].seconds - 8) < 1e-9);
}

void TestExportSet::levelsAreThoseOfTheStandard_data() {
    QTest::addColumn<int>("level");
    QTest::addColumn<bool>("each");
    for (const Level level : {Level::Peak, Level::Lufs16, Level::Lufs18, Level::Lufs23})
        for (const bool each : {false, true})
            QTest::addRow("%s %s", levelId(level), each ? "each" : "song") << static_cast<int>(level) << each;
}

void TestExportSet::levelsAreThoseOfTheStandard() {
    // ITU-R BS.1770-4 by libebur128; never above −1 dBTP.
    QFETCH(int, level);
    QFETCH(bool, each);
    Folder folder;
    Recipe recipe = plain();
    recipe.alone = true;
    recipe.firstBar = 2;
    recipe.lastBar = 4;
    recipe.finish.level = static_cast<Level>(level);
    recipe.finish.gainOfEach = each;
    folder.write(waltz(), recipe);
    const double aim = level == int(Level::Lufs16) ? -16 : level == int(Level::Lufs23) ? -23 : -18;
    double loudest = -120, highest = -120;
    for (const auto& outcome : folder.outcomes) {
        const auto [lufs, truePeak] = measured(read(outcome.path));
        QVERIFY2(truePeak <= -0.9, qPrintable(QString::number(truePeak)));
        QVERIFY(std::abs(outcome.measured.lufs - lufs) < 0.1);
        QVERIFY(std::abs(outcome.measured.peakDb - truePeak) < 0.1);
        if (level == int(Level::Peak) && each) QVERIFY(std::abs(truePeak + 1) < 0.15);
        if (level != int(Level::Peak) && each && truePeak < -1.2) QVERIFY(std::abs(lufs - aim) < 0.1);
        loudest = std::max(loudest, lufs);
        highest = std::max(highest, truePeak);
        const Reached reached = reachedBy(outcome.measured, recipe.finish);
        if (level == int(Level::Peak) || std::abs(lufs - aim) < 0.4) QCOMPARE(reached, Reached::AsAsked);
        if (level != int(Level::Peak) && std::abs(lufs - aim) > 0.6)
            QCOMPARE(reached, each || truePeak > -1.2 ? Reached::HeldByPeak : Reached::KeepsBalance);
    }
    // With one gain the loudest file is as loud as asked, or the highest peak holds it.
    if (level != int(Level::Peak)) QVERIFY(std::abs(loudest - aim) < 0.1 || highest > -1.2);
}

void TestExportSet::truePeaksAreThoseOfTheLibrary() {
    // EBU Tech 3341, cases 15 to 19: a sine of a quarter of the rate at 0.5 with phases of 0, 45, 60 and 67.5
    // degrees reads −6.0 dBTP, +0.2 and −0.4.
    for (const double degrees : {0.0, 45.0, 60.0, 67.5}) {
        std::vector<float> samples;
        for (int i = 0; i < rate; ++i) {
            const double edge = std::min({1.0, i / 480.0, (rate - 1 - i) / 480.0}); // begins and ends softly
            const auto s = static_cast<float>(edge * 0.5 * std::sin(M_PI / 2 * i + degrees * M_PI / 180));
            samples.insert(samples.end(), {s, s});
        }
        TruePeakMeter meter;
        meter.take(samples);
        const double ours = 20 * std::log10(static_cast<double>(meter.peak()));
        QVERIFY2(ours <= -5.8 && ours >= -6.4, qPrintable(QString::number(ours)));
    }
    // Music, in pieces of any length.
    const auto music =
        renderToMemory(demoSong("TIDEMILL.MID"), fontsAt(HOUSE_FONT), rate, {100, {}, {}, 0, 20, 0});
    TruePeakMeter meter;
    std::mt19937 random(3);
    for (std::size_t at = 0; at < music.size();) {
        const std::size_t count = std::min(music.size() - at, 2 * (1 + random() % 3000));
        meter.take(std::span(music).subspan(at, count));
        at += count;
    }
    const double theirs = measured({rate, music, {}}).second;
    const double ours = 20 * std::log10(static_cast<double>(meter.peak()));
    QVERIFY2(std::abs(ours - theirs) < 0.1, qPrintable(QStringLiteral("%1, not %2").arg(ours).arg(theirs)));
}

void TestExportSet::trimsAtTheFirstNoteAndTheEnd() {
    Folder folder;
    Recipe recipe = plain();
    recipe.finish.trim = true;
    folder.write(waltz(), recipe);
    const Sound sound = folder.sound(Kind::Full);
    QVERIFY2(firstLoud(sound.samples, sound.rate, 1e-4F) < 0.005,
             qPrintable(QString::number(firstLoud(sound.samples, sound.rate, 1e-4F))));
    // The end: the last sample above −60 dBFS lies no more than the fade before the end.
    std::size_t last = 0;
    for (std::size_t i = 0; i < sound.samples.size(); ++i)
        if (std::abs(sound.samples[i]) > 0.001F) last = i / 2;
    QVERIFY(sound.seconds() - static_cast<double>(last) / sound.rate < 0.025);
    QVERIFY(std::abs(sound.samples.back()) < 1e-4F);
}

void TestExportSet::formatsAreReadByOthers_data() {
    QTest::addColumn<int>("format");
    QTest::addColumn<QStringList>("check");
    QTest::newRow("wav16") << int(SoundFormat::Wav16) << QStringList{};
    QTest::newRow("wav24") << int(SoundFormat::Wav24) << QStringList{};
    QTest::newRow("wav32f") << int(SoundFormat::Wav32Float) << QStringList{};
    QTest::newRow("flac") << int(SoundFormat::Flac)
                          << QStringList{QStringLiteral("flac"), QStringLiteral("-t"), QStringLiteral("-s")};
    QTest::newRow("ogg") << int(SoundFormat::OggVorbis) << QStringList{QStringLiteral("ogginfo")};
    QTest::newRow("ogg, decoded") << int(SoundFormat::OggVorbis)
                                  << QStringList{QStringLiteral("oggdec"), QStringLiteral("-Q"),
                                                 QStringLiteral("-o"), QStringLiteral("/dev/null")};
    QTest::newRow("opus") << int(SoundFormat::Opus) << QStringList{QStringLiteral("opusinfo")};
    QTest::newRow("mp3") << int(SoundFormat::Mp3)
                         << QStringList{QStringLiteral("mpg123"), QStringLiteral("-q"), QStringLiteral("-t")};
}

void TestExportSet::formatsAreReadByOthers() {
    QFETCH(int, format);
    QFETCH(QStringList, check);
    const auto there = soundFormats();
    if (std::find(there.begin(), there.end(), static_cast<SoundFormat>(format)) == there.end())
        QSKIP("the library at hand cannot write it");
    Folder folder;
    Recipe recipe;
    recipe.format = static_cast<SoundFormat>(format);
    recipe.firstBar = 2;
    recipe.lastBar = 4;
    QCOMPARE(formatOfId(formatId(recipe.format)), std::optional(recipe.format));
    folder.write(waltz(), recipe);
    const ExportOutcome& full = *folder.of(Kind::Full);
    QVERIFY2(full.written, full.error.message().c_str());
    const Sound sound = read(full.path);
    QVERIFY(std::abs(sound.seconds() - full.measured.seconds) < 0.1);
    QVERIFY(std::abs(measured(sound).first - full.measured.lufs) < 0.3);
    QCOMPARE(sound.tags.at(SF_STR_TITLE), std::string("Quay Waltz"));
    if (check.isEmpty()) return;
    QVERIFY2(!QStandardPaths::findExecutable(check[0]).isEmpty(), "run-tests installs it");
    QByteArray said;
    QVERIFY2(ran(qPrintable(check[0]), check.mid(1) << QString::fromStdString(full.path.string()), &said) ==
                 0,
             said.constData());
}

void TestExportSet::sixteenBitsAreDithered() {
    // A sine of a third of a step would be silence without dither; with it, it is there among the noise.
    Folder folder;
    auto writer = SoundWriter::open(folder.path() / "quiet.wav", {SoundFormat::Wav16, rate});
    std::vector<float> samples;
    for (int i = 0; i < 5 * rate; ++i) {
        const auto s = static_cast<float>(0.33 / 32767 * std::sin(2 * M_PI * 1000 * i / rate));
        samples.insert(samples.end(), {s, s});
    }
    QVERIFY(writer.value()->write(samples) && writer.value()->finish().ok());
    const auto mono = cut(read(folder.path() / "quiet.wav").samples, 0, 0, 5);
    const double given = strength(cut(samples, 0, 0, 5), 1000);
    const double sine = strength(mono, 1000) / given, beside = strength(mono, 1370) / given;
    QVERIFY2(std::abs(sine - 1) < 0.1, qPrintable(QString::number(sine)));
    QVERIFY(beside < 0.1);
}

void TestExportSet::namesFollowThePattern() {
    Song song = waltz();
    song.parts[0].name = "Lead / \"solo\"";
    const auto namesOf = [&](const Recipe& recipe) {
        std::set<std::string> taken;
        QStringList names;
        for (const ExportItem& item : itemsFor(song, recipe, wantedBy(recipe), "Harbour: night", 3, taken))
            names << QString::fromStdString(item.fileName);
        return names;
    };
    Recipe recipe;
    recipe.front = true;
    recipe.format = SoundFormat::Flac;
    QCOMPARE(namesOf(recipe), (QStringList{QStringLiteral("Quay Waltz - full.flac"),
                                           QStringLiteral("Quay Waltz - Lead - -solo- in front.flac"),
                                           QStringLiteral("Quay Waltz - Bass in front.flac")}));
    recipe.names = "{set}/{n} {song} - {part} {mix} {pace}";
    recipe.paces = {70, 100};
    QCOMPARE(namesOf(recipe)[0], QStringLiteral("Harbour- night/03 Quay Waltz - full 70%.flac"));
    QCOMPARE(namesOf(recipe)[5], QStringLiteral("Harbour- night/03 Quay Waltz - Bass in front 100%.flac"));
    recipe.names = "../../{song}";
    recipe.folders = Folders::Part;
    for (const QString& name : namesOf(recipe))
        QVERIFY2(!name.contains(QStringLiteral("..")) && !name.startsWith(u'/'), qPrintable(name));
    const auto all = namesOf(recipe);
    QCOMPARE(QSet<QString>(all.begin(), all.end()).size(), all.size()); // unlike each other
    recipe.names = "{mix}{part}";
    QVERIFY(!namesOf(recipe).contains(QString()));
}

void TestExportSet::barsAndSections() {
    const Song song = waltz();
    Folder folder;
    Recipe recipe = plain();
    recipe.firstBar = 3;
    recipe.lastBar = 4;
    folder.write(song, recipe);
    const double bar = 3 * 60.0 / 90;
    QVERIFY(folder.sound(Kind::Full).seconds() > 2 * bar && folder.sound(Kind::Full).seconds() < 2 * bar + 3);
    const Sound cut = folder.sound(Kind::Full);
    QVERIFY(firstLoud(cut.samples, cut.rate, 1e-4F) < 0.01); // bar 3 begins with notes
    Folder each;
    recipe.firstBar = recipe.lastBar = 0;
    recipe.sections = true;
    each.write(song, recipe);
    QCOMPARE(each.outcomes.size(), std::size_t{2});
    QCOMPARE(each.outcomes[0].path.filename().string(), std::string("Quay Waltz - full - Verse.wav"));
    QCOMPARE(each.outcomes[1].path.filename().string(), std::string("Quay Waltz - full - Chorus-2.wav"));
    QVERIFY(read(each.outcomes[0].path).seconds() > 5 * bar);
}

void TestExportSet::keptMixes() {
    const Song song = waltz();
    Song kept = edits::keepMix(edits::putInFront(edits::setLevel(song, 2, -12), 1), "Quiet bass");
    QCOMPARE(mixInUse(kept), std::string("Quiet bass"));
    Song plainly = edits::everyone(edits::setLevel(kept, 2, 0));
    QVERIFY(mixInUse(plainly).empty());
    const Song again = edits::useMix(plainly, "Quiet bass");
    QCOMPARE(again.parts[1].mix.levelDb, -12.0);
    QVERIFY(again.parts[0].mix.role == Role::Lead);
    QVERIFY(edits::useMix(plainly, "none such") == plainly);
    QVERIFY(edits::keepMix(plainly, "") == plainly);
    const Song many = edits::keepMixOfEveryPart(plainly);
    QCOMPARE(many.mixes.size(), std::size_t{7});
    QVERIFY(edits::keepMixOfEveryPart(many) == many);
    const Song renamed = edits::renameMix(many, "Bass alone", "Quiet bass"); // the name is taken
    QVERIFY(std::any_of(renamed.mixes.begin(), renamed.mixes.end(),
                        [](const KeptMix& mix) { return mix.name == "Quiet bass 2"; }));
    QCOMPARE(edits::removeMix(many, "Quiet bass").mixes.size(), std::size_t{6});
    // They are written, named, and kept in projects.
    Folder folder;
    Recipe recipe = plain();
    recipe.kept = true;
    folder.write(plainly, recipe);
    QCOMPARE(folder.of(Kind::Kept)->path.filename().string(), std::string("Quay Waltz - Quiet bass.wav"));
    SongSet set;
    set.songs.emplace_back(many);
    const auto back = parseProject(projectText(set), "x");
    QVERIFY(back.ok());
    QVERIFY(back.value().songs[0]->mixes == many.mixes);
}

void TestExportSet::recipesAreReadAsWritten() {
    std::mt19937 random(5);
    Folder folder;
    for (int i = 0; i < 50; ++i) {
        const auto yes = [&] { return random() % 2 == 1; };
        Recipe recipe;
        recipe.name = "Größe " + std::to_string(i);
        recipe.full = yes(), recipe.front = yes(), recipe.stems = yes(), recipe.midiParts = yes(),
        recipe.playlists = yes();
        recipe.format = static_cast<SoundFormat>(random() % 7);
        recipe.finish = {static_cast<Level>(random() % 5), yes(), yes(), static_cast<int>(random() % 9),
                         yes()};
        recipe.paces = {70, 85.5, 100};
        recipe.key = static_cast<int>(random() % 25) - 12;
        recipe.firstBar = static_cast<int>(random() % 5);
        recipe.folders = static_cast<Folders>(random() % 3);
        recipe.names = "{song}";
        QVERIFY(writeRecipe(recipe, folder.path() / "r.json").ok());
        const auto back = readRecipe(folder.path() / "r.json");
        QVERIFY2(back.ok(), back.ok() ? "" : back.error().message().c_str());
        QVERIFY(back.value() == recipe);
    }
    const auto shipped = shippedRecipes();
    QCOMPARE(shipped.size(), std::size_t{3});
    QCOMPARE(shipped[1].name, std::string("Choir: a folder a voice"));
    QVERIFY(shipped[1].folders == Folders::Part && shipped[1].front);
    for (const Recipe& recipe : shipped) { // stems are as loud beside each other as in the mix
        QCOMPARE(recipe.finish.level, Level::Lufs18);
        QCOMPARE(recipe.finish.gainOfEach, !recipe.stems);
    }
    QVERIFY(Recipe().finish.level == Level::Lufs18 && Recipe().finish.gainOfEach);
}

void TestExportSet::recipesOfEarlierVersionsMeanTheSame() {
    const auto read = [](const char* members) {
        return recipeFrom(nlohmann::json::parse(std::string(R"({"format":"cobbleway-recipe","version":1,)") +
                                                members + "}"),
                          "r.json")
            .value();
    };
    const Recipe tracks = read(R"("midiTracks":true,"midiSingle":false)"),
                 single = read(R"("midiTracks":false,"midiSingle":true)"),
                 both = read(R"("midiTracks":true,"midiSingle":true)"),
                 none = read(R"("midiTracks":false,"midiSingle":false)");
    QVERIFY(tracks.midi && !tracks.midiForm.singleTrack);
    QVERIFY(single.midi && single.midiForm.singleTrack);
    QVERIFY(both.midi && !both.midiForm.singleTrack);
    QVERIFY(!none.midi);
}

void TestExportSet::damagedRecipesAreRefused() {
    const auto said = [](const char* text) {
        const auto recipe = recipeFrom(nlohmann::json::parse(text, nullptr, false), "r.json");
        return recipe.ok() ? std::string() : inWords(recipe.error().what);
    };
    QCOMPARE(said("{}"), std::string("This is not a recipe for writing files."));
    QCOMPARE(said("[1"), std::string("This is not a recipe for writing files."));
    const std::string good = R"({"format":"cobbleway-recipe","version":1)";
    QVERIFY(said((good + "}").c_str()).empty());
    for (const char* bad :
         {R"("paces":[5])", R"("paces":[])", R"("sound":"mp9")", R"("level":3)", R"("full":1)", R"("key":40)",
          R"("countIn":-1)", R"("folders":"x")", R"("version":9)"})
        QVERIFY2(!said((good + "," + bad + "}").c_str()).empty(), bad);
}

void TestExportSet::aSetOnSeveralThreads() {
    Recipe recipe;
    recipe.rate = 22050;
    recipe.playlists = true;
    recipe.folders = Folders::Song;
    std::vector<SongExport> songs;
    std::set<std::string> taken;
    for (const char* name : {"TIDEMILL.MID", "SLACKW~1.MID"}) {
        const Song song = demoSong(name);
        const int number = static_cast<int>(songs.size()) + 1;
        songs.push_back({song, itemsFor(song, recipe, wantedBy(recipe), "Evening", number, taken), number});
    }
    std::map<std::string, std::string> bytes[2];
    for (int jobs = 1; jobs <= 2; ++jobs) {
        Folder folder;
        SetExportOptions options;
        options.each = optionsOf(recipe, folder.path());
        options.each.album = "Evening";
        options.jobs = jobs;
        options.playlists = true;
        double furthest = 0;
        options.progress = [&](double share) { furthest = std::max(furthest, share); };
        const SetOutcome made = writeSet(songs, fontsAt(HOUSE_FONT), options);
        QCOMPARE(furthest, 1.0);
        QCOMPARE(made.playlists.size(), std::size_t{2});
        for (const auto& entry : fs::recursive_directory_iterator(folder.path()))
            if (entry.is_regular_file())
                bytes[jobs - 1][fs::relative(entry.path(), folder.path()).string()] = textOf(entry.path());
        QCOMPARE(read(made.songs[1][0].path).tags.at(SF_STR_TRACKNUMBER), std::string("2"));
        QCOMPARE(read(made.songs[1][0].path).tags.at(SF_STR_ALBUM), std::string("Evening"));
        const auto list = QByteArray::fromStdString(textOf(made.playlists[0].path));
        QVERIFY(list.startsWith("#EXTM3U\n#EXTINF:") && list.trimmed().endsWith(".wav"));
    }
    QCOMPARE(bytes[0].size(), std::size_t{4});
    QVERIFY(bytes[0] == bytes[1]);
}

/// A song that needs two ports gives two files of the whole, in their order, where that is asked; parts'
/// files and songs of one port stay as they are.
void TestExportSet::aFileForEachPort() {
    Builder b(1, 2);
    const std::array<std::uint8_t, 1> port = {1};
    b.file.addMeta(1, 0, meta::port, port);
    b.program(0, 0, 40, 0).note(0, 0, 1, 60, 90, 0).program(0, 0, 73, 1).note(0, 1, 1, 72, 90, 1);
    Song song = b.song();
    song.title = "Quay";
    Recipe recipe;
    recipe.full = false;
    recipe.midi = recipe.midiParts = recipe.midiForm.filePerPort = true;
    Folder folder;
    folder.write(song, recipe);
    std::vector<std::pair<std::string, int>> notes; // of each file, by its name
    for (const ExportOutcome& outcome : folder.outcomes) {
        QVERIFY(outcome.written);
        const auto read = openSong(outcome.path);
        QVERIFY(read.ok());
        notes.emplace_back(outcome.path.filename().string(),
                           factsOf(read.value(), read.value().parts[0].source).notes);
        QCOMPARE(read.value().parts.size(), std::size_t{1});
    }
    QCOMPARE(notes.size(), std::size_t{4});
    QCOMPARE(notes[0].first, std::string("Quay - port 1.mid"));
    QCOMPARE(notes[1].first, std::string("Quay - port 2.mid"));
    QVERIFY(recipeFrom(recipeJson(recipe), "").value() == recipe);
    recipe.midiForm.filePerPort = false;
    std::set<std::string> taken;
    QCOMPARE(itemsFor(song, recipe, wantedBy(recipe), "", 1, taken).size(), std::size_t{3});
    recipe.midiForm.filePerPort = song.midi.folded = true;
    taken.clear();
    QCOMPARE(itemsFor(song, recipe, wantedBy(recipe), "", 1, taken).size(), std::size_t{3});
}

void TestExportSet::whatCanBeForeseen() {
    Folder folder;
    QVERIFY(!foreseen(folder.path() / "new", 1000));
    const auto small = foreseen(folder.path(), std::uintmax_t{1} << 60);
    QVERIFY(small && inWords(small->what).find("too little room") != std::string::npos);
    QVERIFY(foreseen("/proc/nowhere", 1));
    const Song song = waltz();
    Recipe recipe = plain();
    std::set<std::string> taken;
    const auto items = itemsFor(song, recipe, wantedBy(recipe), "", 1, taken);
    const auto bytes = bytesNeeded(song, items, optionsOf(recipe, folder.path()));
    folder.write(song, recipe);
    QVERIFY(fs::file_size(folder.of(Kind::Full)->path) <= bytes);
}

void TestExportSet::stoppingLeavesWholeFilesAlone() {
    Folder folder;
    Recipe recipe;
    recipe.alone = recipe.midi = true;
    const Song song = demoSong("lantern_quay.mid");
    std::set<std::string> taken;
    const auto items = itemsFor(song, recipe, wantedBy(recipe), "", 1, taken);
    std::stop_source stop;
    ExportOptions options = optionsOf(recipe, folder.path());
    options.stop = stop.get_token();
    options.progress = [&](double share) {
        if (share > 0.2) stop.request_stop();
    };
    const auto outcomes = writeExports(song, fontsAt(HOUSE_FONT), items, options);
    const auto left =
        QDir(QString::fromStdString(folder.path().string())).entryList(QDir::Files | QDir::Hidden);
    QCOMPARE(left, QStringList{QStringLiteral("Lantern Quay.mid")}); // written before; no debris
    for (const ExportOutcome& outcome : outcomes)
        if (!outcome.written) QVERIFY(outcome.error.message().find("Stopped") != std::string::npos);
}

void TestExportSet::aDiskThatRefuses_data() {
    QTest::addColumn<int>("kilobytes");
    QTest::addColumn<int>("whole");
    // 8 bars of 3/4 at 90, 44.1 kHz, 24 bits: some 4 MB a file, kept as 6 MB while its level is found.
    QTest::newRow("no room for a single one") << 900 << 0;
    QTest::newRow("room for all") << 90000 << 5;
}

/// What waits for its level, and what is written then, on a disk that is too small.
void TestExportSet::aDiskThatRefuses() {
    QFETCH(int, kilobytes);
    QFETCH(int, whole);
    QTemporaryDir disk;
    const QByteArray size = "size=" + QByteArray::number(kilobytes) + "k";
    if (mount("tmpfs", disk.path().toUtf8().constData(), "tmpfs", 0, size.constData()) != 0)
        QSKIP("a small disk can only be made as root");
    const auto unmount = qScopeGuard([&] { umount2(disk.path().toUtf8().constData(), MNT_DETACH); });
    Recipe recipe;
    recipe.alone = recipe.without = true;
    recipe.finish = {Level::Lufs18, false, true, 1, true};
    std::set<std::string> taken;
    const Song song = waltz();
    const auto items = itemsFor(song, recipe, wantedBy(recipe), "Evening", 1, taken);
    QCOMPARE(items.size(), std::size_t{5});
    const auto outcomes = writeExports(song, testFont(), items, optionsOf(recipe, disk.path().toStdString()));
    int written = 0;
    for (const ExportOutcome& outcome : outcomes) {
        QCOMPARE(outcome.written, outcome.error.what.empty());
        if (outcome.written) QVERIFY(read(outcome.path).seconds() > shortest);
        written += outcome.written;
    }
    QCOMPARE(written, whole);
    // Nothing is left of those that failed, and of what was kept on the way.
    QCOMPARE(QDir(disk.path()).entryList(QDir::Files | QDir::Hidden).size(), whole);
    std::error_code problem;
    const auto space = fs::space(disk.path().toStdString(), problem);
    if (whole == 0) QVERIFY(space.capacity - space.free < 64 * 1024);
}

void TestExportSet::aFolderThatIsTakenAway() {
    for (const double when : {0.3, 0.75, 0.9}) {
        QTemporaryDir place;
        const fs::path folder = fs::path(place.path().toStdString()) / "out";
        const fs::path away = fs::path(place.path().toStdString()) / "away";
        Recipe recipe;
        recipe.alone = true;
        recipe.finish = {Level::Lufs18, false, true, 0, false};
        std::set<std::string> taken;
        const Song song = waltz();
        const auto items = itemsFor(song, recipe, wantedBy(recipe), "Evening", 1, taken);
        ExportOptions options = optionsOf(recipe, folder);
        bool gone = false;
        options.progress = [&](double share) {
            if (share < when || gone) return;
            gone = true;
            std::error_code problem;
            fs::rename(folder, away, problem);
        };
        const auto outcomes = writeExports(song, testFont(), items, options);
        QVERIFY(gone);
        for (const ExportOutcome& outcome : outcomes) {
            if (outcome.written) // before it went, or in the folder made anew
                QVERIFY(fs::exists(outcome.path) || fs::exists(away / outcome.path.filename()));
            else
                QVERIFY(!outcome.error.what.empty());
        }
        // Files that are there are whole; nothing half-written has a name.
        for (const fs::path& where : {folder, away})
            if (fs::exists(where))
                for (const auto& entry : fs::directory_iterator(where)) {
                    QVERIFY2(entry.path().extension() == ".wav", entry.path().c_str());
                    QVERIFY(read(entry.path()).seconds() > shortest);
                }
    }
}

void TestExportSet::namesAreFilledInOnce() {
    QCOMPARE(unknownNameWord("{set}/{n} {song} - {part} {mix} {pace}"), std::nullopt);
    QCOMPARE(unknownNameWord("plain {song"), std::nullopt); // a brace alone is a brace
    QCOMPARE(unknownNameWord("{song} {}"), std::string());
    QCOMPARE(unknownNameWord("{Song}"), std::string("Song"));
    // What a title says in braces is no word.
    Song song = waltz();
    song.title = "{part} {n}";
    Recipe recipe = plain();
    recipe.names = "{n} {song}";
    std::set<std::string> taken;
    const auto items = itemsFor(song, recipe, wantedBy(recipe), "Set", 7, taken);
    QVERIFY(!items.empty());
    QVERIFY2(items[0].fileName.starts_with("07 {part} {n}"), items[0].fileName.c_str());
}

void TestExportSet::wordsAndSheets() {
    const Song song = demoSong("pilots-evening-song.kar");
    const std::string timed = timedLyrics(song), words = lyricsText(song);
    QVERIFY(timed.starts_with("[ti:") && timed.find("\n[00:") != std::string::npos);
    QVERIFY(!words.empty() && words.find('[') == std::string::npos);
    QVERIFY(timedLyrics(song, 0.5) != timed);
    const std::string sheet =
        partSheet(edits::setOctaves(demoSong("lantern_quay.mid"), 1, 1), fontsAt(HOUSE_FONT));
    for (const char* text :
         {"<h1>Lantern Quay</h1>", "Lead cornet", "12 semitones up", "Lanterns lit", "G major", "80 bars"})
        QVERIFY2(sheet.find(text) != std::string::npos, text);
    // What is heard: ranges after octaves and keys, every sound that plays, and who is silent.
    const auto rowOf = [](const Song& of, const std::string& part) {
        const std::string all = partSheet(of, testFont());
        const auto at = all.find("<tr><td>" + part + "<");
        return at == std::string::npos ? std::string() : all.substr(at, all.find("</tr>", at) - at);
    };
    const Song two = Builder().program(0, 0, 0).note(0, 0, 1, 60).program(0, 1, 5).note(0, 1, 1, 72).song();
    const std::string name = two.parts[0].name;
    QVERIFY(rowOf(two, name).find("C4 to C5") != std::string::npos);
    QVERIFY(rowOf(edits::setKeyShift(edits::setOctaves(two, 1, -1), 2), name).find("D3 to D4") !=
            std::string::npos);
    QVERIFY(rowOf(edits::setSemitones(two, 1, 3), name).find("D#4 to D#5") != std::string::npos ||
            rowOf(edits::setSemitones(two, 1, 3), name).find("E♭4 to E♭5") != std::string::npos);
    const auto match = matchPart(two, two.parts[0], testFont());
    QCOMPARE(match.matches.size(), std::size_t{2});
    for (const Match& sound : match.matches)
        QVERIFY(rowOf(two, name).find(sound.sound->name) != std::string::npos);
    QVERIFY(rowOf(two, name).find("silent") == std::string::npos);
    QVERIFY(rowOf(edits::setMuted(two, 1, true), name).find("silent in the mix") != std::string::npos);
    Song odd = waltz();
    odd.parts[0].name = "<b>&\"";
    QVERIFY(partSheet(odd, testFont()).find("&lt;b&gt;&amp;&quot;") != std::string::npos);
}

QTEST_GUILESS_MAIN(TestExportSet)
#include "tst_exportset.moc"
