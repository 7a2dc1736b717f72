/// Drums: published maps, words and what they mean, what kits sound, bar prints, edits, beats.
#include "support/anyedit.h"

#include "midi/percussion.h"
#include "song/drums/beat.h"
#include "song/drums/drumedits.h"
#include "song/heard/barprint.h"
#include "song/match/drumlikeness.h"
#include "song/out/tomidi.h"
#include "song/snags/snags.h"

using namespace support;

namespace {

Key key(int number) { return Key{static_cast<std::uint8_t>(number)}; }

/// A plain beat of so many bars on some channel, moved by octaves: kick, snare, hats in eighths.
Builder beatOn(int channel, int bars, int octaves = 0, std::size_t track = 0, int tracks = 1) {
    Builder b(tracks > 1 ? 1 : 0, tracks);
    for (int bar = 0; bar < bars; ++bar)
        for (int eighth = 0; eighth < 8; ++eighth) {
            const double at = bar * 2 + eighth * 0.25;
            b.note(channel, at, 0.1, 42 + 12 * octaves, 60, track);
            if (eighth % 4 == 0) b.note(channel, at, 0.1, 36 + 12 * octaves, 100, track);
            if (eighth % 4 == 2) b.note(channel, at, 0.1, 38 + 12 * octaves, 96, track);
        }
    return b;
}

/// A soundfont with one kit in which some keys sound, at velocities from `lowest` on.
Catalogue kitOf(const std::vector<std::pair<int, std::string>>& keys, int lowest = 0) {
    auto font = std::make_shared<SoundFont>();
    font->id = houseFontId;
    font->name = "Test kit";
    Preset preset{kitBank, 0, "Small kit", {}, {}};
    for (const auto& [number, name] : keys) {
        preset.zones.push_back(
            {{number, number}, {lowest, 127}, 0, static_cast<std::uint16_t>(font->samples.size())});
        preset.ranges.push_back({number, number});
        font->samples.push_back(name);
    }
    font->instruments = {"Kit"};
    font->presets = {preset};
    return Catalogue({font}, houseFontId);
}

std::vector<DrumNote> notesWith(const Song& song, const Catalogue& fonts, std::size_t part = 0) {
    return drumNotesOf(song, song.parts[part], matchPart(song, song.parts[part], fonts), fonts);
}

const Snag* ofKind(const std::vector<Snag>& snags, const char* kind) {
    for (const Snag& snag : snags)
        if (snag.kind == kind) return &snag;
    return nullptr;
}

std::multiset<std::tuple<Tick, int, int>> struck(const Song& song, const Part& part) {
    std::multiset<std::tuple<Tick, int, int>> notes;
    for (const Note& n : realise(song, part).notes) notes.insert({n.start, n.key.value, n.velocity.value});
    return notes;
}

} // namespace

class TestDrums : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void percussionKeysArePublished();
    void kitsArePublished_data();
    void kitsArePublished();
    void wordsMeanDrums_data();
    void wordsMeanDrums();
    void otherWordsMeanNone_data();
    void otherWordsMeanNone();
    void namesOfSamplesAreCleaned_data();
    void namesOfSamplesAreCleaned();
    void plansOfNotesAreApplied();
    void hitsAreCountedAsTheyAreHeard();
    void hitLengths();
    void namesAreTrustedInOrder();
    void silentNotesGetTheNearest_data();
    void silentNotesGetTheNearest();
    void whatStandsInSoundsAllHits();
    void kitsAreOrderedByWhatTheySound();
    void fittingLeavesNothingSilent();
    void barPrints();
    void barPrintsKnowMetres();
    void barRuns();
    void layoutsByNames();
    void drumsComeBack();
    void severalTracksBecomeOneKitAndBack();
    void aPieceApartAndBack();
    void beatsKeepTime_data();
    void beatsKeepTime();
    void fillsAreAtTheEndsOfSections();
    void snags();
    void hintsAreOnlyHints();
};

// General MIDI level 1 percussion key map (RP-003), keys 35 to 81; from memory.
void TestDrums::percussionKeysArePublished() {
    static constexpr std::string_view published[] = {"Acoustic Bass Drum",
                                                     "Bass Drum 1",
                                                     "Side Stick",
                                                     "Acoustic Snare",
                                                     "Hand Clap",
                                                     "Electric Snare",
                                                     "Low Floor Tom",
                                                     "Closed Hi Hat",
                                                     "High Floor Tom",
                                                     "Pedal Hi-Hat",
                                                     "Low Tom",
                                                     "Open Hi-Hat",
                                                     "Low-Mid Tom",
                                                     "Hi-Mid Tom",
                                                     "Crash Cymbal 1",
                                                     "High Tom",
                                                     "Ride Cymbal 1",
                                                     "Chinese Cymbal",
                                                     "Ride Bell",
                                                     "Tambourine",
                                                     "Splash Cymbal",
                                                     "Cowbell",
                                                     "Crash Cymbal 2",
                                                     "Vibraslap",
                                                     "Ride Cymbal 2",
                                                     "Hi Bongo",
                                                     "Low Bongo",
                                                     "Mute Hi Conga",
                                                     "Open Hi Conga",
                                                     "Low Conga",
                                                     "High Timbale",
                                                     "Low Timbale",
                                                     "High Agogo",
                                                     "Low Agogo",
                                                     "Cabasa",
                                                     "Maracas",
                                                     "Short Whistle",
                                                     "Long Whistle",
                                                     "Short Guiro",
                                                     "Long Guiro",
                                                     "Claves",
                                                     "Hi Wood Block",
                                                     "Low Wood Block",
                                                     "Mute Cuica",
                                                     "Open Cuica",
                                                     "Mute Triangle",
                                                     "Open Triangle"};
    QCOMPARE(std::size(published), std::size_t{47});
    const auto plain = [](std::string_view text) {
        QString letters;
        for (const char c : text)
            if (std::isalnum(static_cast<unsigned char>(c))) letters += QChar::fromLatin1(c).toLower();
        return letters;
    };
    const PercussionKit& gm = percussionKit(Dialect::GM, Program{0});
    for (int k = 0; k < 128; ++k) {
        const bool inMap = k >= 35 && k <= 81;
        QCOMPARE(plain(drumName(gm, key(k))),
                 inMap ? plain(published[static_cast<std::size_t>(k - 35)]) : QString());
        // What the map calls a drum is understood as that drum.
        if (!inMap) continue;
        const auto meant = drumMeant(std::string(drumName(key(k))));
        QVERIFY2(meant, drumName(key(k)).data());
        QVERIFY2(meant->gm == key(k), drumName(key(k)).data());
        QVERIFY2(meant->sure, drumName(key(k)).data());
    }
}

