#include "song/shape/timeedits.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace cobbleway {
namespace {

constexpr double slowestBpm = 4, fastestBpm = 1000;

int microseconds(double bpm) {
    return static_cast<int>(std::lround(60e6 / std::clamp(bpm, slowestBpm, fastestBpm)));
}

Song withMap(Song song, std::vector<TempoChange> tempos, std::vector<MetreChange> metres) {
    TempoMap map(song.tempo->division(), std::move(tempos), std::move(metres));
    if (map == *song.tempo) return song;
    song.tempo = Shared(std::move(map));
    song.tempoEdited = true;
    return song;
}

Song withTempos(Song song, std::vector<TempoChange> tempos) {
    if (song.tempo->division().isSmpte()) return song;
    auto metres = song.tempo->metres();
    return withMap(std::move(song), std::move(tempos), std::move(metres));
}

/// Sections follow each other; the last lasts to the end.
void settleSections(Song& song) {
    std::stable_sort(song.sections.begin(), song.sections.end(),
                     [](const Section& a, const Section& b) { return a.start < b.start; });
    for (std::size_t i = 0; i < song.sections.size(); ++i)
        song.sections[i].end = i + 1 < song.sections.size() ? song.sections[i + 1].start : song.end;
    std::erase_if(song.sections, [](const Section& s) { return s.end <= s.start; });
    song.sectionsEdited = true;
}

std::vector<Section>::iterator sectionAt(Song& song, Tick start) {
    return std::find_if(song.sections.begin(), song.sections.end(),
                        [start](const Section& s) { return s.start == start; });
}

} // namespace

FlatTempo flattened(const Song& song, double tolerance) {
    FlatTempo flat;
    const TempoMap& map = *song.tempo;
    const auto& tempos = map.tempos();
    if (map.division().isSmpte() || tempos.empty() || song.end <= 0) return {tempos, 0};
    const double perTick = 1e-6 / map.division().ticksPerQuarter;
    // Corners of the song's tick → second line: a straight line between two corners is off most at a corner.
    std::vector<Tick> corners;
    for (const TempoChange& tempo : tempos)
        if (tempo.tick < song.end) corners.push_back(tempo.tick);
    corners.push_back(std::max(song.end, corners.back() + 1));
    double now = 0; // where the flattened line stands, in seconds
    for (std::size_t i = 0; i + 1 < corners.size();) {
        // Slopes (seconds a tick) that pass within the tolerance of every corner so far.
        double low = perTick, // one microsecond a quarter
            high = std::numeric_limits<double>::max();
        std::size_t reach = i;
        double slope = 0;
        for (std::size_t k = i + 1; k < corners.size(); ++k) {
            const auto ticks = static_cast<double>(corners[k] - corners[i]);
            const double target = map.seconds(corners[k]);
            low = std::max(low, (target - tolerance - now) / ticks);
            high = std::min(high, (target + tolerance - now) / ticks);
            // Tempos are whole microseconds: there must be one between.
            const double micro = std::clamp(std::round((low + high) / 2 / perTick), 1.0, 16777215.0);
            if (micro * perTick < low || micro * perTick > high) break;
            slope = micro;
            reach = k;
        }
        if (reach == i) { // nothing fits: the song's own tempo here
            reach = i + 1;
            slope = tempos[i].microsecondsPerQuarter;
        }
        flat.tempos.push_back({corners[i], static_cast<int>(slope)});
        now += slope * perTick * static_cast<double>(corners[reach] - corners[i]);
        i = reach;
    }
    const TempoMap made(map.division(), flat.tempos, {});
    for (const Tick corner : corners)
        flat.mostMoved = std::max(flat.mostMoved, std::abs(made.seconds(corner) - map.seconds(corner)));
    return flat;
}

double steadyBpm(const Song& song) {
    const double quarters = static_cast<double>(song.end) / static_cast<double>(song.tempo->quarter());
    const double seconds = song.seconds();
    return seconds <= 0 ? song.tempo->bpm(0) : quarters * 60 / seconds;
}

Tick leadingSilence(const Song& song) {
    std::optional<Tick> first;
    for (const Part& part : song.parts)
        for (const EventRef ref : *part.source.events)
            if (song.event(ref).isNoteOn()) {
                first = std::min(first.value_or(song.tickOf(ref)), song.tickOf(ref));
                break;
            }
    return first.value_or(0);
}

