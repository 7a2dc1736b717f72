#include "song/match/songsummary.h"

#include "midi/fingerprint.h"
#include "midi/gm.h"
#include "song/heard/lyrics.h"
#include "song/match/names.h"
#include "song/match/songkeys.h"
#include "song/model/asks.h"
#include "song/model/plainwords.h"
#include "words/letters.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <sstream>

namespace cobbleway {
namespace {

/// Words to be searched: folded, and letters of other scripts as they are.
void addWords(std::string& all, const std::string& text) {
    all += plainWords(text);
    if (std::any_of(text.begin(), text.end(), [](char c) { return static_cast<unsigned char>(c) >= 0xE0; }))
        all += composed(text) + " ";
}

std::uint64_t musicOf(const Song& song, std::vector<std::pair<Tick, int>> notes) { // drums 128 higher
    if (notes.empty()) return 0;
    std::sort(notes.begin(), notes.end());
    const Tick first = notes.front().first;
    const auto quarter = static_cast<double>(std::max<Tick>(1, song.tempo->quarter()));
    Fingerprint print;
    for (const auto& [tick, key] : notes) {
        print.add(static_cast<std::uint64_t>(std::llround(static_cast<double>(tick - first) * 96 / quarter)),
                  8);
        print.add(static_cast<std::uint64_t>(key), 2);
    }
    return print.value();
}

/// Whether a word begins with another, in text as of addWords().
bool hasWord(const std::string& text, const std::string& word) {
    const std::string plain = plainWords(word);
    if (plain.size() > 2) return text.find(plain.substr(0, plain.size() - 1)) != std::string::npos;
    return text.find(composed(word)) != std::string::npos; // another script, or a number
}

/// "3:30" or "90": seconds.
std::optional<double> secondsIn(const std::string& text) {
    double minutes = 0, seconds = 0;
    char colon = 0, more = 0;
    std::istringstream in(text);
    if (!(in >> seconds)) return std::nullopt;
    if (in >> colon) {
        minutes = seconds;
        if (colon != ':' || !(in >> seconds)) return std::nullopt;
    }
    if (in >> more) return std::nullopt;
    return minutes * 60 + seconds;
}

/// "90-110" or "90": from and to, read by `number`.
template <class Read> std::optional<std::pair<double, double>> rangeIn(const std::string& text, Read number) {
    const auto dash = text.find('-', 1);
    const auto low = number(text.substr(0, dash));
    const auto high = dash == std::string::npos ? low : number(text.substr(dash + 1));
    if (!low || !high) return std::nullopt;
    return std::pair(*low, *high);
}

} // namespace

SongSummary summaryOf(const Song& song,
                      const std::function<std::shared_ptr<const HeardPart>(const Part&)>& heard) {
    SongSummary summary;
    summary.bpm = song.tempo->bpm(0);
    summary.seconds = song.seconds();
    PitchClasses classes{};
    BassEnds bass(song);
    std::vector<std::pair<Tick, int>> notes;
    bool pitched = false;
    for (const Part& part : song.parts) {
        if (part.aside) continue;
        const auto plays = heard(part);
        for (const Note& note : plays->notes)
            notes.emplace_back(note.start, note.key.value + (part.source.drums ? 128 : 0));
        addWords(summary.players, part.name);
        if (part.source.drums) {
            addWords(summary.players, "drums");
            continue;
        }
        const auto named = part.nameGiven ? programFromName(part.name) : std::nullopt;
        const auto asked = asksOf(song, part).front().program;
        for (const std::optional<Program>& program : {asked, named})
            if (program) {
                addWords(summary.players, std::string(plainProgramName(*program)));
                addWords(summary.players, std::string(programName(*program)));
            }
        pitched = pitched || !plays->notes.empty();
        for (const Note& note : plays->notes) bass.add(note);
        const PitchClasses its = pitchClassesOf(song, part, *plays);
        for (std::size_t i = 0; i < its.size(); ++i) classes[i] += its[i];
    }
    if (pitched) {
        MusicalKey key = keyOf(classes, bass.hints(song));
        key.tonic = pitchClass(key.tonic + song.keyShift); // as it is heard
        summary.key = keyText(key);
    }
    summary.music = musicOf(song, std::move(notes));
    addWords(summary.words, song.title);
    addWords(summary.words, song.source->name);
    addWords(summary.words, summary.key);
    summary.words += " " + song.source->name + " ";
    if (song.dialect != Dialect::None) summary.words += plainWords(std::string(dialectName(song.dialect)));
    constexpr std::size_t mostWords = 6000; // of a song, in bytes
    std::string sung;
    for (const LyricLine& line : lyricLines(song))
        if (sung.size() < mostWords) sung += line.text + " ";
    addWords(summary.words, sung);
    summary.words += summary.players;
    return summary;
}

namespace {

using Test = std::function<bool(const SongSummary&)>;

/// "d", "D minor", "b♭ major": pitch class, and whether it is minor where that is said.
struct WantedKey {
    int tonic = 0;
    std::optional<bool> minor;
};
std::optional<WantedKey> keyIn(const std::string& tonic, const std::string& mode) {
    static constexpr int ofLetter[] = {9, 11, 0, 2, 4, 5, 7}; // A to G
    if (tonic.empty() || tonic[0] < 'a' || tonic[0] > 'g') return std::nullopt;
    WantedKey key{ofLetter[tonic[0] - 'a'], {}};
    const std::string sign = tonic.substr(1);
    if (sign == "b" || sign == "♭" || sign == "-flat" || sign == "flat") key.tonic += 11;
    if (sign == "#" || sign == "♯" || sign == "-sharp" || sign == "sharp") key.tonic += 1;
    key.tonic %= 12;
    if (mode == "minor") key.minor = true;
    if (mode == "major") key.minor = false;
    return key;
}

/// Reads what somebody typed, a wish at a time.
class WishReader {
  public:
    explicit WishReader(const std::string& text) {
        std::istringstream in(text);
        for (std::string word; in >> word;) m_words.push_back(word);
    }
    std::vector<Test> all() {
        std::vector<Test> tests;
        while (m_at < m_words.size()) {
            std::optional<Test> test = comparison();
            if (!test) test = range();
            if (!test) test = key();
            if (!test) test = player();
            if (!test)
                test = [word = m_words[m_at++]](const SongSummary& s) { return hasWord(s.words, word); };
            tests.push_back(std::move(*test));
        }
        return tests;
    }

