/// Layers, sounds by section, folding, mute and solo, room by part, master level: as they are heard.
#include "sound/render.h"
#include "support/support.h"

#include "song/model/levels.h"
#include "song/shape/edits.h"
#include "sound/mixdesk.h"

using namespace support;

namespace {

/// The test font: program p has harmonic h + 2 where bit h of p is set.
SoundRef tone(int program) { return {houseFontId, 0, program, "Tone"}; }

std::vector<float> heard(Song song) {
    static const Catalogue font = testFont();
    song.room = 0;
    return renderToMemory(song, font, rate);
}

Song longNote(int key = 48) { return Builder().program(0, 0, 0).note(0, 0, 4, key).song(); }

} // namespace

class TestLayers : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void aLayerIsHeardWithItsOctaveAndLevel();
    void aLayerPlaysItsKeysOnly();
    void theSoundChangesForAStretch();
    void aStretchWithstandsTheData();
    void stretchesGiveWay();
    void muteAndSolo();
    void theRoomTakesAPartBeforeOrAfterItsLevel();
    void aLongerRoomRingsLonger();
    void theMasterLevelIsOnTheWholeMix();
    void sharedRoomsSoundTheSame();
    void manyMixesEqualOneByOne();
};

void TestLayers::aLayerIsHeardWithItsOctaveAndLevel() {
    Song song = edits::addLayer(longNote(48), 1, tone(1));
    song = edits::setLayer(song, 1, 0, {tone(1), {}, 0, 1, {}});
    const auto loud = cut(heard(song), 0, 0.5, 3.5);
    QVERIFY(strength(loud, keyHz(60)) > 0.3 * strength(loud, keyHz(48)));
    song = edits::setLayer(song, 1, 0, {tone(1), {}, -20, 1, {}});
    const auto soft = cut(heard(song), 0, 0.5, 3.5);
    // Key 60 is the layer's first harmonic and nothing of the part's own pure tone.
    QVERIFY(std::abs(db(strength(soft, keyHz(60)), strength(loud, keyHz(60))) + 20) < 0.2);
    QVERIFY(std::abs(db(strength(soft, keyHz(48)), strength(loud, keyHz(48)))) < 0.1);
    // The part's own level is on both.
    const auto lower = cut(heard(edits::setLevel(song, 1, -6)), 0, 0.5, 3.5);
    QVERIFY(std::abs(db(strength(lower, keyHz(60)), strength(soft, keyHz(60))) + 6) < 0.1);
    // A third layer is not taken.
    song = edits::addLayer(edits::addLayer(song, 1, tone(2)), 1, tone(3));
    QCOMPARE(song.parts[0].sound.layers.size(), mostLayers);
}

void TestLayers::aLayerPlaysItsKeysOnly() {
    Song song = Builder().program(0, 0, 0).note(0, 0, 2, 48).note(0, 2, 2, 60).song();
    song = edits::setLayer(edits::addLayer(song, 1, tone(2)), 1, 0, {tone(2), {}, 0, 0, {55, 127}});
    const auto sound = heard(song);
    QCOMPARE(programHeard(cut(sound, 0, 0.4, 1.8), 48), 0);
    QCOMPARE(programHeard(cut(sound, 0, 2.4, 3.8), 60), 2);
}

void TestLayers::theSoundChangesForAStretch() {
    Song song = Builder().program(0, 0, 0).note(0, 0, 1, 55).note(0, 1, 1, 55).note(0, 2, 1, 55).song();
    song = edits::chooseForStretch(song, 1, Builder::at(1), Builder::at(2), tone(5));
    const auto sound = heard(song);
    QCOMPARE(programHeard(cut(sound, 0, 0.3, 0.9), 55), 0);
    QCOMPARE(programHeard(cut(sound, 0, 1.3, 1.9), 55), 5);
    QCOMPARE(programHeard(cut(sound, 0, 2.3, 2.9), 55), 0);
    song = edits::clearStretch(song, 1, Builder::at(1.5));
    QCOMPARE(programHeard(cut(heard(song), 0, 1.3, 1.9), 55), 0);
}

