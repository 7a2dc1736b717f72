/// What a part asks for: the bank and program that the file gives it.
#pragma once
#include "song/model/song.h"

namespace cobbleway {

/// Bank and program in force from a tick on, until the next Ask.
struct Ask {
    Tick tick = 0;
    std::optional<int> bankMsb; ///< controller 0, 0–127; none when never sent
    std::optional<int> bankLsb; ///< controller 32
    std::optional<Program> program;
    bool drums = false;
    Dialect dialect = Dialect::None; ///< by which bank and program are meant
    /// Equal but for the tick.
    [[nodiscard]] bool sameAs(const Ask& other) const;
    bool operator==(const Ask&) const = default;
};

/// Reads what a part asks for, event by event. A bank takes effect at the next program change (MIDI 1.0).
class AskReader {
  public:
    AskReader(const SongFrame& song, const Part& part);
    /// Takes a channel event of the part, in the file's form or realised, at a tick of the song.
    void take(const Event& event, Tick tick) {
        if (event.isController(cc::bankMsb))
            m_msb = event.data2;
        else if (event.isController(cc::bankLsb))
            m_lsb = event.data2;
        else if (event.isProgram())
            m_current = {tick, m_msb, m_lsb, Program{event.data1}, m_drums, dialectAt(m_song, m_port, tick)};
    }
    /// What a note that begins now asks for.
    [[nodiscard]] const Ask& current() const { return m_current; }

  private:
    const SongFrame& m_song;
    int m_port;
    bool m_drums;
    std::optional<int> m_msb, m_lsb;
    Ask m_current;
};

/// A part's asks in order, at least one. Asks that no note falls under are left out; the first begins at tick
/// 0. A part without a program yields one without, or with Part::programGiven. A part that follows no
/// programs has one: the program given, else the first of the file.
std::vector<Ask> asksOf(const SongFrame& song, const Part& part);

/// The first bank and program among a part's events; none when it has no program change.
std::optional<Ask> firstProgram(const SongEvents& events, const PartSource& source);

/// "57 Trumpet", "Standard kit", "41:25 Piano (bank 8)" or "no program": for people, 1-based.
std::string askText(const Ask& ask);

} // namespace cobbleway
