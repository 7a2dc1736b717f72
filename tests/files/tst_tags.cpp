/// What sound files say of themselves, read by other libraries: mutagen, and for cue points libsndfile.
#include "support/support.h"

#include "files/exports.h"
#include "files/lyricstext.h"
#include "song/heard/keysignature.h"
#include "song/shape/edits.h"

#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QProcess>
#include <QTemporaryDir>
#include <sndfile.h>

using namespace support;

namespace {

/// Two sections of two bars, a verse and a chorus, with words, in E flat.
Song tagged() {
    Builder b;
    for (int i = 0; i < 8; ++i) b.note(0, i, 0.9, 60 + i);
    b.file.addText(0, 0, meta::trackName, "Gaslight");
    b.file.addText(0, 0, meta::copyright, "© the Harbour Band");
    b.file.addMeta(0, 0, meta::keySignature, hex("FD00"));
    b.file.addText(0, 0, meta::marker, "Verse");
    b.file.addText(0, Builder::at(4), meta::marker, "Chorus – brighter");
    for (int i = 0; i < 4; ++i) b.file.addText(0, Builder::at(i), meta::lyric, i == 2 ? "\rlamps " : "lamp ");
    Song song = b.song();
    song.title = "Gaslight";
    return song;
}

QJsonObject tagsOf(const std::filesystem::path& file) {
    QProcess process;
    process.start(QStringLiteral("/usr/bin/python3"),
                  {QStringLiteral(TEST_SOURCES "/files/readtags.py"), QString::fromStdString(file.string())});
    process.waitForFinished(30000);
    return QJsonDocument::fromJson(process.readAllStandardOutput()).object();
}

/// Cue points of a WAV file with their labels, as libsndfile reads them, in seconds.
std::vector<std::pair<double, std::string>> cuesOf(const std::filesystem::path& path) {
    SF_INFO info{};
    SNDFILE* file = sf_open(path.c_str(), SFM_READ, &info);
    SF_CUES cues{};
    std::vector<std::pair<double, std::string>> found;
    if (sf_command(file, SFC_GET_CUE, &cues, sizeof cues) == SF_TRUE)
        for (std::uint32_t i = 0; i < cues.cue_count; ++i)
            found.emplace_back(static_cast<double>(cues.cue_points[i].sample_offset) / info.samplerate,
                               cues.cue_points[i].name);
    sf_close(file);
    return found;
}

ExportOutcome written(const Song& song, const std::filesystem::path& folder, ExportOptions options) {
    ExportItem item{ExportItem::Kind::Full, 0, {}, "song" + std::string(formatEnding(options.format))};
    options.folder = folder;
    options.existing = Existing::Replace;
    return writeExports(song, testFont(), {item}, options).front();
}

} // namespace

class TestTags : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void everyFormatSaysTheSame_data();
    void everyFormatSaysTheSame();
    void chaptersGoWithWhatIsWritten();
    void waveFilesHaveCuePoints();
    void keysAreSpelled_data();
    void keysAreSpelled();
    void theSoundIsTheSameWithTags();
};

void TestTags::everyFormatSaysTheSame_data() {
    QTest::addColumn<int>("format");
    for (const SoundFormat format : soundFormats())
        QTest::newRow(std::string(formatId(format)).c_str()) << static_cast<int>(format);
}

void TestTags::everyFormatSaysTheSame() {
    QFETCH(int, format);
    QTemporaryDir folder;
    ExportOptions options;
    options.format = static_cast<SoundFormat>(format);
    options.pace = 80;
    options.album = "Lantern festival";
    options.track = 3;
    const ExportOutcome outcome = written(tagged(), folder.path().toStdString(), options);
    QVERIFY2(outcome.written, outcome.error.message().c_str());
    const QJsonObject tags = tagsOf(outcome.path);
    QCOMPARE(tags["title"].toString(), QStringLiteral("Gaslight"));
    QCOMPARE(tags["album"].toString(), QStringLiteral("Lantern festival"));
    QCOMPARE(tags["track"].toString(), QStringLiteral("3"));
    QCOMPARE(tags["bpm"].toString(), QStringLiteral("96")); // 120 at 80 %
    QCOMPARE(tags["key"].toString(), QStringLiteral("Eb"));
    QCOMPARE(tags["copyright"].toString(), QString::fromUtf8("© the Harbour Band"));
    QCOMPARE(tags["comment"].toString(), QStringLiteral("Pace 80%"));
    QCOMPARE(tags["words"].toString().toStdString(), lyricsText(tagged()));
    QList<std::pair<double, QString>> chapters;
    if (formatEnding(options.format) == ".wav")
        for (const auto& [seconds, name] : cuesOf(outcome.path))
            chapters.emplace_back(seconds, QString::fromStdString(name));
    else
        for (const auto& chapter : tags["chapters"].toArray())
            chapters.emplace_back(chapter[0].toDouble(), chapter[1].toString());
    QCOMPARE(chapters.size(), 2);
    QCOMPARE(chapters[0].second, QStringLiteral("Verse"));
    QCOMPARE(chapters[1].second, QString::fromUtf8("Chorus – brighter"));
    QVERIFY(std::abs(chapters[0].first) < 0.002 && std::abs(chapters[1].first - 5) < 0.002);
}

