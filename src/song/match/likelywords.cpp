/// Words that are not written as the dictionary has them: endings, spellings, words made of two, slips.
#include "song/match/namedictionary.h"

#include <algorithm>
#include <array>
#include <bit>
#include <string_view>

namespace cobbleway {
namespace {

// Beginnings that only narrow what follows: Frauen|chor, Wald|horn.
constexpr std::string_view beginnings[] = {
    "frauen",     "ober",     "unter",   "mittel",   "begleit", "mands",  "manns",   "mans",   "kvinne",
    "dame",       "ferfi",    "noi",     "vadasz",   "es",      "strijk", "stryke",  "barn",   "maenner",
    "manner",     "kinder",   "jungen",  "maedchen", "dames",   "heren",  "vrouwen", "mannen", "dam",
    "herr",       "mies",     "nais",    "pojk",     "barne",   "damen",  "lapsi",   "women",  "men",
    "mens",       "boys",     "girls",   "solo",     "haupt",   "neben",  "kammer",  "jagd",   "natur",
    "ventil",     "barock",   "konzert", "konsert",  "folk",    "quer",   "tverr",   "dwars",  "back",
    "background", "backing",  "lead",    "first",    "second",  "erste",  "zweite",  "synth",  "studio",
    "jazz",       "rock",     "pop",     "soul",     "lebend",  "kyrk",   "kirke",   "kerk",   "kirkko",
    "kirchen",    "gemeinde", "opera",   "sing",     "gosse",   "flick",  "damkor",  "ork",    "orkester",
    "begleit",    "rhythmus", "ritme",   "rytm",     "komp",    "solist", "mens",    "mies",   "sankt",
    "sahko",      "elektro",  "akustik", "basset"};

// Ends that name a group of what comes before, or who plays it: Saxophon|quartett, Cello|stimme.
constexpr std::string_view tails[] = {
    "quartett", "quartet",    "kvartett", "kvartet", "quintett", "quintet", "trio",    "duo",
    "ensemble", "orchester",  "orkester", "gruppe",  "gruppen",  "grupp",   "stimme",  "stimmen",
    "stemme",   "stamma",     "stem",     "partij",  "part",     "solo",    "soli",    "section",
    "sektion",  "satz",       "sats",     "spieler", "spiller",  "speler",  "melodie", "line",
    "linie",    "begleitung", "ist",      "isten",   "ista",     "iste",    "ists",    "arrangement",
    "spur",     "spor",       "spar",     "track",   "chor",     "kor"};

// Endings of the plural and of cases; the longer ones are for longer words.
constexpr std::string_view shortEndings[] = {"s", "e", "n", "i", "a", "y", "t", "k", "u"};
constexpr std::string_view longEndings[] = {"es",   "en",   "er", "ar",  "or",  "ne", "na", "ene", "erne",
                                            "arna", "orna", "ok", "ak",  "ek",  "et", "ow", "ami", "ach",
                                            "ov",   "ou",   "it", "ien", "jen", "es", "em", "im",  "om"};

// Everyday words that are a slip away from an instrument's, and people.
constexpr std::string_view noSlips[] = {
    "chords",    "harper",    "piper",      "fiddler", "horner",    "drummers",   "chord",     "spring",
    "strong",    "sting",     "stings",     "harmony", "harmonic",  "harmonies",  "melody",    "organic",
    "organiser", "organizer", "recorded",   "records", "recording", "according",  "corner",    "battery",
    "violet",    "violent",   "bassett",    "cornell", "claire",    "central",    "castle",    "christ",
    "course",    "choice",    "voices off", "station", "fruits",    "brother",    "border",    "sunday",
    "pieces",    "spaces",    "record",     "trumps",  "counter",   "counts",     "stream",    "street",
    "streets",   "flight",    "floating",   "singing", "swings",    "spirit",     "dreams",    "drumming",
    "picture",   "pacific",   "timeless",   "timing",  "tempo",     "temple",     "tenderly",  "mandarin",
    "marine",    "martin",    "marina",     "marimar", "organised", "pianissimo", "accent",    "accents",
    "control",   "controls",  "basics",     "basic",   "bassist",   "strange",    "stranger",  "striking",
    "strike",    "composer",  "version",    "guided",  "guilty",    "sexual",     "chorister", "chapel",
    "kitchen",   "orphan"};

/// A word as people of different languages spell it alike: ph as f, th as t, ae as a, doubled letters as one.
std::string loose(std::string_view word) {
    std::string made;
    for (std::size_t i = 0; i < word.size(); ++i) {
        const char c = word[i], next = i + 1 < word.size() ? word[i + 1] : ' ';
        char put = c;
        if (next == 'e' && (c == 'a' || c == 'o' || c == 'u'))
            ++i;
        else if (next == 'h' && (c == 'p' || c == 't')) {
            put = c == 'p' ? 'f' : 't';
            ++i;
        } else if (c == 'c' && next == 'k') {
            put = 'k';
            ++i;
        } else if (c == 'c' && next != 'h')
            put = 'k';
        else if (c == 'z')
            put = 's';
        else if (c == 'w')
            put = 'v';
        else if (c == 'y')
            put = 'i';
        if (made.empty() || made.back() != put) made += put;
    }
    return made;
}

const std::map<std::string, NameSense, std::less<>>& looseDictionary() {
    static const auto words = [] {
        std::map<std::string, NameSense, std::less<>> all;
        for (const auto& [word, sense] : nameDictionary())
            if (word.size() >= 5 && word.find(' ') == std::string::npos) all.try_emplace(loose(word), sense);
        return all;
    }();
    return words;
}

std::optional<NameSense> spelled(const std::string& word) {
    if (auto sense = senseOf(word)) return sense;
    if (word.size() < 5) return std::nullopt;
    const auto& known = looseDictionary();
    const auto at = known.find(loose(word));
    return at == known.end() ? std::nullopt : std::optional(at->second);
}

std::optional<NameSense> withEnding(const std::string& word) {
    const auto cut = [&](std::string_view ending, std::size_t fewest) -> std::optional<NameSense> {
        if (!word.ends_with(ending) || word.size() < fewest + ending.size()) return std::nullopt;
        auto sense = spelled(word.substr(0, word.size() - ending.size()));
        return sense;
    };
    for (const std::string_view ending : longEndings)
        if (auto sense = cut(ending, 6)) return sense;
    for (const std::string_view ending : shortEndings)
        if (auto sense = cut(ending, 4)) return sense;
    return std::nullopt;
}

bool isBeginning(const std::string& word) {
    return std::any_of(std::begin(beginnings), std::end(beginnings),
                       [&](std::string_view one) { return word == one || word == std::string(one) + "s"; });
}

std::optional<NameSense> knownWord(const std::string& word) {
    if (auto sense = spelled(word)) return sense;
    return withEnding(word);
}

/// Alt|blockflöte, Frauen|chor, Cello|stimme: what the noun says, with the marks of the other.
std::optional<NameSense> madeOfTwo(const std::string& word) {
    for (std::size_t at = 1; at + 2 < word.size(); ++at) { // the longest end first
        const std::string begin = word.substr(0, at), end = word.substr(at);
        auto noun = end.size() > 3 ? knownWord(end) : senseOf(end);
        if (!noun || noun->rank == NameRank::None || noun->rank == NameRank::Lead ||
            noun->rank == NameRank::Pad)
            continue;
        if (isBeginning(begin)) return noun;
        if (end.size() < 4) continue;
        const auto first = begin.size() >= 2 ? senseOf(begin) : std::nullopt;
        if (first && (first->marks || (first->rank >= NameRank::Light && begin.size() >= 4))) {
            if (noun->rank != NameRank::Drums) noun->marks |= first->marks;
            return noun;
        }
        if (end.size() >= 7 && begin.size() >= 3 && noun->rank >= NameRank::Light) return noun;
    }
    for (const std::string_view tail : tails)
        if (word.ends_with(tail) && word.size() >= tail.size() + 4)
            if (auto noun = spelled(word.substr(0, word.size() - tail.size()));
                noun && noun->rank >= NameRank::Voice)
                return noun;
    return std::nullopt;
}

/// How many letters must be changed, added, left out or swapped with the next; `most` + 1 where it is more.
int slipsBetween(const std::string& a, const std::string& b, int most) {
    std::array<int, 64> before{}, row{}, twoBefore{};
    if (std::abs(static_cast<int>(a.size()) - static_cast<int>(b.size())) > most || b.size() >= row.size())
        return most + 1;
    for (std::size_t j = 0; j <= b.size(); ++j) before[j] = static_cast<int>(j);
    for (std::size_t i = 1; i <= a.size(); ++i) {
        row[0] = static_cast<int>(i);
        for (std::size_t j = 1; j <= b.size(); ++j) {
            row[j] = std::min({before[j] + 1, row[j - 1] + 1, before[j - 1] + (a[i - 1] != b[j - 1])});
            if (i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1])
                row[j] = std::min(row[j], twoBefore[j - 2] + 1);
        }
        twoBefore = before;
        before = row;
    }
    return before[b.size()];
}

/// Which letters a word has: a slip changes two of them at most.
std::uint32_t lettersOf(const std::string& word) {
    std::uint32_t letters = 0;
    for (const char c : word) letters |= 1U << (static_cast<unsigned char>(c) & 31U);
    return letters;
}

struct LongWord {
    const std::string& word;
    const NameSense& sense;
    std::uint32_t letters;
};

/// The words that may be misspelt, by their first letters.
const std::multimap<char, LongWord>& longWords() {
    static const auto words = [] {
        std::multimap<char, LongWord> all;
        for (const auto& [word, sense] : nameDictionary())
            if (word.size() >= 6 && word.find(' ') == std::string::npos)
                all.insert({word[0], {word, sense, lettersOf(word)}});
        return all;
    }();
    return words;
}

std::optional<NameSense> withSlips(const std::string& word) {
    if (word.size() < 6 || std::find(std::begin(noSlips), std::end(noSlips), word) != std::end(noSlips))
        return std::nullopt;
    const int most = word.size() >= 9 ? 2 : 1;
    std::optional<NameSense> best;
    int least = most + 1;
    const std::uint32_t letters = lettersOf(word);
    for (auto [at, end] = longWords().equal_range(word[0]); at != end; ++at) {
        const auto& [known, sense, its] = at->second;
        const int allowed = known.size() >= 9 ? most : 1;
        if (std::popcount(letters ^ its) > 2 * allowed) continue;
        if (const int slips = slipsBetween(word, known, allowed); slips <= allowed && slips < least) {
            best = sense;
            least = slips;
        }
    }
    return best;
}

} // namespace

std::optional<NameSense> likelySenseOf(const std::string& word) {
    if (word.size() < 5) return withEnding(word);
    if (std::find(std::begin(noSlips), std::end(noSlips), word) != std::end(noSlips)) return std::nullopt;
    if (auto sense = knownWord(word)) return sense;
    if (auto sense = madeOfTwo(word)) return sense;
    return withSlips(word);
}

} // namespace cobbleway
