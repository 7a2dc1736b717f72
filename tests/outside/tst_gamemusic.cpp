/// The packaged game music (Debian openttd-openmsx: real General MIDI files), read by us, by python3-mido and
/// by libsmf.
#include "files/songfile.h"
#include "sound/render.h"
#include "support/support.h"

#include "song/drums/drumedits.h"
#include "song/heard/facts.h"
#include "song/heard/keysignature.h"
#include "song/heard/realise.h"
#include "song/match/match.h"
#include "song/match/songkeys.h"
#include "song/out/tomidi.h"
#include "song/shape/edits.h"
#include "song/shape/join.h"
#include "song/shape/splits.h"
#include "song/shape/tidy.h"
#include "song/snags/snags.h"

#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QProcess>
#include <QTemporaryDir>
#include <map>
#include <smf.h>

using namespace support;

namespace {

const QString folder = QStringLiteral("/usr/share/games/openttd/baseset/openmsx");

QJsonObject readByMido(const QStringList& paths) {
    QProcess process;
    process.start(QStringLiteral("/usr/bin/python3"),
                  QStringList{QStringLiteral(TEST_SOURCES "/outside/read_with_mido.py")} + paths);
    process.waitForFinished(300000);
    const QByteArray problem = process.readAllStandardError();
    if (process.exitCode() != 0) qWarning("%s", problem.constData());
    return QJsonDocument::fromJson(process.readAllStandardOutput()).object();
}

QStringList gameMusic() {
    QStringList paths;
    for (const QFileInfo& file : QDir(folder).entryInfoList({QStringLiteral("*.mid")}, QDir::Files))
        paths << file.filePath();
    return paths;
}

std::vector<std::array<int, 4>> rowsOf(const QJsonArray& json) {
    std::vector<std::array<int, 4>> rows;
    for (const auto& row : json)
        rows.push_back({row.toArray()[0].toInt(), row.toArray()[1].toInt(), row.toArray()[2].toInt(),
                        row.toArray()[3].toInt()});
    return rows;
}

std::vector<std::array<int, 4>> rowsOf(const MidiFile& file) {
    std::vector<std::array<int, 4>> rows;
    for (const Track& track : file.tracks)
        for (const Event& e : track.events)
            if (e.isChannel())
                rows.push_back({static_cast<int>(e.tick), e.isNoteOff() ? 0x90 | e.channel().value : e.status,
                                e.data1, e.isNoteOff() ? 0 : e.data2});
    std::sort(rows.begin(), rows.end());
    return rows;
}

/// The channel messages that libsmf reads, as rowsOf() has them. Empty when it does not read the file.
std::vector<std::array<int, 4>> rowsByLibsmf(const QString& path) {
    std::vector<std::array<int, 4>> rows;
    const std::unique_ptr<smf_t, decltype(&smf_delete)> smf(smf_load(path.toLocal8Bit().constData()),
                                                            &smf_delete);
    if (!smf) return rows;
    while (const smf_event_t* event = smf_get_next_event(smf.get())) {
        if (event->midi_buffer_length < 2 || event->midi_buffer[0] < 0x80 || event->midi_buffer[0] >= 0xF0)
            continue;
        int status = event->midi_buffer[0],
            second = event->midi_buffer_length > 2 ? event->midi_buffer[2] : 0;
        if ((status & 0xF0) == 0x80) {
            status = 0x90 | (status & 0x0F);
            second = 0;
        }
        rows.push_back({static_cast<int>(event->time_pulses), status, event->midi_buffer[1], second});
    }
    std::sort(rows.begin(), rows.end());
    return rows;
}

/// Whether `ours` is `theirs`, but for `added` note-ends: one file has a note that never ends, which we end.
bool sameBut(const std::vector<std::array<int, 4>>& ours, const std::vector<std::array<int, 4>>& theirs,
             std::size_t added) {
    std::vector<std::array<int, 4>> more, less;
    std::set_difference(ours.begin(), ours.end(), theirs.begin(), theirs.end(), std::back_inserter(more));
    std::set_difference(theirs.begin(), theirs.end(), ours.begin(), ours.end(), std::back_inserter(less));
    return less.empty() && more.size() == added && std::all_of(more.begin(), more.end(), [](const auto& row) {
               return (row[1] & 0xF0) == 0x90 && row[3] == 0;
           });
}

} // namespace

class TestGameMusic : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void kitsSoundWhatAnotherReaderSays();
    void fittedDrumsAreAllHeard_data();
    void fittedDrumsAreAllHeard();
    void initTestCase();
    void readsWhatMidoReads();
    void readsWhatLibsmfReads();
    void midoReadsWhatWasWritten();
    void anUnchangedSongIsWrittenWithAllItsEventsInOrder();
    void everyPartIsSplitAndJoinedAgain();
    void splitAndJoinAreStable();
    void everyPartGetsASound();
    void littleIsAskedOfAPerson();
    void keysAreThoseOfTheSignatures();
    void whatIsDoneOnOpeningChangesNoLevel();
    void doesNotClip();

  private:
    QStringList m_paths;
    QJsonObject m_mido;
};

