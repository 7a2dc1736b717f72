#include "support/support.h"

#include "song/model/levels.h"
#include "song/shape/edits.h"
#include "sound/engine.h"
#include "sound/fontinstrument.h"
#include "sound/otherfonts.h"
#include "sound/render.h"

using namespace support;

namespace {

std::vector<float> heard(Builder b) {
    static const Catalogue font = testFont();
    Song song = b.song();
    song.room = 0;
    return renderToMemory(song, font, rate);
}

/// How loud the left channel is between 0.5 s and 1 s of a note that carries these controllers.
double levelWith(std::vector<std::pair<int, int>> controllers, int side = 0, int velocity = 127) {
    Builder b;
    b.program(0, 0, 0);
    for (const auto& [number, value] : controllers) b.cc(0, 0, number, value);
    b.note(0, 0.1, 1.5, 69, velocity);
    return rms(cut(heard(b), side, 0.5, 1.0));
}

} // namespace

class TestRender : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void pitchIsExact_data();
    void pitchIsExact();
    void theSoundAskedForIsHeard_data();
    void theSoundAskedForIsHeard();
    void theFallbackIsHeard_data();
    void theFallbackIsHeard();
    void programChangesWithinAPart();
    void aChosenSoundWithstandsTheData();
    void volumeAndExpressionFollowTheLaw_data();
    void volumeAndExpressionFollowTheLaw();
    void panFollowsTheLaw_data();
    void panFollowsTheLaw();
    void aPartsPanIsOnTopOfTheFiles();
    void bends();
    void bendRangeIsFollowed();
    void sustainHolds();
    void resetAllControllersLeavesVolume();
    void isEqualToTheBit();
    void sharesSoundAsTheWhole();
    void stemsSumToTheMix();
    void paceKeepsPitch();
    void octaveAndKey();
    void levelPanAndRoleOfAPart();
    void theLastHitSoundsToItsEnd_data();
    void theLastHitSoundsToItsEnd();
    void tailsKeepTheirLevel();
    void stopsWhenAsked();
    void manyPartsAndPorts();
    void aDlsFileIsListedAndPlayed();
    void demoSongsDoNotClip_data();
    void demoSongsDoNotClip();
};

void TestRender::pitchIsExact_data() {
    QTest::addColumn<int>("key");
    for (const int key : {36, 48, 60, 69, 76, 84, 96}) QTest::newRow(qPrintable(QString::number(key))) << key;
}

void TestRender::pitchIsExact() {
    // Equal temperament, A4 = 440 Hz (ISO 16).
    QFETCH(int, key);
    const auto tone = cut(heard(Builder().program(0, 0, 0).note(0, 0, 3, key)), 0, 0.5, 2.9);
    const double off = cents(frequencyOf(tone, keyHz(key)), keyHz(key));
    QVERIFY2(std::abs(off) < 1, qPrintable(QStringLiteral("%1 cents").arg(off)));
}

void TestRender::theSoundAskedForIsHeard_data() {
    // The test font: program p has harmonic h + 2 where bit h of p is set; bank 8 has the tenth harmonic too.
    QTest::addColumn<int>("program");
    QTest::addColumn<int>("heardProgram");
    for (const int program : {0, 1, 5, 42, 73, 127})
        QTest::newRow(qPrintable(QString::number(program))) << program << program;
    QTest::newRow("missing, so the nearest of its family") << 9 << 8;
}

void TestRender::theSoundAskedForIsHeard() {
    QFETCH(int, program);
    QFETCH(int, heardProgram);
    const int key = 55;
    const auto tone = cut(heard(Builder().program(2, 0, program).note(2, 0, 2, key)), 0, 0.5, 1.9);
    const double one = strength(tone, keyHz(key));
    int code = 0;
    for (int bit = 0; bit < 7; ++bit)
        if (strength(tone, keyHz(key) * (bit + 2)) > one * 0.2) code |= 1 << bit;
    QCOMPARE(code, heardProgram);
}

