#include "song/shape/splits.h"

#include "song/match/drumwords.h"
#include "song/model/asks.h"
#include "song/shape/voices.h"
#include "words/letters.h"
#include "words/message.h"

#include <algorithm>
#include <array>
#include <cctype>
#include <cstdlib>
#include <limits>
#include <set>

namespace cobbleway {
namespace {

int numberOf(std::vector<std::string>& names, const std::string& name) {
    const auto at = std::find(names.begin(), names.end(), name);
    if (at == names.end()) names.push_back(name);
    return static_cast<int>(std::find(names.begin(), names.end(), name) - names.begin());
}

/// The names of a group's players, when a part's name has as many numbers as there are lines: "Horns 1.2"
/// gives "Horn 1" and "Horn 2". Empty for others.
std::vector<std::string> playersOf(const std::string& name, int lines) {
    const auto from = name.find_first_of("0123456789");
    if (from == std::string::npos || from < 2) return {};
    std::vector<std::string> numbers;
    for (std::size_t at = from; at < name.size();) {
        const auto end = std::min(name.find_first_not_of("0123456789", at), name.size());
        if (end == at) return {};
        numbers.push_back(name.substr(at, end - at));
        at = end;
        if (at < name.size() && std::string("./+&-, ").find(name[at]) != std::string::npos) ++at;
    }
    if (static_cast<int>(numbers.size()) != lines) return {};
    std::string player = name.substr(0, from);
    while (!player.empty() && player.back() == ' ') player.pop_back();
    if (player.size() > 3 && player.back() == 's' && !player.ends_with("ss")) player.pop_back();
    for (std::string& number : numbers) number = player + " " + number;
    return numbers;
}

/// What a program is called beside the name of a part that plays it: "pizzicato".
std::string mannerOf(const Ask& ask) {
    if (ask.drums) return ask.program ? std::string(kitName(*ask.program)) + " kit" : std::string();
    switch (ask.program->value) {
    case 44: return "tremolo";
    case 45: return "pizzicato";
    case 59: return "muted";
    default: break;
    }
    return inSmallLetters(programName(*ask.program));
}

/// The name of what a part plays with one of its programs.
std::string nameWith(const Part& part, const Ask& ask) {
    if (!ask.program) return part.name;
    const std::string manner = mannerOf(ask);
    const std::string own = inSmallLetters(part.name);
    if (manner.empty() || own.find(manner) != std::string::npos) return part.name;
    return part.name + ", " + manner;
}

/// Calls visit(event, tick) for every note that begins, in order: what notesOf() gives, without their ends.
template <class Visit> void forEachStart(const Song& song, const Part& part, Visit visit) {
    for (const EventRef ref : *part.source.events)
        if (const Event& event = song.event(ref); event.isNoteOn()) visit(event, song.tickOf(ref));
}

/// Which groups have notes, in order.
std::vector<int> groupsUsed(const Split& split) {
    constexpr std::size_t mostGroups = 10000;
    if (split.names.size() > mostGroups) return {};
    std::vector<bool> has(split.names.size());
    for (const int group : split.groupOf) {
        if (group < 0 || group >= static_cast<int>(has.size())) return {}; // no split of any part
        has[static_cast<std::size_t>(group)] = true;
    }
    std::vector<int> used;
    for (std::size_t i = 0; i < has.size(); ++i)
        if (has[i]) used.push_back(static_cast<int>(i));
    return used;
}

/// Which event of a part goes to which group.
class Handout {
  public:
    Handout(const Song& song, const Part& part, const Split& split, const std::vector<int>& groups)
        : m_song(song), m_refs(*part.source.events), m_groups(groups), m_groupCount(split.names.size()),
          m_group(part.source.events->size(), toAll), m_origins(song) {
        m_last.fill(groups.front());
        m_pairs.reserve(split.groupOf.size());
        std::size_t i = 0;
        for (const EventRef ref : m_refs)
            if (!hand(i++, ref, split)) return;
        closeBlock();
        m_block = std::move(m_banks); // banks that no program follows
        closeBlock();
        m_fits = m_note == split.groupOf.size();
    }

    /// Whether the split was made for this part.
    [[nodiscard]] bool fits() const { return m_fits; }