void TestDrums::kitsArePublished_data() {
    QTest::addColumn<int>("dialect");
    QTest::addColumn<int>("program");
    QTest::addColumn<bool>("effects");
    QTest::addColumn<int>("number");
    QTest::addColumn<QString>("name");
    const auto row = [](Dialect dialect, int program, int number, const char* name, bool effects = false) {
        QTest::addRow("%s %d %d", dialectName(dialect).data(), program, number)
            << static_cast<int>(dialect) << program << effects << number << QString::fromLatin1(name);
    };
    // General MIDI 2 (RP-024), appendix B; from memory.
    row(Dialect::GM2, 0, 27, "High Q");
    row(Dialect::GM2, 0, 87, "Open Surdo");
    row(Dialect::GM2, 8, 41, "Room Low Tom 2");
    row(Dialect::GM2, 16, 36, "Power Kick Drum");
    row(Dialect::GM2, 24, 38, "Electric Snare 1");
    row(Dialect::GM2, 25, 56, "Analog Cowbell");
    row(Dialect::GM2, 25, 57, "Crash Cymbal 2"); // not changed
    row(Dialect::GM2, 32, 36, "Jazz Kick 1");
    row(Dialect::GM2, 40, 40, "Brush Swirl");
    row(Dialect::GM2, 48, 41, "Timpani F");
    row(Dialect::GM2, 56, 84, "Helicopter");
    row(Dialect::GM2, 56, 36, "");          // the effects kit has no kick
    row(Dialect::GM2, 44, 38, "Brush Tap"); // of its group of eight
    row(Dialect::None, 0, 31, "Sticks");
    // GS and XG: their manufacturers' manuals; from memory.
    row(Dialect::GS, 0, 25, "Snare Roll");
    row(Dialect::GS, 40, 39, "Brush Slap");
    row(Dialect::XG, 0, 31, "Snare Low");
    row(Dialect::XG, 0, 13, "Surdo Mute");
    row(Dialect::XG, 0, 84, "Bell Tree");
    row(Dialect::XG, 25, 36, "Analog Bass Drum High");
    row(Dialect::XG, 40, 38, "Brush Slap");
    row(Dialect::XG, 0, 68, "Shower", true);
    row(Dialect::XG, 1, 37, "Door Creaking", true);
}

void TestDrums::kitsArePublished() {
    QFETCH(int, dialect);
    QFETCH(int, program);
    QFETCH(bool, effects);
    QFETCH(int, number);
    QFETCH(QString, name);
    const PercussionKit& kit =
        percussionKit(static_cast<Dialect>(dialect), Program{static_cast<std::uint8_t>(program)}, effects);
    const auto found = drumName(kit, key(number));
    QCOMPARE(QString::fromUtf8(found.data(), static_cast<qsizetype>(found.size())), name);
}

