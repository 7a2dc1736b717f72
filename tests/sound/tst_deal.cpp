#include "support/support.h"

#include "song/shape/edits.h"
#include "sound/deal.h"
#include "sound/render.h"

#include <set>

using namespace support;

namespace {

/// A font of one piano, which sounds as long as it is held, and a kit whose three hats end each other; in it,
/// every drum rings for as long as its sample, 1 s.
Catalogue smallFont() {
    SoundFont font;
    font.id = houseFontId;
    Zone piano;
    piano.decay = 8000;
    font.presets.push_back({0, 0, "Piano", {piano}, {{0, 127}}});
    Preset kit{kitBank, 0, "Kit", {}, {{35, 81}}};
    for (int key = 35; key <= 81; ++key) {
        Zone drum;
        drum.keys = {key, key};
        drum.release = 8000;
        drum.sampleSeconds = 1;
        drum.exclusiveClass = key == 42 || key == 44 || key == 46 ? 1 : 0;
        kit.zones.push_back(drum);
    }
    font.presets.push_back(kit);
    return {{std::make_shared<const SoundFont>(font)}, houseFontId};
}

constexpr int shares = 2;

Dealt dealt(const Song& song, const Catalogue& catalogue = smallFont()) {
    Derived derived;
    return dealParts(song, catalogue, matchSong(song, catalogue), derived, shares);
}

/// The keys of a song of one part by share: those of share 0, then those of share 1.
std::array<KeySet, shares> keysOf(const Dealt& dealt, std::initializer_list<int> played) {
    std::array<KeySet, shares> keys;
    for (const int key : played) keys[dealt.shares.at(0)].set(static_cast<std::size_t>(key));
    for (const Dealt::Keys& other : dealt.keys) {
        keys[dealt.shares.at(0)] &= ~other.keys;
        keys[other.share] |= other.keys;
    }
    return keys;
}

Builder chordOf(std::initializer_list<int> keys, int channel = 0) {
    Builder b;
    for (const int key : keys) b.note(channel, 0, 4, key);
    return b;
}

} // namespace

class TestDeal : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void partsOfOneLengthAreNotCut();
    void aLongPartIsDealtByItsKeys();
    void drumsThatEndEachOtherStayTogether();
    void notesThatMeetStayWhole_data();
    void notesThatMeetStayWhole();
    void whatHasLayersStaysWhole();
    void whatNeverSoundsHasNoShare();
    void aDealtPartSoundsAsTheWhole_data();
    void aDealtPartSoundsAsTheWhole();
    void threadsDoNotChangeIt();
};

void TestDeal::partsOfOneLengthAreNotCut() {
    const Dealt found =
        dealt(Builder().note(0, 0, 4, 60).note(0, 0, 4, 64).note(1, 0, 4, 67).note(1, 0, 4, 72).song());
    QVERIFY(found.keys.empty());
    QCOMPARE(found.shares.size(), std::size_t{2});
    QVERIFY(found.shares[0] != found.shares[1]);
}

void TestDeal::aLongPartIsDealtByItsKeys() {
    const Dealt found = dealt(chordOf({60, 64, 67, 72}).song());
    QCOMPARE(found.keys.size(), std::size_t{1});
    QVERIFY(found.keys[0].share != found.shares.at(0));
    const auto keys = keysOf(found, {60, 64, 67, 72});
    QCOMPARE(keys[0].count(), std::size_t{2});
    QCOMPARE(keys[1].count(), std::size_t{2});
    QVERIFY((keys[0] & keys[1]).none());
    // Beside a short part it gives away less.
    const Dealt beside = dealt(chordOf({60, 64, 67, 72}).note(1, 0, 4, 60).note(1, 0, 4, 50).song());
    QCOMPARE(beside.keys.size(), std::size_t{1});
    QCOMPARE(beside.keys[0].part, std::size_t{0});
    QCOMPARE(beside.keys[0].keys.count(), std::size_t{1});
}

void TestDeal::drumsThatEndEachOtherStayTogether() {
    Builder b;
    for (int beat = 0; beat < 40; ++beat) {
        b.note(9, beat * 0.5, 0.1, beat % 2 == 0 ? 36 : 38);
        b.note(9, beat * 0.5 + 0.25, 0.1, std::array{42, 44, 46}[static_cast<std::size_t>(beat) % 3]);
    }
    const Dealt found = dealt(b.song());
    QCOMPARE(found.keys.size(), std::size_t{1});
    const auto keys = keysOf(found, {36, 38, 42, 44, 46});
    const std::size_t ofHats = keys[0][42] ? 0 : 1;
    QVERIFY(keys[ofHats][42] && keys[ofHats][44] && keys[ofHats][46]);
    QVERIFY(keys[1 - ofHats].any());
}