void TestRender::theFallbackIsHeard_data() {
    // The test font has bank 8 (with the tenth harmonic) for programs 0–7 only. Resets and bank rules: GS and
    // XG by their makers' published convention, GM2 RP-024; from memory.
    QTest::addColumn<QString>("reset");
    QTest::addColumn<int>("msb");
    QTest::addColumn<int>("lsb");
    QTest::addColumn<int>("program");
    QTest::addColumn<bool>("tenth");
    const QString gm = QStringLiteral("7E7F0901F7"), gm2 = QStringLiteral("7E7F0903F7"),
                  gs = QStringLiteral("4110421240007F0041F7"), xg = QStringLiteral("43104C00007E00F7");
    QTest::newRow("GM: banks count for nothing") << gm << 8 << 0 << 5 << false;
    QTest::newRow("GS: a variation that is there") << gs << 8 << 0 << 5 << true;
    QTest::newRow("GS: one that is not falls to the capital tone") << gs << 16 << 0 << 5 << false;
    QTest::newRow("GS: the program has none") << gs << 8 << 0 << 42 << false;
    QTest::newRow("XG: a variation by LSB") << xg << 0 << 8 << 5 << true;
    QTest::newRow("XG: one that is not") << xg << 0 << 40 << 5 << false;
    QTest::newRow("GM2: a variation by LSB") << gm2 << 121 << 8 << 5 << true;
    QTest::newRow("GM2: one that is not") << gm2 << 121 << 3 << 5 << false;
    QTest::newRow("none said: MSB counts") << QString() << 8 << 0 << 5 << true;
}

void TestRender::theFallbackIsHeard() {
    QFETCH(QString, reset);
    QFETCH(int, msb);
    QFETCH(int, lsb);
    QFETCH(int, program);
    QFETCH(bool, tenth);
    Builder b;
    if (!reset.isEmpty()) b.sysex(qPrintable(reset));
    b.cc(2, 0, 0, msb).cc(2, 0, 32, lsb).program(2, 0, program).note(2, 0.1, 2, 45);
    const auto tone = cut(heard(b), 0, 0.5, 1.9);
    const double one = strength(tone, keyHz(45));
    int code = 0;
    for (int bit = 0; bit < 7; ++bit)
        if (strength(tone, keyHz(45) * (bit + 2)) > one * 0.2) code |= 1 << bit;
    QCOMPARE(code, program);
    QCOMPARE(strength(tone, keyHz(45) * 10) > one * 0.1, tenth);
}

void TestRender::programChangesWithinAPart() {
    const auto sound = heard(Builder().program(0, 0, 0).note(0, 0, 1, 60).program(0, 1, 1).note(0, 1, 1, 60));
    const auto second = [&](double from) {
        const auto tone = cut(sound, 0, from, from + 0.7);
        return strength(tone, keyHz(60) * 2) / strength(tone, keyHz(60));
    };
    QVERIFY(second(0.1) < 0.02);
    QVERIFY(second(1.1) > 0.3);
}

void TestRender::aChosenSoundWithstandsTheData() {
    Song song = Builder()
                    .program(0, 0, 5)
                    .cc(0, 0.05, 0, 8)
                    .program(0, 0.06, 7)
                    .note(0, 0.1, 1, 60)
                    .cc(0, 0.3, 121, 0)
                    .program(0, 0.5, 3)
                    .note(0, 1.2, 1, 60)
                    .song();
    song.room = 0;
    song = edits::chooseSound(song, 1, {houseFontId, 0, 2, "x"}); // the third harmonic alone
    const auto sound = renderToMemory(song, testFont(), rate);
    for (const double from : {0.2, 1.3}) {
        const auto tone = cut(sound, 0, from, from + 0.7);
        QVERIFY(strength(tone, keyHz(60) * 3) > 0.3 * strength(tone, keyHz(60)));
        QVERIFY(strength(tone, keyHz(60) * 2) < 0.02 * strength(tone, keyHz(60)));
    }
}

void TestRender::volumeAndExpressionFollowTheLaw_data() {
    QTest::addColumn<int>("controller");
    QTest::addColumn<int>("value");
    for (const int controller : {7, 11})
        for (const int value : {127, 100, 80, 64, 40, 20})
            QTest::newRow(qPrintable(QStringLiteral("cc %1 = %2").arg(controller).arg(value)))
                << controller << value;
}