// Drum names as people and soundfonts write them, with the key of RP-003 that is meant: common practice, no
// source. A question mark: it could be another drum as well.
void TestDrums::wordsMeanDrums_data() {
    QTest::addColumn<int>("gm");
    QTest::addColumn<bool>("sure");
    const std::pair<int, const char*> rows[] = {
        {36,
         "kick,Kick Drum,BD,Bass Drum,bassdrum,KICK 1,grosse caisse,Grosse Caisse,Große Trommel,Gran cassa,"
         "bombo,Stortrumma,bas drum,kick_L,KickDr_L 01_v3,BD 808,Kik,Бочка,stopa,kopák,hard kick,Bass Drum "
         "1"},
        {35, "Kick 2,Acoustic Bass Drum,Bass Drum 2"},
        {38, "snare,SD,Snare Drum,sn,Caisse claire,kleine Trommel,Kl. Trommel,rullante,caixa,Lilletromme,"
             "virveltrumma,Snare L,SnareTight(L),Acoustic Snare,Snr,Малый "
             "барабан,werbel,tarola,snare_hard_R.wav"},
        {40, "Electric Snare,E-Snare,Elec Snare,Snare 2"},
        {37, "side stick,Sidestick,cross stick,x-stick,Rim Shot,rimshot,Rim,Rim click,Snare Rim"},
        {39, "clap,Hand Clap,Handclaps,Klatschen,palmas"},
        {42, "hh,HH closed,Closed Hi-Hat,Hi-Hat,hihat,CHH,hi hat cl,HHC,Hat Closed,Hi-Hat geschlossen,"
             "charley fermé,Charleston chiuso,hats,HHClosed01,ClosedHH,tight hat,Hi-Hat zu"},
        {44,
         "Pedal Hi-Hat,hh pedal,PHH,Hi-Hat Foot,foot hat,HH-P,Charley au pied,Hi-Hat getreten,Hi hat pied"},
        {46, "Open HH,Open Hi-Hat,OHH,hihat open,HH-O,Hi-Hat offen,charley ouvert,Half-open Hi-Hat,Hi-Hat "
             "halboffen,"
             "hi hat semi open,Charleston aperto,HH half,loose hat"},
        {49, "crash,Crash 1,Crash Cymbal,crash L,Crashbecken,piatto crash"},
        {57, "Crash 2,Crash Cymbal 2"},
        {51, "ride,Ride Cymbal,Ride 1,Ridebecken,ride tip,Ride Edge"},
        {59, "Ride 2,Ride Cymbal 2"},
        {53, "Ride Bell,ride cup,Ride Glocke,bell of ride,Ridebell"},
        {52, "China,Chinese Cymbal,China-Becken"},
        {55, "Splash,Splash Cymbal"},
        {50, "High Tom,Hi Tom,tom hi,Tom hoch"},
        {48, "Hi-Mid Tom,high mid tom"},
        {47, "Mid Tom,Low-Mid Tom,tom mid,Tom mittel"},
        {45, "Low Tom,Lo Tom,tom low,Tom tief"},
        {43, "Floor Tom,Standtom,High Floor Tom,tom basse,FloorTom"},
        {41, "Low Floor Tom,Floor Tom 2"},
        {54, "tambourine,Tamb,Schellenkranz,pandereta,tambourin"},
        {56, "cowbell,Cow Bell,Kuhglocke,cencerro"},
        {60, "Hi Bongo,Bongo High"},
        {61, "Low Bongo,bongo lo"},
        {62, "Mute Hi Conga,conga mute"},
        {63, "Open Hi Conga,Conga high"},
        {64, "Low Conga,conga lo,tumba low"},
        {65, "High Timbale"},
        {66, "Low Timbale,timbale lo"},
        {67, "High Agogo,agogo hi"},
        {68, "Low Agogo"},
        {69, "Cabasa,Afuche"},
        {70, "Maracas,Rumbakugeln"},
        {75, "Claves,Klanghölzer"},
        {76, "Hi Wood Block,Woodblock high,Holzblock hoch"},
        {77, "Low Wood Block,wood block lo"},
        {80, "Mute Triangle,Triangle closed"},
        {81, "Open Triangle,triangle open"},
        {82, "Shaker,egg shaker"},
        {83, "Jingle Bell,Sleigh Bells,Schellen"},
        {84, "Bell Tree,mark tree,Wind Chimes"},
        {85, "Castanets,Kastagnetten"},
        {58, "Vibraslap"},
        {31, "Sticks"},
        {33, "Metronome Click"},
    };
    const std::pair<int, const char*> unsure[] = {{47, "Tom"},          {49, "Cymbal"},    {49, "Becken"},
                                                  {50, "Tom 1"},        {63, "Conga"},     {60, "Bongos"},
                                                  {38, "Snare + Clap"}, {51, "Ride home"}, {50, "Rack Tom 1"},
                                                  {38, "Snare roll"},   {52, "China town"}};
    int count = 0;
    for (const auto& [gm, names] : rows)
        for (const QString& name : QString::fromUtf8(names).split(QLatin1Char(','))) {
            QTest::newRow(qPrintable(name)) << gm << true;
            ++count;
        }
    for (const auto& [gm, name] : unsure) QTest::newRow(name) << gm << false;
    QVERIFY(count >= 150);
}

void TestDrums::wordsMeanDrums() {
    QFETCH(int, gm);
    QFETCH(bool, sure);
    const auto meant = drumMeant(QTest::currentDataTag());
    QVERIFY(meant);
    QCOMPARE(int(meant->gm.value), gm);
    QCOMPARE(meant->sure, sure);
    QCOMPARE(meant->piece, pieceOf(key(gm)));
}

void TestDrums::otherWordsMeanNone_data() {
    QTest::addColumn<QString>("name");
    for (const char* name :
         {"Tomorrow", "Tommy", "Hatfield", "Crashing",     "Bridge",   "Snared",   "kickback",
          "Piano",    "Bass",  "Open",     "Closed",       "Low",      "High",     "Bell",
          "Violin",   "Rider", "Custom",   "atom",         "Claptrap", "Cupboard", "Trumpet 1",
          "",         "42",    "?!",       "Steel guitar", "Pedal",    "Chapter"})
        QTest::newRow(name[0] ? name : "nothing") << QString::fromLatin1(name);
}

void TestDrums::otherWordsMeanNone() {
    QFETCH(QString, name);
    const auto meant = drumMeant(name.toStdString());
    QVERIFY2(!meant, meant ? qPrintable(QString::number(meant->gm.value)) : "");
}

void TestDrums::namesOfSamplesAreCleaned_data() {
    QTest::addColumn<QString>("clean");
    const std::pair<const char*, const char*> rows[] = {{"KickDr_L 01_v3", "Kick drum"},
                                                        {"Snare_Tight(L)", "Snare tight"},
                                                        {"HHClosed_R.wav", "Hi-hat closed"},
                                                        {"OHH v127", "Open hi-hat"},
                                                        {"Crash 2", "Crash 2"},
                                                        {"std_bd-l", "Standard bass drum"},
                                                        {"RideBell rr2", "Ride bell"},
                                                        {"0123", ""},
                                                        {"TAMB_44k_16bit", "Tambourine"},
                                                        {"", ""}};
    for (const auto& [name, clean] : rows) QTest::newRow(name) << QString::fromLatin1(clean);
}

void TestDrums::namesOfSamplesAreCleaned() {
    QFETCH(QString, clean);
    QCOMPARE(QString::fromStdString(cleanDrumName(QTest::currentDataTag())), clean);
}

