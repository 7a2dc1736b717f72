#include "song/derived.h"

#include "song/match/rangefit.h"
#include "song/model/levels.h"
#include "song/shape/edits.h"
#include "song/snags/kinds.h"

#include <algorithm>
#include <array>
#include <mutex>
#include <set>

namespace cobbleway {
namespace {

/// The results for the last two keys, the one asked for last first.
template <class Key, class Value> class Slot {
  public:
    std::shared_ptr<const Value> find(const Key& key) {
        for (std::size_t i = 0; i < m_kept.size(); ++i)
            if (m_kept[i].value && m_kept[i].key == key) {
                if (i > 0) std::swap(m_kept[0], m_kept[i]);
                return m_kept[0].value;
            }
        return nullptr;
    }
    void keep(Key key, std::shared_ptr<const Value> value) {
        std::swap(m_kept[0], m_kept[1]);
        m_kept[0] = {std::move(key), std::move(value)};
    }
    void clear() { m_kept = {}; }

  private:
    struct Entry {
        Key key;
        std::shared_ptr<const Value> value;
    };
    std::array<Entry, 2> m_kept;
};

/// A part's events and all that gives them their time.
struct EventsKey {
    std::shared_ptr<const SourceFile> file;
    Shared<std::vector<Tick>> trackStarts;
    Tick end = 0;
    MadeEvents made;
    PartSource source;
    EventsKey() = default;
    EventsKey(const Song& song, const Part& part)
        : file(song.source), trackStarts(song.trackStarts), end(song.end), made(song.made),
          source(part.source) {}
    bool operator==(const EventsKey& o) const {
        return file == o.file && end == o.end && trackStarts == o.trackStarts && source == o.source &&
               sameMade(o);
    }

