/// Live playing: a plan, a place, and an output.
#pragma once
#include "sound/clicks.h"
#include "sound/engine.h"
#include "sound/limiter.h"
#include "sound/outputdesk.h"
#include "sound/queue.h"

#include <deque>
#include <memory>
#include <optional>

namespace cobbleway {

/// Plays plans live. All calls come from one thread (the interface's); the audio thread is the output's.
/// Commands pass through a queue and are taken at the next block, within 6 ms.
class Player {
  public:
    Player();
    ~Player();
    Player(const Player&) = delete;
    Player& operator=(const Player&) = delete;

    /// Opens an output by id (see openOutput()), and waits two seconds at most. On an error the old one goes
    /// on, or the silent one.
    Result<Done> open(const std::string& outputId);
    /// Begins to open an output by id; tend() tells what becomes of it. `awaited`: one that is not there now
    /// is taken when it is.
    void beginOpening(const std::string& outputId, bool awaited = false);
    /// Puts another output in the place of one that has gone, and takes it up again when it is back.
    void replaceOutput() { m_desk.replaceGone(); }
    /// Takes an output that has been opened, and tells; passes on what could not be passed on before. To be
    /// called some thirty times a second.
    OutputNews tend();
    /// Why tend() said OutputNews::Failed.
    [[nodiscard]] const Error& outputProblem() const { return m_desk.problem(); }
    /// Plays through this output, whatever it is.
    void use(std::unique_ptr<AudioOutput> output);
    /// Whether somebody plays along, so that less is held ready.
    void setPlayingAlong(bool playing);
    /// How much is held ready whatever is done, or as it is used (nothing). As setPlayingAlong() it opens the
    /// output anew when that changes something, beside the caller.
    void setHeld(std::optional<HeldBlocks> held);
    /// Lets no output ask for sound any more; false when one still does after so many seconds.
    bool close(double seconds) { return m_desk.close(seconds); }
    [[nodiscard]] bool isPlayingAlong() const { return m_playingAlong; }
    /// How long after it is rendered sound is heard, in seconds; 0 with no output.
    [[nodiscard]] double ahead() const { return output() ? output()->ahead() : 0; }
    [[nodiscard]] bool isSilent() const { return !output() || output()->isSilent(); }
    /// The device that plays, for people; empty for none and for the silent output.
    [[nodiscard]] std::string outputName() const { return output() ? output()->name() : std::string(); }
    /// Whether the output has gone, so that nothing is heard: open() another.
    [[nodiscard]] bool outputIsGone() const { return output() && output()->isGone(); }

    /// Plays this plan from now on, at the present place; parts that are the same sound on without a gap.
    void setPlan(std::shared_ptr<Plan> plan);
    void play();
    /// Counts first: a number of clicks, then the song. As countInBefore() gives it, at least one click.
    void play(const CountIn& count);
    void stop();               ///< stays at the place; notes are released
    void seek(double seconds); ///< of the song at its own tempo
    /// Goes on at `start` seconds each time that it comes to `end`, mostly back; no loop when end is 0.
    void setLoop(double start, double end);
    void setPace(double percent); ///< 25–200 of the song's own tempo; pitch stays
    /// Whether clicks sound with the song, and how they, and those counted, sound.
    void setClick(bool on, const ClickShape& shape);
    /// A gain on all that the song gives, as a factor; reached in a short ramp.
    void setGain(double gain) { m_gainGoal = static_cast<float>(gain); }
    /// Plays a note in a part's sound at once; velocity 0 ends it.
    void audition(PartId part, Key key, Velocity velocity);
    /// The part that messages of a keyboard play; 0 for none.
    void setLivePart(PartId part);
    [[nodiscard]] PartId livePart() const { return m_livePart; }
    /// Takes a message from a keyboard; from one thread, which may be another than the interface's.
    void takeLive(std::span<const std::uint8_t> message);

    [[nodiscard]] bool isPlaying() const { return m_playing.load(); } ///< false again at the song's end
    [[nodiscard]] double seconds() const { return m_frame.load() / liveRate; }
    [[nodiscard]] double outputPeak(int side) {
        return m_peaks[static_cast<std::size_t>(side)].exchange(0);
    }                                           ///< 0 left, 1 right; since asked last
    [[nodiscard]] double partPeak(PartId part); ///< since asked last
    /// Rounds that the loop has made since it was set.
    [[nodiscard]] int loopRounds() const { return m_rounds.load(); }
    /// Frees plans that the audio thread has given back; called by setPlan() too.
    void collect();

