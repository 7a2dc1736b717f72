#include "song/model/asks.h"

#include "midi/gm.h"
#include "words/message.h"

#include <algorithm>

namespace cobbleway {

bool Ask::sameAs(const Ask& other) const {
    return bankMsb == other.bankMsb && bankLsb == other.bankLsb && program == other.program &&
           drums == other.drums && dialect == other.dialect;
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

AskReader::AskReader(const SongFrame& song, const Part& part)
    : m_song(song), m_port(part.source.port), m_drums(part.source.drums),
      m_current{0, {}, {}, part.sound.programGiven, part.source.drums, dialectAt(song, m_port, 0)} {}

std::vector<Ask> asksOf(const SongFrame& song, const Part& part) {
    std::vector<Ask> asks;
    AskReader reader(song, part);
    int left = 0; // of the events that choose
    song.eachBesideNotes(*part.source.events,
                         [&](const Event& event, EventRef) { left += event.choosesSound(); });
    bool open = true; // what is asked may be another than at the note before
    (void)song.any(*part.source.events, [&](const Event& event, EventRef ref) {
        if (event.choosesSound()) {
            reader.take(event, song.tickOf(ref));
            open = true;
            --left;
        } else if (open && event.isNoteOn()) {
            if (asks.empty() || !asks.back().sameAs(reader.current())) asks.push_back(reader.current());
            open = false;
        }
        return left == 0 && !open; // the rest asks for nothing else
    });
    if (asks.empty()) asks.push_back(reader.current());
    if (!part.sound.followsPrograms) {
        asks.resize(1);
        if (part.sound.programGiven)
            asks.front() = {0, {}, {}, part.sound.programGiven, part.source.drums, asks.front().dialect};
    }
    asks.front().tick = 0;
    return asks;
}

std::string askText(const Ask& ask) {
    if (!ask.program) return inWords({ask.drums ? "ask.kit-without-program" : "ask.no-program"});
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
