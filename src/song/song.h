/// The model: a song is a MIDI file and all that has been decided about it.
#pragma once
#include "font/catalogue.h"
#include "midi/dialect.h"
#include "midi/reader.h"
#include "midi/tempomap.h"
#include "song/shared.h"

#include <map>
#include <memory>
#include <optional>
#include <set>
#include <string>
#include <vector>

namespace cobbleway {

/// The EventRef::track of events that the file does not have: they stand in Song::made.
inline constexpr std::uint32_t madeTrack = 0xFFFFFFFF;

/// Names one event: of the source by track and index within it, or of Song::made; all 0-based.
struct EventRef {
    std::uint32_t track = 0;
    std::uint32_t index = 0;
    [[nodiscard]] bool isMade() const { return track == madeTrack; }
    auto operator<=>(const EventRef&) const = default;
};

/// A channel event that a person made or changed. Its tick counts as those of the track it belongs to.
struct MadeEvent {
    Event event;
    std::uint32_t track = 0; ///< of the source, 0-based
    bool operator==(const MadeEvent&) const = default;
};

/// What was set on a plug-in.
struct PluginSettings {
    std::map<std::string, float> controls; ///< values by control port symbol, those that differ
    std::string preset;                    ///< URI of the preset that was loaded last; empty for none
    std::string state; ///< what the plug-in itself asked to keep, as Turtle text (LV2 state); empty for none
    bool operator==(const PluginSettings&) const = default;
};

/// A second or third sound on a part, played with the same notes.
struct Layer {
    SoundRef sound;
    PluginSettings settings;
    double levelDb = 0; ///< −60 to +12, on top of the part's
    int octaves = 0;    ///< −4 to +4, on top of the part's; not applied to drums
    KeyRange keys;      ///< of the part's keys, before the layer's octaves: others stay silent
    bool operator==(const Layer&) const = default;
};
inline constexpr std::size_t mostLayers = 2;

/// Another sound for a stretch of the song: for the notes that begin in it.
struct SoundStretch {
    Tick start = 0, end = 0; ///< end not included
    SoundRef sound;
    bool operator==(const SoundStretch&) const = default;
};

/// An LV2 effect in a chain.
struct Effect {
    std::string uri, name;
    PluginSettings settings;
    bool on = true;
    bool operator==(const Effect&) const = default;
};

/// A part's place in a mix.
enum class Role { Lead, Back, Off };

using PartId = int; ///< stable within a song, from 1

/// What is thinned or dropped: a controller number 0–127, or one of these two.
using ControllerId = int;
inline constexpr ControllerId pitchBendId = 128, pressureId = 129;

/// What becomes of a controller that is not simply kept.
struct ControllerPlan {
    bool drop = false;
    int tolerance = 0; ///< when not dropped: thinned to the fewest points within so much of every value
    bool operator==(const ControllerPlan&) const = default;
};

/// How hard notes are struck in the end: mean + (v − mean)·(1 − compress), times scale, plus offset; 1–127.
struct VelocityShape {
    double scale = 1;    ///< 0.1–4
    int offset = 0;      ///< −126 to +126
    double compress = 0; ///< 0–1; at 1 all are as the part's mean
    bool operator==(const VelocityShape&) const = default;
};

/// What becomes of notes of one key that overlap within a part.
enum class Unisons {
    KeepBoth,
    KeepOne, ///< of notes that start together one is kept, as long as the longer and as loud as the louder
    Cut      ///< as KeepOne, and a note that still sounds ends where its key is struck again
};

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
    PluginSettings settings;             ///< of the chosen sound, when it is a plug-in
    std::vector<SoundStretch> stretches; ///< in order, none overlapping; chosen by hand for sections
    std::vector<Layer> layers;           ///< at most mostLayers
    std::optional<Program> programGiven; ///< stands in for a program that the file does not give
    bool followsPrograms = true;         ///< false: programs and banks in the data count for nothing
    double levelDb = 0;                  ///< −60 to +12
    double pan = 0;                      ///< −1 (left) to +1 (right), on top of what the file does
    int octaves = 0;                     ///< shift in octaves, −5 to +5; not applied to drums
    int semitones = 0; ///< transposition, −60 to +60, on top of octaves; not applied to drums
    std::optional<KeyRange>
        folded;                   ///< notes outside are moved into it by octaves, after all shifts; not drums
    double room = 1;              ///< share sent to the room, 0–2 times the song's
    bool roomBeforeLevel = false; ///< the share is taken before the level, pan and role
    bool muted = false, solo = false; ///< silent; or heard with only the others that are solo
    std::vector<Effect> effects;      ///< in order, before the level
    std::map<ControllerId, ControllerPlan> controllers; ///< those that are not simply kept
    VelocityShape velocity;
    std::map<std::uint8_t, VelocityShape> keyVelocity; ///< on top, for one key each; of drums
    Unisons unisons = Unisons::KeepBoth;
    Role role = Role::Back;