void TestDrums::plansOfNotesAreApplied() {
    const Song song =
        Builder().note(9, 0, 0.1, 42, 80).note(9, 0.5, 0.1, 42, 100).note(9, 1, 0.1, 38, 90).song();
    const auto of = [](const Song& s) { return struck(s, s.parts[0]); };
    using Struck = std::multiset<std::tuple<Tick, int, int>>;
    const Song moved = edits::setDrumTarget(song, 1, {key(42)}, key(44));
    QCOMPARE(of(moved), (Struck{{0, 44, 80}, {480, 44, 100}, {960, 38, 90}}));
    QVERIFY(edits::setDrumTarget(moved, 1, {key(42)}, key(42)) == song);
    // Half the spread around the mean of 90, then ten softer.
    const Song trimmed = edits::setDrumTrim(moved, 1, {key(42)}, {1, -10, 0.5});
    QCOMPARE(of(trimmed), (Struck{{0, 44, 75}, {480, 44, 85}, {960, 38, 90}}));
    const Song without = edits::setDrumOff(trimmed, 1, {key(42)}, true);
    QCOMPARE(of(without), (Struck{{960, 38, 90}}));
    for (const Event& event : realisedEvents(without, without.parts[0]))
        QVERIFY(event.data1 != 42 && event.data1 != 44); // its ends are left out, too
    QVERIFY(edits::resetDrums(without, 1, {key(42)}) == song);
    // Written in, a file has it; left out, it is as it came.
    QCOMPARE(struck(songOf(toMidi(trimmed, Layout::SingleTrack)),
                    songOf(toMidi(trimmed, Layout::SingleTrack)).parts[0]),
             of(trimmed));
    Song plain = trimmed;
    plain.midi.writtenIn = false;
    const Song again = songOf(toMidi(plain, Layout::SingleTrack));
    QCOMPARE(struck(again, again.parts[0]), of(song));
    // Pitched parts keep their keys.
    const Song pitched = edits::makePitched(edits::setDrumOff(moved, 1, {key(38)}, true), 1);
    QCOMPARE(of(pitched), of(song));
    // An unknown part, and keys that there are none.
    QVERIFY(edits::setDrumTarget(song, 99, {key(42)}, key(44)) == song);
    QVERIFY(edits::nameDrum(song, 1, Key{200}, "x") == song);
}

void TestDrums::hitsAreCountedAsTheyAreHeard() {
    for (unsigned seed = 1; seed <= 20; ++seed) {
        std::mt19937 random(seed);
        Song song = songOf(randomFile(random));
        song = edits::makeDrums(song, song.parts[0].id);
        for (int i = 0; i < 6; ++i) {
            const Key any{static_cast<std::uint8_t>(random() % 128)};
            song = edits::setDrumTrim(song, song.parts[0].id, {any},
                                      {0.5 + static_cast<double>(random() % 20) / 10,
                                       static_cast<int>(random() % 60) - 30,
                                       static_cast<double>(random() % 11) / 10});
            song = edits::setDrumOff(song, song.parts[0].id, {Key{static_cast<std::uint8_t>(random() % 128)}},
                                     true);
        }
        song = edits::setVelocity(song, song.parts[0].id, {0.9, 4, 0.3});
        const Part& part = song.parts[0];
        const DrumHits hits = drumHitsOf(song, part.source, part.recipe);
        std::array<std::array<int, 128>, 128> heard{};
        for (const Note& n : realise(song, part).notes) ++heard[n.key.value][n.velocity.value];
        QCOMPARE(hits.after, heard); // no target: keys are as they came
    }
}

void TestDrums::hitLengths() {
    const Song song = edits::setHitLength(
        Builder().note(9, 0, 3, 36).note(9, 1, 0.01, 38).note(9, 2, 0.5, 36).song(), 1, 120);
    for (const Note& n : realise(song, song.parts[0]).notes)
        QCOMPARE(n.end - n.start, n.start + 120 <= song.end ? 120 : song.end - n.start);
    const Song again = songOf(toMidi(song, Layout::SingleTrack));
    QCOMPARE(notesHeard(again), notesHeard(song));
}

void TestDrums::namesAreTrustedInOrder() {
    Song song =
        Builder().note(9, 0, 0.1, 36).note(9, 1, 0.1, 38).note(9, 2, 0.1, 42).note(9, 3, 0.1, 20).song();
    const Catalogue kit = kitOf({{36, "KickDr_L 01_v3"}, {38, "Snare_R"}});
    song = edits::nameDrum(song, 1, key(38), "  Kleine Trommel  ");
    const auto notes = notesWith(song, kit);
    QCOMPARE(notes.size(), std::size_t{4});
    QCOMPARE(notes[0].name, std::string("C#1").substr(0, 0) + keyName(key(20)));
    QCOMPARE(notes[0].from, NameFrom::None);
    QCOMPARE(notes[1].name, std::string("Kick drum"));
    QCOMPARE(notes[1].from, NameFrom::Kit);
    QCOMPARE(notes[2].name, std::string("Kleine Trommel"));
    QCOMPARE(notes[2].from, NameFrom::Person);
    QCOMPARE(notes[3].name, std::string("Closed Hi Hat"));
    QCOMPARE(notes[3].from, NameFrom::Dialect);
    // A person's name tells the piece, whatever the key.
    QCOMPARE(pieceOf(edits::nameDrum(song, 1, key(20), "Ride Bell").parts[0], key(20)), DrumPiece::Cymbals);
    // Cut at 64 characters, not within one.
    std::string longName;
    for (int i = 0; i < 80; ++i) longName += "ü";
    const std::string cut = edits::nameDrum(song, 1, key(36), longName).parts[0].keyNames.at(36);
    QCOMPARE(cut.size(), std::size_t{128});
    QVERIFY(edits::nameDrum(edits::nameDrum(song, 1, key(36), "x"), 1, key(36), " ") == song);
    // One sample on several keys tells them not apart.
    const auto toms =
        notesWith(Builder().note(9, 0, 1, 45).note(9, 1, 1, 47).song(), kitOf({{45, "Tom"}, {47, "Tom"}}));
    QCOMPARE(toms[0].name, std::string("Low Tom"));
}

