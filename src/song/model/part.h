/// A part as four values, each of which is compared, written to projects and joined by itself: where its
/// events come from, what becomes of them, what plays them, and its place in the mix. What follows from one
/// of them alone cannot change with another: realise() takes source and recipe, so that no level ever changes
/// a note.
#pragma once
#include "font/catalogue.h"
#include "song/model/events.h"
#include "song/model/shared.h"

#include <map>
#include <optional>
#include <string>
#include <vector>

namespace cobbleway {

using PartId = int; ///< stable within a song, from 1

/// Which part it is, to people.
struct PartIdentity {
    PartId id = 0;
    std::string name;       ///< never the same as another part's
    bool nameGiven = false; ///< the name comes from the file or a person, not from the program
    int colour = 0;         ///< 0–11, index into the part colours
    bool aside = false;     ///< set aside: has no notes; written, but not shown among the parts
    std::map<std::uint8_t, std::string> keyNames; ///< a person's own names for drum notes, by incoming key
    bool operator==(const PartIdentity&) const = default;
};

/// Where a part's events come from, and where they are sent.
struct PartSource {
    Shared<EventRefs> events; ///< in order of tick
    int track = 0;            ///< where it came from, 0-based
    int port = 0;             ///< 0-based
    Channel channel;
    bool drums = false;
    bool operator==(const PartSource&) const = default;
};

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

/// What becomes of the notes of one key, mostly of a drum part.
struct DrumPlan {
    std::optional<Key> target; ///< the key that they play; none: their own. Only of drums
    VelocityShape trim;        ///< on top of the part's; the mean is that of these notes
    bool off = false;          ///< they are left out. Only of drums
    bool operator==(const DrumPlan&) const = default;
};

/// What becomes of notes of one key that overlap within a part.
enum class Unisons {
    KeepBoth,
    KeepOne, ///< of notes that start together one is kept, as long as the longer and as loud as the louder
    Cut      ///< as KeepOne, and a note that still sounds ends where its key is struck again
};

/// What becomes of a part's notes and controllers. See realise().
struct PartRecipe {
    int octaves = 0;   ///< shift in octaves, −5 to +5; not applied to drums
    int semitones = 0; ///< transposition, −60 to +60, on top of octaves; not applied to drums
    std::optional<KeyRange>
        folded; ///< notes outside are moved into it by octaves, after all shifts; not drums
    std::map<ControllerId, ControllerPlan> controllers; ///< those that are not simply kept
    VelocityShape velocity;
    std::map<std::uint8_t, DrumPlan> drumMap; ///< by incoming key, those that are changed
    Tick hitLength = 0; ///< how long each hit of a drum part lasts, in ticks; 0: as the file says
    Unisons unisons = Unisons::KeepBoth;

    [[nodiscard]] DrumPlan drumPlan(Key key) const {
        const auto at = drumMap.find(key.value);
        return at == drumMap.end() ? DrumPlan{} : at->second;
    }
    [[nodiscard]] bool drops(ControllerId controller) const {
        const auto at = controllers.find(controller);
        return at != controllers.end() && at->second.drop;
    }
    bool operator==(const PartRecipe&) const = default;
};

/// What was set on a plug-in.
struct PluginSettings {
    /// Values that differ, by the symbol of a control port, or by the URI of a parameter (LV2
    /// patch:writable).
    std::map<std::string, float> controls;
    std::string preset; ///< URI of the preset that was loaded last; empty for none
    std::string state;  ///< what the plug-in itself asked to keep, as Turtle text (LV2 state); empty for none
    std::map<std::string, std::string> files = {}; ///< paths (UTF-8) by the URI of a parameter that wants one
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

/// What plays a part.
struct PartSound {
    std::optional<SoundRef> chosen;      ///< a sound chosen by hand: nothing in the data overrules it
    PluginSettings settings;             ///< of the chosen sound, when it is a plug-in
    std::vector<SoundStretch> stretches; ///< in order, none overlapping; chosen by hand for sections
    std::vector<Layer> layers;           ///< at most mostLayers
    std::optional<Program> programGiven; ///< stands in for a program that the file does not give
    bool followsPrograms = true;         ///< false: programs and banks in the data count for nothing

    /// Whether bank selects and program changes of the data choose the sound.
    [[nodiscard]] bool heedsPrograms() const { return !chosen && followsPrograms; }
    bool operator==(const PartSound&) const = default;
};

/// Calls visit(SoundRef&) for every sound that was chosen by hand: the part's, its stretches', its layers'.
template <class Sound, class Visit> void forEachSound(Sound& sound, Visit visit) {
    if (sound.chosen) visit(*sound.chosen);
    for (auto& stretch : sound.stretches) visit(stretch.sound);
    for (auto& layer : sound.layers) visit(layer.sound);
}

/// An LV2 effect in a chain.
struct Effect {
    std::string uri, name;
    PluginSettings settings;
    bool on = true;
    bool operator==(const Effect&) const = default;
};

/// A part's place in a mix.
enum class Role { Lead, Back, Off };

/// How loud a part is, where, and through what.
struct PartMix {
    double levelDb = 0;           ///< −60 to +12
    double pan = 0;               ///< −1 (left) to +1 (right), on top of what the file does
    double room = 1;              ///< share sent to the room, 0–2 times the song's
    bool roomBeforeLevel = false; ///< the share is taken before the level and role
    Role role = Role::Back;
    bool muted = false, solo = false; ///< silent; or heard with only the others that are solo
    std::vector<Effect> effects;      ///< in order, before the level
    bool operator==(const PartMix&) const = default;
};

/// A part. Its events are named, not copied.
struct Part : PartIdentity {
    PartSource source;
    PartRecipe recipe;
    PartSound sound;
    PartMix mix;
    [[nodiscard]] const PartIdentity& identity() const { return *this; }
    bool operator==(const Part&) const = default;
};

} // namespace cobbleway
