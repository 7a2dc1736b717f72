#include "song/match/names.h"

#include "midi/gm.h"
#include "song/model/plainwords.h"

#include <algorithm>
#include <cctype>
#include <map>
#include <vector>

namespace cobbleway {
namespace {

std::string joined(const std::vector<std::string>& words, std::size_t from, std::size_t count,
                   const char* between = " ") {
    std::string text;
    for (std::size_t i = from; i < from + count; ++i) text += (i > from ? between : "") + words[i];
    return text;
}

/// General MIDI's names (RP-003) by their words.
std::optional<Program> generalMidiName(const std::vector<std::string>& words) {
    static const auto names = [] {
        std::map<std::string, int> all;
        for (int program = 0; program < 128; ++program) {
            const auto parts = wordsIn(std::string(programName(Program{static_cast<std::uint8_t>(program)})));
            all.try_emplace(joined(parts, 0, parts.size(), ""), program);
        }
        return all;
    }();
    const auto at = names.find(joined(words, 0, words.size(), ""));
    if (at == names.end()) return std::nullopt;
    return Program{static_cast<std::uint8_t>(at->second)};
}

/// A letter before the noun: "A. Sax", "B. Cl.".
unsigned marksOfLetter(const std::string& word) {
    if (word == "a") return Alto | Acoustic;
    if (word == "t") return Tenor;
    if (word == "s") return Soprano;
    if (word == "b") return Baritone | Low;
    if (word == "e") return Electric | English;
    return 0;
}

/// The words of a name one after the other, the longest that are known together.
class Reader {
  public:
    explicit Reader(std::vector<std::string> words) : m_words(std::move(words)) {
        for (std::size_t at = 0; at < m_words.size();) at += take(at);
    }
    [[nodiscard]] NameReading reading() const {
        NameReading told;
        told.marks = m_marks;
        told.drums = m_best.rank == NameRank::Drums;
        told.rank = m_best.rank;
        if (told.drums || m_best.program < 0 || m_unknown > 3) return m_unknown > 3 ? NameReading{} : told;
        told.program = Program{static_cast<std::uint8_t>(programWith(m_best.program, m_marks))};
        return told;
    }

  private:
    std::size_t take(std::size_t at) {
        constexpr std::size_t longest = 4;
        for (std::size_t count = std::min(longest, m_words.size() - at); count > 0; --count)
            if (const auto sense = senseOf(joined(m_words, at, count))) return note(*sense), count;
        const std::string& word = m_words[at];
        if (std::isdigit(static_cast<unsigned char>(word[0])) != 0) return 1;
        if (word.size() == 1) {
            if (m_best.rank == NameRank::None) m_letters |= marksOfLetter(word);
            return 1;
        }
        if (const auto sense = likelySenseOf(word))
            note(*sense);
        else if (word.size() > 3)
            ++m_unknown;
        return 1;
    }

    void note(const NameSense& sense) {
        m_marks |= sense.marks;
        if (sense.rank <= m_best.rank) return;
        if (m_best.rank == NameRank::None) m_marks |= m_letters;
        m_best = sense;
    }

    std::vector<std::string> m_words;
    NameSense m_best;
    unsigned m_marks = 0, m_letters = 0;
    int m_unknown = 0;
};

} // namespace

NameReading readName(const std::string& name) {
    const auto words = wordsIn(withoutKana(name));
    if (const auto program = generalMidiName(words)) return {program, 0, false, NameRank::Full};
    return Reader(words).reading();
}

std::optional<Program> programFromName(const std::string& name) { return readName(name).program; }

bool namesDrums(const std::string& name) { return readName(name).drums; }

} // namespace cobbleway
