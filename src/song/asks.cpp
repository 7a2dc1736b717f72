#include "song/asks.h"

#include "midi/gm.h"

#include <algorithm>

namespace cobbleway {

bool Ask::sameAs(const Ask& other) const {
    return bankMsb == other.bankMsb && bankLsb == other.bankLsb && program == other.program &&
           drums == other.drums;
}

namespace {

/// The first ask among the events of a channel's other parts: tracks that share a channel share its program.
Ask askOfChannel(const Song& song, const Part& part) {
    for (const Part& other : song.parts) {
        if (other.id == part.id || other.source.port != part.source.port ||
            other.source.channel != part.source.channel)
            continue;
        std::optional<int> msb, lsb;
        for (const EventRef ref : *other.source.events) {
            const Event& event = song.event(ref);
            if (event.isController(cc::bankMsb)) msb = event.data2;
            if (event.isController(cc::bankLsb)) lsb = event.data2;
            if (event.isProgram()) return {0, msb, lsb, Program{event.data1}, part.source.drums};
        }
    }
    return {0, {}, {}, {}, part.source.drums};
}

bool hasProgram(const Song& song, const Part& part) {
    return std::any_of(part.source.events->begin(), part.source.events->end(),
                       [&](EventRef ref) { return song.event(ref).isProgram(); });
}

} // namespace

AskReader::AskReader(const Song& song, const Part& part)
    : m_drums(part.source.drums), m_current{0, {}, {}, part.sound.programGiven, part.source.drums} {
    if (!part.sound.programGiven && !hasProgram(song, part)) m_current = askOfChannel(song, part);
}

std::vector<Ask> asksOf(const Song& song, const Part& part) {
    std::vector<Ask> asks;
    AskReader reader(song, part);
    for (const EventRef ref : *part.source.events) {
        const Event& event = song.event(ref);
        if (!event.isChannel()) continue;
        reader.take(event, song.tickOf(ref));
        if (event.isNoteOn() && (asks.empty() || !asks.back().sameAs(reader.current())))
            asks.push_back(reader.current());
    }
    if (asks.empty()) asks.push_back(reader.current());
    if (!part.sound.followsPrograms) {
        asks.resize(1);
        if (part.sound.programGiven) asks.front() = {0, {}, {}, part.sound.programGiven, part.source.drums};
    }
    asks.front().tick = 0;
    return asks;
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