void TestLayers::aStretchWithstandsTheData() {
    // Program change, bank select and a reset within the stretch: the chosen sound stays; after it the data
    // rules.
    Builder b;
    b.program(0, 0, 0)
        .note(0, 0, 1, 55)
        .cc(0, 1.2, 0, 8)
        .program(0, 1.2, 9)
        .cc(0, 1.2, 121, 0)
        .note(0, 1.3, 0.6, 55)
        .program(0, 1.95, 3);
    b.note(0, 2, 1, 55);
    const Song song = edits::chooseForStretch(b.song(), 1, Builder::at(1), Builder::at(2), tone(5));
    const auto sound = heard(song);
    QCOMPARE(programHeard(cut(sound, 0, 1.45, 1.85), 55), 5);
    QCOMPARE(programHeard(cut(sound, 0, 2.3, 2.9), 55), 3);
}

void TestLayers::stretchesGiveWay() {
    Song song = edits::chooseForStretch(longNote(), 1, 0, 1000, tone(1));
    song = edits::chooseForStretch(song, 1, 300, 600, tone(2));
    const auto& stretches = song.parts[0].sound.stretches;
    QCOMPARE(stretches.size(), std::size_t{3});
    QCOMPARE(stretches[0].end, Tick{300});
    QCOMPARE(stretches[1].sound.program, 2);
    QCOMPARE(stretches[2].start, Tick{600});
    song = edits::chooseForStretch(song, 1, 0, 5000, tone(3));
    QCOMPARE(song.parts[0].sound.stretches.size(), std::size_t{1});
    QCOMPARE(edits::chooseForStretch(song, 1, 7, 7, tone(4)), song);
    QVERIFY(edits::followFile(song, 1).parts[0].sound.stretches.empty());
}

void TestLayers::muteAndSolo() {
    const Song song = Builder().program(0, 0, 0).note(0, 0, 2, 48).program(1, 0, 0).note(1, 0, 2, 57).song();
    const auto both = cut(heard(song), 0, 0.4, 1.9);
    const auto muted = cut(heard(edits::setMuted(song, 1, true)), 0, 0.4, 1.9);
    QVERIFY(strength(muted, keyHz(48)) < 1e-3 * strength(both, keyHz(48)));
    QVERIFY(strength(muted, keyHz(57)) > 0.9 * strength(both, keyHz(57)));
    const auto solo = cut(heard(edits::setSolo(song, 1, true)), 0, 0.4, 1.9);
    QVERIFY(strength(solo, keyHz(48)) > 0.9 * strength(both, keyHz(48)));
    QVERIFY(strength(solo, keyHz(57)) < 1e-3 * strength(both, keyHz(57)));
    // A stem asked for by name is heard all the same; roles set anew take mutes away.
    QVERIFY(mixGain(stemOf(edits::setMuted(song, 1, true), 1),
                    *stemOf(edits::setMuted(song, 1, true), 1).part(1)) > 0);
    QVERIFY(!edits::everyone(edits::setMuted(song, 1, true)).parts[0].mix.muted);
}

void TestLayers::theRoomTakesAPartBeforeOrAfterItsLevel() {
    Song song = Builder().program(0, 0, 0).note(0, 0, 0.3, 60).song();
    song.room = 0.5;
    song = edits::setLevel(song, 1, -40);
    const Catalogue font = testFont();
    const auto after = cut(renderToMemory(song, font, rate), 0, 0.5, 0.9);
    const auto before = cut(renderToMemory(edits::setRoomShare(song, 1, 1, true), font, rate), 0, 0.5, 0.9);
    QVERIFY(std::abs(db(rms(before), rms(after)) - 40) < 1);
    const auto none = cut(renderToMemory(edits::setRoomShare(song, 1, 0, true), font, rate), 0, 0.6, 0.9);
    QVERIFY(rms(none) < 1e-3 * rms(before));
    const auto twice = cut(renderToMemory(edits::setRoomShare(song, 1, 2, true), font, rate), 0, 0.5, 0.9);
    QVERIFY(std::abs(db(rms(twice), rms(before)) - 6.02) < 0.2);
}

