/// The face of everything that turns events into sound.
#pragma once
#include <algorithm>
#include <array>
#include <cstdint>
#include <span>

namespace cobbleway {

/// The size to which events are aligned in time, in frames: 64 frames are 1.3 ms at 48 kHz.
inline constexpr int blockFrames = 64;
/// The most that is rendered in one call, in frames; a multiple of blockFrames.
inline constexpr int maxFrames = 512;

/// Into how many shares the slots are dealt for rendering: as many on every machine, so that the sound is the
/// same.
inline constexpr int renderShares = 2;
/// The share of slots that never sound: nobody renders them.
inline constexpr std::uint8_t noShare = 255;

/// The most parts that play at once; parts beyond them stay silent.
inline constexpr int maxSlots = 4096;

/// A slot's stereo output for one call.
struct StereoBlock {
    float* left = nullptr;
    float* right = nullptr;
};

class Instrument;
struct MusicTime;

/// Which notes play: for each key the velocities, from softest to loudest.
class PlayedNotes {
  public:
    void add(std::uint8_t key, std::uint8_t velocity) {
        Range& range = m_keys[key & 127U];
        range = {std::min(range.softest, velocity), std::max(range.loudest, velocity)};
    }
    /// Whether any lies within these keys and velocities, all included.
    [[nodiscard]] bool anyWithin(int lowest, int highest, int softest, int loudest) const {
        for (int key = std::max(lowest, 0); key <= std::min(highest, 127); ++key) {
            const Range& range = m_keys[static_cast<std::size_t>(key)];
            if (range.softest <= loudest && range.loudest >= softest) return true;
        }
        return false;
    }

  private:
    struct Range {
        std::uint8_t softest = 255, loudest = 0; ///< none
    };
    std::array<Range, 128> m_keys{};
};

/// What a plug-in has given that cannot be passed on; the worst counts.
enum class PluginFault {
    None,
    TooLoud, ///< more than 20 dB above full scale; it was held there
    Late,    ///< it did not keep up, and was passed over for moments
    NoSound, ///< no number, or 60 dB above full scale; it was made silence
    Ended    ///< its process has ended or hangs: it gives nothing any more
};

/// Which sound of which instrument.
struct InstrumentSound {
    Instrument* instrument = nullptr; ///< null: nothing plays it
    int bank = 0;                     ///< 0–127, 128 for kits of soundfonts
    int program = 0;                  ///< 0-based
    int channel = 0;                  ///< of an outside instrument, 0-based
    bool operator==(const InstrumentSound&) const = default;
};

/// Plays many parts at once, each in a slot of its own, with its own output. Once it is made, one thread at a
/// time may call it, and no call locks, allocates or touches files.
class Instrument {
  public:
    Instrument() = default;
    Instrument(const Instrument&) = delete;
    Instrument& operator=(const Instrument&) = delete;
    virtual ~Instrument() = default;

    /// Takes a channel message for a slot, or one of `lanemessage`; the channel in `status` is not looked at.
    /// Bank select and program change are not followed: see choose().
    virtual void play(int slot, std::uint8_t status, std::uint8_t data1, std::uint8_t data2) = 0;
    /// The sound of notes that begin from now on.
    virtual void choose(int slot, const InstrumentSound& sound) = 0;
    /// Stops the notes on a key at once, as a drum that excludes it does. Instruments that know of no such
    /// drums let them ring.
    virtual void stop(int /*slot*/, int /*key*/) {}
    /// Releases the slot's notes; controllers stay, so that tails keep their level.
    virtual void release(int slot) = 0;
    /// Releases the slot's notes and sets its controllers to what General MIDI starts with.
    virtual void reset(int slot) = 0;
    /// Where the music will be `offset` frames into the next call of render(): of 0, before the slot's events
    /// of that moment; then of each change of tempo or metre within, in order.
    virtual void setTime(int /*slot*/, const MusicTime& /*time*/, int /*offset*/) {}
    /// Adds `frames` (a multiple of blockFrames, at most maxFrames) of sound to each slot's block. `out` has
    /// a block for each slot that may sound.
    virtual void render(std::span<const StereoBlock> out, int frames) = 0;

    /// Says which share each slot is in (those not named: 0), before anything plays. Threads may then call it
    /// at once, each for the slots of one share. May load; false when that fails.
    virtual bool setShares(std::span<const std::uint8_t> /*shareOfSlot*/) { return true; }
    /// render() for the slots of one share. An instrument that has no shares belongs to share 0.
    virtual void renderShare(int share, std::span<const StereoBlock> out, int frames) {
        if (share == 0) render(out, frames);
    }

    /// Brings what a sound needs for notes that are to come, before they play. Slow; beside the audio thread.
    virtual void prepare(const InstrumentSound& /*sound*/, const PlayedNotes& /*notes*/) {}
    /// Any note of a sound may come, and is to sound at once. What it needs is brought on a thread of the
    /// instrument's. From any thread.
    virtual void expectAny(const InstrumentSound& /*sound*/) {}

    /// By how many frames its sound is late.
    [[nodiscard]] virtual int latency() const { return 0; }
    /// How long after render() its frames are heard, in seconds. From any thread.
    virtual void setAhead(double /*seconds*/) {}
    /// What was wrong with its sound so far. From any thread.
    [[nodiscard]] virtual PluginFault fault() const { return PluginFault::None; }
};

} // namespace cobbleway