  private:
    [[nodiscard]] std::string word(std::size_t after = 0) const {
        return m_at + after < m_words.size() ? inSmallLetters(m_words[m_at + after]) : std::string();
    }
    static std::optional<double> plainNumber(const std::string& text) {
        return text.find(':') == std::string::npos ? secondsIn(text) : std::nullopt;
    }
    Test within(double SongSummary::*fact, double low, double high, std::size_t words) {
        m_at += words;
        return [fact, low, high](const SongSummary& s) { return s.*fact >= low && s.*fact <= high; };
    }

    /// "faster than 100", "shorter than 3:00".
    std::optional<Test> comparison() {
        if (word(1) != "than") return std::nullopt;
        const bool tempo = word() == "faster" || word() == "slower",
                   more = word() == "faster" || word() == "longer";
        if (!tempo && word() != "longer" && word() != "shorter") return std::nullopt;
        const auto value = tempo ? plainNumber(word(2)) : secondsIn(word(2));
        if (!value) return std::nullopt;
        return within(tempo ? &SongSummary::bpm : &SongSummary::seconds, more ? *value : 0,
                      more ? std::numeric_limits<double>::infinity() : *value, 3);
    }

    /// "tempo 90-110", "length 2:30".
    std::optional<Test> range() {
        const bool tempo = word() == "tempo" || word() == "bpm";
        if (!tempo && word() != "length") return std::nullopt;
        const auto found = tempo ? rangeIn(word(1), plainNumber) : rangeIn(word(1), secondsIn);
        if (!found) return std::nullopt;
        return within(tempo ? &SongSummary::bpm : &SongSummary::seconds, found->first - 0.5,
                      found->second + 0.5, 2);
    }

    /// "key d", "key d minor".
    std::optional<Test> key() {
        if (word() != "key") return std::nullopt;
        const auto wanted = keyIn(word(1), word(2));
        if (!wanted) return std::nullopt;
        m_at += wanted->minor ? 3 : 2;
        return [wanted = *wanted](const SongSummary& s) {
            const auto blank = s.key.find(' ');
            if (blank == std::string::npos) return false;
            const auto has = keyIn(inSmallLetters(s.key.substr(0, blank)), s.key.substr(blank + 1));
            return has && has->tonic == wanted.tonic && (!wanted.minor || has->minor == wanted.minor);
        };
    }

    /// "has a tenor".
    std::optional<Test> player() {
        if (word() != "has") return std::nullopt;
        const std::size_t article = word(1) == "a" || word(1) == "an" || word(1) == "the";
        const std::string wanted = word(1 + article);
        if (wanted.empty()) return std::nullopt;
        m_at += 2 + article;
        return [wanted](const SongSummary& s) { return hasWord(s.players, wanted); };
    }

    std::vector<std::string> m_words;
    std::size_t m_at = 0;
};

} // namespace

SongSearch::SongSearch(const std::string& text) : m_tests(WishReader(text).all()) {}

bool SongSearch::matches(const SongSummary& song) const {
    return std::all_of(m_tests.begin(), m_tests.end(), [&](const auto& test) { return test(song); });
}

} // namespace cobbleway