    [[nodiscard]] bool drops(ControllerId controller) const {
        const auto at = controllers.find(controller);
        return at != controllers.end() && at->second.drop;
    }

    bool operator==(const Part&) const = default;
};

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

/// A plain value; cheap to copy. Changed only by edits, functions Song → Song (song/edits.h).
struct Song {
    std::shared_ptr<const SourceFile> source; ///< never null in a song made by makeSong()
    std::string title;
    std::string encoding; ///< of the file's text, see toUtf8()
    Dialect dialect = Dialect::None;
    double masterVolume = 1; ///< what the file's master volume message says, 0–1
    /// Shift of each track, in ticks: 0, but for type 2, whose tracks follow each other, and negative where
    /// leading silence was taken away. No event comes before 0 in the end.
    std::vector<Tick> trackStarts;
    Shared<TempoMap> tempo;
    bool tempoEdited = false; ///< tempo and metre are no longer those of the file
    Tick end = 0;
    std::vector<Part> parts;                 ///< in the order shown, those set aside last
    Shared<std::vector<EventRef>> conductor; ///< events of no part: tempo, metre, markers, device messages
    Shared<std::vector<MadeEvent>> made;     ///< only ever added to
    std::vector<Section> sections;           ///< in order, none overlapping
    bool sectionsEdited = false;             ///< they are no longer the file's markers
    int keyShift = 0;                        ///< semitones, −24 to +24; not applied to drums
    double backDb = -10;                     ///< level of the back while a part leads, −40 to 0
    double room = 0.18;                      ///< share of the parts sent to the room, 0–1
    double roomSeconds = 1.3;                ///< how long the room rings, to −60 dB; 0.3–4
    double masterDb = 0;                     ///< gain of the whole mix, −24 to +24
    std::vector<Effect> effects;             ///< on the whole mix, in order, before that gain
    std::vector<std::string> fontOrder;      ///< ids of fonts that serve first here; empty: as the set says
    std::set<std::string> settled;           ///< snags that the person leaves as they are, by Snag::key
    MidiShape midi;

    [[nodiscard]] const Part* part(PartId id) const;
    [[nodiscard]] PartId freeId() const; ///< above all ids in use
    [[nodiscard]] const Event& event(EventRef ref) const {
        return ref.isMade() ? (*made)[ref.index].event : source->midi.tracks[ref.track].events[ref.index];
    }
    /// The source's track that an event belongs to.
    [[nodiscard]] std::uint32_t trackOf(EventRef ref) const {
        return ref.isMade() ? (*made)[ref.index].track : ref.track;
    }
    [[nodiscard]] Tick tickOf(EventRef ref) const {
        const Tick tick = event(ref).tick + trackStarts[trackOf(ref)];
        return tick < 0 ? 0 : tick;
    }
    [[nodiscard]] double seconds() const { return tempo->seconds(end); }
    [[nodiscard]] int bars() const; ///< bars that have begun before the end; at least 1
    bool operator==(const Song& other) const;
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
struct Place {
    int port = 0;
    Channel channel;
};
Place freeChannel(const Song& song);

/// A song's title from a file name: "lantern_quay.mid" → "Lantern Quay".
std::string titleFromFileName(const std::string& fileName);

/// A name that no other part has: `wanted`, or it with a number after it. `self` is not looked at.
std::string uniqueName(const Song& song, const std::string& wanted, PartId self);

} // namespace cobbleway