void TestRender::volumeAndExpressionFollowTheLaw() {
    // General MIDI developer guidelines: gain in dB = 40·log10(v/127), volume and expression added.
    QFETCH(int, controller);
    QFETCH(int, value);
    const double loudest = levelWith({{7, 127}, {11, 127}});
    const double now = levelWith(controller == 7 ? std::vector<std::pair<int, int>>{{7, value}, {11, 127}}
                                                 : std::vector<std::pair<int, int>>{{7, 127}, {11, value}});
    const double off = db(now, loudest) - 40 * std::log10(value / 127.0);
    QVERIFY2(std::abs(off) < 0.1, qPrintable(QStringLiteral("%1 dB off").arg(off)));
}

void TestRender::panFollowsTheLaw_data() {
    QTest::addColumn<int>("value");
    for (const int value : {0, 1, 16, 32, 64, 90, 112, 126})
        QTest::newRow(qPrintable(QString::number(value))) << value;
}

void TestRender::panFollowsTheLaw() {
    // RP-036: left = cos(π/2·(v−1)/126), right = sin(…), v = max(1, CC10).
    QFETCH(int, value);
    const double angle = std::numbers::pi / 2 * (std::max(1, value) - 1) / 126;
    const double left = levelWith({{10, value}}, 0), right = levelWith({{10, value}}, 1);
    const double whole = std::hypot(left, right);
    QVERIFY(std::abs(left / whole - std::cos(angle)) < 0.006); // within 0.1 dB where it is loud
    QVERIFY(std::abs(right / whole - std::sin(angle)) < 0.006);
}

/// A part's own pan and the file's together are what the file would sound like with the sum, to the bit, in a
/// part and its layers.
void TestRender::aPartsPanIsOnTopOfTheFiles() {
    const auto song = [](int before, int after, bool layered) {
        Builder b;
        b.program(0, 0, 0).cc(0, 0, cc::pan, before).cc(0, 1, cc::pan, after).note(0, 0, 2, 60);
        const Song plain = b.song();
        return layered ? edits::addLayer(plain, 1, {testFont().defaultFont()->id, 0, 1, "Layer"}) : plain;
    };
    for (const bool layered : {false, true}) {
        const Song moved = edits::setPan(song(20, 90, layered), 1, 0.5); // 32 steps of the controller
        QCOMPARE(renderToMemory(moved, testFont(), rate),
                 renderToMemory(song(52, 122, layered), testFont(), rate));
        QVERIFY(renderToMemory(moved, testFont(), rate) !=
                renderToMemory(song(20, 90, layered), testFont(), rate));
    }
    // From one side to the other it stays as loud, as nearly as the library's steps of places allow.
    const auto levelAt = [&](double pan) {
        const auto heard = renderToMemory(edits::setPan(song(1, 1, false), 1, pan), testFont(), rate);
        return std::hypot(rms(cut(heard, 0, 0.5, 0.9)), rms(cut(heard, 1, 0.5, 0.9)));
    };
    for (const double pan : {0.3, 0.7, 1.0})
        QVERIFY2(std::abs(db(levelAt(pan), levelAt(0))) < 0.25,
                 qPrintable(QString::number(db(levelAt(pan), levelAt(0)))));
}

void TestRender::bends() {
    // MIDI 1.0: centre 8192; the default range is two semitones.
    const auto tone =
        cut(heard(Builder().program(0, 0, 0).bend(0, 0, 8192 + 4096).note(0, 0.1, 2, 69)), 0, 0.5, 1.9);
    QVERIFY(std::abs(cents(frequencyOf(tone, keyHz(70)), keyHz(70))) < 1.5);
}

