/// What General MIDI's controllers mean, told to libfluidsynth where it knows them otherwise or not at all.
#pragma once
#include <array>
#include <cstdint>

struct _fluid_synth_t; // NOLINT(bugprone-reserved-identifier): the name that libfluidsynth gives it

namespace cobbleway {

/// A channel of a synthesiser, as one part plays it. Allocates nothing.
///
/// - Bend: RPN 0 in semitones and cents, also by data increments (RP-018: cents), exact within a cent;
/// libfluidsynth's own
///   range is flat by 1/128. RPN 1 and 2 tune the channel.
/// - Reset all controllers (RP-015) leaves volume, pan, bank, tuning, bend range and sound controllers.
/// - Channel modes (MIDI 1.0): 120 to 127 end the notes; 126 sounds one note at a time, 127 many again.
/// - Portamento (5, 65, 84): in mono mode each note glides from the one before; after controller 84 the next
/// note glides
///   from that key. The time is `glideMilliseconds()`.
/// - Sound controllers 71 to 78 and the NRPNs of GS and XG that mean the same shift what the font says,
/// from 64.
/// - The device's volume and tuning, and the tuning of a key of the octave (lanemessage), from the next note
/// on.
/// - The soft pedal (67) softens notes that are struck while it is down.
class FontChannel {
  public:
    void attach(_fluid_synth_t* synth, int channel);
    /// A channel message but bank select and program change.
    void play(std::uint8_t status, std::uint8_t data1, std::uint8_t data2);
    void stop(int key); ///< the notes on a key, as a drum does that excludes it (RP-003)
    void release();     ///< the notes; controllers stay
    void reset();       ///< notes, and controllers as General MIDI starts with them

    /// How long a glide takes at a portamento time (controller 5): 10 ms to 2 s, each step the same factor.
    /// 0: no glide. Common practice, no source.
    static int glideMilliseconds(int time);
    /// The velocity of a note that is struck while the soft pedal is down.
    static std::uint8_t softened(int velocity);

  private:
    static constexpr int noParameter = -1, nonRegistered = 1 << 14;
    void startNote(int key, int velocity);
    void endNote(int key);
    void endAll();
    void control(int number, int value);
    void setParameter(int value, bool fine);
    void stepParameter(int by);
    void setBend();
    void setTuning();
    void takeDevice(std::uint8_t message, std::uint8_t data1, std::uint8_t data2);
    void setVolume();
    void tuneNote(int key);
    template <class Take> void eachVoiceOn(int key, Take take) const;
    void setPan(int value);
    void setSound(int controller, int value);
    void setGlide();
    void setAgain(); ///< what libfluidsynth forgets at a reset of controllers
    void set(int generator, double value);

    struct Held {
        std::uint8_t key = 0, velocity = 0;
    };
    _fluid_synth_t* m_synth = nullptr;
    int m_channel = 0;
    int m_bend = 8192;
    int m_range = 200; ///< cents
    int m_fine = 8192, m_coarse = 64;
    int m_pan = 64;
    int m_deviceTuning = 0;                    ///< tenths of a cent
    int m_deviceVolume = 0xFFFF;               ///< 0xFFFF is full
    std::array<std::int8_t, 12> m_keyTuning{}; ///< cents
    int m_parameterMsb = 127, m_parameterLsb = 127, m_parameter = noParameter;
    std::array<std::uint8_t, 8> m_sound{}; ///< controllers 71 to 78
    bool m_soft = false, m_mono = false, m_glides = false;
    int m_glideTime = 0;
    int m_lastKey = -1;
    std::array<Held, 16> m_held{}; ///< in mono mode, the last sounds
    std::size_t m_heldCount = 0;
};

} // namespace cobbleway
