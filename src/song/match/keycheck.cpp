#include "song/match/keycheck.h"

#include <algorithm>
#include <cmath>
#include <cstdlib>

namespace cobbleway {
namespace {

constexpr PitchClasses majorProfile = {6.35, 2.23, 3.48, 2.33, 4.38, 4.09,
                                       2.52, 5.19, 2.39, 3.66, 2.29, 2.88};
constexpr PitchClasses minorProfile = {6.33, 2.68, 3.52, 5.38, 2.60, 3.53,
                                       2.54, 4.75, 3.98, 2.69, 3.34, 3.17};

constexpr TransposingInstrument instruments[] = {
    {"Piccolo", 12},
    {"Glockenspiel", 24},
    {"Xylophone", 12},
    {"Celesta", 12},
    {"E♭ clarinet", 3},
    {"E♭ cornet", 3},
    {"D trumpet", 2},
    {"B♭ trumpet", -2},
    {"B♭ cornet", -2},
    {"Flugelhorn", -2},
    {"B♭ clarinet", -2},
    {"Soprano saxophone", -2},
    {"A clarinet", -3},
    {"Alto flute", -5},
    {"Horn in F", -7},
    {"English horn", -7},
    {"Basset horn", -7},
    {"Alto saxophone", -9},
    {"E♭ tenor horn", -9},
    {"Tenor saxophone", -14},
    {"Bass clarinet", -14},
    {"Baritone or euphonium, treble clef", -14},
    {"Baritone saxophone", -21},
    {"E♭ tuba, treble clef", -21},
    {"B♭ tuba, treble clef", -26},
    {"Guitar", -12},
    {"Double bass", -12},
    {"Contrabassoon", -12},
};

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

PitchClasses profileOf(const MusicalKey& key) {
    PitchClasses turned;
    const PitchClasses& profile = key.minor ? minorProfile : majorProfile;
    for (std::size_t i = 0; i < 12; ++i) turned[(i + static_cast<std::size_t>(key.tonic)) % 12] = profile[i];
    return turned;
}

std::string lower(std::string_view text) {
    std::string low(text);
    std::transform(low.begin(), low.end(), low.begin(),
                   [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    return low;
}

/// Whether a name tells of an instrument that is written so many pitch classes away.
bool saysInstrument(int turn, const std::string& name) {
    const std::string said = lower(name);
    return std::any_of(std::begin(instruments), std::end(instruments), [&](const TransposingInstrument& i) {
        return (i.semitones % 12 + 12) % 12 == turn && said.find(lower(i.name)) != std::string::npos;
    });
}

/// The instrument's own distance for a turn by so many pitch classes: its octave by the part's name, else the
/// smallest.
int semitonesFor(int turn, const std::string& name) {
    const std::string said = lower(name);
    for (const TransposingInstrument& instrument : instruments) {
        const std::string word = lower(instrument.name);
        if ((instrument.semitones % 12 + 12) % 12 == turn && said.find(word) != std::string::npos)
            return instrument.semitones;
    }
    return turn > 6 ? turn - 12 : turn;
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

MusicalKey keyOf(const PitchClasses& classes) {
    MusicalKey best{0, false, -2};
    for (int tonic = 0; tonic < 12; ++tonic)
        for (const bool minor : {false, true}) {
            const double fit = correlation(classes, profileOf({tonic, minor, 0}), 0);
            if (fit > best.fit) best = {tonic, minor, fit};
        }
    return best;
}

MusicalKey keyOfSong(const Song& song) {
    PitchClasses all{};
    for (const Part& part : song.parts) {
        if (part.source.drums || part.aside) continue;
        const PitchClasses ofPart = pitchClassesOf(song, part, realise(song, part));
        for (std::size_t i = 0; i < all.size(); ++i) all[i] += ofPart[i];
    }
    MusicalKey key = keyOf(all);
    key.tonic = ((key.tonic + song.keyShift) % 12 + 12) % 12;
    return key;
}

std::string keyText(const MusicalKey& key) {
    static constexpr const char* major[] = {"C", "D♭", "D", "E♭", "E", "F", "F♯", "G", "A♭", "A", "B♭", "B"};
    static constexpr const char* minor[] = {"C", "C♯", "D", "E♭", "E", "F", "F♯", "G", "G♯", "A", "B♭", "B"};
    return std::string((key.minor ? minor : major)[key.tonic]) + (key.minor ? " minor" : " major");
}

std::span<const TransposingInstrument> transposingInstruments() { return instruments; }

KeyCheck::Melody KeyCheck::melodyOf(const Song& song, const Part& part, const HeardPart& heard) {
    Melody melody{part.id, pitchClassesOf(song, part, heard), 0, static_cast<int>(heard.notes.size())};
    for (const double v : melody.classes) melody.sum += v;
    return melody;
}

KeyCheck::KeyCheck(const Song& song)
    : KeyCheck(song, [&](const Part& part) { return melodyOf(song, part, realise(song, part)); }) {}

KeyCheck::KeyCheck(const Song& song, const std::function<Melody(const Part&)>& melodyOf) {
    constexpr std::size_t mostParts = 64; // an orchestra; every part is held against every other
    if (song.parts.size() > mostParts) return;
    for (const Part& part : song.parts) {
        if (part.source.drums || part.aside) continue;
        if (const Melody melody = melodyOf(part); melody.sum > 0) m_melodies.push_back(melody);
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

std::optional<int> KeyCheck::suggestion(const Part& part) const {
    constexpr int fewestNotes = 24;
    const auto own = std::find_if(m_melodies.begin(), m_melodies.end(),
                                  [&](const Melody& v) { return v.part == part.id; });
    if (own == m_melodies.end() || own->notes < fewestNotes || m_melodies.size() < 3) return std::nullopt;
    const auto used = std::count_if(own->classes.begin(), own->classes.end(), [](double v) { return v > 0; });
    if (used < 5) return std::nullopt;
    PitchClasses others{};
    for (const Melody& other : m_melodies)
        if (other.part != part.id)
            for (std::size_t i = 0; i < 12; ++i)
                others[i] += other.classes[i] / other.sum; // each says as much
    const MusicalKey key = keyOf(others);
    if (key.fit < 0.7) return std::nullopt; // the rest has no clear key to go by
    const PitchClasses profile = profileOf(key);
    if (agreeing(part.id, profile) * 3 < static_cast<int>(m_melodies.size() - 1) * 2) return std::nullopt;
    const auto fit = [&](int turn) {
        return correlation(own->classes, profile, turn) + correlation(own->classes, others, turn);
    };
    int best = 0;
    for (int turn = 1; turn < 12; ++turn)
        if (fit(turn) > fit(best)) best = turn;
    const bool known = std::any_of(std::begin(instruments), std::end(instruments),
                                   [best](const auto& i) { return (i.semitones % 12 + 12) % 12 == best; });
    // A part that keeps to the dominant looks like one a fifth away; only a name that tells of that counts.
    const bool fifth = best == 5 || best == 7, named = saysInstrument(best, part.name);
    if (best == 0 || !known || (fifth && !named)) return std::nullopt;
    const double clearly = named ? 0.3 : 0.7;
    return fit(best) - fit(0) < clearly ? std::nullopt : std::optional(semitonesFor(best, part.name));
}

std::optional<int> suggestedTransposition(const Song& song, const Part& part) {
    return KeyCheck(song).suggestion(part);
}

} // namespace cobbleway
