#include "song/names.h"

#include <algorithm>
#include <array>
#include <cctype>
#include <string_view>
#include <vector>

namespace cobbleway {
namespace {

struct Word {
    std::string_view stem; ///< of the name's words, low letters, accents left out; "=" first: the whole word
    int program = 0;       ///< 0-based
};

// Longer and more telling stems first: the first that fits counts.
constexpr Word words[] = {
    // two words together
    {"bass clarinet", 71},
    {"bass guitar", 33},
    {"bassgitarre", 33},
    {"electric bass", 33},
    {"e bass", 33},
    {"acoustic bass", 32},
    {"double bass", 43},
    {"string bass", 43},
    {"synth bass", 38},
    {"slap bass", 36},
    {"fretless", 35},
    {"english horn", 69},
    {"cor anglais", 69},
    {"englischhorn", 69},
    {"french horn", 60},
    {"church organ", 19},
    {"pipe organ", 19},
    {"alto sax", 65},
    {"tenor sax", 66},
    {"bari sax", 67},
    {"baritone sax", 67},
    {"soprano sax", 64},
    {"pan flute", 75},
    {"panflote", 75},
    {"steel drum", 114},
    {"music box", 10},
    {"tubular", 14},
    {"röhrenglocken", 14},
    {"rohrenglocken", 14},
    {"electric piano", 4},
    {"e piano", 4},
    {"honky", 3},
    {"nylon", 24},
    {"steel guitar", 25},
    {"jazz guitar", 26},
    {"overdrive", 29},
    {"distort", 30},
    {"mute trumpet", 59},
    {"muted trumpet", 59},
    {"synth strings", 50},
    {"synth brass", 62},
    {"brass section", 61},
    {"string ensemble", 48},
    {"bag pipe", 109},
    // strings
    {"violoncell", 42},
    {"violin", 40},
    {"geige", 40},
    {"vln", 40},
    {"vl", 40},
    {"violon", 40},
    {"viola", 41},
    {"bratsche", 41},
    {"=vla", 41},
    {"alto violin", 41},
    {"cello", 42},
    {"violoncell", 42},
    {"=vc", 42},
    {"vlc", 42},
    {"contrabass", 43},
    {"kontrabass", 43},
    {"contrebasse", 43},
    {"=kb", 43},
    {"=cb", 43},
    {"tremolo", 44},
    {"pizzicato", 45},
    {"pizz", 45},
    {"harfe", 46},
    {"=harp", 46},
    {"harpe", 46},
    {"=arpa", 46},
    {"timp", 47},
    {"pauke", 47},
    {"timbales", 47},
    {"string", 48},
    {"streicher", 48},
    {"cordes", 48},
    {"archi", 48},
    // voices
    {"choir", 52},
    {"chor", 52},
    {"choeur", 52},
    {"coro", 52},
    {"voice", 52},
    {"vocal", 52},
    {"=aah", 52},
    // brass
    {"trumpet", 56},
    {"trompet", 56},
    {"tromba", 56},
    {"=tpt", 56},
    {"=trp", 56},
    {"cornet", 56},
    {"kornett", 56},
    {"flugel", 56},
    {"trombon", 57},
    {"posaune", 57},
    {"=tbn", 57},
    {"=pos", 57},
    {"tuba", 58},
    {"sousaphon", 58},
    {"waldhorn", 60},
    {"=horn", 60},
    {"horns", 60},
    {"corno", 60},
    {"corni", 60},
    {"=cor", 60},
    {"=hn", 60},
    {"blechblaser", 61},
    {"brass", 61},
    {"cuivres", 61},
    // reeds and pipes
    {"saxo", 65},
    {"=sax", 65},
    {"oboe", 68},
    {"hautbois", 68},
    {"=ob", 68},
    {"fagott", 70},
    {"bassoon", 70},
    {"basson", 70},
    {"=fg", 70},
    {"=bsn", 70},
    {"clarin", 71},
    {"klarin", 71},
    {"=cl", 71},
    {"=klar", 71},
    {"piccolo", 72},
    {"=picc", 72},
    {"blockflote", 74},
    {"recorder", 74},
    {"flute", 73},
    {"flote", 73},
    {"flauto", 73},
    {"=fl", 73},
    {"ocarina", 79},
    {"whistle", 78},
    {"shakuhachi", 77},
    // keys
    {"harpsichord", 6},
    {"cembalo", 6},
    {"clavecin", 6},
    {"clavinet", 7},
    {"celest", 8},
    {"glock", 9},
    {"vibra", 11},
    {"=vibes", 11},
    {"marimba", 12},
    {"xylo", 13},
    {"dulcimer", 15},
    {"hackbrett", 15},
    {"accord", 21},
    {"akkord", 21},
    {"fisarmonica", 21},
    {"bandoneon", 23},
    {"harmonica", 22},
    {"mundharmonika", 22},
    {"organ", 16},
    {"orgel", 16},
    {"orgue", 16},
    {"piano", 0},
    {"klavier", 0},
    {"=pno", 0},
    {"rhodes", 4},
    // plucked and bass
    {"banjo", 105},
    {"sitar", 104},
    {"koto", 107},
    {"kalimba", 108},
    {"mandolin", 25},
    {"guitar", 24},
    {"gitarr", 24},
    {"guitare", 24},
    {"chitarra", 24},
    {"=gtr", 24},
    {"=git", 24},
    {"=bass", 33},
    {"basse", 33},
    {"=basso", 33},
    {"=bajo", 33},
    {"bagpipe", 109},
    {"dudelsack", 109},
    {"fiddle", 110},
    // synthetic
    {"=pad", 88},
    {"=lead", 80},
    {"synth", 80},
};

constexpr std::string_view drumWords[] = {
    "drum",  "schlagzeug", "percuss", "perkuss",  "=perc",     "batter",  "bateria", "kick",
    "snare", "hihat",      "hi hat",  "hi-hat",   "cymbal",    "becken",  "=tom",    "=toms",
    "=kit",  "trommel",    "bongo",   "conga",    "tambourin", "maracas", "shaker",  "cowbell",
    "clap",  "=crash",     "=ride",   "slagwerk", "trummor",   "caisse",
};

/// Low ASCII letters with accents left out, everything else a blank; a blank before and after.
std::string plain(const std::string& name) {
    struct Accent {
        std::string_view from;
        char to;
    };
    static constexpr Accent accents[] = {
        {"ä", 'a'}, {"à", 'a'}, {"á", 'a'}, {"â", 'a'}, {"å", 'a'}, {"ö", 'o'}, {"ó", 'o'},
        {"ô", 'o'}, {"ò", 'o'}, {"ü", 'u'}, {"ú", 'u'}, {"û", 'u'}, {"ù", 'u'}, {"é", 'e'},
        {"è", 'e'}, {"ê", 'e'}, {"ë", 'e'}, {"í", 'i'}, {"ì", 'i'}, {"î", 'i'}, {"ï", 'i'},
        {"ç", 'c'}, {"ñ", 'n'}, {"Ä", 'a'}, {"Ö", 'o'}, {"Ü", 'u'}, {"É", 'e'}, {"È", 'e'}};
    std::string text = " ";
    for (std::size_t i = 0; i < name.size();) {
        const auto accent = std::find_if(std::begin(accents), std::end(accents), [&](const Accent& a) {
            return name.compare(i, a.from.size(), a.from) == 0;
        });
        if (accent != std::end(accents)) {
            text += accent->to;
            i += accent->from.size();
            continue;
        }
        const auto byte = static_cast<unsigned char>(name[i++]);
        if (byte == 0xC5 && i < name.size() && static_cast<unsigned char>(name[i]) == 0x93) { // œ
            text += "oe";
            ++i;
        } else if (byte < 0x80 && std::isalpha(byte)) {
            text += static_cast<char>(std::tolower(byte));
        } else if (text.back() != ' ') {
            text += ' ';
        }
    }
    if (text.back() != ' ') text += ' ';
    return text;
}

bool has(const std::string& text, std::string_view stem) {
    if (stem.starts_with('=')) return text.find(" " + std::string(stem.substr(1)) + " ") != std::string::npos;
    // Two or three letters are a whole word, or part of one by chance.
    if (stem.size() <= 3) return text.find(" " + std::string(stem) + " ") != std::string::npos;
    return text.find(" " + std::string(stem)) != std::string::npos;
}

} // namespace

bool namesDrums(const std::string& name) {
    const std::string text = plain(name);
    if (has(text, "steel drum") || has(text, "percussive organ")) return false;
    return std::any_of(std::begin(drumWords), std::end(drumWords),
                       [&](std::string_view w) { return has(text, w); });
}

std::optional<Program> programFromName(const std::string& name) {
    if (namesDrums(name)) return std::nullopt;
    const std::string text = plain(name);
    for (const Word& word : words)
        if (has(text, word.stem)) return Program{static_cast<std::uint8_t>(word.program)};
    return std::nullopt;
}

} // namespace cobbleway
