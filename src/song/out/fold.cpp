#include "song/out/fold.h"

#include "midi/percussion.h"
#include "song/match/instruments.h"
#include "song/model/asks.h"

#include <algorithm>
#include <array>
#include <limits>
#include <map>
#include <optional>
#include <set>

namespace cobbleway {
namespace {

constexpr std::size_t pitchedChannels = 15;

/// All that a channel must be told for a part to sound as it does: from which tick which bank and program, of
/// which kind.
using Wishes = std::vector<std::array<std::int64_t, 5>>;

Wishes wishesOf(const Song& song, const Part& part) {
    Wishes wishes;
    const auto add = [&](Tick from, Tick to, const SoundRef& sound) {
        wishes.push_back({from, to, sound.bank, sound.program, 1 + static_cast<int>(sound.kind)});
    };
    if (part.sound.chosen) {
        add(0, 0, *part.sound.chosen);
    } else {
        for (const Ask& ask : asksOf(song, part)) {
            const int program = ask.program ? ask.program->value : -1;
            wishes.push_back({wishes.empty() ? 0 : ask.tick, ask.bankMsb.value_or(-1),
                              ask.bankLsb.value_or(-1), program, 0});
            if (!part.sound.followsPrograms) break;
        }
    }
    for (const SoundStretch& stretch : part.sound.stretches) add(stretch.start, stretch.end, stretch.sound);
    return wishes;
}

Program firstProgramOf(const Song& song, const Part& part) {
    if (part.sound.chosen) return Program{static_cast<std::uint8_t>(part.sound.chosen->program)};
    return asksOf(song, part).front().program.value_or(Program{0});
}

int noteOnsOf(const Song& song, const Part& part) {
    return static_cast<int>(std::count_if(part.source.events->begin(), part.source.events->end(),
                                          [&](EventRef ref) { return song.event(ref).isNoteOn(); }));
}

/// Parts that are to be on one channel.
struct Group {
    std::vector<std::size_t> parts;  ///< in the song's order; the first says how it sounds
    std::optional<std::uint8_t> own; ///< the channel of the first port that it has already
    int notes = 0;
};

class Folder {
  public:
    explicit Folder(const Song& song) : m_song(song) {
        m_folding.places.resize(song.parts.size());
        m_folding.soundsAs.assign(song.parts.size(), -1);
    }

    Folding run() {
        group();
        if (m_groups.size() > pitchedChannels) shareSameSounds();
        if (m_groups.size() > pitchedChannels) giveUpSounds();
        place();
        return std::move(m_folding);
    }

  private:
    /// Parts that share a channel in the song go on sharing it.
    void group() {
        std::map<std::pair<int, int>, std::size_t> at;
        for (std::size_t i = 0; i < m_song.parts.size(); ++i) {
            const Part& part = m_song.parts[i];
            const PartSource& source = part.source;
            if (source.drums || part.aside) {
                m_folding.places[i] = {0, source.drums ? drumChannel : source.channel};
                continue;
            }
            const auto [found, fresh] = at.try_emplace({source.port, source.channel.value}, m_groups.size());
            if (fresh) {
                m_groups.emplace_back();
                if (source.port == 0 && source.channel != drumChannel)
                    m_groups.back().own = source.channel.value;
            }
            Group& group = m_groups[found->second];
            group.parts.push_back(i);
            group.notes += noteOnsOf(m_song, part);
        }
    }

    void join(Group& to, Group& from) {
        to.parts.insert(to.parts.end(), from.parts.begin(), from.parts.end());
        to.notes += from.notes;
        if (!to.own) to.own = from.own;
        from.parts.clear();
    }

    void dropEmpty() {
        std::erase_if(m_groups, [](const Group& group) { return group.parts.empty(); });
    }

