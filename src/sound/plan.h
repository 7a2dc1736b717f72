/// Everything that sounds, prepared: made beside the audio thread, then handed over whole.
#pragma once
#include "sound/instrument.h"
#include "sound/schedule.h"

#include <array>
#include <atomic>
#include <filesystem>
#include <map>
#include <memory>
#include <vector>

namespace cobbleway {

/// Level and place of a part in the mix as amplitude factors; written by one thread while another reads.
struct MixCell {
    std::atomic<float> left{1}, right{1};
    std::atomic<float> send{0};
    std::atomic<float> peak{0}; ///< written by the audio thread, taken (set to 0) by the reader
};

/// Which instrument plays a sound of a schedule.
struct Voice {
    Instrument* instrument = nullptr; ///< null: nothing plays it
    int bank = 0;
    int program = 0;
    bool operator==(const Voice&) const = default;
};

struct PlanPart {
    PartId id = 0;
    std::shared_ptr<const Schedule> schedule; ///< never null
    std::vector<Voice> voices;                ///< one a sound of the schedule
    MixCell mix;
};

/// What the lanes play. The schedules may be shared with other plans, the buffers may not.
struct Plan {
    Plan(std::size_t slots, int rate);
    int rate = 48000; ///< Hz
    std::int64_t endFrame = 0;
    std::vector<std::shared_ptr<Instrument>> instruments;
    std::vector<PlanPart> parts;     ///< by slot, which is a part's id − 1
    std::vector<float> samples;      ///< the lanes' outputs, one after another
    std::vector<StereoBlock> blocks; ///< into `samples`, one a part
};

/// Sets the mix cells of a plan to what the song says; may be called while the plan plays.
void applyMix(Plan& plan, const Song& song);

/// Loaded instruments, kept while anything may use them. For one thread. Instruments of one bank must not be
/// played by two engines at once.
class InstrumentBank {
  public:
    /// Instruments get their slots in multiples of `slotStep`: 1 renders fastest, more spares live playing a
    /// new instrument for each song with more parts.
    explicit InstrumentBank(int rate, int slotStep = 1) : m_rate(rate), m_slotStep(slotStep) {}
    [[nodiscard]] int rate() const { return m_rate; }
    /// The instrument of a font with at least `slots` slots, loading it when it is not there; null when it
    /// cannot be loaded, with the reason in `problem`.
    std::shared_ptr<Instrument> instrument(const SoundFont& font, int slots, Error* problem = nullptr);
    [[nodiscard]] bool has(const std::string& fontId, int slots) const;

  private:
    struct Held {
        std::shared_ptr<Instrument> instrument;
        int slots = 0;
    };
    int m_rate, m_slotStep;
    std::map<std::string, Held> m_held;
};

/// Makes the plan of a song. Parts whose schedule equals that in `before` share it. Loads fonts as needed.
std::unique_ptr<Plan> makePlan(const Song& song, const Catalogue& catalogue,
                               const std::vector<PartMatch>& matches, InstrumentBank& bank,
                               const Plan* before = nullptr);

} // namespace cobbleway
