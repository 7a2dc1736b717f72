/// Everything that sounds, prepared: made beside the audio thread, then handed over whole.
#pragma once
#include "song/derived.h"
#include "song/shape/pluginplace.h"
#include "sound/clicks.h"
#include "sound/deal.h"
#include "sound/effectchain.h"
#include "sound/instrument.h"
#include "sound/instrumentbank.h"
#include "sound/schedule.h"

#include <array>
#include <atomic>
#include <functional>
#include <memory>
#include <vector>

namespace cobbleway {

/// Level of a part in the mix, as amplitude factors.
struct MixLevel {
    float gain = 1;
    float send = 0;         ///< share that goes to the room
    bool sendFirst = false; ///< of the part itself; otherwise of what `gain` leaves of it
};

/// The same, written by one thread while another reads.
struct MixCell {
    std::atomic<float> gain{1};
    std::atomic<float> send{0};
    std::atomic<bool> sendFirst{false};
    std::atomic<float> peak{0}; ///< written by the audio thread, taken (set to 0) by the reader
    [[nodiscard]] MixLevel level() const {
        constexpr auto any = std::memory_order_relaxed;
        return {gain.load(any), send.load(any), sendFirst.load(any)};
    }
};

/// Holds a lane back, so that all lanes are late by the same.
struct Delay {
    std::vector<float> left, right; ///< as long as the delay; empty for none
    std::size_t at = 0;
    void run(const StereoBlock& block, int frames);
};

/// A strike on another track of a drum part's channel that stops some of the part's drums.
struct Choke {
    std::int64_t frame = 0;
    std::uint8_t group = 0; ///< exclusiveGroup()
    bool operator==(const Choke&) const = default;
};

/// A part, a layer of one, or what another share plays of one, as it is played.
struct PlanPart {
    PartId id = 0;                ///< 0: nothing is in this slot
    int layer = -1;               ///< 0-based; −1: no layer
    int under = -1;               ///< of all but a part itself: its part's slot, to which it is added
    KeySet keys = KeySet{}.set(); ///< those whose notes it plays
    std::shared_ptr<const HeardPart> heard;   ///< what the schedule was made of
    std::shared_ptr<const Schedule> schedule; ///< never null
    std::vector<InstrumentSound> sounds;      ///< one a sound of the schedule; see addSound()
    std::vector<Instrument*> instruments;     ///< of these, each once
    std::vector<Choke> chokes;                ///< in order
    std::shared_ptr<EffectChain> effects;     ///< on the part with its layers; null for none
    std::uint8_t share = 0;                   ///< of the work of rendering: below Plan::shares, or noShare
    Delay delay;
    MixCell mix;
    std::atomic<int> panShift{0};    ///< added to each value of the pan controller (PartMix::pan)
    std::atomic<float> layerGain{1}; ///< of a layer
    float layerGainNow = -1;         ///< where it is, on the audio thread; −1 before the first block
    void addSound(const InstrumentSound& sound);
};

/// What the lanes play. The schedules may be shared with other plans, the buffers may not.
struct Plan {
    /// `slots` parts and after them `more` lanes that are added to these.
    Plan(std::size_t slots, int rate, std::size_t more = 0);
    int rate = 48000; ///< Hz
    std::int64_t endFrame = 0;
    std::vector<std::shared_ptr<Instrument>> instruments;
    std::vector<PlanPart> parts;          ///< by slot; then what is added to these. See slotOf()
    std::size_t mixed = 0;                ///< how many of them are parts, which the mixer takes
    std::vector<float> samples;           ///< the lanes' outputs, one after another
    std::vector<StereoBlock> blocks;      ///< into `samples`, one a lane
    std::shared_ptr<EffectChain> effects; ///< on the whole mix; null for none
    /// The same effects once more, for mixes that are made at one time; by number of the mix, from 1.
    std::function<std::shared_ptr<EffectChain>(std::size_t)> effectsForMix;
    int shares = 1;               ///< how many threads can render it at once, at most renderShares
    std::atomic<float> master{1}; ///< gain of the whole mix
    std::atomic<float> roomSeconds{1.3F};
    int latency = 0;         ///< frames by which all that sounds is late
    bool hasPlugins = false; ///< they are told the music's time
    std::shared_ptr<const std::vector<Click>> beats =
        std::make_shared<const std::vector<Click>>();     ///< of the song, at its own tempo
    std::vector<Error> problems;                          ///< what could not be loaded; see problemsOf()
    std::atomic<PluginFault> mixFault{PluginFault::None}; ///< of the effects of a mix
    std::vector<std::string> unplayable;                  ///< ids of fonts that could not be loaded

    // What it was made of, so that the next plan can share what is the same.
    Song song;
    std::vector<PartMatch> matches;
    /// Where a part is; −1 when it is not. A part keeps its slot from plan to plan; ids that are not used any
    /// more take none.
    [[nodiscard]] int slotOf(PartId id) const;
    [[nodiscard]] std::span<const StereoBlock> mixedBlocks() const { return {blocks.data(), mixed}; }
};

/// Sets the mix cells of a plan to what the song says; may be called while the plan plays.
void applyMix(Plan& plan, const Song& song);

/// Whether the plan can go on as the song is now, but for the levels: nothing else of it is another.
bool playsAsPlanned(const Plan& plan, const Song& song, const std::vector<PartMatch>& matches);

/// Tells the plan's effects where the music will be `offset` frames into what they run next.
void tellEffects(const Plan& plan, const MusicTime& time, int offset);

/// Where a plan has been played to its end at a pace (1: as written): a block after its last event may be, so
/// that one on the last tick sounds as any other.
inline double lastFrame(const Plan& plan, double pace) {
    return static_cast<double>(plan.endFrame) + blockFrames * pace;
}

/// What plug-ins of the plan gave since they were loaded that could not be passed on, by where they are.
/// `song`: as it is now, for its names.
std::vector<Error> pluginFaults(const Plan& plan, const Song& song);

/// The plug-in that plays there in the plan; null when none does. `song`: as it is now.
std::shared_ptr<PluginUnit> pluginAt(const Plan& plan, const Song& song, const PluginPlace& place);

/// All that is silent in the plan against the song's wish, and why: what could not be loaded, and plug-ins
/// that gave no sound. Complete when the plan has been rendered.
std::vector<Error> problemsOf(const Plan& plan);

/// Makes the plan of a song. What is as it was in `before` is shared with it. Loads fonts and plug-ins as
/// needed; what cannot be loaded is silent, and told in Plan::problems. `derived`, when given, has the notes
/// of the parts.
std::unique_ptr<Plan> makePlan(const Song& song, const Catalogue& catalogue,
                               const std::vector<PartMatch>& matches, InstrumentBank& bank,
                               const Plan* before = nullptr, Derived* derived = nullptr);

} // namespace cobbleway