void TestDrums::silentNotesGetTheNearest_data() {
    QTest::addColumn<int>("silent");
    QTest::addColumn<QList<int>>("there");
    QTest::addColumn<int>("instead");
    QTest::newRow("electric snare: acoustic") << 40 << QList<int>{36, 37, 38, 39} << 38;
    QTest::newRow("electric snare: side stick") << 40 << QList<int>{36, 37, 39} << 37;
    QTest::newRow("open hat: closed") << 46 << QList<int>{38, 42, 44} << 42;
    QTest::newRow("closed hat: pedal") << 42 << QList<int>{44, 49} << 44;
    QTest::newRow("high tom: the nearest tom") << 50 << QList<int>{41, 45, 38} << 45;
    QTest::newRow("splash: crash 2") << 55 << QList<int>{57, 49} << 57;
    QTest::newRow("low agogo: cowbell") << 68 << QList<int>{56, 42} << 56;
    QTest::newRow("none of the piece") << 36 << QList<int>{81, 42} << 42;
    QTest::newRow("outside the map") << 100 << QList<int>{36, 81} << 81;
}

void TestDrums::silentNotesGetTheNearest() {
    QFETCH(int, silent);
    QFETCH(QList<int>, there);
    QFETCH(int, instead);
    std::vector<std::pair<int, std::string>> keys;
    for (const int k : there) keys.emplace_back(k, "");
    const auto notes = notesWith(Builder().note(9, 0, 0.1, silent).song(), kitOf(keys));
    QCOMPARE(notes[0].silent, 1);
    QVERIFY(notes[0].instead);
    QCOMPARE(int(notes[0].instead->key.value), instead);
    QVERIFY(!notes[0].instead->why.empty());
}

void TestDrums::whatStandsInSoundsAllHits() {
    // Key 38 sounds only from velocity 90 on: soft hits are silent, and so 37, which has all, stands in.
    const Catalogue loud = kitOf({{38, ""}}, 90);
    auto font = std::make_shared<SoundFont>(*loud.fonts()[0]);
    font->presets[0].zones.push_back({{37, 37}, {0, 127}, 0, 0});
    font->presets[0].zones.push_back({{40, 40}, {60, 127}, 0, 0});
    const Catalogue fonts({font}, houseFontId);
    const Song song =
        Builder().note(9, 0, 0.1, 38, 100).note(9, 1, 0.1, 38, 40).note(9, 2, 0.1, 38, 70).song();
    const auto notes = notesWith(song, fonts);
    QCOMPARE(notes[0].silent, 2);
    QCOMPARE(int(notes[0].instead->key.value), 37);
    // A trim that makes them louder fixes it as well: velocities count as they are heard.
    QCOMPARE(notesWith(edits::setDrumTrim(song, 1, {key(38)}, {1, 60, 0}), fonts)[0].silent, 0);
}

void TestDrums::kitsAreOrderedByWhatTheySound() {
    const Song song = beatOn(9, 2).song();
    const auto few = kitOf({{36, ""}, {38, ""}}).fonts()[0],
               all = kitOf({{36, ""}, {38, ""}, {42, ""}}).fonts()[0];
    auto named = std::make_shared<SoundFont>(*all);
    named->id = "/all.sf2";
    const Catalogue fonts({few, named}, houseFontId);
    const DrumHits hits = drumHitsOf(song, song.parts[0].source, song.parts[0].recipe);
    const auto kits = kitsFor(song.parts[0], hits, fonts);
    QCOMPARE(kits.size(), std::size_t{2});
    QCOMPARE(kits[0].sound.font, std::string("/all.sf2"));
    QCOMPARE(kits[0].sounding, 24);
    QCOMPARE(kits[1].sounding, 8);
}

void TestDrums::fittingLeavesNothingSilent() {
    const Catalogue fonts = fontsAt(HOUSE_FONT);
    for (unsigned seed = 1; seed <= 10; ++seed) {
        std::mt19937 random(seed);
        Builder b;
        for (int i = 0; i < 60; ++i)
            b.note(9, i * 0.1, 0.05, static_cast<int>(random() % 128), 1 + static_cast<int>(random() % 127));
        const Song song = b.song(), fitted = edits::fitKits(song, fonts);
        int before = 0, after = 0;
        for (const DrumNote& n : notesWith(song, fonts)) before += n.hits;
        for (const DrumNote& n : notesWith(fitted, fonts)) {
            after += n.hits;
            QCOMPARE(n.silent, 0);
        }
        QCOMPARE(after, before);
        QCOMPARE(realise(fitted, fitted.parts[0]).notes.size(), realise(song, song.parts[0]).notes.size());
    }
}