    /// The events of each group, in the order of groups.
    [[nodiscard]] std::vector<EventRefs> events() const {
        std::vector<EventRefs> events(m_groupCount);
        auto program = m_programs.begin();
        auto group = m_group.begin();
        for (const EventRef ref : m_refs) {
            if (*group >= 0) {
                events[static_cast<std::size_t>(*group)].push_back(ref);
            } else if (*group == toSome) {
                for (const int some : program->second) events[static_cast<std::size_t>(some)].push_back(ref);
                ++program;
            } else {
                for (const int any : m_groups) events[static_cast<std::size_t>(any)].push_back(ref);
            }
            ++group;
        }
        std::vector<EventRefs> withNotes;
        for (const int used : m_groups)
            withNotes.push_back(std::move(events[static_cast<std::size_t>(used)]));
        return withNotes;
    }

  private:
    static constexpr std::int16_t toAll = -1, toSome = -2;

    /// Gives one event to its group; false when there are more notes than the split knows.
    bool hand(std::size_t i, EventRef ref, const Split& split) {
        const Event& event = m_song.event(ref);
        switch (event.kind()) {
        case 0x90:
            if (event.data2 > 0) return handNote(i, ref, event, split);
            [[fallthrough]];
        case 0x80: {
            const std::uint32_t ended =
                m_pairs.off(m_origins.numberOf(m_song.trackOf(ref), event), event.data1);
            give(i, ended != noEvent ? split.groupOf[ended] : m_last[event.data1 & 0x7FU]);
            break;
        }
        case 0xA0: give(i, m_last[event.data1 & 0x7FU]); break; // goes with the last note on its key
        default:
            if (event.isMeta())
                give(i, m_groups.front());
            else if (event.choosesSound())
                handSound(i, event);
        }
        return true;
    }

    bool handNote(std::size_t i, EventRef ref, const Event& event, const Split& split) {
        if (m_note >= split.groupOf.size()) return false;
        const int group = split.groupOf[m_note];
        m_pairs.on(m_origins.numberOf(m_song.trackOf(ref), event), event.data1, m_note++);
        m_last[event.data1 & 0x7FU] = group;
        give(i, group);
        if (group != m_lastGroup) m_who.insert(group);
        m_lastGroup = group;
        return true;
    }

    void give(std::size_t i, int group) { m_group[i] = static_cast<std::int16_t>(group); }

    void handSound(std::size_t i, const Event& event) {
        m_group[i] = toSome;
        if (!event.isProgram()) return m_banks.push_back(i);
        closeBlock();
        m_block = std::move(m_banks);
        m_block.push_back(i);
        m_banks.clear();
    }

    /// Programs and banks go to the groups whose notes follow them, those that none follows to the first.
    void closeBlock() {
        if (m_who.empty()) m_who.insert(m_groups.front());
        for (const std::size_t at : m_block) m_programs[at] = m_who;
        m_who.clear();
        m_lastGroup = toAll;
    }

