#include "sound/deal.h"

#include "song/heard/realise.h"

#include <algorithm>
#include <array>

namespace cobbleway {
namespace {

/// A plug-in's work on one note, in samples that sound at once; no more than a guess.
constexpr int pluginVoices = 4;
constexpr double longest = 10; ///< seconds of one note that count: held ones die away

/// For how long samples sound together when these notes are played, in seconds.
class Work {
  public:
    Work(const SoundRef& sound, const Catalogue& catalogue) {
        const SoundFont* font = sound.kind == SoundKind::Preset ? catalogue.font(sound.font) : nullptr;
        const Preset* preset = font ? font->find(sound.bank, sound.program) : nullptr;
        if (!preset) return;
        m_known = true;
        constexpr int usual = 90; // as loud as most notes are
        for (const Zone& zone : preset->zones)
            if (zone.velocities.lowest <= usual && zone.velocities.highest >= usual)
                for (int key = std::max(0, zone.keys.lowest); key <= std::min(127, zone.keys.highest); ++key)
                    m_zones[static_cast<std::size_t>(key)].push_back(&zone);
    }

    [[nodiscard]] double of(const Note& note, double secondsOfTick) const {
        const double held = std::min(longest, static_cast<double>(note.end - note.start) * secondsOfTick);
        if (!m_known) return pluginVoices * held;
        double sum = 0;
        for (const Zone* zone : m_zones[note.key.value & 0x7FU])
            sum += std::min(longest, soundingTime(*zone, held));
        return sum;
    }

  private:
    bool m_known = false;
    std::array<std::vector<const Zone*>, 128> m_zones; ///< by key
};

double workOf(const HeardPart& heard, const Match& match, const Catalogue& catalogue, double secondsOfTick) {
    if (!match.sound) return 0;
    const Work work(*match.sound, catalogue);
    double sum = 0;
    for (const Note& note : heard.notes) sum += work.of(note, secondsOfTick);
    return sum;
}

bool usesPort(const PartMatch& match) {
    const auto isPort = [](const Match& found) {
        return found.sound && found.sound->kind == SoundKind::Port;
    };
    return std::any_of(match.matches.begin(), match.matches.end(), isPort) ||
           std::any_of(match.stretches.begin(), match.stretches.end(), isPort) ||
           std::any_of(match.layers.begin(), match.layers.end(), isPort);
}

} // namespace

std::vector<std::uint8_t> dealParts(const Song& song, const Catalogue& catalogue,
                                    const std::vector<PartMatch>& matches, Derived& derived, int shares) {
    std::vector<std::uint8_t> dealt(song.parts.size(), 0);
    if (std::any_of(matches.begin(), matches.end(), usesPort)) return dealt;
    std::vector<std::pair<double, std::size_t>> work;
    const Tick end = std::max<Tick>(1, song.end);
    const double secondsOfTick = song.tempo->seconds(end) / static_cast<double>(end);
    for (std::size_t i = 0; i < song.parts.size(); ++i) {
        const auto heard = derived.heard(song, song.parts[i]);
        double sum = workOf(*heard, matches[i].first(), catalogue, secondsOfTick);
        for (const Match& layer : matches[i].layers) sum += workOf(*heard, layer, catalogue, secondsOfTick);
        work.emplace_back(sum, i);
    }
    std::sort(work.rbegin(), work.rend()); // the longest first, each to whom has least
    std::vector<double> sums(static_cast<std::size_t>(shares), 0);
    for (const auto& [length, part] : work) {
        const auto least = std::min_element(sums.begin(), sums.end());
        *least += length;
        dealt[part] = static_cast<std::uint8_t>(least - sums.begin());
    }
    return dealt;
}

} // namespace cobbleway
