/// The model: a song is a MIDI file and all that has been decided about it.
#pragma once
#include "font/catalogue.h"
#include "midi/dialect.h"
#include "midi/reader.h"
#include "midi/tempomap.h"
#include "song/shared.h"

#include <memory>
#include <optional>
#include <set>
#include <string>
#include <vector>

namespace cobbleway {

/// Names one event of the source: track and index within it, both 0-based.
struct EventRef {
    std::uint32_t track = 0;
    std::uint32_t index = 0;
    auto operator<=>(const EventRef&) const = default;
};

/// A part's place in a mix.
enum class Role { Lead, Back, Off };

using PartId = int; ///< stable within a song, from 1

/// A recipe over the source's events, not a copy of them. See realise().
struct Part {
    PartId id = 0;
    std::string name;       ///< never the same as another part's
    bool nameGiven = false; ///< the name comes from the file or a person, not from the program
    int colour = 0;         ///< 0–11, index into the part colours
    int track = 0;          ///< where it came from, 0-based
    int port = 0;           ///< 0-based
    Channel channel;
    bool drums = false;
    bool aside = false;                   ///< set aside: has no notes; written, but not shown among the parts
    Shared<std::vector<EventRef>> events; ///< in order of tick

    std::optional<SoundRef> chosen;      ///< a sound chosen by hand: nothing in the data overrules it
    std::optional<Program> programGiven; ///< stands in for a program that the file does not give
    double levelDb = 0;                  ///< −60 to +12
    double pan = 0;                      ///< −1 (left) to +1 (right), on top of what the file does
    int octaves = 0;                     ///< shift in octaves, −5 to +5; not applied to drums
    std::set<std::uint8_t> droppedControllers;
    Role role = Role::Back;

    bool operator==(const Part&) const = default;
};

/// The stretch from one marker to the next.
struct Section {
    Tick start = 0;
    Tick end = 0;
    std::string name;
    bool operator==(const Section&) const = default;
};

/// A plain value; cheap to copy. Changed only by edits, functions Song → Song (song/edits.h).
struct Song {
    std::shared_ptr<const SourceFile> source; ///< never null in a song made by makeSong()
    std::string title;
    std::string encoding; ///< of the file's text, see toUtf8()
    Dialect dialect = Dialect::None;
    std::vector<Tick> trackStarts; ///< shift of each track: 0, but for type 2, whose tracks follow each other
    Shared<TempoMap> tempo;
    Tick end = 0;
    std::vector<Part> parts;                 ///< in the order shown, those set aside last
    Shared<std::vector<EventRef>> conductor; ///< events of no part: tempo, metre, markers, device messages
    std::vector<Section> sections;
    int keyShift = 0;              ///< semitones, −24 to +24; not applied to drums
    double backDb = -10;           ///< level of the back while a part leads, −40 to 0
    double room = 0.18;            ///< size of the share sent to the room, 0–1
    std::set<std::string> settled; ///< snags that the person leaves as they are, by Snag::key

    [[nodiscard]] const Part* part(PartId id) const;
    [[nodiscard]] const Event& event(EventRef ref) const {
        return source->midi.tracks[ref.track].events[ref.index];
    }
    [[nodiscard]] Tick tickOf(EventRef ref) const { return event(ref).tick + trackStarts[ref.track]; }
    [[nodiscard]] double seconds() const { return tempo->seconds(end); }
    [[nodiscard]] int bars() const; ///< bars that have begun before the end; at least 1
    bool operator==(const Song& other) const;
};

/// Makes a song of a file: parts by track, port and channel, in order of first appearance; names, drums and
/// sections as the file gives them; parts without notes set aside. Text-like events go with a part when the
/// channel prefix or a track of its own says so; all other events that are no channel's go to the conductor.
Song makeSong(std::shared_ptr<const SourceFile> source);

/// A song's title from a file name: "lantern_quay.mid" → "Lantern Quay".
std::string titleFromFileName(const std::string& fileName);

/// A name that no other part has: `wanted`, or it with a number after it. `self` is not looked at.
std::string uniqueName(const Song& song, const std::string& wanted, PartId self);

} // namespace cobbleway
