#include "song/out/heardsounds.h"

#include "midi/gm.h"
#include "song/match/instruments.h"
#include "song/match/names.h"

#include <algorithm>
#include <map>

namespace cobbleway {
namespace {

/// A sound as General MIDI has it.
SoundRef general(Program program) { return {"", 0, program.value, std::string(programName(program))}; }

bool areKin(Program a, Program b) { return instrumentFacts(a).kin == instrumentFacts(b).kin; }

/// How far the numbers of a soundfont's sounds are those of General MIDI.
enum class Numbers {
    General, ///< so many names fit their numbers that the others are trusted too
    Unknown, ///< its names tell too little
    Own      ///< more names are at odds with their numbers than fit
};

Numbers numbersOf(const SoundFont& font) {
    constexpr int enough = 16;
    int fit = 0, odd = 0;
    for (const Preset& preset : font.presets) {
        if (preset.bank != 0) continue;
        if (const auto named = programFromName(preset.name))
            ++(areKin(*named, Program{static_cast<std::uint8_t>(preset.program)}) ? fit : odd);
    }
    if (fit >= enough && fit > 4 * odd) return Numbers::General;
    return odd > fit ? Numbers::Own : Numbers::Unknown;
}

/// One change of what is said: of a part's own sound, of one of its stretches, or of what it asks for.
struct Said {
    const SoundRef* heard = nullptr;
    Program program;
};

class Sayer {
  public:
    explicit Sayer(const Catalogue& catalogue) : m_catalogue(catalogue) {}

    /// The program to be said instead of a sound that was chosen; none where that stays. `wish`: what the
    /// file asks for.
    std::optional<Program> insteadOf(const SoundRef& sound, std::optional<Program> wish) {
        const auto named = programFromName(sound.name);
        if (sound.kind == SoundKind::Plugin) return named;
        if (sound.kind != SoundKind::Preset || sound.bank >= kitBank) return std::nullopt;
        const SoundFont* font = m_catalogue.font(sound.font);
        const Numbers numbers = font ? known(*font) : Numbers::Unknown;
        const Program own{static_cast<std::uint8_t>(sound.program)};
        if (numbers == Numbers::General) return std::nullopt;
        if (named) return areKin(*named, own) ? std::nullopt : named;
        return numbers == Numbers::Own && wish != own ? wish : std::nullopt;
    }

    /// The program of a sound that stands in for what a part asks for; none where that is the same.
    std::optional<Program> ofStandIn(const Match& match, const Ask& ask) {
        if (match.how != How::StandIn || !match.sound || match.sound->kind != SoundKind::Preset)
            return std::nullopt;
        const Program own{static_cast<std::uint8_t>(match.sound->program)};
        const Program heard = insteadOf(*match.sound, ask.program).value_or(own);
        return ask.program == heard ? std::nullopt : std::optional(heard);
    }

  private:
    Numbers known(const SoundFont& font) {
        const auto at = m_numbers.find(&font);
        return at != m_numbers.end() ? at->second : m_numbers.emplace(&font, numbersOf(font)).first->second;
    }
    const Catalogue& m_catalogue;
    std::map<const SoundFont*, Numbers> m_numbers;
};

/// Changes what a part says, and calls tell(heard, program) for each change.
template <class Tell>
void say(Sayer& sayer, const Song& song, Part& part, const PartMatch& match, Tell tell) {
    if (part.aside || part.source.drums) return;
    PartSound& sound = part.sound;
    const auto wish = match.asks.front().program;
    const auto replace = [&](SoundRef& chosen) {
        const auto program = sayer.insteadOf(chosen, wish);
        if (!program) return;
        tell(chosen.name, *program);
        chosen = general(*program);
    };
    for (SoundStretch& stretch : sound.stretches) replace(stretch.sound);
    if (sound.chosen) return replace(*sound.chosen);
    std::vector<SoundStretch> asked; // before those that a person made, which come last and count
    for (std::size_t i = 0; i < std::min(match.asks.size(), match.matches.size()); ++i) {
        const auto program = sayer.ofStandIn(match.matches[i], match.asks[i]);
        if (!program) continue;
        tell(match.matches[i].sound->name, *program);
        if (match.asks.size() == 1 && sound.stretches.empty()) {
            sound.chosen = general(*program);
            return;
        }
        const Tick end = i + 1 < match.asks.size() ? match.asks[i + 1].tick : song.end + 1;
        asked.push_back({i == 0 ? 0 : match.asks[i].tick, end, general(*program)});
    }
    sound.stretches.insert(sound.stretches.begin(), asked.begin(), asked.end());
}

} // namespace

Song withHeardPrograms(Song song, const std::vector<PartMatch>& matches, const Catalogue& catalogue) {
    if (!song.midi.writtenIn) return song;
    Sayer sayer(catalogue);
    for (std::size_t i = 0; i < std::min(song.parts.size(), matches.size()); ++i)
        say(sayer, song, song.parts[i], matches[i], [](const std::string&, Program) {});
    return song;
}

Song withTrackNames(Song song) {
    if (song.midi.writtenIn && song.source->midi.type == 0)
        for (Part& part : song.parts) part.nameGiven = true;
    return song;
}

std::vector<Message> heardProgramsSaid(const Song& song, const std::vector<PartMatch>& matches,
                                       const Catalogue& catalogue) {
    std::vector<Message> said;
    if (!song.midi.writtenIn) return said;
    Sayer sayer(catalogue);
    for (std::size_t i = 0; i < std::min(song.parts.size(), matches.size()); ++i) {
        Part part = song.parts[i];
        say(sayer, song, part, matches[i], [&](const std::string& heard, Program program) {
            said.push_back(
                {"said.program",
                 {{"part", part.name}, {"sound", heard}, {"program", std::string(programName(program))}}});
        });
    }
    return said;
}

} // namespace cobbleway
