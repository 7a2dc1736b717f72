// Derived against the pure functions whose results it keeps.
#include "support/anyedit.h"

#include "song/derived.h"
#include "song/match/rangefit.h"

#include <future>

using namespace support;

namespace {

/// A snag without its fixes, which are functions.
auto rowOf(const Snag& snag) {
    return std::tuple(snag.key, snag.step, snag.part, snag.place, snag.serious, snag.pill, snag.what,
                      snag.why, snag.fixes.size());
}

/// Whether a finding of a song is what the pure function gives, by value. PartSnags and Match are what Snags
/// and Matches are made of.
bool isSame(Finding finding, const Song& song, const Catalogue& fonts, Derived& derived) {
    const auto each = [&](const std::function<bool(const Part&)>& same) {
        return std::all_of(song.parts.begin(), song.parts.end(), same);
    };
    const auto ofDrums = [&](const std::function<bool(const Part&)>& same) {
        return each([&](const Part& part) { return !part.source.drums || same(part); });
    };
    switch (finding) {
    case Finding::Heard:
        return each([&](const Part& part) { return *derived.heard(song, part) == realise(song, part); });
    case Finding::Facts:
        return each(
            [&](const Part& part) { return *derived.facts(song, part) == factsOf(song, part.source); });
    case Finding::Overview:
        return each([&](const Part& part) {
            const auto heard = std::make_shared<const HeardPart>(realise(song, part));
            const Overview fresh(heard);
            const auto kept = derived.overview(song, part);
            return kept->keys() == fresh.keys() &&
                   std::ranges::equal(kept->between(0, song.end, 60), fresh.between(0, song.end, 60));
        });
    case Finding::Histogram:
        return each([&](const Part& part) {
            return *derived.histogram(song, part) == histogramOf(realise(song, part));
        });
    case Finding::Density:
        return each([&](const Part& part) {
            return *derived.density(song, part) == densityOf(realise(song, part), song.end);
        });
    case Finding::Traits:
        return each([&](const Part& part) {
            return *derived.traits(song, part) == traitsOf(song, realise(song, part));
        });
    case Finding::Origins:
        return each(
            [&](const Part& part) { return *derived.origins(song, part) == originsOf(song, part.source); });
    case Finding::Volume: // made by Derived alone: one that has kept nothing says what it is to be
        return each(
            [&](const Part& part) { return *derived.volume(song, part) == *Derived().volume(song, part); });
    case Finding::Melody:
        return each([&](const Part& part) {
            return derived.melody(song, part) == KeyCheck::melodyOf(song, part, realise(song, part));
        });
    case Finding::DrumHits:
        return ofDrums([&](const Part& part) {
            return *derived.drumHits(song, part) == drumHitsOf(song, part.source, part.recipe);
        });
    case Finding::BarPrints:
        return ofDrums([&](const Part& part) {
            return *derived.barPrints(song, part, 100, 9000) == barPrintsOf(song, part.source, 100, 9000);
        });
    case Finding::Drums:
        return ofDrums([&](const Part& part) {
            const auto view = derived.drums(song, part, fonts);
            return view->notes ==
                       drumNotesOf(song, part, matchPart(song, part, fonts), catalogueFor(song, fonts)) &&
                   *view->hits == drumHitsOf(song, part.source, part.recipe);
        });
    case Finding::Match:
    case Finding::Matches: return *derived.matches(song, fonts) == matchSong(song, fonts);
    case Finding::PartSnags:
    case Finding::Snags:
        return std::ranges::equal(*derived.snags(song, fonts), findSnags(song, fonts),
                                  [](const Snag& a, const Snag& b) { return rowOf(a) == rowOf(b); });
    case Finding::Lyrics: return *derived.lyrics(song) == lyricLines(song);
    case Finding::Summary:
        return *derived.summary(song) == summaryOf(song, [&](const Part& part) {
            return std::make_shared<const HeardPart>(realise(song, part));
        });
    }
    return false;
}

QString differenceOf(const Song& song, const Catalogue& fonts, Derived& derived) {
    for (int i = 0; i < findings; ++i)
        if (!isSame(static_cast<Finding>(i), song, fonts, derived))
            return QStringLiteral("finding %1").arg(i);
    return {};
}

/// An edit of any kind, a rename, another order of fonts or another encoding.
Song anyChange(const Song& song, std::mt19937& random) {
    switch (random() % 8) {
    case 0:
        return edits::rename(song, song.parts[random() % song.parts.size()].id,
                             "Alto " + std::to_string(random() % 9));
    case 1: {
        Song other = song;
        other.fontOrder = random() % 2 ? std::vector<std::string>{} : std::vector<std::string>{houseFontId};
        return other;
    }
    case 2: return edits::setEncoding(song, random() % 2 ? "UTF-8" : "SHIFT_JIS");
    default: return anyShaping(song, random);
    }
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
                history.push_back(anyChange(from, random));
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