void TestDrums::barPrints() {
    const auto printsOf = [](const Song& song) {
        return barPrintsOf(song, song.parts[0].source, 0, song.end + 1);
    };
    const BarPrints straight = printsOf(beatOn(9, 4).song());
    QCOMPARE(straight.perBeat, 4);
    QVERIFY(!straight.triplets && !straight.swing);
    QCOMPARE(straight.slots(), std::size_t{16});
    for (std::size_t i = 0; i < 16; ++i) {
        QCOMPARE(straight.keys[42][i] > 0, i % 2 == 0);
        QCOMPARE(straight.keys[36][i] > 0, i % 8 == 0);
        QCOMPARE(straight.keys[38][i] > 0, i % 8 == 4);
    }
    QVERIFY(std::abs(straight.keys[36][0] - 4 * 100 / 127.0) < 1e-9); // four bars, weighted by velocity
    QVERIFY(straight.keys[40].empty());
    Builder swung, triplets;
    for (int beat = 0; beat < 16; ++beat) {
        swung.note(9, beat * 0.5, 0.05, 51).note(9, beat * 0.5 + 0.5 * 0.64, 0.05, 51); // a little early
        for (int third = 0; third < 3; ++third) triplets.note(9, beat * 0.5 + third / 6.0, 0.05, 42);
    }
    QVERIFY(printsOf(swung.song()).swing);
    QVERIFY(printsOf(swung.song()).triplets);
    QVERIFY(printsOf(triplets.song()).triplets);
    QVERIFY(!printsOf(triplets.song()).swing);
    QCOMPARE(printsOf(triplets.song()).slots(), std::size_t{12});
    // A hit a little before the bar belongs to its first beat.
    const BarPrints early =
        printsOf(Builder().note(9, 0, 0.1, 36).note(9, 1.99, 0.1, 36).note(9, 4, 0.1, 36).song());
    QVERIFY(std::abs(early.keys[36][0] - 3) < 1e-9);
    // Only what begins in the stretch.
    const Song song = beatOn(9, 4).song();
    QVERIFY(std::abs(barPrintsOf(song, song.parts[0].source, 1920, 3840).keys[36][0] - 100 / 127.0) < 1e-9);
}

void TestDrums::barPrintsKnowMetres() {
    Builder b;
    b.file.addTimeSignature(0, 0, 3, 4);
    b.file.addTimeSignature(0, Builder::at(3), 6, 8); // two bars later
    for (int eighth = 0; eighth < 24; ++eighth) b.note(9, 3 + eighth * 0.25, 0.1, eighth % 6 == 0 ? 36 : 42);
    b.note(9, 0, 0.1, 36);
    const Song song = b.song();
    const BarPrints prints = barPrintsOf(song, song.parts[0].source, 0, song.end);
    QCOMPARE(prints.numerator, 6);
    QCOMPARE(prints.denominator, 8);
    QCOMPARE(prints.perBeat, 2);
    QVERIFY(std::abs(prints.keys[36][0] - 4) < 1e-9); // the bar of 3/4 does not count
    // A part without hits in the stretch.
    const BarPrints none = barPrintsOf(song, song.parts[0].source, 100, 101);
    QCOMPARE(none.numerator, 3);
    QCOMPARE(none.slots(), std::size_t{12});
}

void TestDrums::barRuns() {
    Builder b;
    for (const double bar : {0.0, 1.0, 3.0, 10.0, 11.0}) b.note(9, bar * 2 + 0.3, 0.1, 49);
    const Song song = b.song();
    using Runs = std::vector<std::pair<int, int>>;
    QCOMPARE(barRunsOf(song, song.parts[0].source, key(49)), (Runs{{1, 4}, {11, 12}}));
    QCOMPARE(barRunsOf(song, song.parts[0].source, key(36)), Runs{});
}

void TestDrums::layoutsByNames() {
    // A kit laid out from C2 up, as its maker liked it.
    Song song =
        Builder().note(9, 0, 0.1, 48).note(9, 1, 0.1, 50).note(9, 2, 0.1, 52).note(9, 3, 0.1, 53).song();
    song = edits::nameDrums(song, 1,
                            {{48, "Bombo"}, {50, "Caja"}, {52, "Charles cerrado"}, {53, "Snare or clap"}});
    const NamedLayout layout = layoutByNames(song, song.parts[0]);
    QCOMPARE(layout.clear, (std::map<std::uint8_t, Key>{{48, key(36)}, {50, key(38)}, {52, key(42)}}));
    QCOMPARE(layout.asked, std::vector<std::uint8_t>{53});
    const Song played = edits::playByNames(song, 1);
    std::multiset<int> keys;
    for (const Note& n : realise(played, played.parts[0]).notes) keys.insert(n.key.value);
    QCOMPARE(keys, (std::multiset<int>{36, 38, 42, 53}));
    QVERIFY(layoutByNames(played, played.parts[0]).clear.empty());
    // Written into the notes, names go with them.
    const Song written = edits::writeInRecipe(played, 1);
    QCOMPARE(written.parts[0].keyNames.at(36), std::string("Bombo"));
    QCOMPARE(notesHeard(written), notesHeard(played));
}

void TestDrums::drumsComeBack() {
    for (const int octaves : {0, 1, -1, 2}) {
        const Song song = beatOn(3, 8, octaves).song();
        QVERIFY(!song.parts[0].source.drums);
        const Song back = edits::drumsBack(song, {1});
        QVERIFY(back.parts[0].source.drums);
        QCOMPARE(back.parts[0].source.channel, drumChannel);
        QCOMPARE(struck(back, back.parts[0]), struck(beatOn(9, 8).song(), beatOn(9, 8).song().parts[0]));
        for (const Note& n : realise(back, back.parts[0]).notes)
            QVERIFY(n.end - n.start <= 120 && n.end > n.start);
    }
}

