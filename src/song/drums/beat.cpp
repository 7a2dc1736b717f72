#include "song/drums/beat.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <set>
#include <vector>

namespace cobbleway {
namespace {

// Keys by RP-003.
constexpr int kick = 36, sideStick = 37, snare = 38, closedHat = 42, pedalHat = 44, lowTom = 45, crash = 49,
              highTom = 50, ride = 51, highFloorTom = 43, midTom = 47, highBlock = 76, lowBlock = 77;
constexpr int mostBars = 20'000;

struct Hit {
    double beat = 0; ///< from the start of the bar
    int key = 0, velocity = 0;
};
using Hits = std::vector<Hit>;

/// How the beats of a bar are grouped: 6/8 and its like count in dotted quarters.
struct Metre {
    int numerator = 4, denominator = 4;
    [[nodiscard]] bool isCompound() const { return denominator >= 8 && numerator % 3 == 0 && numerator > 3; }
};

Hits clickBar(const Metre& metre) {
    Hits hits;
    for (int beat = 0; beat < metre.numerator; ++beat)
        hits.push_back({double(beat), beat == 0 ? highBlock : lowBlock,
                        beat == 0 ? 110 : (metre.isCompound() && beat % 3 != 0 ? 62 : 86)});
    return hits;
}

Hits compoundBar(const Metre& metre) {
    Hits hits;
    for (int beat = 0; beat < metre.numerator; ++beat) {
        hits.push_back({double(beat), closedHat, beat % 3 == 0 ? 88 : 62});
        if (beat % 3 == 0) hits.push_back({double(beat), beat % 6 == 0 ? kick : snare, beat == 0 ? 104 : 96});
    }
    return hits;
}

Hits straightBar(const Metre& metre) {
    Hits hits;
    for (int beat = 0; beat < metre.numerator; ++beat) {
        hits.push_back({double(beat), closedHat, 84});
        if (metre.denominator <= 4) hits.push_back({beat + 0.5, closedHat, 60});
        const bool last = beat + 1 == metre.numerator && beat % 2 == 0 && beat > 0; // the odd beat of 3, 5, 7
        if (beat % 2 == 1 || last)
            hits.push_back({double(beat), snare, last ? 80 : 98});
        else
            hits.push_back({double(beat), kick, beat == 0 ? 106 : 98});
    }
    return hits;
}

Hits swingBar(const Metre& metre) {
    Hits hits;
    for (int beat = 0; beat < metre.numerator; ++beat) {
        hits.push_back({double(beat), ride, beat % 2 == 0 ? 78 : 90});
        if (beat % 2 == 1) {
            hits.push_back({beat + 2.0 / 3, ride, 64});
            hits.push_back({double(beat), pedalHat, 80});
        } else {
            hits.push_back({double(beat), kick, beat == 0 ? 66 : 56});
        }
    }
    return hits;
}

Hits waltzBar(const Metre& metre) {
    Hits hits = {{0, kick, 102}};
    for (int beat = 1; beat < metre.numerator; ++beat) {
        hits.push_back({double(beat), beat % 3 == 0 ? kick : snare, beat % 3 == 0 ? 92 : 66});
        hits.push_back({double(beat), closedHat, 60});
    }
    return hits;
}

Hits marchBar(const Metre& metre) {
    Hits hits;
    for (int beat = 0; beat < metre.numerator; ++beat) {
        hits.push_back({double(beat), kick, beat == 0 ? 106 : 90});
        if (metre.denominator > 4) continue;
        hits.push_back({beat + 0.5, snare, 88});
        if (beat + 1 == metre.numerator) hits.push_back({beat + 0.75, snare, 66});
    }
    return hits;
}

/// The two bars of the pattern in turn; past four beats only hats go on.
Hits bossaBar(const Metre& metre, int bar) {
    Hits hits;
    for (int beat = 0; beat < metre.numerator; ++beat) {
        hits.push_back({double(beat), closedHat, 72});
        hits.push_back({beat + 0.5, closedHat, 60});
        if (beat % 2 == 0) {
            hits.push_back({double(beat), kick, 88});
            if (beat + 1.5 < metre.numerator) hits.push_back({beat + 1.5, kick, 66});
        }
    }
    static constexpr std::array<std::array<double, 3>, 2> sticks = {{{0, 1.5, 3}, {1, 2.5, -1}}};
    for (const double at : sticks[static_cast<std::size_t>(bar % 2)])
        if (at >= 0 && at < metre.numerator) hits.push_back({at, sideStick, 84});
    return hits;
}

Hits barOf(BeatStyle style, const Metre& metre, int bar) {
    if (style == BeatStyle::Click) return clickBar(metre);
    if (metre.isCompound()) return compoundBar(metre);
    switch (style) {
    case BeatStyle::Swing: return swingBar(metre);
    case BeatStyle::Waltz: return waltzBar(metre);
    case BeatStyle::March: return marchBar(metre);
    case BeatStyle::Bossa: return bossaBar(metre, bar);
    default: return straightBar(metre);
    }
}

/// A run over the toms in place of the bar's last beat, or its last two.
void addFill(Hits& hits, const Metre& metre) {
    const int beats = metre.isCompound() ? 3 : (metre.numerator > 3 ? 2 : 1);
    const double from = metre.numerator - beats;
    if (from <= 0) return;
    std::erase_if(hits, [&](const Hit& hit) { return hit.beat >= from; });
    static constexpr std::array<int, 5> run = {snare, highTom, midTom, lowTom, highFloorTom};
    const int perBeat = metre.denominator >= 8 ? 1 : 4, steps = beats * perBeat;
    for (int i = 0; i < steps; ++i)
        hits.push_back({from + static_cast<double>(i) / perBeat,
                        run[static_cast<std::size_t>(i * static_cast<int>(run.size()) / steps)],
                        78 + 26 * i / steps});
}

/// Adds the notes of the whole song to `made` and names them.
class BeatMaker {
  public:
    BeatMaker(Song& song, BeatStyle style, bool fills) : m_song(song), m_style(style) {
        if (!fills || style == BeatStyle::Click) return;
        for (std::size_t i = 1; i < song.sections.size(); ++i)
            m_newSections.insert(song.tempo->position(song.sections[i].start).bar);
    }

