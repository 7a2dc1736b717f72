#include "song/match/evidence.h"

#include "midi/gm.h"
#include "midi/text.h"
#include "song/match/drumlikeness.h"
#include "song/match/names.h"
#include "song/model/asks.h"

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <functional>
#include <limits>
#include <queue>

namespace cobbleway {
namespace {

/// Half of the weight lies at or below this key.
int middleKey(const KeyWeights& keys) {
    double all = 0, sum = 0;
    for (const double weight : keys) all += weight;
    for (int key = 0; key < 128; ++key) {
        sum += keys[static_cast<std::size_t>(key)];
        if (sum * 2 >= all) return key;
    }
    return 60;
}

/// The share of sounding time in which one note sounds alone. Notes are in order of start.
double shareAlone(const std::vector<Note>& notes) {
    std::priority_queue<Tick, std::vector<Tick>, std::greater<>> ends; // of those that sound
    Tick alone = 0, sounding = 0, now = 0;
    const auto goTo = [&](Tick next) {
        if (!ends.empty()) sounding += next - now;
        if (ends.size() == 1) alone += next - now;
        now = next;
    };
    const auto endUpTo = [&](Tick tick) {
        for (; !ends.empty() && ends.top() <= tick; ends.pop()) goTo(ends.top());
    };
    for (const Note& note : notes) {
        endUpTo(note.start);
        goTo(note.start);
        ends.push(std::max<Tick>(note.end, note.start + 1));
    }
    endUpTo(std::numeric_limits<Tick>::max());
    return sounding > 0 ? static_cast<double>(alone) / static_cast<double>(sounding) : 1;
}

/// A part's name, and the names of instruments and programs that its track holds (SMF 1.0 FF 04, RP-019).
std::vector<std::string> namesOf(const SongFrame& song, const Part& part) {
    std::vector<std::string> names;
    if (part.nameGiven) names.push_back(part.name);
    (void)song.anyBesideNotes(*part.source.events, [&](const Event& event, EventRef) {
        if (event.isMeta(meta::instrumentName) || event.isMeta(meta::programName))
            names.push_back(toUtf8(song.source->midi.rawText(event), song.encoding));
        return names.size() > 8;
    });
    return names;
}

class Weighing {
  public:
    Weighing(const SongFrame& song, const Part& part, const Ask& ask, const PartTraits& traits)
        : m_traits(traits), m_part(part) {
        if (ask.program && !part.source.drums) m_asked = *ask.program;
        m_askedKit = part.source.drums ? ask.program.value_or(Program{0}) : Program{0};
        for (const std::string& name : namesOf(song, part))
            if (const auto program = programFromName(name)) m_named.push_back(*program);
        m_whyDrums = whyDrums(song, part);
        m_whyPitched = whyPitched(song, part);
    }

    [[nodiscard]] Guess weigh(Program program) const {
        Guess guess{program, false, 0, false, {}};
        const InstrumentFacts& facts = instrumentFacts(program);
        const double outside = shareOutside(m_traits.keys, facts.range);
        byName(guess);
        byRange(guess, facts, outside);
        byChords(guess, facts);
        byLength(guess, facts);
        if (m_asked == program) {
            guess.points += outside > 0.5 ? 3 : 6;
            guess.reasons.insert(guess.reasons.begin(), Message("reason.asked"));
        }
        if (program.value == 0) guess.points += 0.5;
        return guess;
    }

    [[nodiscard]] Guess weighKit() const {
        Guess guess{m_askedKit, true, 0, false, {}};
        if (m_part.source.drums && !m_whyPitched) {
            guess.points = 8;
            guess.reasons.emplace_back("reason.drum-channel");
        } else if (m_whyDrums) {
            guess.points = 7;
            guess.reasons.push_back(*m_whyDrums);
        }
        return guess;
    }

  private:
    void byName(Guess& guess) const {
        if (std::find(m_named.begin(), m_named.end(), guess.program) != m_named.end()) {
            guess.points += 5;
            guess.named = true;
            guess.reasons.push_back({"reason.named", {{"program", std::string(programName(guess.program))}}});
            return;
        }
        for (const Program named : m_named)
            if (instrumentFacts(named).kin == instrumentFacts(guess.program).kin) {
                guess.points += 1.5;
                guess.reasons.push_back({"reason.kin-named", {{"program", std::string(programName(named))}}});
                return;
            }
    }