namespace edits {

Song setTempo(Song song, Tick tick, double bpm) {
    auto tempos = song.tempo->tempos();
    tempos.push_back({std::clamp<Tick>(tick, 0, song.end), microseconds(bpm)}); // the last given holds
    return withTempos(std::move(song), std::move(tempos));
}

Song removeTempo(Song song, Tick tick) {
    auto tempos = song.tempo->tempos();
    std::erase_if(tempos, [tick](const TempoChange& t) { return t.tick == tick && t.tick > 0; });
    return withTempos(std::move(song), std::move(tempos));
}

Song scaleTempo(Song song, double factor) {
    factor = std::clamp(factor, 0.1, 10.0);
    auto tempos = song.tempo->tempos();
    for (TempoChange& tempo : tempos)
        tempo.microsecondsPerQuarter =
            static_cast<int>(std::clamp(std::lround(tempo.microsecondsPerQuarter / factor), 1L, 16777215L));
    return withTempos(std::move(song), std::move(tempos));
}

Song steadyTempo(Song song, double bpm) { return withTempos(std::move(song), {{0, microseconds(bpm)}}); }

Song flattenTempo(Song song, double tolerance) {
    auto tempos = flattened(song, std::max(0.0, tolerance)).tempos;
    return withTempos(std::move(song), std::move(tempos));
}

Song setMetre(Song song, Tick tick, int numerator, int denominator) {
    const bool power = denominator > 0 && (denominator & (denominator - 1)) == 0;
    if (!power || denominator > 64 || numerator < 1 || numerator > 32) return song;
    const int bar = song.tempo->position(std::clamp<Tick>(tick, 0, song.end)).bar;
    auto metres = song.tempo->metres();
    metres.push_back({song.tempo->barStart(bar), numerator, denominator});
    auto tempos = song.tempo->tempos();
    return withMap(std::move(song), std::move(tempos), std::move(metres));
}

Song setPickUp(Song song, Tick ticks) {
    auto metres = song.tempo->metres();
    const MetreChange first = metres.front();
    const Tick bar = song.tempo->quarter() * 4 * first.numerator / first.denominator;
    // An earlier pick-up: the same metre again before the first bar is full.
    if (metres.size() > 1 && metres[1].tick < bar && metres[1].numerator == first.numerator &&
        metres[1].denominator == first.denominator)
        metres.erase(metres.begin() + 1);
    if (ticks < 0 || ticks >= bar) return song;
    if (ticks > 0) metres.insert(metres.begin() + 1, {ticks, first.numerator, first.denominator});
    auto tempos = song.tempo->tempos();
    return withMap(std::move(song), std::move(tempos), std::move(metres));
}

Song removeLeadingSilence(Song song, Tick ticks) {
    ticks = std::clamp<Tick>(ticks, 0, leadingSilence(song));
    if (ticks == 0) return song;
    const auto earlier = [ticks](Tick tick) { return std::max<Tick>(0, tick - ticks); };
    auto tempos = song.tempo->tempos();
    auto metres = song.tempo->metres();
    for (TempoChange& tempo : tempos) tempo.tick = earlier(tempo.tick); // of several at 0 the last holds
    for (MetreChange& metre : metres) metre.tick = earlier(metre.tick);
    auto starts = *song.trackStarts;
    for (Tick& start : starts) start -= ticks;
    song.trackStarts = Shared(std::move(starts));
    song.end = earlier(song.end);
    for (Section& section : song.sections) section.start = earlier(section.start);
    for (Part& part : song.parts) {
        for (SoundStretch& stretch : part.sound.stretches)
            stretch = {earlier(stretch.start), earlier(stretch.end), stretch.sound};
        std::erase_if(part.sound.stretches, [](const SoundStretch& s) { return s.end <= s.start; });
    }
    const bool edited = song.sectionsEdited;
    settleSections(song);
    song.sectionsEdited = edited; // markers move with the events
    return withMap(std::move(song), std::move(tempos), std::move(metres));
}

Song addSection(Song song, Tick tick, const std::string& name) {
    tick = std::clamp<Tick>(tick, 0, std::max<Tick>(0, song.end - 1));
    if (const auto at = sectionAt(song, tick); at != song.sections.end())
        return renameSection(std::move(song), tick, name);
    song.sections.push_back({tick, song.end, name});
    settleSections(song);
    return song;
}

Song renameSection(Song song, Tick start, const std::string& name) {
    const auto at = sectionAt(song, start);
    if (at == song.sections.end() || at->name == name || name.empty()) return song;
    at->name = name;
    song.sectionsEdited = true;
    return song;
}

Song moveSection(Song song, Tick start, Tick to) {
    const auto at = sectionAt(song, start);
    if (at == song.sections.end()) return song;
    const Tick lowest = at == song.sections.begin() ? 0 : (at - 1)->start + 1;
    const Tick highest = at + 1 == song.sections.end() ? song.end - 1 : (at + 1)->start - 1;
    to = std::clamp(to, std::min(lowest, highest), highest);
    if (to == start) return song;
    at->start = to;
    settleSections(song);
    return song;
}

Song removeSection(Song song, Tick start) {
    const auto at = sectionAt(song, start);
    if (at == song.sections.end()) return song;
    song.sections.erase(at);
    settleSections(song);
    return song;
}

} // namespace edits
} // namespace cobbleway