void TestRender::bendRangeIsFollowed() {
    const auto tone = cut(heard(Builder()
                                    .program(0, 0, 0)
                                    .cc(0, 0, 101, 0)
                                    .cc(0, 0, 100, 0)
                                    .cc(0, 0, 6, 12)
                                    .bend(0, 0.01, 0)
                                    .note(0, 0.1, 2, 69)),
                          0, 0.5, 1.9);
    const double off = cents(frequencyOf(tone, keyHz(57)), keyHz(57));
    // The default modulator of SoundFont 2.04 (8.4.10) works in steps of 1/128 of the range.
    QVERIFY2(std::abs(off) < 3, qPrintable(QStringLiteral("%1 cents").arg(off)));
}

void TestRender::sustainHolds() {
    const auto held =
        heard(Builder().program(0, 0, 0).cc(0, 0, 64, 127).note(0, 0, 0.3, 60).cc(0, 1.5, 64, 0));
    QVERIFY(rms(cut(held, 0, 1.0, 1.3)) > 0.01);
    QVERIFY(rms(cut(held, 0, 1.6, 1.7)) < 0.001);
}

void TestRender::resetAllControllersLeavesVolume() {
    // RP-015: volume and pan stay; expression, bend and pedal go back.
    const auto sound = heard(
        Builder().program(0, 0, 0).cc(0, 0, 7, 64).cc(0, 0, 11, 40).cc(0, 0.05, 121, 0).note(0, 0.1, 1, 69));
    QVERIFY(std::abs(db(rms(cut(sound, 0, 0.4, 0.9)), levelWith({{7, 64}, {11, 127}}))) < 0.1);
}

void TestRender::isEqualToTheBit() {
    const Song song = demoSong("TIDEMILL.MID");
    const Catalogue house = fontsAt(HOUSE_FONT);
    QVERIFY(renderToMemory(song, house, 22050) == renderToMemory(song, house, 22050));
}

/// The plan's shares one after the other, each with lanes of its own, against one that has all.
void TestRender::sharesSoundAsTheWhole() {
    const Song song = demoSong("TIDEMILL.MID");
    const Catalogue house = fontsAt(HOUSE_FONT);
    const int frames = 20 * rate / maxFrames * maxFrames;
    const auto rendered = [&](bool inShares) {
        InstrumentBank bank(rate);
        const auto plan = makePlan(song, house, matchSong(song, house), bank);
        std::vector<std::vector<float>> samples(2 * plan->parts.size(), std::vector<float>(frames));
        std::vector<StereoBlock> blocks;
        for (std::size_t i = 0; i < samples.size(); i += 2)
            blocks.push_back({samples[i].data(), samples[i + 1].data()});
        const int shares = inShares ? plan->shares : 1;
        for (int share = 0; share < shares; ++share) {
            Lanes lanes = inShares ? Lanes(share) : Lanes();
            lanes.swap(plan.get());
            lanes.renderOnly(frames, 1, 1e9, blocks);
            lanes.swap(nullptr);
        }
        std::vector<double> loudest(static_cast<std::size_t>(plan->shares), 0);
        for (std::size_t i = 0; i < samples.size(); ++i) {
            double& most = loudest[plan->parts[i / 2].share];
            most = std::max(most, rms(samples[i]));
        }
        return std::pair{loudest, samples};
    };
    const auto [loudest, whole] = rendered(false);
    QCOMPARE(static_cast<int>(loudest.size()), renderShares);
    for (const double share : loudest) QVERIFY(share > 0.001);
    QVERIFY(rendered(true).second == whole);
}

void TestRender::stemsSumToTheMix() {
    Song song = edits::putInFront(demoSong("lantern_quay.mid"), 3);
    song = edits::setPan(edits::setLevel(song, 2, -4), 2, 0.6);
    const int hz = 22050;
    InstrumentBank bank(hz);
    const Catalogue house = fontsAt(HOUSE_FONT);
    const auto plan = makePlan(song, house, matchSong(song, house), bank);
    std::vector<float> mix, sum;
    std::vector<MixOrder> orders = {{song, [&](std::span<const float> block) {
                                         mix.insert(mix.end(), block.begin(), block.end());
                                         return true;
                                     }}};
    std::vector<std::size_t> at(song.parts.size(), 0);
    for (std::size_t i = 0; i < song.parts.size(); ++i)
        orders.push_back({stemOf(song, song.parts[i].id), [&, i](std::span<const float> block) {
                              if (sum.size() < at[i] + block.size()) sum.resize(at[i] + block.size());
                              for (const float v : block) sum[at[i]++] += v;
                              return true;
                          }});
    QCOMPARE(renderMixes(*plan, orders), RenderEnd::Done);
    QCOMPARE(sum.size(), mix.size());
    float most = 0;
    for (std::size_t i = 0; i < mix.size(); ++i) most = std::max(most, std::abs(mix[i] - sum[i]));
    QVERIFY2(most < 2e-5F, qPrintable(QString::number(most)));
    QVERIFY(peak(mix) > 0.05F);
}