void TestGameMusic::initTestCase() {
    m_paths = gameMusic();
    QVERIFY2(m_paths.size() > 30, "install the package that run-tests names");
    m_mido = readByMido(m_paths);
    QCOMPARE(m_mido.size(), m_paths.size());
}

void TestGameMusic::readsWhatMidoReads() {
    for (const QString& path : m_paths) {
        const QJsonObject wanted = m_mido[path].toObject();
        const auto read = readMidi(fileBytes(path), path.toStdString());
        QVERIFY(read.ok());
        const Song song = makeSong(std::make_shared<const SourceFile>(read.value()));
        QCOMPARE(read.value().midi.type, wanted["type"].toInt());
        QCOMPARE(read.value().midi.division.ticksPerQuarter, wanted["ticks"].toInt());
        QVERIFY2(std::abs(song.seconds() - wanted["length"].toDouble()) < 0.002, qPrintable(path));
        QVERIFY(std::abs(song.tempo->bpm(0) - wanted["tempo"].toDouble()) < 1e-6);
        QJsonObject notes;
        for (const Part& part : song.parts)
            if (const auto count = factsOf(song, part.source).notes)
                notes[QStringLiteral("%1/%2").arg(part.source.track + 1).arg(part.source.channel.value + 1)] =
                    count;
        QCOMPARE(notes, wanted["notes"].toObject());
        QVERIFY2(
            sameBut(rowsOf(read.value().midi), rowsOf(wanted["rows"].toArray()), read.value().damage.size()),
            qPrintable(path));
    }
}

void TestGameMusic::readsWhatLibsmfReads() {
    int read = 0;
    for (const QString& path : m_paths) {
        const auto theirs = rowsByLibsmf(path);
        if (theirs.empty()) continue; // it refuses what it does not like
        ++read;
        const auto ours = readMidi(fileBytes(path), "x.mid");
        QVERIFY2(sameBut(rowsOf(ours.value().midi), theirs, ours.value().damage.size()), qPrintable(path));
    }
    QVERIFY2(read * 10 >= m_paths.size() * 9, qPrintable(QString::number(read)));
}

void TestGameMusic::anUnchangedSongIsWrittenWithAllItsEventsInOrder() {
    // On a single track: every event of every kind, and those of one channel in the order they had.
    for (const QString& path : m_paths) {
        const Song song = songOf(fileBytes(path));
        if (song.source->midi.type == 2) continue;
        const MidiFile written = toMidi(song, Layout::SingleTrack);
        std::map<int, std::vector<std::array<int, 4>>> before, after;
        const auto sort = [](const MidiFile& file, auto& into) {
            for (std::size_t t = 0; t < file.tracks.size(); ++t)
                for (const Event& e : file.tracks[t].events)
                    if (e.isChannel())
                        into[e.channel().value].push_back(
                            {static_cast<int>(e.tick), e.status, e.data1, e.data2});
        };
        sort(written, after);
        MidiFile merged = song.source->midi; // its tracks laid one over the other, as a sequencer plays them
        for (std::size_t t = 1; t < merged.tracks.size(); ++t)
            merged.tracks[0].events.insert(merged.tracks[0].events.end(), merged.tracks[t].events.begin(),
                                           merged.tracks[t].events.end());
        merged.tracks.resize(1);
        merged.sortTracks();
        sort(merged, before);
        QVERIFY2(before == after, qPrintable(path));
        std::size_t events = 0;
        for (const Track& track : song.source->midi.tracks) events += track.events.size();
        QCOMPARE(written.tracks[0].events.size(), events);
    }
}

void TestGameMusic::everyPartIsSplitAndJoinedAgain() {
    for (const QString& path : m_paths) {
        const Song song = songOf(fileBytes(path));
        for (const Part& part : song.parts)
            for (const Split& way :
                 {splitByProgram(song, part), splitByPitch(song, part, suggestedSplitKey(song, part)),
                  splitIntoLines(song, part, 2), splitByPiece(song, part)}) {
                const Song apart = edits::split(song, part.id, way);
                if (apart == song) continue;
                std::vector<PartId> pieces = {part.id};
                std::size_t notes = 0;
                for (const Part& piece : apart.parts) {
                    if (!song.part(piece.id)) pieces.push_back(piece.id);
                    notes +=
                        song.part(piece.id) && piece.id != part.id ? 0 : realise(apart, piece).notes.size();
                }
                QCOMPARE(notes, realise(song, part).notes.size());
                const Song whole = edits::join(apart, pieces, {Unisons::KeepBoth, true, true});
                QVERIFY2(whole.part(part.id)->source.events == part.source.events, qPrintable(path));
            }
    }
}

