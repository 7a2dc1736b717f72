/// The model: a song is a MIDI file and all that has been decided about it.
#pragma once
#include "midi/dialect.h"
#include "midi/tempomap.h"
#include "song/model/part.h"

#include <memory>
#include <set>
#include <string>
#include <vector>

namespace cobbleway {

/// The stretch from one marker to the next.
struct Section {
    Tick start = 0;
    Tick end = 0;
    std::string name;
    bool operator==(const Section&) const = default;
};

/// How the song is written as a MIDI file.
struct MidiShape {
    bool writtenIn = true;     ///< changes applied to the events; false: the original data, in parts' tracks
    bool runningStatus = true; ///< repeated status bytes left out (SMF 1.0)
    bool folded = false;       ///< everything on 16 channels; false: ports for what does not fit
    bool operator==(const MidiShape&) const = default;
};

/// What a part does in a mix that is kept, and how loud it is there.
struct KeptLevel {
    Role role = Role::Back;
    double levelDb = 0; ///< −60 to +12
    bool operator==(const KeptLevel&) const = default;
};

/// A mix under a name. Parts that it does not know stay as they are.
struct KeptMix {
    std::string name; ///< never the same as another's of the song
    std::map<PartId, KeptLevel> parts;
    double backDb = -10; ///< as Song::backDb
    bool operator==(const KeptMix&) const = default;
};

/// Something that was done when the song was opened; see edits::tidy().
struct Tidying {
    std::string kind; ///< "fixed-volume", "fixed-expression"
    PartId part = 0;
    std::uint8_t controller = 0; ///< that is left out since
    int value = 0;               ///< that it held, 0–127
    double levelDb = 0;          ///< that went into the part's level
    bool operator==(const Tidying&) const = default;
};

/// What all parts of a song share: events, their time, and how they are read. Levels are not in it.
struct SongFrame : SongEvents {
    std::string encoding; ///< of the file's text, see toUtf8()
    Dialect dialect = Dialect::None;
    /// Where ports differ from that, in order of tick: a reset counts on its port from its place on, of
    /// several the richest so far (see dialectOf()). Empty where one dialect holds for all notes.
    Shared<std::vector<DialectFrom>> dialects;
    Shared<TempoMap> tempo;
    int keyShift = 0; ///< semitones, −24 to +24; not applied to drums
    bool operator==(const SongFrame&) const = default;
};

/// The dialect that a port follows at a tick: of ports without a reset, the song's.
Dialect dialectAt(const SongFrame& song, int port, Tick tick);

/// Which ids parts have had, so that none means two parts in the life of a song. No side of the song: all are
/// equal.
struct IdsGiven {
    PartId last = 0; ///< the highest
    bool operator==(const IdsGiven&) const { return true; }
};

/// A plain value; cheap to copy. Changed only by edits, functions Song → Song (song/shape/edits.h).
struct Song : SongFrame {
    std::string title;
    double masterVolume = 1;            ///< what the file's master volume message says, 0–1
    bool tempoEdited = false;           ///< tempo and metre are no longer those of the file
    std::vector<Part> parts;            ///< in the order shown, those set aside last
    Shared<EventRefs> conductor;        ///< events of no part: tempo, metre, markers, device messages
    std::vector<Section> sections;      ///< in order, none overlapping
    bool sectionsEdited = false;        ///< they are no longer the file's markers
    double backDb = -10;                ///< level of the back while a part leads, −40 to 0
    double room = 0.18;                 ///< share of the parts sent to the room, 0–1
    double roomSeconds = 1.3;           ///< how long the room rings, to −60 dB; 0.3–4
    double masterDb = 0;                ///< gain of the whole mix, −24 to +24
    std::vector<KeptMix> mixes;         ///< kept under names, in the order shown
    std::vector<Effect> effects;        ///< on the whole mix, in order, before that gain
    std::vector<std::string> fontOrder; ///< ids of fonts that serve first here; empty: as the set says
    std::set<std::string> settled;      ///< snags that the person leaves as they are, by Snag::key
    std::vector<Tidying> tidied;        ///< what was done when it was opened, and not put back
    MidiShape midi;
    IdsGiven ids;

    [[nodiscard]] const Part* part(PartId id) const; ///< null when there is none
    [[nodiscard]] Part* part(PartId id);
    PartId takeId(); ///< an id that no part of the song has ever had
    [[nodiscard]] double seconds() const { return tempo->seconds(end); }
    [[nodiscard]] int bars() const; ///< bars that have begun before the end; at least 1
    bool operator==(const Song&) const = default;
};

/// Makes a song of a file: parts by track, port and channel, in order of first appearance; names, drums and
/// sections as the file gives them; parts without notes set aside. Text-like events go with a part when the
/// channel prefix or a track of its own says so; all other events that are no channel's go to the conductor.
/// Text is read in `encoding`, or in the one that fits best when it is empty.
Song makeSong(std::shared_ptr<const SourceFile> source, const std::string& encoding = {});

/// Each track of a type 2 file as a song of its own, in order; empty for the other types.
std::vector<Song> songsOfTracks(const Song& song);

/// A port and channel that no part has: the lowest free, the drum channel left out. Past 127 ports it gives
/// the last.
struct PortChannel {
    int port = 0;
    Channel channel;
};
PortChannel freeChannel(const Song& song);

/// A name that no other part has: `wanted`, or it with a number after it. `self` is not looked at.
std::string uniqueName(const Song& song, const std::string& wanted, PartId self);

} // namespace cobbleway