  private:
    /// Made events of other parts do not count.
    [[nodiscard]] bool sameMade(const EventsKey& o) const {
        if (made == o.made) return true;
        return std::all_of(source.events->begin(), source.events->end(), [&](EventRef ref) {
            return !ref.isMade() || (ref.index < made.size() && ref.index < o.made.size() &&
                                     made[ref.index] == o.made[ref.index]);
        });
    }
};

struct HeardKey {
    EventsKey events;
    int keyShift = 0;
    PartRecipe recipe;
    bool operator==(const HeardKey&) const = default;
};

/// A result with a number of its own, by which what follows from it is kept.
template <class T> struct Numbered {
    T value;
    std::uint64_t number = 0;
};

struct TraitsKey {
    std::uint64_t heard = 0;
    Tick quarter = 0;
    bool operator==(const TraitsKey&) const = default;
};

struct DensityKey {
    std::uint64_t heard = 0;
    Tick end = 0;
    bool operator==(const DensityKey&) const = default;
};

struct MelodyKey {
    std::uint64_t heard = 0;
    int keyShift = 0;
    Tick quarter = 0;
    bool operator==(const MelodyKey&) const = default;
};

/// Catalogues are compared by what they are made of in memory.
struct CatalogueKey {
    Catalogue catalogue;
    bool operator==(const CatalogueKey& o) const { return catalogue.sameAs(o.catalogue); }
};

struct MatchKey {
    std::uint64_t heard = 0, facts = 0;
    PartIdentity identity;
    PartSound sound;
    bool drums = false;
    std::string encoding;
    Dialect dialect = Dialect::None;
    Shared<std::vector<DialectFrom>> dialects;
    Tick quarter = 0;
    CatalogueKey catalogue;
    bool operator==(const MatchKey&) const = default;
};

struct BarPrintsKey {
    EventsKey events;
    Shared<TempoMap> tempo;
    Tick from = 0, to = 0;
    bool operator==(const BarPrintsKey&) const = default;
};

struct HitsKey {
    EventsKey events;
    PartRecipe recipe;
    bool drums = false;
    bool operator==(const HitsKey&) const = default;
};

struct DrumsKey {
    MatchKey match;
    EventsKey events;
    PartRecipe recipe;
    bool operator==(const DrumsKey&) const = default;
};

struct PartSnagsKey {
    MatchKey match;
    PartRecipe recipe;
    PartSource source;
    std::vector<Effect> effects;
    bool operator==(const PartSnagsKey&) const = default;
};

/// A song without its levels.
Song withoutLevels(Song song) {
    for (Part& part : song.parts) {
        PartMix mix;
        mix.effects = std::move(part.mix.effects);
        part.mix = std::move(mix);
    }
    const Song plain;
    song.backDb = plain.backDb;
    song.room = plain.room;
    song.roomSeconds = plain.roomSeconds;
    song.masterDb = plain.masterDb;
    return song;
}

struct SongKey {
    Song song; ///< without levels
    CatalogueKey catalogue;
    bool operator==(const SongKey&) const = default;
};

struct LyricsKey {
    std::shared_ptr<const SourceFile> file;
    Shared<std::vector<Tick>> trackStarts;
    Tick end = 0;
    std::string encoding;
    Shared<EventRefs> conductor;
    std::vector<Shared<EventRefs>> events; ///< of parts with words
    bool operator==(const LyricsKey&) const = default;
};

struct PartSlots {
    Slot<HeardKey, Numbered<HeardPart>> heard;
    Slot<EventsKey, Numbered<PartFacts>> facts;
    Slot<std::uint64_t, Overview> overview;
    Slot<std::uint64_t, std::array<int, 128>> histogram;
    Slot<DensityKey, Density> density;
    Slot<TraitsKey, PartTraits> traits;
    Slot<EventsKey, std::vector<OriginCount>> origins;
    Slot<HeardKey, std::vector<ControlPoint>> volume;
    Slot<MelodyKey, KeyCheck::Melody> melody;
    Slot<MatchKey, PartMatch> match;
    Slot<PartSnagsKey, std::vector<Snag>> snags;
    Slot<HitsKey, DrumHits> drumHits;
    Slot<BarPrintsKey, BarPrints> barPrints;
    Slot<DrumsKey, DrumView> drums;
    /// What is large, and soon made again.
    void clearNotes() {
        heard.clear();
        overview.clear();
        volume.clear();
    }
};

struct SongSlots {
    std::map<PartId, PartSlots> parts;
    Slot<std::vector<std::shared_ptr<const PartMatch>>, std::vector<PartMatch>> matches;
    Slot<SongKey, std::vector<Snag>> snags;
    Slot<LyricsKey, std::vector<LyricLine>> lyrics;
    Slot<Song, SongSummary> summary; ///< of a song without levels
    std::uint64_t used = 0;          ///< when it was asked last
};

/// Takes every slot by its name, so that one more does not compile until it is a Finding.
[[maybe_unused]] void countSlots(PartSlots& ofPart, SongSlots& ofSong) {
    [[maybe_unused]] const auto& [heard, facts, overview, histogram, density, traits, origins, volume, melody,
                                  match, snagsOfPart, drumHits, barPrints, drums] = ofPart;
    [[maybe_unused]] const auto& [parts, matches, snags, lyrics, summary, used] = ofSong;
    constexpr int partSlots = 14, songSlots = 4;
    static_assert(partSlots + songSlots == findings);
}

/// A part of a kept whole, alive as long as the whole is.
template <class T, class Whole>
std::shared_ptr<const T> within(const std::shared_ptr<const Whole>& whole, const T& inner) {
    return {whole, &inner};
}

} // namespace

struct Derived::Store {
    std::mutex mutex; ///< held while results are looked up and kept, not while they are made
    std::map<const SourceFile*, SongSlots> songs;
    std::map<std::uint64_t, const SourceFile*> byAge; ///< by when they were asked last
    std::uint64_t time = 0, number = 0;

    static constexpr std::size_t mostSongs = 1024;  ///< whose findings are kept
    static constexpr std::size_t mostWithNotes = 6; ///< whose notes are kept, too

    SongSlots& slotsOf(const Song& song) {
        const auto [at, fresh] = songs.try_emplace(song.source.get());
        SongSlots& slots = at->second;
        if (!fresh && slots.used == time) return slots; // it is the newest
        byAge.erase(slots.used);
        slots.used = ++time;
        byAge.emplace(time, at->first);
        forgetSome();
        return slots;
    }

    /// Of the song that is no longer among the newest its notes, of the oldest all.
    void forgetSome() {
        if (byAge.size() > mostWithNotes) {
            const auto demoted = std::next(byAge.rbegin(), mostWithNotes);
            for (auto& [id, part] : songs[demoted->second].parts) part.clearNotes();
        }
        for (; byAge.size() > mostSongs; byAge.erase(byAge.begin())) songs.erase(byAge.begin()->second);
    }