/// They stand where the music is: after the count, before what is trimmed, at the start of a stretch.
void TestTags::chaptersGoWithWhatIsWritten() {
    QTemporaryDir folder;
    const auto placesOf = [&](ExportOptions options) {
        options.format = SoundFormat::Flac;
        std::vector<double> places;
        const auto outcome = written(tagged(), folder.path().toStdString(), options);
        for (const auto& chapter : tagsOf(outcome.path)["chapters"].toArray())
            places.push_back(chapter[0].toDouble());
        return places;
    };
    ExportOptions options;
    options.finish.countIn = 1; // of two seconds
    QCOMPARE(placesOf(options), (std::vector<double>{2, 6}));
    options.finish = {};
    options.firstBar = 2;
    QCOMPARE(placesOf(options), (std::vector<double>{0, 2}));
    options.lastBar = 2; // one section alone needs no chapter
    QCOMPARE(placesOf(options), (std::vector<double>{}));
}

void TestTags::waveFilesHaveCuePoints() {
    QTemporaryDir folder;
    const auto outcome = written(tagged(), folder.path().toStdString(), {});
    QCOMPARE(cuesOf(outcome.path),
             (std::vector<std::pair<double, std::string>>{{0, "Verse"}, {4, "Chorus – brighter"}}));
    // The RIFF chunk is as long as the file, and its chunks fill it.
    const Bytes bytes = fileBytes(QString::fromStdString(outcome.path.string()));
    const auto number = [&](std::size_t at) {
        return std::size_t{bytes[at]} | std::size_t{bytes[at + 1]} << 8 | std::size_t{bytes[at + 2]} << 16 |
               std::size_t{bytes[at + 3]} << 24;
    };
    QCOMPARE(number(4) + 8, bytes.size());
    std::size_t at = 12;
    while (at + 8 <= bytes.size()) at += 8 + number(at + 4) + number(at + 4) % 2;
    QCOMPARE(at, bytes.size());
}

void TestTags::keysAreSpelled_data() {
    QTest::addColumn<QByteArray>("signature");
    QTest::addColumn<int>("shift");
    QTest::addColumn<QString>("key");
    // SMF 1.0: sharps (flats below 0), then 1 for minor. Keys by the circle of fifths.
    const std::tuple<const char*, int, const char*> rows[] = {
        {"0000", 0, ""},     {"0001", 0, "Am"},  {"0100", 0, "G"},   {"0700", 0, "C#"},  {"F900", 0, "Cb"},
        {"FF01", 0, "Dm"},   {"0601", 0, "D#m"}, {"FA01", 0, "Ebm"}, {"0301", 0, "F#m"}, {"F901", 0, "Abm"},
        {"0701", 0, "A#m"},  {"0100", 2, "A"},   {"0100", -1, "F#"}, {"FE00", 1, "B"},   {"0001", 1, "Bbm"},
        {"FE00", -14, "Ab"}, {"0800", 0, ""},    {"0100", 12, "G"}};
    for (const auto& [signature, shift, key] : rows)
        QTest::addRow("%s %+d", signature, shift)
            << QByteArray::fromHex(signature) << shift << QString::fromLatin1(key);
}

void TestTags::keysAreSpelled() {
    QFETCH(QByteArray, signature);
    QFETCH(int, shift);
    QFETCH(QString, key);
    Builder b;
    b.note(0, 0, 1, 60);
    b.file.addMeta(0, 0, meta::keySignature, Bytes(signature.begin(), signature.end()));
    QCOMPARE(QString::fromStdString(signatureKey(edits::setKeyShift(b.song(), shift))), key);
    QVERIFY(signatureKey(Builder().note(0, 0, 1, 60).song()).empty());
}

/// Tags change no sample.
void TestTags::theSoundIsTheSameWithTags() {
    QTemporaryDir folder;
    Song bare = Builder().note(0, 0, 2, 60).song();
    bare.title.clear();
    for (const SoundFormat format : {SoundFormat::Wav24, SoundFormat::Flac}) {
        ExportOptions options;
        options.format = format;
        const auto samplesOf = [&](const Song& song, const char* place) {
            const auto outcome =
                written(song, folder.filePath(QString::fromUtf8(place)).toStdString(), options);
            SF_INFO info{};
            SNDFILE* file = sf_open(outcome.path.c_str(), SFM_READ, &info);
            std::vector<float> samples(static_cast<std::size_t>(2 * info.frames));
            sf_readf_float(file, samples.data(), info.frames);
            sf_close(file);
            return samples;
        };
        Song named = bare;
        named.title = std::string(100000, 'x'); // more than any room that an encoder leaves
        const auto plain = samplesOf(bare, "a"), tagsToo = samplesOf(named, "b");
        QVERIFY(plain.size() > 100000 && plain == tagsToo);
    }
}

QTEST_GUILESS_MAIN(TestTags)
#include "tst_tags.moc"
