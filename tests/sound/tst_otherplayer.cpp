/// What is heard against libfluidsynth's own file player on the original file, where the standards leave both
/// no choice: levels, places and pitch.
#include "support/support.h"

#include "midi/writer.h"
#include "sound/fontinstrument.h"
#include "sound/render.h"

#include <QDir>
#include <QTemporaryDir>
#include <fluidsynth.h>

using namespace support;

namespace {

/// The file through the library's player: interleaved stereo, without reverb and chorus.
std::vector<float> playedByOther(const MidiFile& file, const char* font, double seconds) {
    const auto bytes = writeMidi(file);
    fluid_settings_t* settings = new_fluid_settings();
    fluid_settings_setnum(settings, "synth.sample-rate", rate);
    fluid_settings_setnum(settings, "synth.gain", fontGain);
    fluid_settings_setint(settings, "synth.reverb.active", 0);
    fluid_settings_setint(settings, "synth.chorus.active", 0);
    fluid_settings_setint(settings, "synth.polyphony", fontVoices);
    fluid_settings_setint(settings, "synth.lock-memory", 0);
    fluid_settings_setstr(settings, "player.timing-source", "sample");
    fluid_synth_t* synth = new_fluid_synth(settings);
    fluid_synth_sfload(synth, font, 1);
    fluid_player_t* player = new_fluid_player(synth);
    fluid_player_add_mem(player, bytes.data(), bytes.size());
    fluid_player_play(player);
    std::vector<float> samples;
    std::vector<float> left(512), right(512);
    while (static_cast<double>(samples.size()) / 2 < seconds * rate) {
        fluid_synth_write_float(synth, 512, left.data(), 0, 1, right.data(), 0, 1);
        for (std::size_t i = 0; i < left.size(); ++i) samples.insert(samples.end(), {left[i], right[i]});
    }
    fluid_player_stop(player);
    delete_fluid_player(player);
    delete_fluid_synth(synth);
    delete_fluid_settings(settings);
    return samples;
}

std::vector<float> playedByUs(Song song, const char* font, double seconds) {
    song.room = 0;
    auto samples = renderToMemory(song, fontsAt(font), rate, {100, {}, {}, 0, seconds, 0});
    samples.resize(static_cast<std::size_t>(seconds * rate) * 2);
    return samples;
}

/// A setup track says what the channel is to do, another has its notes: as many files are.
MidiFile spread(const std::function<void(MidiFile&)>& setup) {
    Builder b(1, 3);
    setup(b.file);
    for (int i = 0; i < 4; ++i) b.note(0, 0.5 + i, 0.8, 60 + 2 * i, 100, 2);
    b.file.sortTracks();
    return b.file;
}

} // namespace

class TestOtherPlayer : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void whatOtherTracksSay_data();
    void whatOtherTracksSay();
    void theGameMusic();
};

void TestOtherPlayer::whatOtherTracksSay_data() {
    QTest::addColumn<int>("kind");
    const char* kinds[] = {"nothing",          "volume and expression", "pan",          "program", "bend",
                           "bend range of 12", "volume that moves",     "coarse tuning"};
    for (int i = 0; i < static_cast<int>(std::size(kinds)); ++i) QTest::newRow(kinds[i]) << i;
}

void TestOtherPlayer::whatOtherTracksSay() {
    QFETCH(int, kind);
    const MidiFile file = spread([kind](MidiFile& f) {
        const auto cc = [&](double seconds, int number, int value) {
            f.addChannel(1, Builder::at(seconds), 0xB0, static_cast<std::uint8_t>(number),
                         static_cast<std::uint8_t>(value));
        };
        const auto rpn = [&](int number, int value) {
            cc(0, 101, 0), cc(0, 100, number), cc(0, 6, value), cc(0, 38, 0);
        };
        switch (kind) {
        case 1: cc(0, 7, 70), cc(0, 11, 90); break;
        case 2: cc(0, 10, 20), cc(2.4, 10, 110); break;
        case 3: f.addChannel(1, 0, 0xC0, 5); break;
        case 4: f.addChannel(1, Builder::at(1.4), 0xE0, 0, 96); break;
        case 5: rpn(0, 12), f.addChannel(1, Builder::at(1.4), 0xE0, 0, 96); break;
        case 6:
            for (int i = 0; i < 20; ++i) cc(0.2 * i, 7, 30 + 4 * i);
            break;
        case 7: rpn(2, 67); break;
        default: break;
        }
    });
    const auto theirs = playedByOther(file, TEST_FONT, 5), ours = playedByUs(songOf(file), TEST_FONT, 5);
    for (int note = 0; note < 4; ++note) {
        const double from = 0.6 + note, to = from + 0.6;
        for (const int side : {0, 1}) {
            const auto a = cut(ours, side, from, to), b = cut(theirs, side, from, to);
            if (rms(b) < 1e-5) continue;
            QVERIFY2(
                std::abs(db(rms(a), rms(b))) < 1,
                qPrintable(
                    QStringLiteral("note %1, side %2: %3 dB").arg(note).arg(side).arg(db(rms(a), rms(b)))));
        }
        // The strongest tone near where the other has it.
        const auto a = cut(ours, 0, from, to), b = cut(theirs, 0, from, to);
        double best = 0, hz = 0;
        for (int key = 30; key < 100; ++key)
            if (const double s = strength(b, keyHz(key)); s > best) best = s, hz = keyHz(key);
        // The library's bends are a few cents short where the range is wide; there the standard counts.
        const bool wide = kind == 5;
        const double cents = 1200 * std::log2(frequencyOf(a, hz) / (wide ? hz : frequencyOf(b, hz)));
        QVERIFY2(std::abs(cents) < (wide ? 2 : 5),
                 qPrintable(QStringLiteral("note %1: %2 cents").arg(note).arg(cents)));
    }
}

void TestOtherPlayer::theGameMusic() {
    const QDir folder(QStringLiteral("/usr/share/games/openttd/baseset/openmsx"));
    const auto names = folder.entryList({QStringLiteral("*.mid")}, QDir::Files, QDir::Name);
    QVERIFY2(names.size() > 30, "run-tests installs openttd-openmsx");
    int close = 0, all = 0;
    for (qsizetype i = 0; i < names.size(); i += 4) { // every fourth, its first 15 seconds
        const auto read = readMidi(fileBytes(folder.filePath(names[i])), names[i].toStdString());
        QVERIFY(read.ok());
        const Song song = makeSong(std::make_shared<const SourceFile>(read.value()));
        const auto ours = playedByUs(song, HOUSE_FONT, 15),
                   theirs = playedByOther(read.value().midi, HOUSE_FONT, 15);
        const double difference = db(rms(cut(ours, 0, 0, 15)) + rms(cut(ours, 1, 0, 15)),
                                     rms(cut(theirs, 0, 0, 15)) + rms(cut(theirs, 1, 0, 15)));
        qInfo("%s: %+.2f dB", qPrintable(names[i]), difference);
        // Where tracks share a channel and each says its own, each keeps its own here; a device has one
        // state.
        std::set<std::pair<int, int>> channels;
        const bool shared = std::any_of(song.parts.begin(), song.parts.end(), [&](const Part& part) {
            return !part.aside && !channels.emplace(part.source.port, part.source.channel.value).second;
        });
        QVERIFY(std::abs(difference) < (shared ? 0.5 : 0.1));
        close += !shared;
        ++all;
    }
    QVERIFY2(close * 2 > all, qPrintable(QStringLiteral("%1 of %2").arg(close).arg(all)));
}

QTEST_GUILESS_MAIN(TestOtherPlayer)
#include "tst_otherplayer.moc"