    /// What is kept in a slot of a part, or what `make` gives, which is then kept.
    template <class Key, class Value, class Make> std::shared_ptr<const Value>
    get(const Song& song, const Part& part, Slot<Key, Value> PartSlots::*slot, Key key, Make make) {
        {
            const std::lock_guard lock(mutex);
            if (auto kept = (slotsOf(song).parts[part.id].*slot).find(key)) return kept;
        }
        auto value = std::make_shared<const Value>(make());
        const std::lock_guard lock(mutex);
        (slotsOf(song).parts[part.id].*slot).keep(std::move(key), value);
        return value;
    }

    template <class Key, class Value, class Make> std::shared_ptr<const Value>
    get(const Song& song, Slot<Key, Value> SongSlots::*slot, Key key, Make make) {
        {
            const std::lock_guard lock(mutex);
            if (auto kept = (slotsOf(song).*slot).find(key)) return kept;
        }
        auto value = std::make_shared<const Value>(make());
        const std::lock_guard lock(mutex);
        (slotsOf(song).*slot).keep(std::move(key), value);
        return value;
    }

    std::uint64_t nextNumber() {
        const std::lock_guard lock(mutex);
        return ++number;
    }

    Kept<Numbered<HeardPart>> heard(const Song& song, const Part& part) {
        return get(song, part, &PartSlots::heard, HeardKey{{song, part}, song.keyShift, part.recipe}, [&] {
            return Numbered<HeardPart>{realise(song, part), nextNumber()};
        });
    }

    Kept<Numbered<PartFacts>> facts(const Song& song, const Part& part) {
        return get(song, part, &PartSlots::facts, EventsKey(song, part), [&] {
            return Numbered<PartFacts>{factsOf(song, part.source), nextNumber()};
        });
    }

    Kept<PartTraits> traits(const Song& song, const Part& part) {
        const auto plays = heard(song, part);
        return get(song, part, &PartSlots::traits, TraitsKey{plays->number, song.tempo->quarter()},
                   [&] { return traitsOf(song, plays->value); });
    }

    MatchKey matchKey(const Song& song, const Part& part, const Catalogue& ordered) {
        return {heard(song, part)->number,
                facts(song, part)->number,
                part.identity(),
                part.sound,
                part.source.drums,
                song.encoding,
                song.dialect,
                song.dialects,
                song.tempo->quarter(),
                {ordered}};
    }

    Kept<PartMatch> match(const Song& song, const Part& part, const MatchKey& key) {
        return get(song, part, &PartSlots::match, key, [&] {
            Kept<PartTraits> found;
            return matchPart(song, part, asksOf(song, part), key.catalogue.catalogue,
                             [&]() -> const PartTraits& { return *(found = traits(song, part)); });
        });
    }

    Kept<std::vector<Snag>> snagsOfPart(const Song& song, const Part& part, const MatchKey& match,
                                        const PartMatch& matched, const Catalogue& catalogue) {
        PartSnagsKey key{match, part.recipe, part.source, part.mix.effects};
        return get(song, part, &PartSlots::snags, std::move(key), [&] {
            const auto plays = heard(song, part);
            Kept<PartTraits> ofPart;
            const std::function<const PartTraits&()> traitsOfPart = [&]() -> const PartTraits& {
                return *(ofPart = traits(song, part));
            };
            const PartContext context{song,         part,
                                      matched,      plays->value,
                                      traitsOfPart, [&] { return drums(song, part, match, matched); },
                                      catalogue};
            std::vector<Snag> found;
            const auto kinds = snags::kinds();
            for (std::size_t rank = 0; rank < kinds.size(); ++rank) {
                if (!kinds[rank].ofPart) continue;
                const std::size_t before = found.size();
                kinds[rank].ofPart(context, found);
                for (std::size_t i = before; i < found.size(); ++i) found[i].rank = static_cast<int>(rank);
            }
            return found;
        });
    }

    Kept<DrumHits> drumHits(const Song& song, const Part& part) {
        return get(song, part, &PartSlots::drumHits, HitsKey{{song, part}, part.recipe, part.source.drums},
                   [&] { return drumHitsOf(song, part.source, part.recipe); });
    }