    std::vector<EventRef> make() {
        const TempoMap& tempo = *m_song.tempo;
        const int bars = std::min(m_song.bars(), mostBars);
        for (int bar = 1; bar <= bars; ++bar) {
            const Tick start = tempo.barStart(bar);
            const MetreChange& change = tempo.metre(start);
            const Metre metre{change.numerator, change.denominator};
            const double beat = static_cast<double>(tempo.quarter()) * 4 / change.denominator;
            Hits hits = barOf(m_style, metre, bar - 1);
            if (m_newSections.contains(bar + 1)) addFill(hits, metre);
            if (m_newSections.contains(bar)) hits.push_back({0, crash, 104});
            const Tick end = std::min(tempo.barStart(bar + 1), m_song.end);
            for (const Hit& hit : hits) add(start + std::lround(hit.beat * beat), end, hit, beat);
        }
        std::stable_sort(m_events.begin(), m_events.end(), [](const Event& a, const Event& b) {
            return std::pair(a.tick, a.isNoteOn()) < std::pair(b.tick, b.isNoteOn()); // ends first
        });
        std::vector<EventRef> refs;
        refs.reserve(m_events.size());
        for (Event event : m_events) {
            event.tick -= (*m_song.trackStarts)[0];
            refs.push_back({madeTrack, static_cast<std::uint32_t>(m_song.made.size())});
            m_song.made.push_back({event, 0});
        }
        return refs;
    }

  private:
    /// A bar that is cut short by a change of metre has no more hits than fit.
    void add(Tick at, Tick end, const Hit& hit, double beat) {
        if (at >= end) return;
        const auto key = static_cast<std::uint8_t>(hit.key);
        const Tick length = std::max<Tick>(1, std::lround(beat / 6));
        m_events.push_back({at, static_cast<std::uint8_t>(0x90 | drumChannel.value), key,
                            static_cast<std::uint8_t>(hit.velocity)});
        m_events.push_back({std::min(at + length, std::max(at, m_song.end)),
                            static_cast<std::uint8_t>(0x80 | drumChannel.value), key, 64});
    }
    Song& m_song;
    BeatStyle m_style;
    std::set<int> m_newSections; ///< bars in which sections begin
    std::vector<Event> m_events;
};

} // namespace

std::span<const BeatStyle> beatStyles() {
    static constexpr std::array all = {BeatStyle::Straight, BeatStyle::Swing, BeatStyle::Waltz,
                                       BeatStyle::March,    BeatStyle::Bossa, BeatStyle::Click};
    return all;
}

std::string_view beatStyleName(BeatStyle style) {
    static constexpr std::array<std::string_view, 6> names = {"straight", "swing", "waltz",
                                                              "march",    "bossa", "click"};
    return names[static_cast<std::size_t>(style)];
}

BeatStyle beatStyleFor(const Song& song) {
    const MetreChange& metre = song.tempo->metre(0);
    if (metre.numerator == 3 && metre.denominator <= 4) return BeatStyle::Waltz;
    if (metre.numerator == 2 && metre.denominator <= 4) return BeatStyle::March;
    return BeatStyle::Straight;
}

Song edits::addBeat(Song song, BeatStyle style, bool fills) {
    if (song.end <= 0 || song.trackStarts->empty()) return song;
    auto events = BeatMaker(song, style, fills).make();
    if (events.empty()) return song;
    Part part;
    part.id = song.takeId();
    part.name = uniqueName(song, "Beat", part.id);
    part.nameGiven = true;
    part.colour = part.id % 12;
    part.source.events = Shared<EventRefs>(std::move(events));
    part.source.channel = drumChannel;
    part.source.drums = true;
    part.sound.followsPrograms = false;
    part.sound.programGiven = Program{0};
    const auto aside =
        std::find_if(song.parts.begin(), song.parts.end(), [](const Part& p) { return p.aside; });
    song.parts.insert(aside, std::move(part));
    return song;
}

} // namespace cobbleway
