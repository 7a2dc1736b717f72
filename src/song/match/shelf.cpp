#include "song/match/shelf.h"

#include "midi/gm.h"
#include "song/match/names.h"

#include <algorithm>
#include <sstream>

namespace cobbleway {
namespace {

void addFont(std::vector<ShelfSound>& sounds, const SoundFont& font) {
    for (const Preset& preset : font.presets)
        sounds.push_back({{font.id, preset.bank, preset.program, preset.name},
                          font.name,
                          preset.isKit() ? kitFamily : preset.program / 8});
}

bool isPreset(const ShelfSound& sound) { return sound.sound.kind == SoundKind::Preset; }

/// All that a search may hit, folded, but for numbers.
std::string textOf(const ShelfSound& sound) {
    std::string text = sound.sound.name + " " + sound.place + " " + shelfFamilyName(sound.family);
    if (isPreset(sound) && sound.family != kitFamily)
        text +=
            " " + std::string(programName(Program{static_cast<std::uint8_t>(sound.sound.program & 0x7F)}));
    return plainWords(text);
}

std::string low(std::string text) {
    std::transform(text.begin(), text.end(), text.begin(),
                   [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    return text;
}

bool hasWord(const ShelfSound& sound, const std::string& folded, const std::string& word) {
    if (std::any_of(word.begin(), word.end(), [](unsigned char c) { return std::isdigit(c); })) {
        const std::string number =
            isPreset(sound) ? std::to_string(sound.sound.bank) + ":" + std::to_string(sound.sound.program)
                            : "";
        return number.find(word) != std::string::npos ||
               low(sound.sound.name + " " + sound.place).find(low(word)) != std::string::npos;
    }
    const std::string plain = plainWords(word);
    const auto first = plain.find_first_not_of(' ');
    if (first == std::string::npos) return true;
    return folded.find(plain.substr(first, plain.find_last_not_of(' ') - first + 1)) != std::string::npos;
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

std::vector<ShelfSound> shelfOf(const Catalogue& catalogue) {
    std::vector<ShelfSound> sounds;
    const auto first = catalogue.order();
    for (const SoundFont* font : first) addFont(sounds, *font);
    for (const FontPtr& font : catalogue.fonts())
        if (std::find(first.begin(), first.end(), font.get()) == first.end()) addFont(sounds, *font);
    for (const PluginInfo& plugin : catalogue.plugins())
        if (plugin.instrument)
            sounds.push_back(
                {{plugin.uri, 0, 0, plugin.name, SoundKind::Plugin, 0}, plugin.maker, pluginFamily});
    for (const PortInfo& port : catalogue.ports())
        for (int channel = 0; channel < 16; ++channel)
            sounds.push_back({{port.id, 0, 0, port.name + ", channel " + std::to_string(channel + 1),
                               SoundKind::Port, channel},
                              "MIDI port",
                              portFamily});
    return sounds;
}

Fit fitOf(const ShelfSound& sound, const std::string& search) {
    const std::string folded = textOf(sound);
    std::istringstream words(search);
    bool all = true;
    for (std::string word; all && words >> word;) all = hasWord(sound, folded, word);
    if (all) return Fit::Literal;
    const auto meant = [](bool is) { return is ? Fit::Meant : Fit::No; };
    if (!isPreset(sound)) return Fit::No;
    if (sound.family == kitFamily) return meant(namesDrums(search));
    const auto program = programFromName(search);
    if (!program) return Fit::No;
    // Words for a whole family ("Orgel", "Gitarre") name its first or plainest program.
    const int named = program->value;
    const bool wholeFamily = named == 0 || named == 16 || named == 24 || named == 33;
    return meant(wholeFamily ? named / 8 == sound.family : named == sound.sound.program);
}

} // namespace cobbleway