    /// With the catalogue in the song's order.
    Kept<DrumView> drums(const Song& song, const Part& part, const MatchKey& match,
                         const PartMatch& matched) {
        return get(song, part, &PartSlots::drums, DrumsKey{match, {song, part}, part.recipe}, [&] {
            DrumView view{partKitOf(matched, match.catalogue.catalogue), drumHits(song, part), {}};
            view.notes = drumNotesOf(part, matched, view.kit, *view.hits);
            return view;
        });
    }
};

Derived::Derived() : m_store(std::make_unique<Store>()) {}
Derived::~Derived() = default;

Derived::Kept<HeardPart> Derived::heard(const Song& song, const Part& part) {
    const auto numbered = m_store->heard(song, part);
    return within(numbered, numbered->value);
}

Derived::Kept<PartFacts> Derived::facts(const Song& song, const Part& part) {
    const auto numbered = m_store->facts(song, part);
    return within(numbered, numbered->value);
}

Derived::Kept<Overview> Derived::overview(const Song& song, const Part& part) {
    const auto plays = m_store->heard(song, part);
    return m_store->get(song, part, &PartSlots::overview, std::uint64_t{plays->number},
                        [&] { return Overview(within(plays, plays->value)); });
}

Derived::Kept<std::array<int, 128>> Derived::histogram(const Song& song, const Part& part) {
    const auto plays = m_store->heard(song, part);
    return m_store->get(song, part, &PartSlots::histogram, std::uint64_t{plays->number},
                        [&] { return histogramOf(plays->value); });
}

Derived::Kept<Density> Derived::density(const Song& song, const Part& part) {
    const auto plays = m_store->heard(song, part);
    return m_store->get(song, part, &PartSlots::density, DensityKey{plays->number, song.end},
                        [&] { return densityOf(plays->value, song.end); });
}

Derived::Kept<PartTraits> Derived::traits(const Song& song, const Part& part) {
    return m_store->traits(song, part);
}

Derived::Kept<std::vector<OriginCount>> Derived::origins(const Song& song, const Part& part) {
    return m_store->get(song, part, &PartSlots::origins, EventsKey(song, part),
                        [&] { return originsOf(song, part.source); });
}

Derived::Kept<std::vector<ControlPoint>> Derived::volume(const Song& song, const Part& part) {
    return m_store->get(song, part, &PartSlots::volume, HeardKey{{song, part}, song.keyShift, part.recipe},
                        [&] {
                            std::vector<ControlPoint> points;
                            if (!volumeMoves(song, part)) return points;
                            for (const Event& event : heard(song, part)->controls)
                                if (event.isController(cc::volume))
                                    points.push_back({event.tick, event.data2});
                            return points;
                        });
}

KeyCheck::Melody Derived::melody(const Song& song, const Part& part) {
    const auto plays = m_store->heard(song, part);
    const MelodyKey key{plays->number, song.keyShift, song.tempo->quarter()};
    return *m_store->get(song, part, &PartSlots::melody, key,
                         [&] { return KeyCheck::melodyOf(song, part, plays->value); });
}

Derived::Kept<DrumHits> Derived::drumHits(const Song& song, const Part& part) {
    return m_store->drumHits(song, part);
}

Derived::Kept<BarPrints> Derived::barPrints(const Song& song, const Part& part, Tick from, Tick to) {
    return m_store->get(song, part, &PartSlots::barPrints, BarPrintsKey{{song, part}, song.tempo, from, to},
                        [&] { return barPrintsOf(song, part.source, from, to); });
}

Derived::Kept<DrumView> Derived::drums(const Song& song, const Part& part, const Catalogue& catalogue) {
    const MatchKey key = m_store->matchKey(song, part, catalogueFor(song, catalogue));
    return m_store->drums(song, part, key, *m_store->match(song, part, key));
}

Derived::Kept<std::vector<PartMatch>> Derived::matches(const Song& song, const Catalogue& catalogue) {
    const Catalogue ordered = catalogueFor(song, catalogue);
    std::vector<Kept<PartMatch>> found;
    found.reserve(song.parts.size());
    for (const Part& part : song.parts)
        found.push_back(m_store->match(song, part, m_store->matchKey(song, part, ordered)));
    return m_store->get(song, &SongSlots::matches, found, [&] {
        std::vector<PartMatch> all;
        all.reserve(found.size());
        for (const auto& match : found) all.push_back(*match);
        return all;
    });
}

namespace {

/// Leaves out what another snag of the part says already: where name and program disagree, that it is a bass
/// on a guitar; where the instrument, the octave or the key is in doubt, that notes go beyond the compass.
void dropSaidAlready(std::vector<Snag>& found) {
    static const std::set<std::string> doubts = {"name-disagrees", "bass-on-guitar", "written-octave",
                                                 "lost-transposition", "program-missing"};
    std::set<PartId> disagree, doubtful;
    for (const Snag& snag : found) {
        if (snag.kind == "name-disagrees") disagree.insert(snag.part);
        if (doubts.contains(snag.kind)) doubtful.insert(snag.part);
    }
    std::erase_if(found, [&](const Snag& snag) {
        return (snag.kind == "bass-on-guitar" && disagree.contains(snag.part)) ||
               (snag.kind == "beyond-compass" && doubtful.contains(snag.part));
    });
}

} // namespace

Derived::Kept<std::vector<Snag>> Derived::snags(const Song& song, const Catalogue& catalogue) {
    return m_store->get(song, &SongSlots::snags, SongKey{withoutLevels(song), {catalogue}}, [&] {
        const auto matched = matches(song, catalogue);
        const Catalogue ordered = catalogueFor(song, catalogue);
        std::vector<Snag> found;
        for (std::size_t i = 0; i < song.parts.size(); ++i) {
            const Part& part = song.parts[i];
            const MatchKey key = m_store->matchKey(song, part, ordered);
            const auto ofPart = m_store->snagsOfPart(song, part, key, (*matched)[i], catalogue);
            found.insert(found.end(), ofPart->begin(), ofPart->end());
        }
        const SongContext context{song, *matched, catalogue, *this};
        const auto kinds = snags::kinds();
        for (std::size_t rank = 0; rank < kinds.size(); ++rank) {
            if (!kinds[rank].ofSong) continue;
            const std::size_t before = found.size();
            kinds[rank].ofSong(context, found);
            for (std::size_t i = before; i < found.size(); ++i) found[i].rank = static_cast<int>(rank);
        }
        std::erase_if(found, [&](const Snag& snag) { return song.settled.contains(snag.key); });
        dropSaidAlready(found);
        for (Snag& snag : found)
            snag.fixes.push_back(
                {{"fix.leave"}, false, [key = snag.key](const Song& s) { return edits::settle(s, key); }});
        std::stable_sort(found.begin(), found.end(), [](const Snag& a, const Snag& b) {
            return std::tuple(!a.asked, a.step, a.rank) < std::tuple(!b.asked, b.step, b.rank);
        });
        return found;
    });
}

Derived::Kept<SongSummary> Derived::summary(const Song& song) {
    return m_store->get(song, &SongSlots::summary, withoutLevels(song),
                        [&] { return summaryOf(song, [&](const Part& part) { return heard(song, part); }); });
}

Derived::Kept<std::vector<LyricLine>> Derived::lyrics(const Song& song) {
    LyricsKey key{song.source, song.trackStarts, song.end, song.encoding, song.conductor, {}};
    for (const Part& part : song.parts)
        if (facts(song, part)->hasTexts) key.events.push_back(part.source.events);
    const bool any = !key.events.empty() || song.any(*song.conductor, [](const Event& event, EventRef) {
        return event.isMeta(meta::lyric) || event.isMeta(meta::text);
    });
    return m_store->get(song, &SongSlots::lyrics, std::move(key),
                        [&] { return any ? lyricLines(song) : std::vector<LyricLine>{}; });
}

void Derived::keepOnly(const std::set<const SourceFile*>& files) {
    std::map<const SourceFile*, SongSlots> gone; // freed after the lock
    const std::lock_guard lock(m_store->mutex);
    for (auto at = m_store->songs.begin(); at != m_store->songs.end();) {
        const auto here = at++;
        if (files.contains(here->first)) continue;
        m_store->byAge.erase(here->second.used);
        gone.insert(m_store->songs.extract(here));
    }
}

} // namespace cobbleway
