#include "song/match.h"

#include "midi/gm.h"

#include <algorithm>
#include <cstdlib>

namespace cobbleway {
namespace {

constexpr int familySize = 8;

SoundRef refTo(const SoundFont& font, const Preset& preset) {
    return {font.id, preset.bank, preset.program, preset.name};
}

/// How far a preset is from a program: within the family by number; other families after that, pitched
/// sounds before effects.
int distance(const Preset& preset, int program) {
    const int family = program / familySize, other = preset.program / familySize;
    const int apart = std::abs(preset.program - program);
    if (family == other) return apart;
    const bool effects = other >= 14;
    return 100 + 10 * std::abs(family - other) + apart % familySize + (effects ? 1000 : 0);
}

std::optional<SoundRef> nearestIn(const SoundFont& font, const SoundRef& wish, bool kits) {
    const Preset* best = nullptr;
    int bestDistance = 0;
    for (const Preset& preset : font.presets) {
        if (preset.isKit() != kits || preset.ranges.empty()) continue;
        const int d =
            kits ? std::abs(preset.program - wish.program) + (preset.program > wish.program ? 500 : 0)
                 : distance(preset, wish.program) * 200 + preset.bank;
        if (best && d >= bestDistance) continue;
        best = &preset;
        bestDistance = d;
    }
    return best ? std::optional(refTo(font, *best)) : std::nullopt;
}

std::optional<SoundRef> exact(const Catalogue& catalogue, int bank, int program) {
    for (const SoundFont* font : catalogue.order())
        if (const Preset* preset = font->find(bank, program); preset && !preset->ranges.empty())
            return refTo(*font, *preset);
    return std::nullopt;
}

std::string wishText(const Ask& ask) {
    if (ask.drums) return "kit " + std::to_string(ask.program.value_or(Program{0}).value + 1);
    return "program " + std::to_string(ask.program.value_or(Program{0}).value + 1) + ", " +
           std::string(programName(ask.program.value_or(Program{0})));
}

Match standIn(const Ask& ask, const SoundRef& wish, const Catalogue& catalogue) {
    for (const SoundFont* font : catalogue.order()) {
        const auto sound = nearestIn(*font, wish, ask.drums);
        if (!sound) continue;
        const bool family = !ask.drums && sound->program / familySize == wish.program / familySize;
        std::string why = "No font has " + wishText(ask) + "; " + sound->name + " is the nearest " +
                          (ask.drums ? "kit." : (family ? "of its family." : "sound there is."));
        return {sound, How::StandIn, why};
    }
    return {std::nullopt, How::None,
            ask.drums ? "No font has a drum kit." : "No font has a sound for " + wishText(ask) + "."};
}

Match chosenMatch(const SoundRef& chosen, const std::vector<Ask>& asks, const Song& song,
                  const Catalogue& catalogue) {
    if (const Preset* preset = catalogue.find(chosen))
        return {SoundRef{chosen.font, chosen.bank, chosen.program, preset->name}, How::ByHand,
                "Chosen by hand; nothing in the file overrules it."};
    Match match = matchAsk(asks.front(), song.dialect, catalogue);
    match.why = "The sound chosen by hand, " + chosen.name + ", is not there now. " + match.why;
    if (match.how != How::None) match.how = How::StandIn;
    return match;
}

} // namespace

std::string_view howName(How how) {
    switch (how) {
    case How::Same: return "same";
    case How::Near: return "near";
    case How::StandIn: return "stand-in";
    case How::ByHand: return "by hand";
    case How::None: break;
    }
    return "none";
}

SoundRef wishOf(const Ask& ask, Dialect dialect) {
    const int program = ask.program.value_or(Program{0}).value;
    if (ask.drums) return {{}, kitBank, program, {}};
    const int msb = ask.bankMsb.value_or(0), lsb = ask.bankLsb.value_or(0);
    switch (dialect) {
    case Dialect::GM: return {{}, 0, program, {}};
    case Dialect::GM2: return {{}, msb == 121 ? lsb : 0, program, {}};
    case Dialect::XG: return {{}, msb == 0 ? lsb : msb, program, {}};
    case Dialect::GS:
    case Dialect::None: break;
    }
    return {{}, msb, program, {}};
}

Match matchAsk(const Ask& ask, Dialect dialect, const Catalogue& catalogue) {
    const SoundRef wish = wishOf(ask, dialect);
    if (const auto sound = exact(catalogue, wish.bank, wish.program)) {
        if (ask.program) return {sound, How::Same, "The font has exactly what the part asks for."};
        return {sound, ask.drums ? How::Near : How::StandIn,
                "The file gives the part no program; " + sound->name + " plays, as program 1 would."};
    }
    if (!ask.drums && wish.bank != 0)
        if (const auto sound = exact(catalogue, 0, wish.program))
            return {sound, How::Near,
                    "No font has bank " + std::to_string(wish.bank) +
                        " of this program; its plain form plays."};
    return standIn(ask, wish, catalogue);
}

PartMatch matchPart(const Song& song, const Part& part, const Catalogue& catalogue) {
    PartMatch found{part.id, asksOf(song, part), {}};
    if (part.chosen) {
        found.matches.push_back(chosenMatch(*part.chosen, found.asks, song, catalogue));
        found.asks.resize(1);
        return found;
    }
    for (const Ask& ask : found.asks) found.matches.push_back(matchAsk(ask, song.dialect, catalogue));
    return found;
}

std::vector<PartMatch> matchSong(const Song& song, const Catalogue& catalogue) {
    std::vector<PartMatch> matches;
    for (const Part& part : song.parts) matches.push_back(matchPart(song, part, catalogue));
    return matches;
}

} // namespace cobbleway
