#include "song/model/asks.h"

#include "midi/gm.h"

#include <algorithm>

namespace cobbleway {

bool Ask::sameAs(const Ask& other) const {
    return bankMsb == other.bankMsb && bankLsb == other.bankLsb && program == other.program &&
           drums == other.drums;
}

std::optional<Ask> firstProgram(const SongEvents& events, const PartSource& source) {
    std::optional<int> msb, lsb;
    std::optional<Ask> found;
    (void)events.anyBesideNotes(*source.events, [&](const Event& event, EventRef) {
        if (event.isController(cc::bankMsb)) msb = event.data2;
        if (event.isController(cc::bankLsb)) lsb = event.data2;
        if (event.isProgram()) found = Ask{0, msb, lsb, Program{event.data1}, source.drums};
        return found.has_value();
    });
    return found;
}

ChannelPrograms::ChannelPrograms(const Song& song)
    : ChannelPrograms(song, [&](const Part& part) { return firstProgram(song, part.source); }) {}

ChannelPrograms::ChannelPrograms(const Song& song,
                                 const std::function<std::optional<Ask>(const Part&)>& programOf) {
    for (const Part& part : song.parts) {
        auto& said = m_first[{part.source.port, part.source.channel.value}];
        if (said.size() >= 2) continue; // one of two is another part's than any
        if (const auto ask = programOf(part)) said.push_back({part.id, *ask});
    }
}

Ask ChannelPrograms::programOf(const Part& part) const {
    const auto at = m_first.find({part.source.port, part.source.channel.value});
    if (at != m_first.end())
        for (const Said& said : at->second)
            if (said.part != part.id) {
                Ask ask = said.ask;
                ask.drums = part.source.drums;
                return ask;
            }
    return {0, {}, {}, {}, part.source.drums};
}

namespace {

bool hasProgram(const SongEvents& events, const Part& part) {
    return events.anyBesideNotes(*part.source.events,
                                 [](const Event& event, EventRef) { return event.isProgram(); });
}

/// What the channel asks for, where it counts.
Ask channelAskFor(const Song& song, const Part& part) {
    if (part.sound.programGiven || hasProgram(song, part)) return {};
    return ChannelPrograms(song).programOf(part);
}

} // namespace

AskReader::AskReader(const Part& part)
    : m_drums(part.source.drums), m_current{0, {}, {}, part.sound.programGiven, part.source.drums} {}

AskReader::AskReader(const SongEvents& events, const Part& part, const Ask& ofChannel) : AskReader(part) {
    if (!part.sound.programGiven && !hasProgram(events, part)) m_current = ofChannel;
}

AskReader::AskReader(const Song& song, const Part& part) : AskReader(song, part, channelAskFor(song, part)) {}

std::vector<Ask> asksOf(const SongEvents& events, const Part& part, const Ask& ofChannel) {
    std::vector<Ask> asks;
    AskReader reader(part);
    bool own = part.sound.programGiven.has_value();
    int left = 0; // of the events that choose
    events.eachBesideNotes(*part.source.events, [&](const Event& event, EventRef) {
        left += event.choosesSound();
        own = own || event.isProgram();
    });
    bool open = true; // what is asked may be another than at the note before
    (void)events.any(*part.source.events, [&](const Event& event, EventRef ref) {
        if (event.choosesSound()) {
            reader.take(event, events.tickOf(ref));
            open = true;
            --left;
        } else if (open && event.isNoteOn()) {
            if (asks.empty() || !asks.back().sameAs(reader.current())) asks.push_back(reader.current());
            open = false;
        }
        return left == 0 && !open; // the rest asks for nothing else
    });
    if (!own) asks = {ofChannel};
    if (asks.empty()) asks.push_back(reader.current());
    if (!part.sound.followsPrograms) {
        asks.resize(1);
        if (part.sound.programGiven) asks.front() = {0, {}, {}, part.sound.programGiven, part.source.drums};
    }
    asks.front().tick = 0;
    return asks;
}

std::vector<Ask> asksOf(const Song& song, const Part& part) {
    return asksOf(song, part, channelAskFor(song, part));
}

std::string askText(const Ask& ask) {
    if (!ask.program) return ask.drums ? "Standard kit (no program)" : "no program";
    const std::string number = std::to_string(ask.program->value + 1);
    if (ask.drums) {
        const auto kit = kitName(*ask.program);
        return number + " " + (kit.empty() ? std::string("kit") : std::string(kit));
    }
    std::string text = number + " " + std::string(programName(*ask.program));
    if (ask.bankMsb.value_or(0) != 0 || ask.bankLsb.value_or(0) != 0)
        text += " (bank " + std::to_string(ask.bankMsb.value_or(0)) +
                (ask.bankLsb.value_or(0) ? "/" + std::to_string(*ask.bankLsb) : "") + ")";
    return text;
}

} // namespace cobbleway