    const Song& m_song;
    const EventRefs& m_refs;
    const std::vector<int>& m_groups;
    std::size_t m_groupCount;
    std::vector<std::int16_t> m_group; ///< of each event
    Origins m_origins;
    NotePairs m_pairs;
    std::uint32_t m_note = 0;
    std::array<int, 128> m_last{};             ///< the group of the last note on each key
    std::vector<std::size_t> m_block, m_banks; ///< the program that holds, with its banks; banks after it
    std::set<int> m_who;                       ///< whose notes follow it
    int m_lastGroup = toAll;
    std::map<std::size_t, std::set<int>> m_programs; ///< by place in m_refs
    bool m_fits = false;
};

} // namespace

int Split::used() const { return static_cast<int>(groupsUsed(*this).size()); }

Split splitByChannel(const Song& song, const Part& part) {
    Split split;
    forEachStart(song, part, [&](const Event& event, Tick) {
        split.groupOf.push_back(
            numberOf(split.names, part.name + " ch " + std::to_string(event.channel().value + 1) +
                                      (event.port ? " port " + std::to_string(event.port + 1) : "")));
    });
    return split;
}

Split splitByProgram(const Song& song, const Part& part) {
    Split split;
    const auto asks = asksOf(song, part);
    std::vector<int> groups;
    for (const Ask& ask : asks) {
        std::string name = part.nameGiven ? nameWith(part, ask)
                           : ask.program  ? (ask.drums ? std::string(kitName(*ask.program))
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
    // By order, not by tick: at one tick a note may stand before a program and another after it.
    AskReader reader(song, part);
    std::size_t at = 0;
    for (const EventRef ref : *part.source.events) {
        const Event& event = song.event(ref);
        if (!event.isChannel()) continue;
        reader.take(event, song.tickOf(ref));
        if (!event.isNoteOn()) continue;
        if (at + 1 < asks.size() && asks[at + 1].sameAs(reader.current())) ++at;
        split.groupOf.push_back(groups[at]);
    }
    return split;
}

Split splitByPitch(const Song& song, const Part& part, Key lowest) {
    Split split{{}, {part.name + " high", part.name + " low"}};
    split.groupOf.reserve(part.source.events->size() / 2);
    forEachStart(song, part, [&](const Event& event, Tick) {
        split.groupOf.push_back(event.data1 < lowest.value ? 1 : 0);
    });
    return split;
}

Key suggestedSplitKey(const Song& song, const Part& part) {
    std::array<int, 129> below{}; // notes below a key
    forEachStart(song, part, [&](const Event& event, Tick) { ++below[(event.data1 & 0x7FU) + 1]; });
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
    split.names = playersOf(part.name, lines);
    for (int i = static_cast<int>(split.names.size()); i < lines; ++i)
        split.names.push_back(part.name + (i == 0           ? std::string(" top")
                                           : i + 1 == lines ? std::string(" bottom")
                                                            : " line " + std::to_string(i + 1)));
    split.groupOf = linesOf(*song.tempo, notesOf(song, part.source), lines);
    return split;
}

Split splitIntoMelodyAndBass(const Song& song, const Part& part) {
    Split split{{}, {part.name + " melody", part.name + " middle", part.name + " bass"}};
    split.groupOf = linesOf(*song.tempo, notesOf(song, part.source), 3, true);
    return split;
}

Split splitByPiece(const Song& song, const Part& part) {
    Split split;
    for (int piece = 0; piece < pieceCount; ++piece)
        split.names.push_back(part.name + " " + std::string(pieceName(static_cast<DrumPiece>(piece))));
    std::array<DrumPiece, 128> pieces{};
    for (std::uint8_t key = 0; key < 128; ++key) pieces[key] = pieceOf(part, Key{key});
    forEachStart(song, part, [&](const Event& event, Tick) {
        split.groupOf.push_back(static_cast<int>(pieces[event.data1 & 0x7FU]));
    });
    return split;
}

Split splitOffPiece(const Song& song, const Part& part, DrumPiece piece) {
    Split split = splitByPiece(song, part);
    for (int& group : split.groupOf) group = group == static_cast<int>(piece) ? 1 : 0;
    split.names = {part.name, part.name + " " + std::string(pieceName(piece))};
    return split;
}

Split splitByOrigin(const Song& song, const Part& part) {
    Split split;
    Origins origins(song);
    for (const EventRef ref : *part.source.events)
        if (song.event(ref).isNoteOn()) split.groupOf.push_back(static_cast<int>(origins.numberOf(ref)));
    for (const Origins::Origin& origin : origins.all())
        split.names.push_back(part.name + " track " + std::to_string(origin.track + 1) + " ch " +
                              std::to_string(origin.channel.value + 1));
    return split;
}

Split splitAtTime(const Song& song, const Part& part, Tick tick) {
    Split split{{},
                {part.name,
                 inWords({"part.from-bar", {{"name", part.name}, {"bar", song.tempo->position(tick).bar}}})}};
    forEachStart(song, part,
                 [&](const Event&, Tick start) { split.groupOf.push_back(start < tick ? 0 : 1); });
    return split;
}

Split splitBySection(const Song& song, const Part& part) {
    Split split;
    std::size_t at = 0;
    forEachStart(song, part, [&](const Event&, Tick tick) {
        while (at < song.sections.size() && song.sections[at].start <= tick) ++at;
        const std::string where = at == 0 ? std::string() : ", " + song.sections[at - 1].name;
        split.groupOf.push_back(numberOf(split.names, part.name + where));
    });
    return split;
}

namespace edits {

Song split(Song song, PartId id, const Split& split) {
    const Part* found = song.part(id);
    if (!found) return song;
    const auto groups = groupsUsed(split);
    const Part whole = *found;
    if (groups.size() < 2) return song;
    const Handout handout(song, whole, split, groups);
    if (!handout.fits()) return song;
    auto events = handout.events();
    auto place = static_cast<std::size_t>(found - song.parts.data());
    for (std::size_t i = 0; i < groups.size(); ++i) {
        const int group = groups[i];
        Part piece = whole;
        piece.source.events = Shared(std::move(events[i]));
        piece.nameGiven = true;
        if (group != groups.front()) {
            piece.id = song.takeId();
            piece.colour = (whole.colour + static_cast<int>(piece.id)) % 12;
            if (!piece.source.drums) {
                const PortChannel free = freeChannel(song);
                piece.source.port = free.port;
                piece.source.channel = free.channel;
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
