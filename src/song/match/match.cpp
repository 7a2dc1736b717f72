#include "song/match/match.h"

#include "midi/gm.h"
#include "song/match/evidence.h"

#include <algorithm>
#include <cstdlib>

namespace cobbleway {
namespace {

constexpr int familySize = 8;

SoundRef refTo(const SoundFont& font, const Preset& preset) {
    return {font.id, preset.bank, preset.program, preset.name};
}

/// The share of the notes that a preset cannot play.
double shareUnplayed(const KeyWeights& notes, const Preset& preset) {
    double all = 0, silent = 0;
    for (std::size_t key = 0; key < notes.size(); ++key) {
        all += notes[key];
        if (notes[key] > 0 && !preset.plays(Key{static_cast<std::uint8_t>(key)})) silent += notes[key];
    }
    return all > 0 ? silent / all : 0;
}

/// How far a preset is from what is wished. Kits by number, earlier ones first; notes that it cannot play
/// count most.
double presetFarness(const Preset& preset, const SoundRef& wish, bool kit, const KeyWeights* notes) {
    const double silent = notes ? 30 * shareUnplayed(*notes, preset) : 0;
    if (kit)
        return silent + std::abs(preset.program - wish.program) / 16.0 +
               (preset.program > wish.program ? 4 : 0);
    const auto program = [](int number) { return Program{static_cast<std::uint8_t>(number & 0x7F)}; };
    return silent + farness(program(wish.program), program(preset.program), notes) +
           (preset.bank == 0 ? 0 : 2 + preset.bank / 128.0);
}

/// The least far of all fonts; one that serves later must be clearly nearer.
std::optional<SoundRef> nearest(const Catalogue& catalogue, const SoundRef& wish, bool kit,
                                const KeyWeights* notes) {
    std::optional<SoundRef> best;
    double least = 0, late = 0;
    for (const SoundFont* font : catalogue.order()) {
        for (const Preset& preset : font->presets) {
            if (preset.isKit() != kit || preset.ranges.empty()) continue;
            const double far = presetFarness(preset, wish, kit, notes) + late;
            if (best && far >= least) continue;
            best = refTo(*font, preset);
            least = far;
        }
        late += 1;
    }
    return best;
}

std::optional<SoundRef> exact(const Catalogue& catalogue, int bank, int program) {
    for (const SoundFont* font : catalogue.order())
        if (const Preset* preset = font->find(bank, program); preset && !preset->ranges.empty())
            return refTo(*font, *preset);
    return std::nullopt;
}

Message wishText(const Ask& ask) {
    const Program program = ask.program.value_or(Program{0});
    if (ask.drums) return {"match.kit", {{"number", program.value + 1}}};
    return {"match.program", {{"number", program.value + 1}, {"name", std::string(programName(program))}}};
}

Match standIn(const Ask& ask, const SoundRef& wish, const Catalogue& catalogue, const KeyWeights* notes) {
    const auto sound = nearest(catalogue, wish, ask.drums, notes);
    if (!sound)
        return {std::nullopt, How::None,
                ask.drums ? Message("match.no-kit") : Message("match.no-sound", {{"wish", wishText(ask)}})};
    const bool family = !ask.drums && sound->program / familySize == wish.program / familySize;
    const char* nearest = ask.drums ? "match.nearest-kit" : family ? "match.nearest-kin" : "match.nearest";
    return {sound, How::StandIn, {nearest, {{"wish", wishText(ask)}, {"sound", sound->name}}}};
}

std::vector<Message> strongest(std::vector<Message> reasons) {
    if (reasons.size() > 3) reasons.erase(reasons.begin() + 3, reasons.end());
    return reasons;
}

/// The file leaves the sound open: what the part's name and notes tell decides, else program 1.
Match openMatch(const SongFrame& song, const Part& part, const Ask& ask, const PartTraits& traits,
                const Catalogue& catalogue) {
    const KeyWeights& notes = traits.keys;
    const auto guesses = guessesOf(song, part, ask, traits, 1);
    const bool telling = !guesses.empty() && (guesses.front().named || guesses.front().drums != ask.drums);
    if (!telling || ask.drums) return matchAsk(ask, ask.dialect, catalogue, &notes);
    const Guess& guess = guesses.front();
    Match match = matchAsk({0, {}, {}, guess.program, guess.drums}, Dialect::GM, catalogue, &notes);
    if (!match.sound) return match;
    match.how = How::StandIn;
    match.why = {"match.open-guess", {{"sound", match.sound->name}, {"reasons", strongest(guess.reasons)}}};
    return match;
}

/// Whether a sound chosen by hand is there now; with the name that it has now.
std::optional<SoundRef> present(const SoundRef& chosen, const Catalogue& catalogue) {
    SoundRef sound = chosen;
    if (chosen.kind == SoundKind::Plugin) {
        if (const PluginInfo* plugin = catalogue.plugin(chosen.font)) {
            sound.name = plugin->name;
            return sound;
        }
    } else if (chosen.kind == SoundKind::Port) {
        if (const PortInfo* port = catalogue.port(chosen.font)) {
            sound.name = port->name + ", channel " + std::to_string(chosen.channel + 1);
            return sound;
        }
    } else if (const Preset* preset = catalogue.find(chosen)) {
        sound.font = catalogue.font(chosen.font)->id;
        sound.name = preset->name;
        return sound;
    }
    return std::nullopt;
}

/// What is gone, for people.
Message goneText(const SoundRef& sound, const Catalogue& catalogue) {
    const char* what = sound.kind == SoundKind::Plugin ? "match.gone-plugin"
                       : sound.kind == SoundKind::Port ? "match.gone-port"
                       : !catalogue.font(sound.font)   ? "match.gone-font"
                                                       : "match.gone-preset";
    return {what, {{"sound", sound.name}}};
}

Match chosenMatch(const SoundRef& chosen, const Ask& ask, const Catalogue& catalogue,
                  const KeyWeights& notes) {
    if (auto sound = present(chosen, catalogue)) return {std::move(sound), How::ByHand, {"match.by-hand"}};
    // The program of a preset that is gone tells more than the file, which it was to overrule.
    Ask wished = ask;
    if (chosen.kind == SoundKind::Preset)
        wished = {
            0, {}, {}, Program{static_cast<std::uint8_t>(chosen.program & 0x7F)}, chosen.bank == kitBank};
    Match match =
        matchAsk(wished, chosen.kind == SoundKind::Preset ? Dialect::GM : ask.dialect, catalogue, &notes);
    const Message gone = goneText(chosen, catalogue);
    match.why = match.sound ? Message("match.gone-instead", {{"gone", gone}, {"sound", match.sound->name}})
                            : Message("match.gone-none", {{"gone", gone}, {"why", match.why}});
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
    constexpr int effectsKit = 56; // GS and GM2 number kits of effects so; XG has them in a bank of their own
    const int program = ask.program.value_or(Program{0}).value;
    if (ask.drums && dialect == Dialect::XG && ask.bankMsb == 126) return {{}, kitBank, effectsKit, {}};
    if (ask.drums) return {{}, kitBank, program, {}};
    const int msb = ask.bankMsb.value_or(0), lsb = ask.bankLsb.value_or(0);
    switch (dialect) {
    case Dialect::GM: return {{}, 0, program, {}};
    case Dialect::GM2:
        if (msb == 120) return {{}, kitBank, program, {}};
        return {{}, msb == 121 ? lsb : 0, program, {}};
    case Dialect::XG:
        if (msb >= 126) return {{}, kitBank, program, {}};
        return {{}, msb == 0 ? lsb : msb, program, {}};
    case Dialect::GS:
    case Dialect::None: break;
    }
    return {{}, msb, program, {}};
}

Ask askFor(const SoundRef& sound, Dialect dialect, bool drums) {
    const Program program{static_cast<std::uint8_t>(sound.program & 0x7F)};
    const bool kit = sound.bank >= kitBank;
    switch (dialect) {
    case Dialect::XG:
        return {0, kit ? 127 : 0, kit ? 0 : sound.bank, program, drums && kit}; // MSB 0: pitched
    case Dialect::GM2:
        return {0, kit ? 120 : 121, kit ? 0 : sound.bank, program, drums && kit}; // 121: pitched
    case Dialect::GM: break;
    case Dialect::GS:
    case Dialect::None:
        if (!kit) return {0, sound.bank, 0, program, drums};
    }
    return {0, {}, {}, program, drums};
}

std::vector<SoundRef> fallbacksOf(const SoundRef& wish, Dialect dialect) {
    constexpr int jazz = 32, brush = 40, group = 8;
    std::vector<SoundRef> others;
    const auto add = [&](int bank, int program) {
        const SoundRef next{{}, bank, program, {}};
        if (next != wish && std::find(others.begin(), others.end(), next) == others.end())
            others.push_back(next);
    };
    if (wish.bank != kitBank) {
        if ((dialect == Dialect::GS || dialect == Dialect::None) && wish.bank < 64)
            add(wish.bank / group * group, wish.program);
        add(0, wish.program);
        return others;
    }
    add(kitBank, wish.program / group * group);
    if (wish.program / group * group == brush) add(kitBank, jazz);
    add(kitBank, 0);
    return others;
}

Match matchAsk(const Ask& ask, Dialect dialect, const Catalogue& catalogue, const KeyWeights* notes) {
    const SoundRef wish = wishOf(ask, dialect);
    if (const auto sound = exact(catalogue, wish.bank, wish.program)) {
        if (ask.program) return {sound, How::Same, {"match.same"}};
        if (ask.drums) return {sound, How::Same, {"match.same-kit"}};
        return {sound, How::StandIn, {"match.open", {{"sound", sound->name}}}};
    }
    for (const SoundRef& other : fallbacksOf(wish, dialect)) {
        const auto sound = exact(catalogue, other.bank, other.program);
        if (!sound) continue;
        if (wish.bank == kitBank)
            return {
                sound, How::StandIn, {"match.parent-kit", {{"wish", wishText(ask)}, {"sound", sound->name}}}};
        return {sound, How::Near, {"match.plain-bank", {{"bank", wish.bank}}}};
    }
    Ask asked = ask;
    asked.drums = wish.bank == kitBank;
    return standIn(asked, wish, catalogue, notes);
}

std::vector<RankedSound> rankedSounds(const Song& song, const Part& part, const Catalogue& unordered,
                                      std::size_t most) {
    const Catalogue catalogue = catalogueFor(song, unordered);
    const PartTraits traits = traitsOf(song, realise(song, part));
    const KeyWeights& notes = traits.keys;
    std::vector<RankedSound> ranked;
    for (const Guess& guess : guessesOf(song, part, asksOf(song, part).front(), traits, most * 3)) {
        const Match match = matchAsk({0, {}, {}, guess.program, guess.drums}, Dialect::GM, catalogue, &notes);
        if (!match.sound || ranked.size() >= most) continue;
        const bool known = std::any_of(ranked.begin(), ranked.end(),
                                       [&](const RankedSound& r) { return r.sound == *match.sound; });
        if (known) continue;
        Message why("match.any");
        if (!guess.reasons.empty()) why = {"match.reasons", {{"reasons", strongest(guess.reasons)}}};
        ranked.push_back({*match.sound, guess.points, std::move(why)});
    }
    return ranked;
}

Catalogue catalogueFor(const Song& song, const Catalogue& catalogue) {
    return catalogue.withOrder(song.fontOrder);
}

PartMatch matchPart(const SongFrame& song, const Part& part, std::vector<Ask> asks,
                    const Catalogue& catalogue, const std::function<const PartTraits&()>& traits) {
    PartMatch found{part.id, std::move(asks), {}, {}, {}};
    const auto needsNotes = [&] {
        if (part.sound.chosen) return !present(*part.sound.chosen, catalogue);
        return std::any_of(found.asks.begin(), found.asks.end(), [&](const Ask& ask) {
            return !ask.program || matchAsk(ask, ask.dialect, catalogue).how == How::StandIn;
        });
    };
    static const PartTraits silent;
    const PartTraits& plays = needsNotes() ? traits() : silent;
    const KeyWeights& notes = plays.keys;
    const auto chosenMatchOf = [&](const SoundRef& sound) {
        return chosenMatch(sound, found.asks.front(), catalogue, notes);
    };
    for (const SoundStretch& stretch : part.sound.stretches)
        found.stretches.push_back(chosenMatchOf(stretch.sound));
    for (const Layer& layer : part.sound.layers) found.layers.push_back(chosenMatchOf(layer.sound));
    if (part.sound.chosen) {
        found.asks.resize(1);
        found.matches.push_back(chosenMatchOf(*part.sound.chosen));
        return found;
    }
    for (const Ask& ask : found.asks)
        found.matches.push_back(ask.program ? matchAsk(ask, ask.dialect, catalogue, &notes)
                                            : openMatch(song, part, ask, plays, catalogue));
    return found;
}

namespace {

PartMatch matchAlone(const Song& song, const Part& part, const Catalogue& ordered) {
    std::optional<PartTraits> traits;
    return matchPart(song, part, asksOf(song, part), ordered, [&]() -> const PartTraits& {
        if (!traits) traits = traitsOf(song, realise(song, part));
        return *traits;
    });
}

} // namespace

PartMatch matchPart(const Song& song, const Part& part, const Catalogue& catalogue) {
    return matchAlone(song, part, catalogueFor(song, catalogue));
}

std::vector<PartMatch> matchSong(const Song& song, const Catalogue& catalogue) {
    const Catalogue ordered = catalogueFor(song, catalogue);
    std::vector<PartMatch> found;
    found.reserve(song.parts.size());
    for (const Part& part : song.parts) found.push_back(matchAlone(song, part, ordered));
    return found;
}

} // namespace cobbleway