    void byRange(Guess& guess, const InstrumentFacts& facts, double outside) const {
        if (m_traits.notes == 0) return;
        // A clear name is kept where the notes lie outside its range: they may be written an octave away.
        guess.points += 2 - (guess.named ? 2 : 6) * outside;
        const bool narrow = facts.range.highest - facts.range.lowest < 60;
        if (outside == 0 && narrow) guess.reasons.emplace_back("reason.in-range");
        if (outside > 0.1)
            guess.reasons.push_back({"reason.out-of-range", {{"percent", std::lround(outside * 100)}}});
        if (m_traits.middle < 43 && facts.oneNote && facts.range.lowest < 30 && facts.range.highest < 70) {
            guess.points += 1.5;
            guess.reasons.emplace_back("reason.low-line");
        }
    }

    void byChords(Guess& guess, const InstrumentFacts& facts) const {
        if (m_traits.notes < 4) return;
        const bool single = m_traits.alone > 0.92, chords = m_traits.alone < 0.6;
        if (facts.oneNote && single) {
            guess.points += 0.5;
            guess.reasons.emplace_back("reason.one-note");
        }
        if (facts.oneNote && chords) {
            guess.points -= 1;
            guess.reasons.emplace_back("reason.chords");
        }
        if (!facts.oneNote && chords) guess.points += 1;
    }

    void byLength(Guess& guess, const InstrumentFacts& facts) const {
        if (m_traits.notes < 4) return;
        const bool lasts = m_traits.quarters > 1.5, shorts = m_traits.quarters < 0.3;
        if (lasts) guess.points += facts.hold == Hold::Holds ? 0.5 : (facts.hold == Hold::Short ? -0.5 : 0);
        if (shorts && facts.start == Start::Swelling) guess.points -= 0.5;
        if (lasts && facts.hold == Hold::Holds) guess.reasons.emplace_back("reason.long-notes");
    }

    const PartTraits& m_traits;
    const Part& m_part;
    std::optional<Program> m_asked;
    Program m_askedKit;
    std::vector<Program> m_named;
    std::optional<Message> m_whyDrums, m_whyPitched;
};

} // namespace

PartTraits traitsOf(const SongFrame& song, const HeardPart& heard) {
    PartTraits traits;
    traits.notes = static_cast<int>(heard.notes.size());
    if (heard.notes.empty()) return traits;
    std::vector<std::uint32_t> lengths; // the middle of them is asked for: longer ones need not be told apart
    lengths.reserve(heard.notes.size());
    traits.lowest = 127;
    for (const Note& note : heard.notes) {
        const Tick length = std::max<Tick>(1, note.end - note.start);
        traits.keys[note.key.value & 0x7FU] += static_cast<double>(length);
        lengths.push_back(
            static_cast<std::uint32_t>(std::min<Tick>(length, std::numeric_limits<std::uint32_t>::max())));
        traits.lowest = std::min<int>(traits.lowest, note.key.value);
        traits.highest = std::max<int>(traits.highest, note.key.value);
    }
    const auto half = lengths.begin() + static_cast<std::ptrdiff_t>(lengths.size() / 2);
    std::nth_element(lengths.begin(), half, lengths.end());
    traits.quarters =
        static_cast<double>(*half) / static_cast<double>(std::max<Tick>(1, song.tempo->quarter()));
    traits.alone = shareAlone(heard.notes);
    traits.middle = middleKey(traits.keys);
    return traits;
}

std::vector<Guess> guessesOf(const SongFrame& song, const Part& part, const Ask& asked,
                             const PartTraits& traits, std::size_t most) {
    const Weighing weighing(song, part, asked, traits);
    constexpr int pitched = 120; // after them General MIDI has noises
    std::vector<Guess> guesses;
    guesses.reserve(pitched + 1);
    for (int program = 0; program < pitched; ++program)
        guesses.push_back(weighing.weigh(Program{static_cast<std::uint8_t>(program)}));
    if (Guess kit = weighing.weighKit(); kit.points > 0) guesses.push_back(std::move(kit));
    std::stable_sort(guesses.begin(), guesses.end(),
                     [](const Guess& a, const Guess& b) { return a.points > b.points; });
    if (guesses.size() > most) guesses.resize(most);
    return guesses;
}

} // namespace cobbleway