void TestGameMusic::midoReadsWhatWasWritten() {
    QTemporaryDir place;
    QStringList written;
    for (const QString& path : m_paths) {
        const Song song = songOf(fileBytes(path));
        for (const Layout layout : {Layout::TrackPerPart, Layout::SingleTrack}) {
            written << place.filePath(QStringLiteral("%1-%2.mid")
                                          .arg(QFileInfo(path).completeBaseName())
                                          .arg(layout == Layout::SingleTrack));
            const Bytes bytes = writeMidi(toMidi(song, layout));
            QFile file(written.last());
            QVERIFY(file.open(QIODevice::WriteOnly));
            file.write(reinterpret_cast<const char*>(bytes.data()), static_cast<qint64>(bytes.size()));
        }
    }
    const QJsonObject again = readByMido(written);
    for (qsizetype i = 0; i < written.size(); ++i) {
        const QJsonObject before = m_mido[m_paths[i / 2]].toObject(), after = again[written[i]].toObject();
        QCOMPARE(after["type"].toInt(), i % 2 ? 0 : 1);
        const auto ended = readMidi(fileBytes(m_paths[i / 2]), "x").value().damage.size();
        QVERIFY2(sameBut(rowsOf(after["rows"].toArray()), rowsOf(before["rows"].toArray()), ended),
                 qPrintable(written[i]));
        QVERIFY(std::abs(after["length"].toDouble() - before["length"].toDouble()) < 0.002);
    }
}

void TestGameMusic::splitAndJoinAreStable() {
    for (const QString& path : m_paths) {
        const MidiFile once = toMidi(songOf(fileBytes(path)), Layout::TrackPerPart);
        const MidiFile twice =
            toMidi(songOf(toMidi(songOf(once), Layout::SingleTrack)), Layout::TrackPerPart);
        QVERIFY2(rowsOf(once) == rowsOf(twice), qPrintable(path));
    }
}

void TestGameMusic::littleIsAskedOfAPerson() {
    std::vector<std::size_t> counts;
    std::map<std::string, int> kinds;
    QStringList most;
    for (const QString& path : gameMusic()) {
        const auto song = openSong(path.toStdString());
        QVERIFY(song.ok());
        const auto snags = findSnags(edits::tidy(song.value()), fontsAt(HOUSE_FONT));
        counts.push_back(askedCount(snags));
        if (counts.back() > 5) most << QFileInfo(path).fileName();
        for (const Snag& snag : snags) kinds[snag.asked ? snag.kind : "(" + snag.kind + ")"] += 1;
    }
    for (const auto& [kind, count] : kinds) qInfo("%-22s %d", kind.c_str(), count);
    std::sort(counts.begin(), counts.end());
    qInfo("asked: in the middle %zu, at most %zu", counts[counts.size() / 2], counts.back());
    QVERIFY(counts[counts.size() / 2] <= 1);
    QVERIFY2(most.isEmpty(), qPrintable(most.join(QStringLiteral(", "))));
}

/// Every sixth song, each part alone.
/// Where a file says its key, that or its relative is told; C major says little. Half of them have two keys
/// at most, and none changes for less than four bars.
void TestGameMusic::keysAreThoseOfTheSignatures() {
    int signedFiles = 0;
    std::vector<std::size_t> counts;
    for (const QString& path : gameMusic()) {
        const Song song = songOf(fileBytes(path));
        const auto signatures = signaturesOf(song);
        if (!signatures.empty() && (signatures[0].sharps != 0 || signatures[0].minor)) {
            ++signedFiles;
            QVERIFY2((sharpsOf(keyOfSong(song)) - signatures[0].sharps) % 12 == 0, qPrintable(path));
        }
        const auto keys = keysBySection(song);
        counts.push_back(keys.size());
        for (std::size_t i = 1; i < keys.size(); ++i)
            QVERIFY2(song.tempo->position(keys[i].start).bar - song.tempo->position(keys[i - 1].start).bar >=
                         4,
                     qPrintable(path));
    }
    QVERIFY(signedFiles >= 7);
    std::sort(counts.begin(), counts.end());
    QVERIFY(counts[counts.size() / 2] <= 2);
    QVERIFY(counts.back() <= 6);
}

