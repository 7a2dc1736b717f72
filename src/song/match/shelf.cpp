#include "song/match/shelf.h"

#include "midi/gm.h"
#include "song/match/names.h"
#include "song/model/plainwords.h"
#include "words/letters.h"

#include <algorithm>
#include <sstream>

namespace cobbleway {
namespace {

bool isPreset(const ShelfSound& sound) { return sound.sound.kind == SoundKind::Preset; }

void addFont(std::vector<ShelfSound>& sounds, const SoundFont& font) {
    for (const Preset& preset : font.presets)
        sounds.emplace_back(SoundRef{font.id, preset.bank, preset.program, preset.name}, font.name,
                            preset.isKit() ? kitFamily : preset.program / 8);
}

bool hasDigit(const std::string& word) {
    return std::any_of(word.begin(), word.end(), [](unsigned char c) { return std::isdigit(c); });
}

} // namespace

std::string shelfFamilyName(int family) {
    switch (family) {
    case kitFamily: return "Kits";
    case pluginFamily: return "LV2";
    case portFamily: return "MIDI ports";
    default: return std::string(familyName(family));
    }
}

ShelfSound::ShelfSound(SoundRef ref, std::string where, int kin)
    : sound(std::move(ref)), place(std::move(where)), family(kin) {
    std::string text = sound.name + " " + place + " " + shelfFamilyName(family);
    if (isPreset(*this) && family != kitFamily)
        text += " " + std::string(programName(Program{static_cast<std::uint8_t>(sound.program & 0x7F)}));
    words = plainWords(text);
}

std::vector<ShelfSound> shelfOf(const Catalogue& catalogue) {
    std::vector<ShelfSound> sounds;
    const auto first = catalogue.order();
    for (const SoundFont* font : first) addFont(sounds, *font);
    for (const FontPtr& font : catalogue.fonts())
        if (std::find(first.begin(), first.end(), font.get()) == first.end()) addFont(sounds, *font);
    for (const PluginInfo& plugin : catalogue.plugins())
        if (plugin.instrument)
            sounds.emplace_back(SoundRef{plugin.uri, 0, 0, plugin.name, SoundKind::Plugin, 0}, plugin.maker,
                                pluginFamily);
    for (const PortInfo& port : catalogue.ports())
        for (int channel = 0; channel < 16; ++channel)
            sounds.emplace_back(SoundRef{port.id, 0, 0,
                                         port.name + ", channel " + std::to_string(channel + 1),
                                         SoundKind::Port, channel},
                                "MIDI port", portFamily);
    return sounds;
}

ShelfSearch::ShelfSearch(const std::string& search)
    : m_drums(namesDrums(search)), m_program(programFromName(search)) {
    std::istringstream words(search);
    for (std::string word; words >> word;) {
        if (hasDigit(word)) {
            m_numbers.push_back(inSmallLetters(word));
            continue;
        }
        const std::string plain = plainWords(word);
        const auto first = plain.find_first_not_of(' ');
        if (first == std::string::npos) continue;
        m_words.push_back(plain.substr(first, plain.find_last_not_of(' ') - first + 1));
    }
}

Fit ShelfSearch::fit(const ShelfSound& sound) const {
    const auto hasNumber = [&](const std::string& word) {
        const std::string number =
            isPreset(sound) ? std::to_string(sound.sound.bank) + ":" + std::to_string(sound.sound.program)
                            : "";
        return number.find(word) != std::string::npos ||
               inSmallLetters(sound.sound.name + " " + sound.place).find(word) != std::string::npos;
    };
    const auto hasWord = [&](const std::string& word) { return sound.words.find(word) != std::string::npos; };
    if (std::all_of(m_words.begin(), m_words.end(), hasWord) &&
        std::all_of(m_numbers.begin(), m_numbers.end(), hasNumber))
        return Fit::Literal;
    const auto meant = [](bool is) { return is ? Fit::Meant : Fit::No; };
    if (!isPreset(sound)) return Fit::No;
    if (sound.family == kitFamily) return meant(m_drums);
    if (!m_program) return Fit::No;
    // Words for a whole family ("Orgel", "Gitarre") name its first or plainest program.
    const int named = m_program->value;
    const bool wholeFamily = named == 0 || named == 16 || named == 24 || named == 33;
    return meant(wholeFamily ? named / 8 == sound.family : named == sound.sound.program);
}

} // namespace cobbleway