void TestLayers::aLongerRoomRingsLonger() {
    Song song = Builder().program(0, 0, 0).note(0, 0, 0.3, 60).song();
    song.room = 0.5;
    const auto fallIn = [&](double seconds) { // dB from 0.5 s to 1 s
        const auto sound = renderToMemory(edits::setRoomSeconds(song, seconds), testFont(), rate);
        return db(rms(cut(sound, 0, 0.5, 0.6)), rms(cut(sound, 0, 1.0, 1.1)));
    };
    // To −60 dB in so many seconds; high tones fall a little sooner.
    QVERIFY2(std::abs(fallIn(1.3) - 30 / 1.3) < 6, qPrintable(QString::number(fallIn(1.3))));
    QVERIFY2(std::abs(fallIn(3) - 10) < 4, qPrintable(QString::number(fallIn(3))));
}

void TestLayers::theMasterLevelIsOnTheWholeMix() {
    Song song = Builder().program(0, 0, 0).note(0, 0, 1, 60).song();
    song.room = 0.3;
    const auto plain = renderToMemory(song, testFont(), rate);
    const auto softer = renderToMemory(edits::setMasterLevel(song, -12), testFont(), rate);
    QVERIFY(std::abs(db(rms(cut(softer, 0, 0.2, 1.4)), rms(cut(plain, 0, 0.2, 1.4))) + 12) < 0.05);
}

namespace {

struct Made {
    std::vector<std::vector<float>> mixes;
    bool shared = false;
};

Made mixesOf(const Song& song, const std::vector<Song>& levels, const Catalogue& font, int hz) {
    InstrumentBank bank(hz);
    const auto plan = makePlan(song, font, matchSong(song, font), bank);
    Made made;
    made.mixes.resize(levels.size());
    std::vector<MixOrder> orders;
    for (std::size_t i = 0; i < levels.size(); ++i)
        orders.push_back({levels[i], [&, i](std::span<const float> block) {
                              made.mixes[i].insert(made.mixes[i].end(), block.begin(), block.end());
                              return true;
                          }});
    made.shared = MixDesk(*plan, orders).sharesRooms();
    renderMixes(*plan, orders);
    return made;
}

std::vector<Song> practiceMixes(const Song& song) {
    std::vector<Song> mixes;
    for (const Part& part : song.parts) {
        mixes.push_back(edits::putInFront(song, part.id));
        mixes.push_back(edits::onlyPart(song, part.id));
        mixes.push_back(edits::allBut(song, part.id));
    }
    return mixes;
}

} // namespace

void TestLayers::sharedRoomsSoundTheSame() {
    // Thirty mixes share ten rooms; each equals the same mix rendered alone, but for rounding.
    Song song = demoSong("lantern_quay.mid");
    song = edits::setPan(edits::setRoomShare(song, 2, 1.5, true), 2, -0.5);
    const Catalogue house = fontsAt(HOUSE_FONT);
    const auto wanted = practiceMixes(song);
    const Made all = mixesOf(song, wanted, house, 16000);
    QVERIFY(all.shared);
    for (const std::size_t i : {std::size_t{0}, std::size_t{4}, wanted.size() - 1}) {
        const Made one = mixesOf(song, {wanted[i]}, house, 16000);
        QVERIFY(!one.shared);
        QVERIFY(peak(one.mixes[0]) > 0.01F);
        QVERIFY2(greatestDifference(all.mixes[i], one.mixes[0]) < 3e-5F,
                 qPrintable(QString::number(greatestDifference(all.mixes[i], one.mixes[0]))));
    }
}

void TestLayers::manyMixesEqualOneByOne() {
    // Mixes whose rooms differ cannot share them; the second thread changes nothing of what they hold.
    const Song song = demoSong("pilots-evening-song.kar");
    const Catalogue house = fontsAt(HOUSE_FONT);
    std::vector<Song> wanted = practiceMixes(song);
    wanted.resize(5);
    wanted[1] = edits::setRoomSeconds(wanted[1], 3);
    const Made all = mixesOf(song, wanted, house, 16000);
    QVERIFY(!all.shared);
    for (std::size_t i = 0; i < wanted.size(); ++i) {
        const auto one = mixesOf(song, {wanted[i]}, house, 16000).mixes[0];
        const auto shared = std::min(one.size(), all.mixes[i].size());
        QVERIFY(
            std::equal(one.begin(), one.begin() + static_cast<std::ptrdiff_t>(shared), all.mixes[i].begin()));
    }
}

QTEST_APPLESS_MAIN(TestLayers)
#include "tst_layers.moc"