void TestGameMusic::whatIsDoneOnOpeningChangesNoLevel() {
    const QStringList paths = gameMusic();
    std::size_t done = 0;
    for (qsizetype i = 0; i < paths.size(); i += 6) {
        const auto read = openSong(paths[i].toStdString());
        const Song& song = read.value();
        const Song tidy = edits::tidy(song);
        done += tidy.tidied.size();
        const auto levels = [&](const Song& of) {
            InstrumentBank bank(22050);
            const auto plan = makePlan(of, fontsAt(HOUSE_FONT), matchSong(of, fontsAt(HOUSE_FONT)), bank);
            std::vector<double> sums(of.parts.size(), 0);
            std::vector<MixOrder> orders;
            for (std::size_t part = 0; part < of.parts.size(); ++part)
                orders.push_back(
                    {edits::onlyPart(of, of.parts[part].id), [&sums, part](std::span<const float> samples) {
                         for (const float v : samples) sums[part] += static_cast<double>(v) * v;
                         return true;
                     }});
            renderMixes(*plan, orders);
            return sums;
        };
        const auto before = levels(song), after = levels(tidy);
        for (std::size_t part = 0; part < before.size(); ++part)
            if (before[part] > 1e-9) {
                const double off = 10 * std::log10(after[part] / before[part]);
                QVERIFY2(std::abs(off) < 0.1, qPrintable(QStringLiteral("%1: %2 dB").arg(paths[i]).arg(off)));
            }
    }
    QVERIFY(done > 20);
}

void TestGameMusic::everyPartGetsASound() {
    const Catalogue house = fontsAt(HOUSE_FONT);
    for (const QString& path : m_paths) {
        const Song song = songOf(fileBytes(path));
        for (const PartMatch& match : matchSong(song, house))
            for (const Match& one : match.matches) QVERIFY2(one.how != How::None, qPrintable(path));
    }
}

void TestGameMusic::doesNotClip() {
    const Catalogue house = fontsAt(HOUSE_FONT);
    for (const QString& path : m_paths) {
        const float most = peak(renderToMemory(songOf(fileBytes(path)), house, 16000));
        QVERIFY2(most < 1, qPrintable(QStringLiteral("%1: %2").arg(path).arg(most)));
    }
}

/// Source: the npm package soundfont2 reading Debian's fluid-soundfont-gm (read-font.cjs beside this file).
void TestGameMusic::kitsSoundWhatAnotherReaderSays() {
    QFile expected(QStringLiteral(TEST_SOURCES "/outside/fluidr3.txt"));
    QVERIFY(expected.open(QIODevice::ReadOnly));
    const auto font = readSoundFont("/usr/share/sounds/sf2/FluidR3_GM.sf2");
    QVERIFY(font.ok());
    int kits = 0;
    for (const QString& line :
         QString::fromUtf8(expected.readAll()).split(QLatin1Char('\n'), Qt::SkipEmptyParts)) {
        const QStringList fields = line.split(QLatin1Char('\t'));
        if (fields[0].toInt() != kitBank) continue;
        const Preset* preset = font.value().find(kitBank, fields[1].toInt());
        QVERIFY(preset);
        const KitKeys keys(font.value(), *preset);
        std::bitset<128> sounding;
        for (const QString& range : fields[3].split(QLatin1Char(',')))
            for (int k = range.section(QLatin1Char('-'), 0, 0).toInt();
                 k <= range.section(QLatin1Char('-'), 1).toInt(); ++k)
                sounding.set(static_cast<std::size_t>(k));
        for (std::uint8_t k = 0; k < 128; ++k) QCOMPARE(keys.soundsAtAll(Key{k}), sounding.test(k));
        ++kits;
    }
    QVERIFY(kits > 5);
}

void TestGameMusic::fittedDrumsAreAllHeard_data() {
    QTest::addColumn<QString>("font");
    QTest::newRow("house font") << QStringLiteral(HOUSE_FONT);
    QTest::newRow("fluid-soundfont-gm") << QStringLiteral("/usr/share/sounds/sf2/FluidR3_GM.sf2");
}

void TestGameMusic::fittedDrumsAreAllHeard() {
    QFETCH(QString, font);
    const Catalogue fonts = scanFonts({{}, {}, {font.toStdString()}}, {});
    int hits = 0;
    for (const QString& path : gameMusic()) {
        const Song song = songOf(fileBytes(path), path.toStdString());
        // As written to a file and read again, so that what counts is what others get.
        const Song fitted = songOf(toMidi(edits::fitKits(song, fonts), Layout::TrackPerPart));
        const auto count = [&](const Song& of) {
            std::pair<int, int> sum;
            const auto matches = matchSong(of, fonts);
            for (std::size_t i = 0; i < of.parts.size(); ++i)
                if (of.parts[i].source.drums && !of.parts[i].aside)
                    for (const DrumNote& note : drumNotesOf(of, of.parts[i], matches[i], fonts)) {
                        sum.first += note.hits;
                        sum.second += note.silent;
                    }
            return sum;
        };
        QCOMPARE(count(fitted).second, 0);
        QCOMPARE(count(fitted).first, count(song).first);
        hits += count(song).first;
    }
    QVERIFY(hits > 20000);
}

QTEST_APPLESS_MAIN(TestGameMusic)
#include "tst_gamemusic.moc"