void TestRender::paceKeepsPitch() {
    Song song = Builder().program(0, 0, 0).note(0, 0, 2, 69).song();
    song.room = 0;
    for (const double pace : {25.0, 50.0, 200.0}) {
        const auto sound = renderToMemory(song, testFont(), rate, {.pace = pace, .stop = {}, .progress = {}});
        const double length = 2 * 100 / pace;
        QVERIFY(rms(cut(sound, 0, length * 0.9, length * 0.98)) > 0.01);
        QVERIFY(rms(cut(sound, 0, length + 0.05, length + 0.2)) < 1e-4);
        QVERIFY(std::abs(cents(frequencyOf(cut(sound, 0, 0.1, length * 0.9), 440), 440)) < 1);
    }
}

void TestRender::octaveAndKey() {
    Song song = Builder().program(0, 0, 0).note(0, 0, 2, 57).song();
    song = edits::setKeyShift(edits::setOctaves(song, 1, 1), 3);
    const auto tone = cut(renderToMemory(song, testFont(), rate), 0, 0.4, 1.9);
    QVERIFY(std::abs(cents(frequencyOf(tone, keyHz(72)), keyHz(72))) < 1);
}

void TestRender::levelPanAndRoleOfAPart() {
    Song song = Builder().program(0, 0, 0).note(0, 0, 2, 60).program(1, 0, 0).note(1, 0, 2, 69).song();
    song.room = 0;
    const auto both = cut(renderToMemory(song, testFont(), rate), 0, 0.4, 1.9);
    const auto softer = cut(renderToMemory(edits::setLevel(song, 1, -12), testFont(), rate), 0, 0.4, 1.9);
    QVERIFY(std::abs(db(strength(softer, keyHz(60)), strength(both, keyHz(60))) + 12) < 0.05);
    QVERIFY(std::abs(db(strength(softer, keyHz(69)), strength(both, keyHz(69)))) < 0.05);
    const auto front = cut(renderToMemory(edits::putInFront(song, 2), testFont(), rate), 0, 0.4, 1.9);
    QVERIFY(std::abs(db(strength(front, keyHz(60)), strength(both, keyHz(60))) + 10) <
            0.05); // the back's level
    const auto without = cut(renderToMemory(edits::allBut(song, 1), testFont(), rate), 0, 0.4, 1.9);
    QVERIFY(strength(without, keyHz(60)) < strength(both, keyHz(60)) * 1e-3);
    const auto right = renderToMemory(edits::setPan(song, 1, 1), testFont(), rate);
    QVERIFY(strength(cut(right, 0, 0.4, 1.9), keyHz(60)) < strength(both, keyHz(60)) * 1e-3);
}

void TestRender::theLastHitSoundsToItsEnd_data() {
    QTest::addColumn<double>("at");
    QTest::addColumn<int>("hz");
    QTest::addColumn<double>("pace");
    for (const double at : {1.0, 1.0008, 1.3333, 2.0})
        for (const int hz : {44100, 48000})
            for (const double pace : {100.0, 50.0, 200.0})
                QTest::addRow("%g s, %d Hz, %g %%", at, hz, pace) << at << hz << pace;
}

