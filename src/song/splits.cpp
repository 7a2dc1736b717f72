#include "song/splits.h"

#include "midi/gm.h"
#include "song/asks.h"
#include "song/voices.h"

#include <algorithm>
#include <array>
#include <cstdlib>
#include <limits>
#include <set>

namespace cobbleway {
namespace {

bool isSoundChoice(const Event& event) {
    return event.isProgram() || event.isController(cc::bankMsb) || event.isController(cc::bankLsb);
}

int numberOf(std::vector<std::string>& names, const std::string& name) {
    const auto at = std::find(names.begin(), names.end(), name);
    if (at == names.end()) names.push_back(name);
    return static_cast<int>(std::find(names.begin(), names.end(), name) - names.begin());
}

/// Which groups have notes, in order.
std::vector<int> groupsUsed(const Split& split) {
    std::set<int> used(split.groupOf.begin(), split.groupOf.end());
    return {used.begin(), used.end()};
}

/// For each event of a part the group it goes to; −1 for all.
class Handout {
  public:
    Handout(const Song& song, const Part& part, const Split& split)
        : m_song(song), m_part(part), m_group(part.events->size(), toAll) {
        const auto notes = notesOf(song, part);
        for (std::size_t i = 0; i < notes.size(); ++i) {
            m_group[notes[i].on] = split.groupOf[i];
            if (notes[i].off != noEvent) m_group[notes[i].off] = split.groupOf[i];
        }
        const int first = groupsUsed(split).front();
        handKeyPressure(first);
        handTexts(first);
    }

    /// Programs and banks go to the groups whose notes follow them, those that none follows to the first.
    void handPrograms(const std::vector<int>& groups) {
        std::map<int, std::vector<std::size_t>> taken;
        std::vector<std::size_t> block; // the program that holds, with its banks
        std::vector<std::size_t> banks;
        const auto& refs = *m_part.events;
        std::vector<std::set<int>> who(refs.size());
        for (std::size_t i = 0; i < refs.size(); ++i) {
            const Event& event = m_song.event(refs[i]);
            if (event.isProgram()) {
                block = banks;
                block.push_back(i);
                banks.clear();
            } else if (isSoundChoice(event)) {
                banks.push_back(i);
            } else if (event.isNoteOn()) {
                for (const std::size_t at : block) who[at].insert(m_group[i]);
            }
        }
        for (std::size_t i = 0; i < refs.size(); ++i) {
            if (!isSoundChoice(m_song.event(refs[i]))) continue;
            if (who[i].empty()) who[i].insert(groups.front());
            m_programs[i] = who[i];
        }
    }

    [[nodiscard]] std::vector<EventRef> eventsOf(int group) const {
        std::vector<EventRef> events;
        for (std::size_t i = 0; i < m_group.size(); ++i) {
            const auto program = m_programs.find(i);
            const bool mine = program != m_programs.end() ? program->second.contains(group)
                                                          : m_group[i] == toAll || m_group[i] == group;
            if (mine) events.push_back((*m_part.events)[i]);
        }
        return events;
    }

  private:
    static constexpr int toAll = -1;

    /// Key pressure goes with the last note on its key; ends that end nothing to the first group.
    void handKeyPressure(int first) {
        std::array<int, 128> last;
        last.fill(first);
        for (std::size_t i = 0; i < m_group.size(); ++i) {
            const Event& event = m_song.event((*m_part.events)[i]);
            const std::size_t key = event.data1 & 0x7FU;
            if (event.isNoteOn()) last[key] = m_group[i];
            if (event.kind() == 0xA0 || (event.isNoteOff() && m_group[i] == toAll)) m_group[i] = last[key];
        }
    }

    void handTexts(int first) {
        for (std::size_t i = 0; i < m_group.size(); ++i)
            if (!m_song.event((*m_part.events)[i]).isChannel()) m_group[i] = first;
    }