void TestDrums::severalTracksBecomeOneKitAndBack() {
    Builder b(1, 3);
    for (int beat = 0; beat < 32; ++beat) {
        b.note(3, beat * 0.5, 0.1, beat % 2 ? 38 : 36, 90, 1);
        b.note(5, beat * 0.5, 0.1, 42, 60, 2);
    }
    b.file.addText(1, 0, meta::trackName, "Kick and snare");
    b.file.addText(2, 0, meta::trackName, "Hi-hat");
    const Song song = b.song();
    const Song kit = edits::drumsBack(song, {song.parts[0].id, song.parts[1].id});
    QCOMPARE(kit.parts.size(), std::size_t{1});
    QCOMPARE(realise(kit, kit.parts[0]).notes.size(), std::size_t{64});
    // One after the other, each as it came.
    const PartId id = kit.parts[0].id;
    const Song hat = edits::takeOut(kit, id, {1});
    QCOMPARE(hat.parts.size(), std::size_t{2});
    QCOMPARE(hat.parts[1].name, std::string("Hi-hat"));
    QVERIFY(hat.parts[0].source.drums && !hat.parts[1].source.drums);
    QCOMPARE(hat.parts[1].source.channel, song.parts[1].source.channel);
    const auto notes = [](const Song& s, const Part& p) { return realise(s, p).notes; };
    QCOMPARE(notes(hat, hat.parts[1]), notes(song, song.parts[1]));
    QCOMPARE(struck(hat, hat.parts[0]), struck(song, song.parts[0]));
    const Song apart = edits::takeOut(kit, id, {0, 1});
    QCOMPARE(apart.parts.size(), std::size_t{2});
    for (const std::size_t i : {0, 1}) {
        QCOMPARE(notes(apart, apart.parts[i]), notes(song, song.parts[i]));
        QCOMPARE(apart.parts[i].name, song.parts[i].name);
        QCOMPARE(apart.parts[i].source.drums, false);
    }
    QVERIFY(edits::takeOut(kit, id, {}) == kit);
}

void TestDrums::aPieceApartAndBack() {
    const Song song = edits::setDrumTrim(beatOn(9, 4).song(), 1, {key(42)}, {1, 5, 0});
    const Song apart = edits::pieceApart(song, 1, DrumPiece::Hats);
    QCOMPARE(apart.parts.size(), std::size_t{2});
    QCOMPARE(realise(apart, apart.parts[1]).notes.size(), std::size_t{32});
    for (const Note& n : realise(apart, apart.parts[1]).notes) QCOMPARE(int(n.key.value), 42);
    QCOMPARE(notesHeard(apart), notesHeard(song));
    const Song back = edits::pieceBack(apart, 1, apart.parts[1].id);
    QCOMPARE(back.parts.size(), std::size_t{1});
    QCOMPARE(notesHeard(back), notesHeard(song));
    QVERIFY(edits::pieceApart(song, 1, DrumPiece::Toms) == song); // there are none
}

void TestDrums::beatsKeepTime_data() {
    QTest::addColumn<int>("style");
    for (const BeatStyle style : beatStyles())
        QTest::newRow(beatStyleName(style).data()) << static_cast<int>(style);
}

void TestDrums::beatsKeepTime() {
    QFETCH(int, style);
    Builder b;
    b.file.addTempo(0, Builder::at(7), 700000);
    b.file.addTimeSignature(0, Builder::at(8), 3, 4);
    b.file.addTimeSignature(0, Builder::at(14), 6, 8);
    b.file.addTimeSignature(0, Builder::at(20), 5, 4);
    b.note(0, 0, 30, 60);
    const Song song = b.song();
    const Song with = edits::addBeat(song, static_cast<BeatStyle>(style), false);
    QCOMPARE(with.parts.size(), std::size_t{2});
    const Part& beat = with.parts[1];
    QVERIFY(beat.source.drums);
    const auto heard = realise(with, beat);
    QVERIFY(!heard.notes.empty());
    std::set<Tick> starts;
    for (const Note& n : heard.notes) {
        QVERIFY(n.start >= 0 && n.end <= with.end && n.start < n.end);
        QVERIFY(!drumName(n.key).empty());
        starts.insert(n.start);
    }
    for (int bar = 1; bar <= with.bars(); ++bar) QVERIFY(starts.contains(with.tempo->barStart(bar)));
    QVERIFY(with.end == song.end);
    // It is written and read like any other part, and removed by undoing or by deleting.
    const Song again = songOf(toMidi(with, Layout::TrackPerPart));
    QCOMPARE(notesHeard(again), notesHeard(with));
    // What the style is: the first bar in numbers.
    std::multiset<std::pair<Tick, int>> first;
    for (const Note& n : heard.notes)
        if (n.start < 1920) first.insert({n.start, n.key.value});
    switch (static_cast<BeatStyle>(style)) {
    case BeatStyle::Straight:
        QVERIFY(first.contains({0, 36}) && first.contains({480, 38}) && first.contains({240, 42}));
        break;
    case BeatStyle::Swing: QVERIFY(first.contains({800, 51}) && first.contains({480, 44})); break;
    case BeatStyle::Waltz:
        QVERIFY(first.contains({0, 36}) && first.contains({480, 38}) && first.contains({960, 38}));
        break;
    case BeatStyle::March: QVERIFY(first.contains({240, 38}) && first.contains({480, 36})); break;
    case BeatStyle::Bossa: QVERIFY(first.contains({720, 37}) && first.contains({0, 36})); break;
    case BeatStyle::Click:
        QCOMPARE(first, (std::multiset<std::pair<Tick, int>>{{0, 76}, {480, 77}, {960, 77}, {1440, 77}}));
        break;
    }
}

void TestDrums::fillsAreAtTheEndsOfSections() {
    Builder b;
    b.file.addText(0, 0, meta::marker, "One");
    b.file.addText(0, Builder::at(8), meta::marker, "Two");
    b.note(0, 0, 16, 60);
    const Song with = edits::addBeat(b.song(), BeatStyle::Straight, true);
    std::multiset<std::pair<Tick, int>> notes;
    for (const Note& n : realise(with, with.parts[1]).notes) notes.insert({n.start, n.key.value});
    const Tick two = Builder::at(8);
    QVERIFY(notes.contains({two, 49}));
    QVERIFY(notes.contains({two - 120, 43}));
    QVERIFY(!notes.contains({two - 480, 42}));
    QCOMPARE(std::count_if(notes.begin(), notes.end(), [](const auto& n) { return n.second == 49; }), 1);
    // Nothing to keep time for.
    MidiFile nothing;
    nothing.tracks.resize(1);
    Song empty = songOf(nothing);
    QVERIFY(edits::addBeat(empty, BeatStyle::Straight, true) == empty);
    Builder waltz;
    waltz.file.addTimeSignature(0, 0, 3, 4);
    QCOMPARE(beatStyleFor(waltz.note(0, 0, 3, 60).song()), BeatStyle::Waltz);
}