/// A drum without length on the last tick is as loud as the same in the middle of a song, alone and in a mix.
void TestRender::theLastHitSoundsToItsEnd() {
    QFETCH(const double, at);
    QFETCH(const int, hz);
    QFETCH(const double, pace);
    const auto hit = [&](bool goesOn, bool others) {
        Builder b;
        b.note(9, at, 0, 38, 110);
        if (others) b.program(0, 0, 0).note(0, 0, at / 2, 60, 1);
        if (goesOn) b.cc(9, at + 2, 20, 0); // nothing that sounds
        Song song = b.song();
        song.room = 0;
        RenderOptions options;
        options.pace = pace;
        const auto sound = renderToMemory(song, testFont(), hz, options);
        const auto from = static_cast<std::size_t>(at * 100 / pace * hz) / 64 * 64;
        std::vector<float> mono;
        for (std::size_t f = from; f < from + static_cast<std::size_t>(hz) / 4; ++f)
            mono.push_back(2 * f < sound.size() ? sound[2 * f] : 0);
        return mono;
    };
    for (const bool others : {false, true}) {
        const auto last = hit(false, others), middle = hit(true, others);
        QVERIFY(db(rms(middle), 1) > -50);
        QVERIFY2(std::abs(db(rms(last), rms(middle))) < 0.2,
                 qPrintable(QString::number(db(rms(last), rms(middle)))));
    }
}

void TestRender::tailsKeepTheirLevel() {
    // The house strings ring on for a while; faded down they must not come back at the end of the song.
    Builder b;
    b.program(0, 0, 48).cc(0, 0, 7, 20).note(0, 0, 1, 60);
    b.file.tracks[0].end = Builder::at(1);
    Song song = b.song();
    song.room = 0;
    const auto sound = renderToMemory(song, fontsAt(HOUSE_FONT), rate);
    QVERIFY(rms(cut(sound, 0, 1.0, 1.1)) < 1.1 * rms(cut(sound, 0, 0.8, 1.0)));
}

void TestRender::stopsWhenAsked() {
    const Song song = demoSong("lantern_quay.mid");
    const Catalogue house = fontsAt(HOUSE_FONT);
    InstrumentBank bank(rate);
    const auto plan = makePlan(song, house, matchSong(song, house), bank);
    std::stop_source source;
    std::size_t samples = 0;
    const MixOrder order{song, [&](std::span<const float> block) {
                             samples += block.size();
                             if (samples > 100000) source.request_stop();
                             return true;
                         }};
    QCOMPARE(renderMixes(*plan, {order}, {.pace = 100, .stop = source.get_token(), .progress = {}}),
             RenderEnd::Stopped);
    QVERIFY(samples < 110000);
}

void TestRender::manyPartsAndPorts() {
    Builder b(1, 70); // more parts than one synthesiser has outputs
    for (std::size_t t = 0; t < 70; ++t) {
        b.file.addMeta(t, 0, meta::port, std::vector<std::uint8_t>{static_cast<std::uint8_t>(t / 16)});
        b.program(static_cast<int>(t % 16), 0, 0, t);
        if (t == 69)
            b.note(static_cast<int>(t % 16), 0, 1, 69, 127, t);
        else
            b.note(static_cast<int>(t % 16), 2, 0.1, 30, 1, t);
    }
    const auto tone = cut(renderToMemory(b.song(), testFont(), rate), 0, 0.3, 0.9);
    QVERIFY(std::abs(cents(frequencyOf(tone, 440), 440)) < 1);
}

