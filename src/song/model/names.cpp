#include "song/model/names.h"

#include "midi/gm.h"
#include "midi/text.h"
#include "song/model/plainwords.h"
#include "words/letters.h"

#include <algorithm>
#include <array>
#include <cctype>
#include <set>
#include <string_view>

namespace cobbleway {
namespace {

/// Words that name a place in a file or a device, as of plainWords(); English, German, French, Spanish,
/// Italian, Portuguese, Dutch, the Nordic languages, Polish, Czech, Hungarian, Finnish, Russian.
const std::set<std::string>& emptyWords() {
    static const std::set<std::string> words = {
        // tracks, parts, staves
        "track", "tracks", "trk", "tr", "trackname", "part", "parts", "staff", "stave", "staves", "system",
        "layer", "spur", "spuren", "notenzeile", "zeile", "system", "teil", "piste", "portee", "pista",
        "pentagrama", "parte", "traccia", "rigo", "pentagramma", "trilha", "faixa", "pauta", "spoor", "balk",
        "notenbalk", "spar", "spor", "notrad", "sciezka", "pieciolinia", "stopa", "osnova", "sav", "raita",
        "viivasto", "dorozhka", "trek", "partiya", "tempo", "conductor",
        // channels, ports, devices
        "midi", "ch", "chan", "chn", "chnl", "channel", "channels", "kanal", "kanaal", "canal", "canale",
        "kanava", "csatorna", "port", "ports", "out", "output", "in", "input", "device", "gerat", "mpu",
        "mapper", "usb", "interface", "wavetable", "bus", "gm", "gs", "xg", "general", "smf", "mid",
        // nothing at all
        "untitled", "unnamed", "unknown", "noname", "nameless", "none", "null", "empty", "default", "new",
        "temp", "tmp", "unbenannt", "unbekannt", "namenlos", "neu", "neue", "neuer", "ohne", "titel", "sans",
        "titre", "nom", "inconnu", "nouveau", "nouvelle", "sin", "titulo", "nombre", "senza", "titolo",
        "nome", "sem", "naamloos", "nieuw", "uden", "utan", "namnlos", "uten", "navn", "bez", "nazvy",
        "tytulu", "nazwy", "nazvaniya", "nimeton", "nevtelen", "title", "name", "named",
        // sequences and instruments without saying which
        "instrument", "instruments", "inst", "instr", "instrumento", "strumento", "instrumento", "seq",
        "sequence", "sequencer", "sequenz", "sequenza", "secuencia", "pattern", "clip", "region", "item",
        "song", "music", "data", "event", "events", "copy", "kopie", "copie", "copia"};
    return words;
}

/// Words beside those that make a name no fuller: "of", "no.".
bool isFiller(const std::string& word) {
    static const std::set<std::string> fillers = {"no",  "nr",  "num", "number", "the", "of", "a",
                                                  "and", "de",  "le",  "la",     "di",  "du", "der",
                                                  "die", "das", "und", "et",     "e",   "y"};
    const bool number =
        std::all_of(word.begin(), word.end(), [](unsigned char c) { return std::isdigit(c); });
    return number || word.size() == 1 || fillers.contains(word);
}

/// The same in scripts that plainWords() leaves out.
constexpr std::array<std::string_view, 16> emptyWordsElsewhere = {
    "トラック", "チャンネル", "パート", "無題",   "名称未設定", "音轨", "音軌", "轨道",
    "通道",     "声部",       "无标题", "無標題", "未命名",     "트랙", "채널", "제목없음"};

/// Rights, addresses and what sequencing programs write for themselves.
bool isRightsOrAdvertisement(const std::string& name) {
    const std::string text = inSmallLetters(name);
    constexpr std::array<std::string_view, 22> signs = {
        "copyright",   "©",         "(c)",         "(p)",         "all rights", "http:",
        "https:",      "www.",      ".com",        "sequenced",   "seq by",     "seq. by",
        "generated",   "created",   "made with",   "made by",     "midi by",    "arr. by",
        "arranged by", "converted", "transcribed", "erstellt mit"};
    if (std::any_of(signs.begin(), signs.end(),
                    [&](std::string_view sign) { return text.find(sign) != std::string::npos; }))
        return true;
    const auto at = text.find('@');
    return at != std::string::npos && text.find('.', at) != std::string::npos;
}

bool sameWords(const std::string& a, const std::string& b) {
    return wordsIn(a) == wordsIn(b) && !wordsIn(a).empty();
}

std::string stemOf(const std::string& fileName) { return fileName.substr(0, fileName.rfind('.')); }

std::string nameFromProgram(const Part& part, const Ask& ask) {
    if (part.source.drums) return "Drums";
    return ask.program ? std::string(plainProgramName(*ask.program))
                       : "Channel " + std::to_string(part.source.channel.value + 1);
}

/// The name of the first track where it is no part's, so that it names the song.
std::string titleInFile(const Song& song) {
    const auto& midi = song.source->midi;
    const bool firstTrackIsConductor =
        std::none_of(song.parts.begin(), song.parts.end(), [](const Part& p) { return p.source.track == 0; });
    if (midi.type != 0 && !firstTrackIsConductor) return {};
    for (const EventRef ref : *song.conductor)
        if (ref.track == 0 && song.event(ref).isMeta(meta::trackName))
            return toUtf8(midi.rawText(song.event(ref)), song.encoding);
    return {};
}

} // namespace

bool saysNothing(const std::string& name) {
    if (isRightsOrAdvertisement(name)) return true;
    std::string text = composed(name);
    bool any = false;
    for (const std::string_view word : emptyWordsElsewhere)
        for (std::size_t at = text.find(word); at != std::string::npos; at = text.find(word, at)) {
            text.replace(at, word.size(), " ");
            any = true;
        }
    const auto words = wordsIn(text);
    for (const std::string& word : words) {
        const bool empty = emptyWords().contains(word);
        if (!empty && !isFiller(word)) return false;
        any = any || empty;
    }
    // A single letter may be a voice; letters of a script that is not read here may say anything.
    const bool letters = std::any_of(words.begin(), words.end(), [](const std::string& w) {
        return std::isalpha(static_cast<unsigned char>(w[0]));
    });
    const bool unread =
        std::any_of(text.begin(), text.end(), [](char c) { return static_cast<unsigned char>(c) >= 0xE3; });
    return !unread && (any || !letters);
}

std::string nameInFile(const Song& song, const Part& part) {
    std::string name, instrument;
    (void)song.anyBesideNotes(*part.source.events, [&](const Event& event, EventRef) {
        if (!event.isMeta()) return false;
        const auto text = [&] { return toUtf8(song.source->midi.rawText(event), song.encoding); };
        if (event.isMeta(meta::trackName)) name = text();
        if (event.isMeta(meta::instrumentName) && instrument.empty()) instrument = text();
        return !name.empty();
    });
    return name.empty() ? instrument : name;
}

FirstNames::FirstNames(const Song& song)
    : m_song(song), m_stem(stemOf(song.source->name)), m_title(titleInFile(song)),
      m_single(std::count_if(song.parts.begin(), song.parts.end(), [](const Part& p) { return !p.aside; }) <
               2) {}

FirstNames::Name FirstNames::of(const Part& part, const Ask& ask) const {
    std::string name = nameInFile(m_song, part);
    const bool songs = !m_single && (sameWords(name, m_stem) || sameWords(name, m_title));
    if (!name.empty() && !songs && !saysNothing(name)) return {std::move(name), true};
    return {nameFromProgram(part, ask), false};
}

std::string titleFromFileName(const std::string& fileName) {
    std::string stem = fileName.substr(0, fileName.rfind('.'));
    std::replace(stem.begin(), stem.end(), '_', ' ');
    std::replace(stem.begin(), stem.end(), '-', ' ');
    stem.erase(std::unique(stem.begin(), stem.end(), [](char a, char b) { return a == ' ' && b == ' '; }),
               stem.end());
    if (const auto first = stem.find_first_not_of(' '); first != std::string::npos)
        stem = stem.substr(first, stem.find_last_not_of(' ') - first + 1);
    const bool allLower =
        std::none_of(stem.begin(), stem.end(), [](unsigned char c) { return c < 0x80 && std::isupper(c); });
    const bool allUpper =
        std::none_of(stem.begin(), stem.end(), [](unsigned char c) { return c < 0x80 && std::islower(c); });
    if (!allLower && !allUpper) return stem;
    bool first = true;
    for (char& c : stem) {
        const auto byte = static_cast<unsigned char>(c);
        if (byte < 0x80) c = static_cast<char>(first ? std::toupper(byte) : std::tolower(byte));
        first = c == ' ';
    }
    return stem;
}

std::string titleOf(const Song& song) {
    const std::string name = titleInFile(song);
    if (name.size() > 2 && name.size() < 80 && !saysNothing(name)) return titleFromFileName(name + ".mid");
    return titleFromFileName(song.source->name);
}

} // namespace cobbleway