    /// What the output calls: fills interleaved stereo. Public for tests, which call it with no output open.
    void process(float* interleaved, int frames);
    /// Whether it has been stopped and silent for two seconds: nothing is made until it is told something.
    [[nodiscard]] bool isResting() const { return m_resting.load(std::memory_order_relaxed); }

  private:
    struct Live {
        std::uint8_t status = 0, data1 = 0, data2 = 0;
    };
    /// The plan before, while the sounds that only it has fade out.
    struct Fade {
        Plan* plan = nullptr;
        int left = 0; ///< frames
    };
    /// Clicks before the song begins, evenly spaced.
    struct Count {
        int clicks = 0, inBar = 1;    ///< the first of each so many begins a bar
        double apart = 0, frames = 0; ///< from click to click; in all
    };
    enum class What { Plan, Play, Stop, Seek, Loop, Pace, Note, Click };
    struct Command {
        What what = What::Stop;
        Plan* plan = nullptr;
        double a = 0, b = 0;
        int slot = 0;
        Key key{};
        Velocity velocity{};
        Count count = {};
        ClickShape click = {};
    };
    void send(const Command& command);
    [[nodiscard]] AudioOutput* output() const { return m_desk.output(); }
    [[nodiscard]] HeldBlocks held() const;
    void passOn();
    void tellAhead(); ///< to all instruments
    void obey(const Command& command);
    void takePlan(Plan* plan);
    void giveBack(Plan* plan);
    void endFade();
    void addFading(int frames);
    [[nodiscard]] bool isSilentNow() const;
    [[nodiscard]] bool mayRest() const;
    void wake();
    void expectLive();
    [[nodiscard]] std::vector<const PlanPart*> lanesOf(PartId part) const;
    [[nodiscard]] int slotOf(PartId part) const; ///< in the plan that plays; −1 when it is not there
    void playLive(const Live& message);
    /// Renders up to `wanted` frames, or a block more, into m_left and m_right; gives how many.
    int render(int wanted);
    void updateLevels();
    void begin(); ///< the song, where it stands
    int startCounted(int most);
    [[nodiscard]] double countedFrames() const;
    void clickBetween(double from, double to);
    void addGain(int frames);

    // Interface thread
    OutputDesk m_desk;
    std::string m_outputId; ///< as it was wanted; empty when it was not by id
    bool m_playingAlong = false;
    std::optional<HeldBlocks> m_wantedHeld; ///< none: as it is used
    std::deque<Command> m_waiting;          ///< for which there was no room yet
    std::vector<std::shared_ptr<Plan>>
        m_alive; ///< the plan playing and those not yet given back; newest last

    // Audio thread
    Lanes m_lanes;
    Fade m_fade;
    std::array<int, 128> m_liveSlots{}; ///< where a key that is held was struck, −1 for none
    std::unique_ptr<Mixer> m_mixer;
    std::array<float, maxFrames> m_left{}, m_right{};
    int m_ready = 0, m_used = 0; ///< frames rendered, and of these handed out
    static constexpr int restAfter = 2 * liveRate;
    int m_silentFrames = 0; ///< for how many nothing was heard; at most restAfter
    bool m_running = false;
    Count m_count;        ///< clicks of 0: nothing is counted
    double m_counted = 0; ///< frames
    bool m_clicks = false;
    ClickShape m_clickShape;
    ClickVoices m_clickVoices;
    float m_gain = 1;
    Limiter m_limiter{liveRate};
    double m_loopStart = 0, m_loopEnd = 0, m_pace = 1;

    // Between the two
    SpscQueue<Command, 1024> m_commands;
    SpscQueue<Live, 1024> m_liveMessages;
    std::atomic<PartId> m_livePart{0};
    SpscQueue<Plan*, 1024> m_returned;
    std::atomic<bool> m_playing{false};
    std::atomic<bool> m_resting{false};
    std::atomic<double> m_frame{0};
    std::atomic<int> m_rounds{0};
    std::atomic<float> m_gainGoal{1};
    std::array<std::atomic<float>, 2> m_peaks{};
};

} // namespace cobbleway