void TestDrums::snags() {
    const Catalogue small = kitOf({{36, "Kick"}, {38, "Snare"}});
    // Silent notes: one snag a kit, however many notes.
    const Song song = beatOn(9, 8).note(9, 17, 0.1, 49).song();
    auto found = findSnags(song, small);
    const Snag* silent = ofKind(found, "silent-drums");
    QVERIFY(silent && silent->serious);
    QCOMPARE(silent->step, Step::Drums);
    QCOMPARE(
        std::count_if(found.begin(), found.end(), [](const Snag& s) { return s.kind == "silent-drums"; }), 1);
    QVERIFY2(inWords(silent->what).find("2 drum notes") != std::string::npos, inWords(silent->what).c_str());
    QVERIFY(!ofKind(findSnags(silent->fixes[0].apply(song), small), "silent-drums"));
    QVERIFY(!ofKind(findSnags(edits::setDrumOff(song, 1, {key(42), key(49)}, true), small), "silent-drums"));
    // Where a kit has them all, it is offered.
    auto other = std::make_shared<SoundFont>(*kitOf({{36, ""}, {38, ""}, {42, ""}, {49, ""}}).fonts()[0]);
    other->id = "/whole.sf2";
    other->presets[0].name = "Whole kit";
    const Catalogue both({small.fonts()[0], other}, houseFontId);
    found = findSnags(song, both);
    silent = ofKind(found, "silent-drums");
    QVERIFY(silent && silent->fixes.size() == 3);
    QCOMPARE(silent->fixes[1].apply(song).parts[0].sound.chosen->font, std::string("/whole.sf2"));
    // The kit that is asked for is not there.
    const Song brushes = beatOn(9, 8).program(9, 0, 40).song();
    const auto snagsOfBrushes = findSnags(brushes, small);
    const Snag* kit = ofKind(snagsOfBrushes, "kit-missing");
    QVERIFY(kit && !kit->serious);
    QVERIFY(!ofKind(findSnags(kit->fixes[0].apply(brushes), small), "kit-missing"));
    // Drums that a melodic sound plays.
    const Song melodic = edits::chooseSound(song, 1, {houseFontId, 0, 0, "Piano"});
    const auto snagsOfMelodic = findSnags(melodic, fontsAt(HOUSE_FONT));
    const Snag* wrong = ofKind(snagsOfMelodic, "drums-on-melodic");
    QVERIFY(wrong);
    QVERIFY(!ofKind(findSnags(wrong->fixes[0].apply(melodic), fontsAt(HOUSE_FONT)), "drums-on-melodic"));
    // Hats that are struck harder than kick and snare.
    const Catalogue house = fontsAt(HOUSE_FONT);
    QVERIFY(!ofKind(findSnags(song, house), "loud-drum"));
    const Song loud = edits::setDrumTrim(song, 1, {key(42)}, {1, 60, 0});
    const auto snagsOfLoud = findSnags(loud, house);
    const Snag* hat = ofKind(snagsOfLoud, "loud-drum");
    QVERIFY(hat);
    QVERIFY(!ofKind(findSnags(hat->fixes[0].apply(loud), house), "loud-drum"));
    // Names for another kit.
    const Song named = edits::nameDrum(song, 1, key(42), "Bass drum");
    const auto snagsOfNamed = findSnags(named, house);
    const Snag* names = ofKind(snagsOfNamed, "names-against-kit");
    QVERIFY(names);
    QCOMPARE(int(names->fixes[0].apply(named).parts[0].recipe.drumPlan(key(42)).target->value), 36);
    QVERIFY(names->fixes[1].apply(named) == song);
    // Two kits on one channel.
    Song two = edits::pieceApart(song, 1, DrumPiece::Hats);
    QVERIFY(!ofKind(findSnags(two, house), "drums-share-channel"));
    two = edits::chooseSound(two, two.parts[1].id, {houseFontId, 128, 40, "Brush"});
    const auto snagsOfTwo = findSnags(two, house);
    const Snag* share = ofKind(snagsOfTwo, "drums-share-channel");
    QVERIFY(share);
    for (const std::size_t fix : {0, 1})
        QVERIFY(!ofKind(findSnags(share->fixes[fix].apply(two), house), "drums-share-channel"));
    QCOMPARE(share->fixes[1].apply(two).parts[1].source.port, 1);
}

void TestDrums::hintsAreOnlyHints() {
    Builder b;
    for (int beat = 0; beat < 64; ++beat) {
        b.note(9, beat * 0.5, 0.1, 51, 70);
        if (beat % 2) b.note(9, beat * 0.5, 0.1, 44, 60).note(9, beat * 0.5 + 1.0 / 3, 0.1, 51, 50);
    }
    const Song swing = b.song();
    const DrumHits hits = drumHitsOf(swing, swing.parts[0].source, {});
    const auto hint = kitHintFor(swing, swing.parts[0], hits);
    QVERIFY(hint);
    QCOMPARE(int(hint->program.value), 32);
    QVERIFY(!swing.parts[0].sound.chosen);
    const Song straight = beatOn(9, 8).song();
    QVERIFY(!kitHintFor(straight, straight.parts[0], drumHitsOf(straight, straight.parts[0].source, {})));
}

QTEST_APPLESS_MAIN(TestDrums)
#include "tst_drums.moc"
