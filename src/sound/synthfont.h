/// A soundfont in one synthesiser of libfluidsynth, with the samples that are played.
#pragma once
#include "sound/fluidhandles.h"
#include "sound/fontsamples.h"

namespace cobbleway {

/// Gives libfluidsynth what its own reader would give it, but reads a sample when it is needed: libfluidsynth
/// reads all of a font, or whole presets, and decodes what is compressed on one processor.
class SynthFont {
  public:
    /// Who brings samples of which a note found that they are not there. Called on the audio thread.
    class Reader {
      public:
        virtual void want(std::size_t preset) = 0;

      protected:
        ~Reader() = default;
    };
    /// Adds the font to a synthesiser, which owns it from now on; null when that fails. Where nobody reads
    /// (`reader` is null) a note waits for its sample; otherwise it is silent until the sample is there.
    static SynthFont* addTo(fluid_synth_t* synth, std::shared_ptr<FontSamples> samples, Reader* reader);

    ~SynthFont();
    SynthFont(const SynthFont&) = delete;
    SynthFont& operator=(const SynthFont&) = delete;
    [[nodiscard]] int id() const { return m_id; } ///< the synthesiser's number for it
    /// Makes a sample ready to be played. From any thread but the audio thread.
    void prepare(unsigned sample);

  private:
    SynthFont(std::shared_ptr<FontSamples> samples, Reader* reader);
    [[nodiscard]] fluid_preset_t* preset(int bank, int program) const;
    int start(std::size_t preset, fluid_synth_t* synth, int channel, int key, int velocity);
    void setUp(fluid_voice_t* voice, const FontVoices::Voice& played);
    void addModulators(fluid_voice_t* voice, const fontlists::ZoneSaid& zone, int mode);

    struct DeletePreset {
        void operator()(fluid_preset_t* preset) const { delete_fluid_preset(preset); }
    };
    struct DeleteSample {
        void operator()(fluid_sample_t* sample) const { delete_fluid_sample(sample); }
    };
    struct DeleteModulator {
        void operator()(fluid_mod_t* modulator) const { delete_fluid_mod(modulator); }
    };
    enum State : std::uint8_t { Absent, Ready, Silent };

    std::shared_ptr<FontSamples> m_samples;
    Reader* m_reader;
    int m_id = FLUID_FAILED;
    std::unique_ptr<fluid_mod_t, DeleteModulator> m_modulator; ///< is set anew for each that is added
    std::vector<std::unique_ptr<fluid_preset_t, DeletePreset>> m_presets; ///< as in FontVoices
    std::vector<std::unique_ptr<fluid_sample_t, DeleteSample>> m_played;  ///< by sample
    std::vector<std::atomic<State>> m_state;                              ///< by sample
    std::mutex m_preparing;
};

} // namespace cobbleway