    const Song& m_song;
    const Part& m_part;
    std::vector<int> m_group;
    std::map<std::size_t, std::set<int>> m_programs;
};

} // namespace

int Split::used() const { return static_cast<int>(groupsUsed(*this).size()); }

Split splitByChannel(const Song& song, const Part& part) {
    Split split;
    for (const PartNote& note : notesOf(song, part)) {
        const EventRef ref = (*part.events)[note.on];
        const Event& event = song.event(ref);
        split.groupOf.push_back(
            numberOf(split.names, part.name + " ch " + std::to_string(event.channel().value + 1) +
                                      (event.port ? " port " + std::to_string(event.port + 1) : "")));
    }
    return split;
}

Split splitByProgram(const Song& song, const Part& part) {
    Split split;
    const auto asks = asksOf(song, part);
    std::vector<int> groups;
    for (const Ask& ask : asks) {
        std::string name = ask.program ? (ask.drums ? std::string(kitName(*ask.program))
                                                    : std::string(programName(*ask.program)))
                                       : part.name;
        if (name.empty()) name = "Kit " + std::to_string(ask.program->value + 1);
        // Two banks of one program are two sounds.
        int same = -1;
        for (std::size_t i = 0; i < groups.size() && same < 0; ++i)
            if (asks[i].sameAs(ask)) same = groups[i];
        if (same < 0) {
            split.names.push_back(name);
            same = static_cast<int>(split.names.size()) - 1;
        }
        groups.push_back(same);
    }
    std::size_t at = 0;
    for (const PartNote& note : notesOf(song, part)) {
        while (at + 1 < asks.size() && asks[at + 1].tick <= note.start) ++at;
        split.groupOf.push_back(groups[at]);
    }
    return split;
}

Split splitByPitch(const Song& song, const Part& part, Key lowest) {
    Split split{{}, {part.name + " high", part.name + " low"}};
    for (const PartNote& note : notesOf(song, part)) split.groupOf.push_back(note.key < lowest ? 1 : 0);
    return split;
}

Key suggestedSplitKey(const Song& song, const Part& part) {
    std::array<int, 129> below{}; // notes below a key
    for (const PartNote& note : notesOf(song, part)) ++below[note.key.value + 1U];
    for (std::size_t key = 1; key < below.size(); ++key) below[key] += below[key - 1];
    const int all = below[128];
    const auto at = [&](int key) { return below[static_cast<std::size_t>(std::clamp(key, 0, 128))]; };
    int best = 60;
    while (best > 1 && at(best) * 2 > all) --best; // the median, when nothing is better
    while (best < 127 && at(best) * 2 < all) ++best;
    double bestCost = std::numeric_limits<double>::max();
    for (int key = 1; key < 128; ++key) {
        if (at(key) * 10 < all || at(key) * 10 > all * 9) continue; // a tenth at least on each side
        const int near = at(key + 3) - at(key - 3);                 // notes close to the cut
        const double uneven = std::abs(at(key) * 2 - all) * 0.3;    // halves of unlike size
        if (near + uneven >= bestCost) continue;
        bestCost = near + uneven;
        best = key;
    }
    return Key{static_cast<std::uint8_t>(best)};
}

Split splitIntoLines(const Song& song, const Part& part, int lines) {
    lines = std::clamp(lines, 2, 8);
    Split split;
    for (int i = 0; i < lines; ++i)
        split.names.push_back(part.name + (i == 0           ? std::string(" top")
                                           : i + 1 == lines ? std::string(" bottom")
                                                            : " line " + std::to_string(i + 1)));
    split.groupOf = linesOf(notesOf(song, part), lines);
    return split;
}

Split splitByPiece(const Song& song, const Part& part) {
    Split split;
    for (int piece = 0; piece < pieceCount; ++piece)
        split.names.push_back(part.name + " " + std::string(pieceName(static_cast<Piece>(piece))));
    for (const PartNote& note : notesOf(song, part))
        split.groupOf.push_back(static_cast<int>(pieceOf(note.key)));
    return split;
}

Split splitAtTime(const Song& song, const Part& part, Tick tick) {
    Split split{{}, {part.name, part.name + " from bar " + std::to_string(song.tempo->position(tick).bar)}};
    for (const PartNote& note : notesOf(song, part)) split.groupOf.push_back(note.start < tick ? 0 : 1);
    return split;
}

Split splitBySection(const Song& song, const Part& part) {
    Split split;
    std::size_t at = 0;
    for (const PartNote& note : notesOf(song, part)) {
        while (at < song.sections.size() && song.sections[at].start <= note.start) ++at;
        const std::string where = at == 0 ? std::string() : ", " + song.sections[at - 1].name;
        split.groupOf.push_back(numberOf(split.names, part.name + where));
    }
    return split;
}

namespace edits {

Song split(Song song, PartId id, const Split& split) {
    const auto at =
        std::find_if(song.parts.begin(), song.parts.end(), [id](const Part& p) { return p.id == id; });
    if (at == song.parts.end()) return song;
    const auto groups = groupsUsed(split);
    const Part whole = *at;
    if (groups.size() < 2 || groups.front() < 0 || groups.back() >= static_cast<int>(split.names.size()) ||
        split.groupOf.size() != notesOf(song, whole).size())
        return song;
    Handout handout(song, whole, split);
    handout.handPrograms(groups);
    std::size_t place = static_cast<std::size_t>(at - song.parts.begin());
    for (const int group : groups) {
        Part piece = whole;
        piece.events = Shared(handout.eventsOf(group));
        piece.nameGiven = true;
        if (group != groups.front()) {
            piece.id = song.freeId();
            piece.colour = (whole.colour + static_cast<int>(piece.id)) % 12;
            if (!piece.drums) {
                const Place free = freeChannel(song);
                piece.port = free.port;
                piece.channel = free.channel;
            }
            song.parts.insert(song.parts.begin() + static_cast<std::ptrdiff_t>(++place), piece);
        }
        Part& kept = song.parts[place];
        kept = std::move(piece);
        kept.name = uniqueName(song, split.names[static_cast<std::size_t>(group)], kept.id);
    }
    return song;
}

} // namespace edits
} // namespace cobbleway
