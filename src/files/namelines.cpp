#include "files/namelines.h"
#include "words/letters.h"

#include <algorithm>
#include <array>
#include <cctype>
#include <charconv>
#include <cstdio>
#include <optional>

namespace cobbleway {
namespace {

constexpr std::size_t longestName = 64;
/// From so many lines with the same fault on they are told in one.
constexpr std::size_t manyFaults = 5;
constexpr const char* noNumber = "names.no-number";
constexpr const char* noName = "names.no-name";

struct Character {
    char32_t code = 0;
    std::size_t bytes = 1;
};

/// The character that begins at `at` of valid UTF-8.
Character characterAt(std::string_view text, std::size_t at) {
    const auto byte = [&](std::size_t i) {
        return i < text.size() ? static_cast<unsigned char>(text[i]) : 0U;
    };
    const unsigned first = byte(at);
    if (first < 0x80) return {first, 1};
    if (first < 0xE0) return {(first & 0x1FU) << 6 | (byte(at + 1) & 0x3FU), 2};
    if (first < 0xF0)
        return {(first & 0x0FU) << 12 | (byte(at + 1) & 0x3FU) << 6 | (byte(at + 2) & 0x3FU), 3};
    return {(first & 0x07U) << 18 | (byte(at + 1) & 0x3FU) << 12 | (byte(at + 2) & 0x3FU) << 6 |
                (byte(at + 3) & 0x3FU),
            4};
}

/// The name in the Unicode standard of a character that nobody sees; empty for others.
std::string invisibleName(char32_t code) {
    struct Named {
        char32_t code;
        const char* name;
    };
    // The aliases of control characters are those of the standard's NameAliases.txt.
    static constexpr const char* controls[] = {"NULL",
                                               "START OF HEADING",
                                               "START OF TEXT",
                                               "END OF TEXT",
                                               "END OF TRANSMISSION",
                                               "ENQUIRY",
                                               "ACKNOWLEDGE",
                                               "ALERT",
                                               "BACKSPACE",
                                               "CHARACTER TABULATION",
                                               "LINE FEED",
                                               "LINE TABULATION",
                                               "FORM FEED",
                                               "CARRIAGE RETURN",
                                               "SHIFT OUT",
                                               "SHIFT IN",
                                               "DATA LINK ESCAPE",
                                               "DEVICE CONTROL ONE",
                                               "DEVICE CONTROL TWO",
                                               "DEVICE CONTROL THREE",
                                               "DEVICE CONTROL FOUR",
                                               "NEGATIVE ACKNOWLEDGE",
                                               "SYNCHRONOUS IDLE",
                                               "END OF TRANSMISSION BLOCK",
                                               "CANCEL",
                                               "END OF MEDIUM",
                                               "SUBSTITUTE",
                                               "ESCAPE",
                                               "INFORMATION SEPARATOR FOUR",
                                               "INFORMATION SEPARATOR THREE",
                                               "INFORMATION SEPARATOR TWO",
                                               "INFORMATION SEPARATOR ONE"};
    if (code < 0x20) return code == '\t' ? "" : controls[code];
    static constexpr Named named[] = {{0x007F, "DELETE"},
                                      {0x00A0, "NO-BREAK SPACE"},
                                      {0x00AD, "SOFT HYPHEN"},
                                      {0x034F, "COMBINING GRAPHEME JOINER"},
                                      {0x061C, "ARABIC LETTER MARK"},
                                      {0x115F, "HANGUL CHOSEONG FILLER"},
                                      {0x180E, "MONGOLIAN VOWEL SEPARATOR"},
                                      {0x2007, "FIGURE SPACE"},
                                      {0x200B, "ZERO WIDTH SPACE"},
                                      {0x200C, "ZERO WIDTH NON-JOINER"},
                                      {0x200D, "ZERO WIDTH JOINER"},
                                      {0x200E, "LEFT-TO-RIGHT MARK"},
                                      {0x200F, "RIGHT-TO-LEFT MARK"},
                                      {0x202A, "LEFT-TO-RIGHT EMBEDDING"},
                                      {0x202B, "RIGHT-TO-LEFT EMBEDDING"},
                                      {0x202C, "POP DIRECTIONAL FORMATTING"},
                                      {0x202D, "LEFT-TO-RIGHT OVERRIDE"},
                                      {0x202E, "RIGHT-TO-LEFT OVERRIDE"},
                                      {0x202F, "NARROW NO-BREAK SPACE"},
                                      {0x2060, "WORD JOINER"},
                                      {0x2061, "FUNCTION APPLICATION"},
                                      {0x2062, "INVISIBLE TIMES"},
                                      {0x2063, "INVISIBLE SEPARATOR"},
                                      {0x2064, "INVISIBLE PLUS"},
                                      {0x2066, "LEFT-TO-RIGHT ISOLATE"},
                                      {0x2067, "RIGHT-TO-LEFT ISOLATE"},
                                      {0x2068, "FIRST STRONG ISOLATE"},
                                      {0x2069, "POP DIRECTIONAL ISOLATE"},
                                      {0x3000, "IDEOGRAPHIC SPACE"},
                                      {0x3164, "HANGUL FILLER"},
                                      {0xFEFF, "ZERO WIDTH NO-BREAK SPACE"},
                                      {0xFFA0, "HALFWIDTH HANGUL FILLER"}};
    for (const Named& n : named)
        if (n.code == code) return n.name;
    if (code >= 0xFE00 && code <= 0xFE0F)
        return "VARIATION SELECTOR-" + std::to_string(static_cast<int>(code - 0xFE00) + 1);
    if (code >= 0xE0000 && code <= 0xE007F) return "TAG CHARACTER";
    if (code >= 0x206A && code <= 0x206F) return "DEPRECATED FORMAT CHARACTER";
    if (code >= 0x80 && code < 0xA0) return "CONTROL CHARACTER";
    return {};
}

bool isSpace(char32_t code) {
    return code == 0x00A0 || (code >= 0x2000 && code <= 0x200A) || code == 0x202F || code == 0x205F ||
           code == 0x3000 || code == 0x1680;
}

std::string codeText(char32_t code) {
    std::array<char, 16> text{};
    std::snprintf(text.data(), text.size(), "U+%04X", static_cast<unsigned>(code));
    return text.data();
}

/// Gathers what was ignored or repaired; the same fault on many lines becomes one.
class Faults {
  public:
    /// `kind` is the same for faults that are to be gathered; empty: told alone.
    void add(int line, Message what, Message kind = {}) {
        m_all.push_back({{line, std::move(what)}, std::move(kind), {}});
        if (!m_all.back().kind.empty()) m_all.back().said = inWords(m_all.back().kind);
    }
    std::vector<RepairedLine> told() const {
        std::map<std::string, std::vector<const Fault*>> kinds;
        for (const Fault& fault : m_all)
            if (!fault.kind.empty()) kinds[fault.said].push_back(&fault);
        std::vector<RepairedLine> told;
        for (const Fault& fault : m_all) {
            const auto& same = kinds[fault.said];
            if (fault.kind.empty() || same.size() < manyFaults) {
                told.push_back(fault.line);
            } else if (same.front() == &fault) {
                told.push_back({fault.line.line, onManyLines(fault.kind, same.size(), fault.line.line,
                                                             same.back()->line.line)});
            }
        }
        std::stable_sort(told.begin(), told.end(),
                         [](const RepairedLine& a, const RepairedLine& b) { return a.line < b.line; });
        return told;
    }

