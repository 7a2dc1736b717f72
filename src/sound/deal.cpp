#include "sound/deal.h"

#include "song/heard/realise.h"
#include "sound/instrument.h"

#include <algorithm>
#include <array>
#include <numeric>

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

/// By key, in seconds.
using WorkByKey = std::array<double, 128>;

void addWork(const HeardPart& heard, const Match& match, const Catalogue& catalogue, double secondsOfTick,
             WorkByKey& work) {
    if (!match.sound) return;
    const Work each(*match.sound, catalogue);
    for (const Note& note : heard.notes) work[note.key.value & 0x7FU] += each.of(note, secondsOfTick);
}

double sumOf(const WorkByKey& work) { return std::accumulate(work.begin(), work.end(), 0.0); }

template <class Is> bool anyMatch(const PartMatch& match, Is is) {
    return std::any_of(match.matches.begin(), match.matches.end(), is) ||
           std::any_of(match.stretches.begin(), match.stretches.end(), is);
}

bool usesPort(const PartMatch& match) {
    const auto isPort = [](const Match& found) {
        return found.sound && found.sound->kind == SoundKind::Port;
    };
    return anyMatch(match, isPort) || std::any_of(match.layers.begin(), match.layers.end(), isPort);
}

/// Whether a note of the part depends on another's end or key: then one instrument plays all of them.
bool notesMeet(const HeardPart& heard) {
    return std::any_of(heard.controls.begin(), heard.controls.end(), [](const Event& event) {
        return event.kind() == 0xB0 &&
               (event.data1 == cc::mono || event.data1 == cc::legato || event.data1 == cc::portamentoControl);
    });
}

/// Effects may sound by themselves.
bool neverSounds(const HeardPart& heard, const Part& part) {
    return heard.notes.empty() && part.mix.effects.empty() && part.sound.layers.empty();
}

bool canBeDealt(const HeardPart& heard, const PartMatch& match) {
    const auto isOther = [](const Match& found) {
        return found.sound && found.sound->kind != SoundKind::Preset;
    };
    return !anyMatch(match, isOther) && !notesMeet(heard);
}

/// The keys on which any of the part's sounds has an exclusive class.
KeySet exclusiveKeys(const PartMatch& match, const Catalogue& catalogue) {
    KeySet keys;
    const auto take = [&](const Match& found) {
        const SoundFont* font = found.sound ? catalogue.font(found.sound->font) : nullptr;
        const Preset* preset = font ? font->find(found.sound->bank, found.sound->program) : nullptr;
        if (!preset) return false;
        for (const Zone& zone : preset->zones)
            for (int key = zone.keys.lowest; zone.exclusiveClass != 0 && key <= zone.keys.highest; ++key)
                keys.set(static_cast<std::size_t>(key));
        return false; // goes on
    };
    anyMatch(match, take);
    return keys;
}

/// Parts, or keys of a part, that stay together.
struct Together {
    double work = 0;
    std::size_t part = 0;
    KeySet keys; ///< none for all of them
    std::uint8_t share = 0;
};

/// The longest first, each to the share that has least. Gives what the fullest share has.
double dealOut(std::vector<Together>& all, int shares) {
    std::stable_sort(all.begin(), all.end(),
                     [](const Together& a, const Together& b) { return a.work > b.work; });
    std::vector<double> sums(static_cast<std::size_t>(shares), 0);
    for (Together& each : all) {
        const auto least = std::min_element(sums.begin(), sums.end());
        *least += each.work;
        each.share = static_cast<std::uint8_t>(least - sums.begin());
    }
    return *std::max_element(sums.begin(), sums.end());
}

/// The part's keys that have notes, each by itself but for those that end each other.
std::vector<Together> byKeys(std::size_t part, const WorkByKey& work, const KeySet& exclusive) {
    std::vector<Together> all;
    Together ending{0, part, exclusive};
    for (std::size_t key = 0; key < work.size(); ++key) {
        if (work[key] == 0) continue;
        if (exclusive[key])
            ending.work += work[key];
        else
            all.push_back({work[key], part, KeySet{}.set(key)});
    }
    if (ending.work > 0) all.push_back(ending);
    return all;
}

/// What the shares have of the parts. A part that is in several is in the one that has most of it.
Dealt told(const std::vector<Together>& all, std::size_t parts, int shares) {
    Dealt dealt{std::vector<std::uint8_t>(parts, noShare), {}};
    const auto count = static_cast<std::size_t>(shares);
    std::vector<double> work(parts * count, -1);
    for (const Together& each : all) {
        double& here = work[each.part * count + each.share];
        here = std::max(here, 0.0) + each.work;
    }
    for (std::size_t part = 0; part < parts; ++part) {
        const auto begin = work.begin() + static_cast<std::ptrdiff_t>(part * count);
        const auto most = std::max_element(begin, begin + static_cast<std::ptrdiff_t>(count));
        if (*most >= 0) dealt.shares[part] = static_cast<std::uint8_t>(most - begin);
    }
    for (const Together& each : all) {
        if (each.keys.none() || each.share == dealt.shares[each.part]) continue;
        const auto at = std::find_if(dealt.keys.begin(), dealt.keys.end(), [&](const Dealt::Keys& keys) {
            return keys.part == each.part && keys.share == each.share;
        });
        if (at != dealt.keys.end())
            at->keys |= each.keys;
        else
            dealt.keys.push_back({each.part, each.share, each.keys});
    }
    return dealt;
}

/// From so much more than its due on, a share is worth being made smaller: a part in two costs a little.
constexpr double worthDealing = 1.1;

} // namespace

Dealt dealParts(const Song& song, const Catalogue& catalogue, const std::vector<PartMatch>& matches,
                Derived& derived, int shares) {
    if (std::any_of(matches.begin(), matches.end(), usesPort))
        return {std::vector<std::uint8_t>(song.parts.size(), 0), {}};
    const Tick end = std::max<Tick>(1, song.end);
    const double secondsOfTick = song.tempo->seconds(end) / static_cast<double>(end);
    std::vector<Together> all;
    std::vector<WorkByKey> works(song.parts.size(), WorkByKey{});
    double sum = 0;
    for (std::size_t i = 0; i < song.parts.size(); ++i) {
        const auto heard = derived.heard(song, song.parts[i]);
        addWork(*heard, matches[i].first(), catalogue, secondsOfTick, works[i]);
        WorkByKey layers{};
        for (const Match& layer : matches[i].layers) addWork(*heard, layer, catalogue, secondsOfTick, layers);
        if (neverSounds(*heard, song.parts[i])) continue;
        all.push_back({sumOf(works[i]) + sumOf(layers), i, {}});
        sum += all.back().work;
    }
    if (all.empty()) return {std::vector<std::uint8_t>(song.parts.size(), noShare), {}};
    const double fullest = dealOut(all, shares);
    const Together longest = all.front();
    if (fullest > worthDealing * sum / shares && matches[longest.part].layers.empty() &&
        canBeDealt(*derived.heard(song, song.parts[longest.part]), matches[longest.part])) {
        all.erase(all.begin());
        const auto keys =
            byKeys(longest.part, works[longest.part], exclusiveKeys(matches[longest.part], catalogue));
        all.insert(all.end(), keys.begin(), keys.end());
        dealOut(all, shares);
    }
    return told(all, song.parts.size(), shares);
}

} // namespace cobbleway