namespace {

QByteArray chunk(const char* tag, const QByteArray& body) {
    QByteArray bytes(tag, 4);
    for (int shift = 0; shift < 32; shift += 8) bytes.append(static_cast<char>(body.size() >> shift));
    bytes += body;
    if (body.size() % 2) bytes.append('\0');
    return bytes;
}
QByteArray listOf(const char* kind, const QByteArray& body) {
    return chunk("LIST", QByteArray(kind, 4) + body);
}
QByteArray little(std::initializer_list<std::pair<int, int>> numbers) { // value, bytes
    QByteArray bytes;
    for (const auto& [value, size] : numbers)
        for (int i = 0; i < size; ++i) bytes.append(static_cast<char>(value >> (8 * i)));
    return bytes;
}

/// A DLS level 1 file with one instrument, program 6: a sine of 440 Hz at key 69 (DLS 1.1, RP-012; from
/// memory).
QByteArray dlsFile() {
    QByteArray sine;
    for (int i = 0; i < 44100; ++i) {
        const auto sample = static_cast<int>(20000 * std::sin(2 * std::numbers::pi * 440 * i / 44100));
        sine += little({{sample, 2}});
    }
    const QByteArray wsmp = chunk("wsmp", little({{20, 4}, {69, 2}, {0, 2}, {0, 4}, {0, 4}, {0, 4}}));
    const QByteArray region =
        listOf("rgn ", chunk("rgnh", little({{0, 2}, {127, 2}, {0, 2}, {127, 2}, {0, 2}, {0, 2}})) + wsmp +
                           chunk("wlnk", little({{0, 2}, {0, 2}, {1, 4}, {0, 4}})));
    const QByteArray instrument =
        listOf("ins ", chunk("insh", little({{1, 4}, {0, 4}, {6, 4}})) + listOf("lrgn", region) +
                           listOf("INFO", chunk("INAM", "Quay whistle")));
    const QByteArray wave =
        listOf("wave", chunk("fmt ", little({{1, 2}, {1, 2}, {44100, 4}, {88200, 4}, {2, 2}, {16, 2}})) +
                           chunk("data", sine) + wsmp);
    return chunk("RIFF", QByteArray("DLS ") + chunk("colh", little({{1, 4}})) + listOf("lins", instrument) +
                             chunk("ptbl", little({{8, 4}, {1, 4}, {0, 4}})) + listOf("wvpl", wave));
}

} // namespace

void TestRender::aDlsFileIsListedAndPlayed() {
    QTemporaryDir folder;
    QFile file(folder.filePath(QStringLiteral("quay.dls")));
    QVERIFY(file.open(QIODevice::WriteOnly));
    file.write(dlsFile());
    file.close();
    const Catalogue fonts =
        scanFonts({HOUSE_FONT, {folder.path().toStdString()}, {}}, houseFontId, nullptr, readOtherFont);
    QCOMPARE(fonts.fonts().size(), std::size_t{2}); // Debian's libfluidsynth has DLS
    const SoundFont& dls = *fonts.fonts()[1];
    QCOMPARE(dls.presets.size(), std::size_t{1});
    QCOMPARE(dls.presets[0].program, 6);
    Song song = Builder().program(0, 0, 6).note(0, 0, 0.8, 69).song();
    song.room = 0;
    const auto tone = cut(renderToMemory(song, fonts.withOrder({dls.id}), rate), 0, 0.1, 0.7);
    QVERIFY(peak(tone) > 0.01F);
    QVERIFY(std::abs(cents(frequencyOf(tone, 440), 440)) < 2);
    // Without a reader for it the file is passed over; one that is damaged is told.
    QCOMPARE(scanFonts({HOUSE_FONT, {folder.path().toStdString()}, {}}, houseFontId).fonts().size(),
             std::size_t{1});
    QVERIFY(file.open(QIODevice::WriteOnly));
    file.write("RIFF\x10\0\0\0DLS nothing");
    file.close();
    std::vector<FontProblem> problems;
    (void)scanFonts({HOUSE_FONT, {folder.path().toStdString()}, {}}, houseFontId, &problems, readOtherFont);
    QCOMPARE(problems.size(), std::size_t{1});
}

void TestRender::demoSongsDoNotClip_data() {
    QTest::addColumn<QString>("name");
    for (const char* name : {"lantern_quay.mid", "TIDEMILL.MID", "pilots-evening-song.kar", "SLACKW~1.MID"})
        QTest::newRow(name) << name;
}

void TestRender::demoSongsDoNotClip() {
    QFETCH(QString, name);
    const auto sound = renderToMemory(demoSong(qPrintable(name)), fontsAt(HOUSE_FONT), 22050);
    QVERIFY(peak(sound) < 1);
    QVERIFY(peak(sound) > 0.05F);
}

QTEST_APPLESS_MAIN(TestRender)
#include "tst_render.moc"
