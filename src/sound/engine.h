/// Plays a plan: events in, each part's sound out. The same graph renders files and plays live.
#pragma once
#include "sound/plan.h"
#include "sound/room.h"

#include <optional>

namespace cobbleway {

/// The lanes of a plan: reads schedules, sends events to instruments and gives each part's dry output.
/// For one thread; allocates nothing after construction.
class Lanes {
  public:
    /// With the lanes of one share of the plan, or with all.
    explicit Lanes(std::optional<int> share = std::nullopt);
    /// Takes over a plan at the present place; null for none. Parts that are the same in both go on sounding;
    /// others are released and taken up again in the middle of their notes. Gives back the old plan.
    Plan* swap(Plan* plan);
    [[nodiscard]] Plan* plan() const { return m_plan; }

    /// Whether notes sound. While they do not, places and plans change in silence; controllers are kept right
    /// all the same. Going silent releases all notes; the tails ring on.
    void setSounding(bool sounding);
    /// Moves to a frame of the song: releases everything, then chases controllers, sounds and, when sounding,
    /// held notes.
    void seek(double frame);
    [[nodiscard]] double frame() const { return m_frame; }

    /// Renders up to `frames` (a multiple of blockFrames), into plan()->blocks; gives how many were rendered.
    /// The place moves by `pace` song frames each frame (0 stands still: tails only), and no further than
    /// `stopAt`.
    int render(int frames, double pace, double stopAt);
    /// Renders exactly `frames` (any multiple of blockFrames) into blocks of the caller's, one a lane of the
    /// plan; what comes after the instruments (see finishBlocks()) is left to do. Other lanes of the same
    /// plan may do so at the same time.
    void renderOnly(int frames, double pace, double stopAt, std::span<const StereoBlock> out);

    /// Plays a message of someone who plays along in a part's sound, and its layers', at once: notes
    /// (velocity 0 ends them), controllers, bend, pressure.
    void playAlong(int slot, std::uint8_t status, std::uint8_t data1, std::uint8_t data2);

  private:
    struct Lane {
        std::size_t at = 0;    ///< the next event
        std::size_t choke = 0; ///< the next of PlanPart::chokes
        int panShift = 0;      ///< as the instruments were told it
        LaneState state;
    };
    void send(std::size_t slot, const TimedEvent& event);
    void choke(std::size_t slot, int group);
    void findChoke(std::size_t slot);               ///< the first at the present place
    void enter(std::size_t slot);                   ///< chases the lane to the present place
    void leave(const Plan& plan, std::size_t slot); ///< releases the lane's notes in that plan's instruments
    void sendState(std::size_t slot);
    void sendPan(std::size_t slot); ///< where the part's shift of it is another now
    [[nodiscard]] std::int64_t nextEvent() const;
    int step(int frames, double pace, double stopAt, std::span<const StereoBlock> out);
    void findMine(); ///< the slots of its share
    [[nodiscard]] MusicPace paceOf(double pace) const;
    void tellTime(const MusicTime& time, int offset);

    std::optional<int> m_share;
    std::vector<std::size_t> m_mine; ///< the plan's slots that are its own
    Plan* m_plan = nullptr;
    std::vector<Lane> m_lanes;
    double m_frame = 0;
    bool m_sounding = true;
    double m_lastPace = 1; ///< above 0
};

/// Does to blocks what comes after the instruments: delays, layers onto their parts, effects. `frames` is at
/// most maxFrames.
void finishBlocks(Plan& plan, std::span<const StereoBlock> blocks, int frames);

/// Sums the parts of a plan with levels of its own into stereo, with the room.
class Mixer {
  public:
    Mixer(std::size_t slots, int rate);
    /// Levels are reached in short ramps; `atOnce` for the start of a render.
    void setLevel(std::size_t slot, const MixLevel& level, bool atOnce);
    void setMaster(float gain, bool atOnce);
    void setRoom(float seconds) { m_room.setSeconds(seconds); }
    /// Effects on the whole mix; null for none. Held no longer than the caller holds them.
    void setEffects(EffectChain* effects) { m_effects = effects; }
    /// Adds `frames` of the plan's parts to the outputs, which are silent before.
    void mix(std::span<const StereoBlock> blocks, int frames, float* left, float* right);

  private:
    struct Level {
        float gain = 0;
        MixLevel goal{0, 0, false};
    };
    void finish(int frames, float* left, float* right);
    std::vector<Level> m_levels;
    Room m_room;
    std::array<float, maxFrames> m_sendLeft{}, m_sendRight{};
    EffectChain* m_effects = nullptr;
    float m_master = 1, m_masterGoal = 1;
    int m_roomTail = 0; ///< frames for which the room still rings
    int m_rate;
};

} // namespace cobbleway