void TestDeal::notesThatMeetStayWhole_data() {
    // MIDI 1.0: mono mode and legato let a note take over from another, controller 84 names the key to glide
    // from.
    QTest::addColumn<int>("controller");
    for (const int controller : {68, 84, 126})
        QTest::newRow(qPrintable(QString::number(controller))) << controller;
}

void TestDeal::notesThatMeetStayWhole() {
    QFETCH(int, controller);
    QVERIFY(dealt(chordOf({60, 64, 67, 72}).cc(0, 1, controller, 1).song()).keys.empty());
}

void TestDeal::whatHasLayersStaysWhole() {
    const Song song = chordOf({60, 64, 67, 72}).song();
    QVERIFY(!dealt(song).keys.empty());
    QVERIFY(dealt(edits::addLayer(song, 1, {houseFontId, 0, 0, "Piano"})).keys.empty());
}

void TestDeal::whatNeverSoundsHasNoShare() {
    Song song = Builder(0, 1).note(0, 0, 4, 60).cc(1, 0, 7, 90).song();
    QCOMPARE(song.parts.size(), std::size_t{2});
    QCOMPARE(dealt(song).shares, (std::vector<std::uint8_t>{0, noShare}));
    song.parts[1].mix.effects.push_back({}); // may sound by itself
    QVERIFY(dealt(song).shares[1] != noShare);
    song.parts.clear();
    QVERIFY(dealt(song).shares.empty());
}

void TestDeal::aDealtPartSoundsAsTheWhole_data() {
    QTest::addColumn<QString>("file");
    QTest::addColumn<bool>("drums");
    QTest::newRow("drums") << "TIDEMILL.MID" << true;
    QTest::newRow("another kit") << "lantern_quay.mid" << true;
    QTest::newRow("a part with keys") << "TIDEMILL.MID" << false;
}

void TestDeal::aDealtPartSoundsAsTheWhole() {
    QFETCH(QString, file);
    QFETCH(bool, drums);
    Song song = demoSong(qPrintable(file));
    std::erase_if(song.parts, [&](const Part& part) { return part.source.drums != drums || part.aside; });
    QVERIFY(!song.parts.empty());
    if (!drums) song.parts.resize(1);
    song.room = 0;
    const Catalogue house = fontsAt(HOUSE_FONT);
    std::set<std::int64_t> begins;         // blocks in which notes do
    const auto rendered = [&](bool live) { // nothing is dealt out live
        InstrumentBank bank(rate, {.slotStep = 1, .live = live, .pluginBundle = {}});
        const auto plan = makePlan(song, house, matchSong(song, house), bank);
        if ((plan->shares == shares) == live) QTest::qFail("not dealt as it should be", __FILE__, __LINE__);
        for (const PlanPart& part : plan->parts)
            for (const TimedEvent& event : part.schedule->events)
                if ((event.status & 0xF0) == 0x90)
                    begins.insert((event.frame + blockFrames / 2) / blockFrames);
        std::vector<float> samples;
        renderMixes(*plan, {{song, [&](std::span<const float> block) {
                                 samples.insert(samples.end(), block.begin(), block.end());
                                 return true;
                             }}});
        return samples;
    };
    const auto whole = rendered(true), cut = rendered(false);
    QVERIFY(rms(whole) > 0.001);
    const std::size_t most = std::min(whole.size(), cut.size());
    QVERIFY(std::max(whole.size(), cut.size()) - most <= 2 * maxFrames); // the tail's end
    // libfluidsynth brings a note in over 64 frames from the place in the stereo field that its voice had
    // before, which is another voice here.
    std::vector<float> there, beginning;
    for (std::size_t i = 0; i < most; ++i)
        (begins.contains(static_cast<std::int64_t>(i / 2 / blockFrames)) ? beginning : there)
            .push_back(whole[i] - cut[i]);
    const double off = db(rms(there), rms(whole)), first = db(rms(beginning), rms(whole));
    QVERIFY2(off < -110, qPrintable(QStringLiteral("%1 dB").arg(off)));
    QVERIFY2(first < -20, qPrintable(QStringLiteral("%1 dB").arg(first)));
}

void TestDeal::threadsDoNotChangeIt() {
    Song song = demoSong("TIDEMILL.MID");
    std::erase_if(song.parts, [](const Part& part) { return !part.source.drums; });
    const Catalogue house = fontsAt(HOUSE_FONT);
    const auto withThreads = [&](int count) {
        RenderOptions options;
        options.workers.own = count;
        return renderToMemory(song, house, 22050, options);
    };
    QVERIFY(withThreads(1) == withThreads(3));
}

QTEST_APPLESS_MAIN(TestDeal)
#include "tst_deal.moc"