  private:
    struct Fault {
        RepairedLine line;
        Message kind;
        std::string said; ///< the kind in words
    };
    std::vector<Fault> m_all;
};

/// Lines with their numbers, whatever ends them: LF, CR, both, VT, FF, NEL, U+2028, U+2029.
std::vector<std::string> linesOf(const std::string& text) {
    std::vector<std::string> lines(1);
    for (std::size_t at = 0; at < text.size();) {
        const auto [code, bytes] = characterAt(text, at);
        const bool ends = code == '\n' || code == '\r' || code == 0x0B || code == 0x0C || code == 0x85 ||
                          code == 0x2028 || code == 0x2029;
        if (ends) {
            if (code == '\r' && at + 1 < text.size() && text[at + 1] == '\n') ++at;
            lines.emplace_back();
        } else {
            lines.back().append(text, at, bytes);
        }
        at += bytes;
    }
    return lines;
}

/// A line without invisible characters; odd spaces become plain ones, full-width characters narrow ones.
std::string visible(const std::string& line, int number, bool atStart, Faults& faults) {
    std::string plain;
    std::vector<char32_t> gone;
    bool wide = false;
    for (std::size_t at = 0; at < line.size();) {
        const auto [code, bytes] = characterAt(line, at);
        const bool mark = atStart && at == 0 && code == 0xFEFF; // a byte order mark is no fault
        const bool full = code >= 0xFF01 && code <= 0xFF5E;
        if (full) {
            wide = true;
            plain += static_cast<char>(code - 0xFF00 + 0x20);
        } else if (isSpace(code)) {
            plain += ' ';
            if (!invisibleName(code).empty()) gone.push_back(code);
        } else if (const bool hidden = !invisibleName(code).empty(); hidden) {
            if (!mark) gone.push_back(code);
        } else {
            plain.append(line, at, bytes);
        }
        at += bytes;
    }
    std::sort(gone.begin(), gone.end());
    gone.erase(std::unique(gone.begin(), gone.end()), gone.end());
    for (const char32_t code : gone) {
        const std::string name = invisibleName(code) + " (" + codeText(code) + ")";
        const Message what(isSpace(code) ? "names.plain-space" : "names.invisible", {{"character", name}});
        faults.add(number, what, what);
    }
    if (wide) { faults.add(number, {"names.wide"}, {"names.wide"}); }
    return plain;
}

std::string trimmed(const std::string& text) {
    const auto first = text.find_first_not_of(" \t");
    if (first == std::string::npos) return {};
    return text.substr(first, text.find_last_not_of(" \t") - first + 1);
}

/// A name's place before it is known which octave convention holds.
struct NotePlace {
    int fromC = 0;  ///< semitones above the C of its octave; −1 and 12 are possible
    int octave = 0; ///< as written
};

struct NumberRead {
    std::optional<int> number; ///< may be no key
    std::optional<NotePlace> note;
    std::size_t length = 0; ///< of the text that it takes
};

bool endsNumber(const std::string& line, std::size_t at) {
    return at >= line.size() || std::string_view(" \t=;,").find(line[at]) != std::string_view::npos;
}

std::optional<int> numberIn(std::string_view digits, int base) {
    int number = 0;
    const auto [end, error] = std::from_chars(digits.data(), digits.data() + digits.size(), number, base);
    if (error == std::errc::result_out_of_range) return 1'000'000;
    return error == std::errc{} && end == digits.data() + digits.size() ? std::optional(number)
                                                                        : std::nullopt;
}

/// C, C#, Db, H, Cis, Des, with sharps and flats also as U+266F and U+266D; then the octave.
std::optional<NotePlace> noteIn(const std::string& word) {
    static constexpr std::string_view letters = "CDEFGABH";
    static constexpr std::array<int, 8> steps = {0, 2, 4, 5, 7, 9, 11, 11};
    if (word.empty()) return std::nullopt;
    const auto letter = letters.find(static_cast<char>(std::toupper(static_cast<unsigned char>(word[0]))));
    if (letter == std::string_view::npos) return std::nullopt;
    NotePlace place{steps[letter], 0};
    std::size_t at = 1;
    struct Sign {
        std::string_view text;
        int by;
    };
    static constexpr Sign signs[] = {{"#", 1},       {"\u266F", 1}, {"is", 1}, {"b", -1},
                                     {"\u266D", -1}, {"es", -1},    {"s", -1}};
    for (const Sign& sign : signs)
        if (word.compare(at, sign.text.size(), sign.text) == 0) {
            place.fromC += sign.by;
            at += sign.text.size();
            break;
        }
    const auto octave = at < word.size() ? numberIn(std::string_view(word).substr(at), 10) : std::nullopt;
    if (!octave || *octave < -3 || *octave > 12) return std::nullopt;
    place.octave = *octave;
    return place;
}

/// What stands at the start of a line: "36", "0x24", "$24", "24h", "C#2".
NumberRead numberAt(const std::string& line) {
    std::size_t end = 0;
    while (!endsNumber(line, end)) ++end;
    std::string word = line.substr(0, end);
    NumberRead read;
    read.length = end;
    // "36:", "36." and "36)" are how people number lists.
    if (word.size() > 1 && std::string_view(":.)").find(word.back()) != std::string_view::npos)
        word.pop_back();
    if (word.starts_with("0x") || word.starts_with("0X"))
        read.number = numberIn(std::string_view(word).substr(2), 16);
    else if (word.starts_with("$"))
        read.number = numberIn(std::string_view(word).substr(1), 16);
    else if (word.size() > 1 && (word.back() == 'h' || word.back() == 'H') &&
             std::isdigit(static_cast<unsigned char>(word[0])))
        read.number = numberIn(std::string_view(word).substr(0, word.size() - 1), 16);
    else
        read.number = numberIn(word, 10);
    if (!read.number) read.note = noteIn(word);
    return read;
}

/// A name before its key is known.
struct Row {
    int line = 0;
    std::optional<int> number;
    NotePlace note;
    std::string written; ///< the key as written
    std::string name;
};

/// Cuts a name at the most characters; tells when it did.
std::string held(std::string name, int line, Faults& faults) {
    name = trimmed(name);
    std::replace(name.begin(), name.end(), '\t', ' ');
    std::size_t characters = 0;
    for (std::size_t at = 0; at < name.size(); at += characterAt(name, at).bytes)
        if (++characters > longestName) {
            name = trimmed(name.substr(0, at));
            faults.add(line, {"names.cut"}, {"names.cut"});
            break;
        }
    return name;
}

/// Takes a key and a name that are apart.
void takeRow(int line, const std::string& key, const std::string& text, std::vector<Row>& rows,
             Faults& faults) {
    const NumberRead read = numberAt(key);
    if (key.empty() || read.length != key.size() || (!read.number && !read.note)) {
        faults.add(line, {noNumber}, {noNumber});
        return;
    }
    std::string name = held(text, line, faults);
    if (name.empty())
        faults.add(line, {noName}, {noName});
    else
        rows.push_back({line, read.number, read.note.value_or(NotePlace{}), key, std::move(name)});
}

/// The octave of middle C under which most names of rows mean the drum on their key; 4 when none is better.
int middleCOctave(const std::vector<Row>& rows) {
    int best = 4, most = 0;
    for (const int octave : {4, 3, 5}) {
        int agree = 0;
        for (const Row& row : rows) {
            if (row.number) continue;
            const int key = 60 + (row.note.octave - octave) * 12 + row.note.fromC;
            const auto meant = drumMeant(row.name);
            agree += meant && meant->gm.value == key;
        }
        if (agree > most) {
            most = agree;
            best = octave;
        }
    }
    return best;
}

NameLines namesOf(const std::vector<Row>& rows, Faults& faults) {
    NameLines lines;
    const auto firstNote = std::find_if(rows.begin(), rows.end(), [](const Row& row) { return !row.number; });
    const int octave = middleCOctave(rows);
    if (firstNote != rows.end()) faults.add(firstNote->line, {"names.middle-c", {{"octave", octave}}});
    // Where H is B, B is B flat.
    const bool german = std::any_of(rows.begin(), rows.end(), [](const Row& row) {
        return !row.number && (row.written[0] == 'H' || row.written[0] == 'h');
    });
    for (const Row& row : rows) {
        int key = row.number.value_or(0);
        if (!row.number) {
            key = 60 + (row.note.octave - octave) * 12 + row.note.fromC;
            if (german && row.note.fromC == 11 && (row.written[0] == 'B' || row.written[0] == 'b')) --key;
        }
        if (key < 0 || key > 127) {
            faults.add(row.line, {"names.no-key", {{"written", row.written}}}, {"names.no-keys"});
            continue;
        }
        const auto [at, fresh] = lines.names.insert_or_assign(static_cast<std::uint8_t>(key), row.name);
        (void)at;
        if (!fresh) faults.add(row.line, {"names.twice", {{"key", key}}}, {"names.twice-many"});
    }
    lines.repaired = faults.told();
    return lines;
}

using Record = std::vector<std::string>;
struct Records {
    std::vector<std::pair<int, Record>> all; ///< with the line each begins on, from 1
    bool quoted = false;
};

/// The field separator of CSV: of comma, semicolon and tab the first outside quotes.
char separatorOf(const std::string& text) {
    bool inQuotes = false;
    for (const char c : text) {
        if (c == '"') inQuotes = !inQuotes;
        if (!inQuotes && (c == ',' || c == ';' || c == '\t')) return c;
    }
    return ',';
}

/// RFC 4180: fields may be quoted, hold separators and line ends then, and "" for a quote.
Records recordsOf(const std::string& text) {
    const char separator = separatorOf(text);
    Records records;
    Record fields(1);
    int line = 1, begun = 1;
    bool inQuotes = false, wasQuoted = false;
    const auto endRecord = [&] {
        if (fields.size() > 1 || !fields[0].empty() || wasQuoted) records.all.emplace_back(begun, fields);
        fields.assign(1, {});
        wasQuoted = false;
    };
    for (std::size_t i = 0; i < text.size(); ++i) {
        const char c = text[i];
        const bool ends = c == '\n' || (c == '\r' && (i + 1 >= text.size() || text[i + 1] != '\n'));
        if (ends) ++line;
        if (inQuotes) {
            if (c != '"')
                fields.back() += c == '\n' || c == '\r' ? ' ' : c;
            else if (i + 1 < text.size() && text[i + 1] == '"')
                fields.back() += text[++i];
            else
                inQuotes = false;
        } else if (c == '"' && trimmed(fields.back()).empty()) {
            fields.back().clear();
            inQuotes = wasQuoted = records.quoted = true;
        } else if (c == separator) {
            fields.emplace_back();
        } else if (ends) {
            endRecord();
            begun = line;
        } else if (c != '\r') {
            fields.back() += c;
        }
    }
    endRecord();
    return records;
}

/// Which columns a heading gives; none when a record is no heading.
std::optional<std::pair<std::size_t, std::size_t>> headingOf(const Record& record) {
    std::optional<std::size_t> key, name;
    for (std::size_t i = 0; i < record.size(); ++i) {
        const std::string word = inSmallLetters(trimmed(record[i]));
        const auto is = [&](std::initializer_list<std::string_view> words) {
            return std::find(words.begin(), words.end(), word) != words.end();
        };
        if (!key && is({"key", "note", "number", "no", "no.", "midi", "midi note", "note number", "pitch",
                        "key number", "taste", "numero"}))
            key = i;
        else if (!name && is({"name", "drum", "sound", "instrument", "note name", "drum name", "description",
                              "label"}))
            name = i;
    }
    return key && name ? std::optional(std::pair(*key, *name)) : std::nullopt;
}

} // namespace

NameLines textLines(const std::string& text) {
    Faults faults;
    std::vector<Row> rows;
    const auto lines = linesOf(text);
    for (std::size_t i = 0; i < lines.size(); ++i) {
        const int number = static_cast<int>(i) + 1;
        std::string line = trimmed(visible(lines[i], number, i == 0, faults));
        if (line.empty() || line[0] == '#' || line[0] == ';' || line.starts_with("//")) continue;
        for (std::size_t at = 1; at + 1 < line.size(); ++at)
            if (line[at] == '#' && (line[at - 1] == ' ' || line[at - 1] == '\t') &&
                (line[at + 1] == ' ' || line[at + 1] == '\t')) {
                line.resize(at);
                break;
            }
        const NumberRead read = numberAt(line);
        if (!read.number && !read.note) {
            faults.add(number, noNumber, noNumber);
            continue;
        }
        std::size_t at = read.length;
        while (at < line.size() && (line[at] == ' ' || line[at] == '\t')) ++at;
        if (at < line.size() && (line[at] == '=' || line[at] == ';' || line[at] == ',')) ++at;
        std::string name = held(line.substr(std::min(at, line.size())), number, faults);
        if (name.empty()) {
            faults.add(number, noName, noName);
            continue;
        }
        rows.push_back({number, read.number, read.note.value_or(NotePlace{}), line.substr(0, read.length),
                        std::move(name)});
    }
    return namesOf(rows, faults);
}

NameLines pairLine(const std::string& number, const std::string& name) {
    Faults faults;
    std::vector<Row> rows;
    takeRow(1, trimmed(visible(number, 1, false, faults)), visible(name, 1, false, faults), rows, faults);
    return namesOf(rows, faults);
}

bool looksLikeCsv(const std::string& text) {
    const Records records = recordsOf(text.substr(0, 4096));
    return !records.all.empty() && (headingOf(records.all.front().second).has_value() || records.quoted) &&
           records.all.front().second.size() > 1;
}

NameLines csvLines(const std::string& text) {
    Faults faults;
    std::vector<Row> rows;
    std::string plain;
    const auto lines = linesOf(text);
    for (std::size_t i = 0; i < lines.size(); ++i)
        plain += visible(lines[i], static_cast<int>(i) + 1, i == 0, faults) + "\n";
    const Records records = recordsOf(plain);
    std::size_t keyColumn = 0, nameColumn = 1, first = 0;
    if (!records.all.empty())
        if (const auto heading = headingOf(records.all.front().second)) {
            std::tie(keyColumn, nameColumn) = *heading;
            first = 1;
        }
    for (std::size_t i = first; i < records.all.size(); ++i) {
        const auto& [line, record] = records.all[i];
        const std::string key = keyColumn < record.size() ? trimmed(record[keyColumn]) : std::string();
        if (key.starts_with("#") || key.starts_with("//")) continue;
        takeRow(line, key, nameColumn < record.size() ? record[nameColumn] : std::string(), rows, faults);
    }
    return namesOf(rows, faults);
}

Message onManyLines(const Message& fault, std::size_t lines, int first, int last) {
    return {"names.on-many-lines", {{"what", fault}, {"lines", lines}, {"first", first}, {"last", last}}};
}

} // namespace cobbleway