    /// Groups that ask for the same share, those without a channel of their own first, until all have room.
    void shareSameSounds() {
        std::size_t left = m_groups.size();
        for (const bool withChannel : {false, true}) {
            std::map<Wishes, Group*> firsts;
            for (Group& group : m_groups)
                if (!group.parts.empty() && (group.own.has_value() || withChannel))
                    firsts.try_emplace(wishesOf(m_song, m_song.parts[group.parts.front()]), &group);
            for (auto at = m_groups.rbegin(); at != m_groups.rend() && left > pitchedChannels; ++at) {
                if (at->parts.empty() || at->own.has_value() != withChannel) continue;
                const auto [first, fresh] =
                    firsts.try_emplace(wishesOf(m_song, m_song.parts[at->parts.front()]), &*at);
                if (fresh || first->second == &*at) continue;
                join(*first->second, *at);
                --left;
            }
        }
        dropEmpty();
    }

    /// The groups with the fewest notes join others, and lose their sound.
    void giveUpSounds() {
        std::vector<Group*> byNotes;
        byNotes.reserve(m_groups.size());
        for (Group& group : m_groups) byNotes.push_back(&group);
        std::stable_sort(byNotes.begin(), byNotes.end(),
                         [](const Group* a, const Group* b) { return a->notes > b->notes; });
        const std::vector<Group*> kept(byNotes.begin(), byNotes.begin() + pitchedChannels);
        std::vector<Program> programs;
        programs.reserve(kept.size());
        for (const Group* group : kept)
            programs.push_back(firstProgramOf(m_song, m_song.parts[group->parts.front()]));
        for (std::size_t i = pitchedChannels; i < byNotes.size(); ++i) {
            Group& loser = *byNotes[i];
            const Program wanted = firstProgramOf(m_song, m_song.parts[loser.parts.front()]);
            std::size_t best = 0;
            double least = std::numeric_limits<double>::max();
            for (std::size_t k = 0; k < kept.size(); ++k)
                if (const double far = farness(wanted, programs[k]); far < least) {
                    least = far;
                    best = k;
                }
            for (const std::size_t part : loser.parts)
                m_folding.soundsAs[part] = static_cast<int>(kept[best]->parts.front());
            join(*kept[best], loser);
        }
        dropEmpty();
    }

    void place() {
        std::set<int> taken = {drumChannel.value};
        for (const Group& group : m_groups)
            if (group.own) taken.insert(*group.own);
        int next = 0;
        for (const Group& group : m_groups) {
            std::uint8_t channel = group.own.value_or(0);
            if (!group.own) {
                while (taken.contains(next)) ++next;
                channel = static_cast<std::uint8_t>(next);
                taken.insert(next);
            }
            for (const std::size_t part : group.parts) m_folding.places[part] = {0, Channel{channel}};
        }
    }

    const Song& m_song;
    std::vector<Group> m_groups;
    Folding m_folding;
};

} // namespace

Folding foldOnto16(const Song& song) { return Folder(song).run(); }

int notesChanged(const Song& song, const Folding& folding) {
    int notes = 0;
    for (std::size_t i = 0; i < song.parts.size(); ++i)
        if (folding.loses(i)) notes += noteOnsOf(song, song.parts[i]);
    return notes;
}

int notesIn(const Song& song) {
    int notes = 0;
    for (const Part& part : song.parts)
        if (!part.aside) notes += noteOnsOf(song, part);
    return notes;
}

std::vector<Message> foldingSaid(const Song& song, bool done) {
    std::set<std::pair<int, int>> channels;
    for (const Part& part : song.parts)
        if (!part.aside) channels.emplace(part.source.port, part.source.channel.value);
    if (channels.size() <= 16) return {};
    const Folding folding = foldOnto16(song);
    const int changed = notesChanged(song, folding);
    std::vector<Message> said;
    if (!done || changed > 0)
        said.push_back(
            {done ? "lost.folded-notes" : "lost.would-fold", {{"notes", changed}, {"all", notesIn(song)}}});
    for (std::size_t i = 0; i < song.parts.size(); ++i)
        if (folding.loses(i))
            said.push_back({"lost.folded-sound",
                            {{"part", song.parts[i].name},
                             {"notes", noteOnsOf(song, song.parts[i])},
                             {"other", song.parts[static_cast<std::size_t>(folding.soundsAs[i])].name}}});
    return said;
}

} // namespace cobbleway
