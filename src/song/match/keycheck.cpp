#include "song/match/keycheck.h"

#include "song/match/names.h"
#include "song/match/transposing.h"

#include <algorithm>
#include <cmath>
#include <cstdlib>

namespace cobbleway {
namespace {

double correlation(const PitchClasses& a, const PitchClasses& b, int turn) {
    double meanA = 0, meanB = 0;
    for (std::size_t i = 0; i < 12; ++i) {
        meanA += a[i] / 12;
        meanB += b[i] / 12;
    }
    double both = 0, squareA = 0, squareB = 0;
    for (std::size_t i = 0; i < 12; ++i) {
        const double x = a[(i + static_cast<std::size_t>(12 - turn)) % 12] - meanA, y = b[i] - meanB;
        both += x * y;
        squareA += x * x;
        squareB += y * y;
    }
    return squareA <= 0 || squareB <= 0 ? 0 : both / std::sqrt(squareA * squareB);
}

bool anyInstrumentTurns(int turn) {
    const auto all = transposingInstruments();
    return std::any_of(all.begin(), all.end(),
                       [turn](const auto& i) { return pitchClass(i.semitones) == turn; });
}

/// By how much keys are moved so that a key's scale becomes that without sharps or flats.
int toPlainScale(const MusicalKey& key) { return pitchClass(-(key.minor ? key.tonic + 3 : key.tonic)); }

/// `turn` is 0–11.
void add(PitchClasses& to, const PitchClasses& from, double weight = 1, int turn = 0) {
    const auto by = static_cast<std::size_t>(turn);
    for (std::size_t i = 0; i < 12 - by; ++i) to[i + by] += from[i] * weight;
    for (std::size_t i = 12 - by; i < 12; ++i) to[i + by - 12] += from[i] * weight;
}

} // namespace

PitchClasses pitchClassesOf(const Song& song, const Part& part, const HeardPart& heard) {
    PitchClasses classes{};
    const int shift = part.source.drums ? 0 : song.keyShift;             // which goes for all parts
    const auto longest = static_cast<double>(song.tempo->quarter()) * 4; // held notes do not drown the rest
    std::array<double, 128> keys{};
    for (const Note& note : heard.notes)
        keys[note.key.value & 0x7FU] += std::clamp(static_cast<double>(note.end - note.start), 1.0, longest);
    for (int key = 0; key < 128; ++key)
        classes[static_cast<std::size_t>(((key - shift) % 12 + 12) % 12)] +=
            keys[static_cast<std::size_t>(key)];
    return classes;
}

Tick KeyCheck::windowTicks(const Song& song) { return std::max<Tick>(1, song.tempo->quarter() * 2); }

KeyCheck::Melody KeyCheck::melodyOf(const Song& song, const Part& part, const HeardPart& heard) {
    Melody melody{part.id, pitchClassesOf(song, part, heard), 0, static_cast<int>(heard.notes.size()), {}};
    melody.sum = sumOf(melody.classes);
    const Tick length = windowTicks(song);
    const int shift = part.source.drums ? 0 : song.keyShift;
    std::array<std::size_t, 128> classOf{};
    for (int key = 0; key < 128; ++key)
        classOf[static_cast<std::size_t>(key)] = static_cast<std::size_t>(pitchClass(key - shift));
    const double share = 1.0 / static_cast<double>(length); // of a window, a tick
    Tick first = 0;                                         // the window in which a note starts
    for (const Note& note : heard.notes) {                  // in order of start
        if (note.start >= (first + 1) * length) first = note.start / length;
        const Tick end = std::min(std::max(note.end, note.start + 1), note.start + 4 * length);
        Tick at = note.start;
        for (Tick index = first; at < end; ++index) {
            const Tick stop = std::min(end, (index + 1) * length);
            auto window = melody.windows.end();
            const Tick last = melody.windows.empty() ? -1 : melody.windows.back().index;
            if (last == index) // mostly; else a new one
                --window;
            else if (last > index)
                window = std::lower_bound(melody.windows.begin(), melody.windows.end(), index,
                                          [](const Window& w, Tick before) { return w.index < before; });
            if (window == melody.windows.end() || window->index != index)
                window = melody.windows.insert(window, Window{index, 255, {}});
            window->classes[classOf[note.key.value & 0x7FU]] +=
                static_cast<float>(static_cast<double>(stop - at) * share);
            window->lowest = std::min(window->lowest,
                                      static_cast<std::uint8_t>(std::clamp(note.key.value - shift, 0, 127)));
            at = stop;
        }
    }
    melody.windows.shrink_to_fit(); // it is kept as long as the song
    return melody;
}

KeyCheck::KeyCheck(const Song& song)
    : KeyCheck(song, [&](const Part& part) { return melodyOf(song, part, realise(song, part)); }) {}

KeyCheck::KeyCheck(const Song& song, const std::function<Melody(const Part&)>& melodyOf) {
    constexpr std::size_t mostParts = 64; // an orchestra; every part is held against every other
    if (song.parts.size() > mostParts) return;
    for (const Part& part : song.parts) {
        if (part.source.drums || part.aside) continue;
        if (Melody melody = melodyOf(part); melody.sum > 0) m_melodies.push_back(std::move(melody));
    }
    for (const Melody& melody : m_melodies) {
        auto at = m_all.begin(); // both are in order
        for (const Window& window : melody.windows) {
            while (at != m_all.end() && at->first < window.index) ++at;
            if (at == m_all.end() || at->first != window.index)
                at = m_all.emplace_hint(at, window.index, PitchClasses{});
            for (std::size_t i = 0; i < 12; ++i) at->second[i] += window.classes[i];
        }
    }
}

/// How many other parts fit a key best as they are.
int KeyCheck::agreeing(PartId part, const PitchClasses& profile) const {
    int count = 0;
    for (const Melody& other : m_melodies) {
        if (other.part == part) continue;
        double best = -2;
        for (int turn = 1; turn < 12; ++turn)
            best = std::max(best, correlation(other.classes, profile, turn));
        count += correlation(other.classes, profile, 0) > best - 0.1;
    }
    return count;
}

KeyCheck::Beside KeyCheck::beside(const Melody& own) const {
    constexpr Tick reach = 8; // windows on each side that tell the key here: four bars of 4/4
    Beside found;
    Tick keyAt = -1;
    MusicalKey key;
    for (const Window& window : own.windows) {
        PitchClasses mine{}, others{};
        for (std::size_t i = 0; i < 12; ++i) mine[i] = window.classes[i];
        others = m_all.at(window.index);
        add(others, mine, -1);
        if (keyAt < 0 || window.index >= keyAt + reach / 4) {
            PitchClasses around{};
            for (auto at = m_all.lower_bound(window.index - reach);
                 at != m_all.end() && at->first <= window.index + reach; ++at)
                add(around, at->second);
            for (auto at = std::lower_bound(own.windows.begin(), own.windows.end(), window.index - reach,
                                            [](const Window&w, Tick index) { return w.index < index; });
                 at != own.windows.end() && at->index <= window.index + reach; ++at)
                for (std::size_t i = 0; i < 12; ++i) around[i] -= at->classes[i];
            key = sumOf(around) > 0.01 ? keyOf(around) : MusicalKey{0, false, 0};
            keyAt = window.index;
        }
        const double weight = sumOf(mine);
        found.all += weight;
        if (key.fit < 0.6) continue; // what plays beside it has no clear key here
        found.told += weight;
        const int turn = toPlainScale(key);
        add(found.own, mine, 1, turn);
        add(found.others, others, 1, turn);
        add(found.profile, profileOf(key), weight, turn);
        const double most = *std::max_element(others.begin(), others.end());
        if (most <= 0.01) continue;
        PitchClasses level{}, clash{};
        for (std::size_t i = 0; i < 12; ++i) level[i] = std::max(0.0, others[i]) / most;
        for (std::size_t i = 0; i < 12; ++i)
            clash[i] = std::max(0.0, std::max(level[(i + 1) % 12], level[(i + 11) % 12]) - level[i]);
        for (std::size_t i = 0; i < 12; ++i) {
            if (mine[i] == 0) continue;
            for (std::size_t moved = 0; moved < 12; ++moved) {
                const std::size_t to = i + moved < 12 ? i + moved : i + moved - 12;
                found.agrees[moved] += mine[i] * level[to];
                found.clashes[moved] += mine[i] * clash[to];
            }
        }
    }
    return found;
}

std::optional<int> KeyCheck::suggestion(const Part& part) const {
    constexpr int fewestNotes = 24;
    const auto own = std::find_if(m_melodies.begin(), m_melodies.end(),
                                  [&](const Melody& v) { return v.part == part.id; });
    if (own == m_melodies.end() || own->notes < fewestNotes || m_melodies.size() < 3) return std::nullopt;
    const auto used = std::count_if(own->classes.begin(), own->classes.end(), [](double v) { return v > 0; });
    // A name that says what plays says how far it can be off, and no other distance is likely.
    const bool named = part.nameGiven && programFromName(part.name);
    const auto instrument = named ? transposingInstrument(part.name) : std::nullopt;
    const int written = instrument ? instrument->semitones : 0;
    if (named ? pitchClass(written) == 0 : used < 6) return std::nullopt; // few notes fit several scales
    const Beside beside = this->beside(*own);
    if (beside.told * 2 < beside.all) return std::nullopt; // the rest has no clear key to go by
    if (agreeing(part.id, profileOf(keyOf(othersThan(part.id)))) * 3 <
        static_cast<int>(m_melodies.size() - 1) * 2)
        return std::nullopt;
    const auto fit = [&](int turn) {
        const auto t = static_cast<std::size_t>(turn);
        return correlation(beside.own, beside.profile, turn) + correlation(beside.own, beside.others, turn) +
               2 * (beside.agrees[t] - beside.clashes[t]) / beside.told;
    };
    const auto clash = [&](int turn) { return beside.clashes[static_cast<std::size_t>(turn)] / beside.told; };
    if (named) {
        const int turn = pitchClass(written);
        if (fit(turn) - fit(0) < 0.3 || clash(turn) > clash(0)) return std::nullopt;
        return written;
    }
    int best = 0;
    for (int turn = 1; turn < 12; ++turn)
        if (fit(turn) > fit(best)) best = turn;
    // A part that keeps to the dominant looks like one a fifth away.
    if (best == 0 || best == 5 || best == 7 || !anyInstrumentTurns(best)) return std::nullopt;
    // Blues, modes and rich chords fit badly as they are, and yet clash hardly less when they are moved, or
    // never have a note of the chord. The bounds are of generated songs of each kind.
    const auto agrees = [&](int turn) { return beside.agrees[static_cast<std::size_t>(turn)] / beside.told; };
    if (fit(best) < 1.85 || fit(best) - fit(0) < 0.9 || agrees(best) < 0.35 || agrees(0) < 0.05 ||
        clash(best) > 0.16 || clash(best) > clash(0) * 0.6)
        return std::nullopt;
    return best > 6 ? best - 12 : best;
}

PitchClasses KeyCheck::othersThan(PartId part) const {
    PitchClasses others{};
    for (const Melody& other : m_melodies)
        if (other.part != part) add(others, other.classes, 1 / other.sum); // each says as much
    return others;
}

std::optional<int> suggestedTransposition(const Song& song, const Part& part) {
    return KeyCheck(song).suggestion(part);
}

} // namespace cobbleway
