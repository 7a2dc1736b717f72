// Derived against the pure functions whose results it keeps.
#include "support/anyedit.h"

#include "song/derived.h"

#include <future>

using namespace support;

namespace {

/// A snag without its fixes, which are functions.
auto rowOf(const Snag& snag) {
    return std::tuple(snag.key, snag.step, snag.part, snag.place, snag.serious, snag.pill, snag.what,
                      snag.why, snag.fixes.size());
}

QString differenceOf(const Song& song, const Catalogue& fonts, Derived& derived) {
    for (const Part& part : song.parts) {
        const HeardPart heard = realise(song, part);
        const auto kept = derived.heard(song, part);
        if (*kept != heard) return QStringLiteral("notes");
        if (derived.facts(song, part)->notes != factsOf(song, part.source).notes)
            return QStringLiteral("facts");
        if (*derived.density(song, part) != densityOf(heard, song.end)) return QStringLiteral("density");
        if (derived.traits(song, part)->keys != traitsOf(song, heard).keys) return QStringLiteral("traits");
        if (derived.melody(song, part).classes != KeyCheck::melodyOf(song, part, heard).classes)
            return QStringLiteral("melody");
        if (!part.source.drums) continue;
        const PartMatch match = matchPart(song, part, fonts);
        if (derived.drums(song, part, fonts)->notes !=
            drumNotesOf(song, part, match, catalogueFor(song, fonts)))
            return QStringLiteral("drum notes");
        if (derived.drumHits(song, part)->after != drumHitsOf(song, part.source, part.recipe).after)
            return QStringLiteral("drum hits");
        if (derived.barPrints(song, part, 100, 9000)->keys != barPrintsOf(song, part.source, 100, 9000).keys)
            return QStringLiteral("bar prints");
    }
    if (*derived.matches(song, fonts) != matchSong(song, fonts)) return QStringLiteral("matches");
    const auto kept = derived.snags(song, fonts);
    const auto found = findSnags(song, fonts);
    if (kept->size() != found.size()) return QStringLiteral("count of snags");
    for (std::size_t i = 0; i < found.size(); ++i)
        if (rowOf((*kept)[i]) != rowOf(found[i])) return QString::fromStdString("snag " + found[i].key);
    if (derived.lyrics(song)->size() != lyricLines(song).size()) return QStringLiteral("lyrics");
    return {};
}

} // namespace

class TestDerived : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void givesWhatTheFunctionsGiveAfterAnyEdits() {
        const Catalogue fonts = fontsAt(HOUSE_FONT), other = testFont();
        for (unsigned seed = 1; seed <= 16; ++seed) {
            std::mt19937 random(seed);
            Derived derived;
            std::vector<Song> history = {songOf(randomFile(random))};
            for (int step = 0; step < 25; ++step) {
                // Back to an earlier value now and then: results for it may still be kept, or be another's.
                const Song& from =
                    history[random() % 3 == 0 ? random() % history.size() : history.size() - 1];
                history.push_back(anyShaping(from, random));
                const QString wrong = differenceOf(history.back(), random() % 4 ? fonts : other, derived);
                QVERIFY2(wrong.isEmpty(),
                         qPrintable(QStringLiteral("seed %1, step %2: %3").arg(seed).arg(step).arg(wrong)));
            }
        }
    }

    void levelsLeaveEverythingAsItIs() {
        const Song song = demoSong("lantern_quay.mid");
        const Catalogue fonts = fontsAt(HOUSE_FONT);
        Derived derived;
        const auto matches = derived.matches(song, fonts);
        const auto snags = derived.snags(song, fonts);
        Song mixed = edits::setPan(edits::setLevel(song, 1, -7), 2, 0.4);
        mixed = edits::putInFront(edits::setRoom(edits::setMasterLevel(mixed, -3), 0.5), 3);
        mixed = edits::setRoomShare(edits::setMuted(mixed, 4, true), 5, 0.2, true);
        QVERIFY(!(mixed == song));
        for (const Part& part : mixed.parts) {
            QCOMPARE(derived.heard(mixed, part), derived.heard(song, *song.part(part.id)));
            QCOMPARE(derived.overview(mixed, part), derived.overview(song, *song.part(part.id)));
        }
        QCOMPARE(derived.matches(mixed, fonts), matches);
        QCOMPARE(derived.snags(mixed, fonts), snags);
    }

    void anEditOfOnePartLeavesTheOthers() {
        const Song song = demoSong("lantern_quay.mid");
        Derived derived;
        const auto third = derived.heard(song, *song.part(3)), first = derived.heard(song, *song.part(1));
        // An event that is changed goes to the end of Song::made, which all parts share.
        const auto& events = *song.part(1)->source.events;
        const EventRef ref =
            *std::find_if(events.begin(), events.end(), [&](EventRef r) { return song.event(r).isNoteOn(); });
        Song changed = edits::setEventValue(edits::setOctaves(song, 1, 1), 1, ref, 3); // another velocity
        QVERIFY(!(changed.made == song.made));
        QVERIFY(derived.heard(changed, *changed.part(1)) != first);
        QCOMPARE(derived.heard(changed, *changed.part(3)), third);
    }

    void songsThatWereNotAskedForLongAreForgotten() {
        Derived derived;
        std::vector<Song> songs;
        std::weak_ptr<const HeardPart> first;
        for (unsigned i = 0; i < 20; ++i) {
            std::mt19937 random(i + 1);
            songs.push_back(songOf(randomFile(random)));
            const auto heard = derived.heard(songs.back(), songs.back().parts[0]);
            if (i == 0) first = heard;
        }
        QVERIFY(first.expired());
        QCOMPARE(derived.heard(songs[0], songs[0].parts[0])->notes,
                 realise(songs[0], songs[0].parts[0]).notes);
    }

    void severalThreadsMayAsk() {
        const Catalogue fonts = fontsAt(HOUSE_FONT);
        Derived derived;
        const auto work = [&](unsigned seed) {
            std::mt19937 random(seed);
            Song song = demoSong("lantern_quay.mid");
            for (int i = 0; i < 40; ++i) {
                song = anyShaping(song, random);
                if (*derived.matches(song, fonts) != matchSong(song, fonts)) return false;
                (void)derived.snags(song, fonts);
            }
            return true;
        };
        auto other = std::async(std::launch::async, work, 1);
        QVERIFY(work(2));
        QVERIFY(other.get());
    }
};

QTEST_APPLESS_MAIN(TestDerived)
#include "tst_derived.moc"
