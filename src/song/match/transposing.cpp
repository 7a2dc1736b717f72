#include "song/match/transposing.h"

#include "song/match/names.h"
#include "song/model/plainwords.h"

#include <algorithm>
#include <vector>

namespace cobbleway {
namespace {

constexpr TransposingInstrument instruments[] = {
    {"Glockenspiel", 24},
    {"Piccolo", 12},
    {"Xylophone", 12},
    {"Celesta", 12},
    {"Descant recorder", 12},
    {"F trumpet", 5},
    {"E♭ clarinet", 3},
    {"E♭ cornet", 3},
    {"E♭ trumpet", 3},
    {"D clarinet", 2},
    {"D trumpet", 2},
    {"B♭ trumpet", -2},
    {"B♭ cornet", -2},
    {"Flugelhorn", -2},
    {"B♭ clarinet", -2},
    {"Soprano saxophone", -2},
    {"A clarinet", -3},
    {"A trumpet", -3},
    {"Alto flute", -5},
    {"G horn", -5},
    {"Horn in F", -7},
    {"English horn", -7},
    {"Basset horn", -7},
    {"E horn", -8},
    {"Alto saxophone", -9},
    {"E♭ tenor horn", -9},
    {"E♭ horn", -9},
    {"E♭ alto clarinet", -9},
    {"D horn", -10},
    {"Guitar", -12},
    {"Double bass", -12},
    {"Bass guitar", -12},
    {"Contrabassoon", -12},
    {"C horn", -12},
    {"Bass flute", -12},
    {"Tenor saxophone", -14},
    {"Bass clarinet", -14},
    {"Baritone or euphonium, treble clef", -14},
    {"Baritone saxophone", -21},
    {"E♭ tuba, treble clef", -21},
    {"B♭ tuba, treble clef", -26},
};

std::optional<TransposingInstrument> called(std::string_view name) {
    const auto at = std::find_if(std::begin(instruments), std::end(instruments),
                                 [&](const TransposingInstrument& one) { return one.name == name; });
    return at == std::end(instruments) ? std::nullopt : std::optional(*at);
}

/// The pitches that instruments are in, as names of sixteen languages say them.
std::string_view pitchOfWord(const std::string& word) {
    struct Pitch {
        std::string_view pitch, words;
    };
    static constexpr Pitch pitches[] = {{"B♭", " bb bflat bes hes sib b be bemol sibb si "},
                                        {"E♭", " eb eflat es mib esz mibb "},
                                        {"A", " a la "},
                                        {"C", " c do ut "},
                                        {"D", " d re "},
                                        {"F", " f fa "},
                                        {"G", " g sol "},
                                        {"E", " e mi "}};
    for (const Pitch& one : pitches)
        if (one.words.find(" " + word + " ") != std::string_view::npos) return one.pitch;
    return {};
}

/// "Tpt in B♭", "Trompette en si♭", "Horn in F", "Bb Clarinet", "Es-Klarinette", "Trompete B".
std::string_view pitchIn(const std::vector<std::string>& words) {
    static constexpr std::string_view ins[] = {"in", "en", "i", "w", "em", "v"};
    for (std::size_t i = 0; i + 1 < words.size(); ++i)
        if (std::find(std::begin(ins), std::end(ins), words[i]) != std::end(ins)) {
            const bool flat = i + 2 < words.size() && (words[i + 2] == "flat" || words[i + 2] == "bemol" ||
                                                       words[i + 2] == "b" || words[i + 2] == "bemolle");
            const auto pitch = pitchOfWord(words[i + 1]);
            if (pitch == "E" && flat) return "E♭";
            if (!pitch.empty()) return pitch;
        }
    for (std::size_t i = 0; i < words.size(); ++i) {
        const std::string& word = words[i];
        const bool alone = (words.size() > 1 && (i == 0 || i + 1 == words.size())) && word.size() == 1;
        const bool sure =
            word == "bb" || word == "eb" || word == "es" || word == "bes" || word == "sib" || word == "mib";
        if (sure || (alone && (word == "f" || word == "b"))) return pitchOfWord(word);
        if (word.starts_with("es") && word.size() > 5 && programFromName(word.substr(2))) return "E♭";
    }
    return {};
}

std::string withFlats(std::string name) {
    for (const std::string_view flat : {"♭", "♭"})
        for (std::size_t at = 0; (at = name.find(flat, at)) != std::string::npos;)
            name.replace(at, flat.size(), "b");
    return name;
}

std::optional<TransposingInstrument> inPitch(std::string_view pitch, std::string_view instrument,
                                             std::string_view plain) {
    if (pitch.empty()) return called(plain);
    return called(std::string(pitch) + " " + std::string(instrument));
}

bool holds(const std::vector<std::string>& words, std::initializer_list<std::string_view> beginnings) {
    return std::any_of(words.begin(), words.end(), [&](const std::string& word) {
        return std::any_of(beginnings.begin(), beginnings.end(),
                           [&](std::string_view one) { return word.starts_with(one); });
    });
}

std::optional<TransposingInstrument> brassOf(int program, const std::vector<std::string>& words,
                                             std::string_view pitch, unsigned marks) {
    if (program == 60) {
        if (pitch == "F") return called("Horn in F");
        if (marks & (Alto | Tenor) || holds(words, {"tenor", "alt"})) return called("E♭ tenor horn");
        return inPitch(pitch, "horn", "Horn in F");
    }
    if (holds(words, {"flug", "flueg", "flic", "flis", "bug", "flyg"})) return called("Flugelhorn");
    if (holds(words, {"corn", "korn", "cnt", "crt"})) return inPitch(pitch, "cornet", "B♭ cornet");
    return inPitch(pitch, "trumpet", "B♭ trumpet");
}

std::optional<TransposingInstrument> clarinetOf(const std::vector<std::string>& words, std::string_view pitch,
                                                unsigned marks) {
    if (holds(words, {"basset", "bassetto"})) return called("Basset horn");
    const bool bass = marks & Low || holds(words, {"bass", "bas", "bcl", "bkl", "clarone"}) ||
                      (words.size() > 1 && words[0] == "b" && words[1] != "flat");
    if (bass) return called("Bass clarinet");
    if (marks & Alto && pitch != "A") return called("E♭ alto clarinet");
    return inPitch(pitch, "clarinet", "B♭ clarinet");
}

} // namespace

std::span<const TransposingInstrument> transposingInstruments() { return instruments; }

std::optional<TransposingInstrument> transposingInstrument(const std::string& partName) {
    const std::string name = withFlats(withoutKana(partName));
    const auto words = wordsIn(name);
    const NameReading told = readName(name);
    if (!told.program || told.rank < NameRank::Bass) return std::nullopt;
    const int program = told.program->value;
    const std::string_view pitch = pitchIn(words);
    switch (program) {
    case 8: return called("Celesta");
    case 9: return called("Glockenspiel");
    case 13: return called("Xylophone");
    case 56:
    case 59:
    case 60: return brassOf(program, words, pitch, told.marks);
    case 64: return called("Soprano saxophone");
    case 65: return called("Alto saxophone");
    case 66: return called("Tenor saxophone");
    case 67: return called("Baritone saxophone");
    case 69: return called("English horn");
    case 70:
        return told.marks & Low || holds(words, {"contr", "kontr", "cbsn", "cfg", "kfg", "double"})
                   ? called("Contrabassoon")
                   : std::nullopt;
    case 71: return clarinetOf(words, pitch, told.marks);
    case 72: return called("Piccolo");
    case 73:
        if (told.marks & Alto || holds(words, {"alt"})) return called("Alto flute");
        return told.marks & Low || holds(words, {"bass"}) ? called("Bass flute") : std::nullopt;
    case 43: return called("Double bass");
    default: break;
    }
    if (program >= 24 && program <= 31 && holds(words, {"g", "k", "ch", "e"})) return called("Guitar");
    if (program >= 32 && program <= 37) return called("Bass guitar");
    return std::nullopt;
}

} // namespace cobbleway
