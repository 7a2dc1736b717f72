/// Outputs opened and closed on threads of their own, since a sound server may hang in either.
#pragma once
#include "sound/audiooutput.h"

#include <atomic>
#include <memory>
#include <optional>
#include <string>

namespace cobbleway {

/// What has become of the output since it was asked last.
enum class OutputNews {
    None,
    Opened, ///< what was wanted plays
    Failed, ///< it could not be opened, see OutputDesk::problem(); what was there before plays, or another
    Hung,   ///< it has not answered for two seconds: the silent output plays until it does
    Back    ///< one that had gone or hung answers again, and plays
};

/// Lets one output at a time call a callback. One that is left alone is waited for by nobody, and hears
/// nothing from us any more. Calls come from one thread (the interface's) and return at once, but for
/// waitUntilOpen().
class OutputDesk {
  public:
    using Open =
        std::function<Result<std::unique_ptr<AudioOutput>>(const std::string&, AudioCallback, HeldBlocks)>;
    explicit OutputDesk(AudioCallback callback, Open open = openOutput);
    /// Waits until the callback has returned; for no output.
    ~OutputDesk();
    OutputDesk(const OutputDesk&) = delete;
    OutputDesk& operator=(const OutputDesk&) = delete;

    /// Closes what plays and opens another in its place, by id (see openOutput()), beside the caller. When it
    /// does not open, the one before is opened again, else any. `awaited`: then it is taken when it is there.
    void want(const std::string& id, HeldBlocks held, bool awaited = false);
    /// Plays through this one from now on, whatever it is.
    void use(std::unique_ptr<AudioOutput> output);
    /// Puts another in the place of one that has gone, and takes that up again when it answers.
    void replaceGone();
    /// Takes what has been opened; to be called often.
    OutputNews look();
    /// Looks until what is wanted plays, has failed, or hangs.
    Result<Done> waitUntilOpen();
    /// Why the last OutputNews::Failed.
    [[nodiscard]] const Error& problem() const { return m_problem; }

    /// What plays; null for none. Valid until the next call of look(), want(), use() or replaceGone().
    [[nodiscard]] AudioOutput* output() const { return m_output.get(); }
    [[nodiscard]] bool isOpening() const { return m_job != nullptr && !m_job->isProbe; }
    /// Whether no output calls the callback now, nor will before look() or use() lets one.
    [[nodiscard]] bool isQuiet() const;
    /// Lets no output call any more; false when one is still in the callback after so many seconds.
    bool close(double seconds);

  private:
    /// Which output may call, and whether one does. Outlives the desk where an output does.
    struct Gate {
        AudioCallback callback;
        std::atomic<std::uint64_t> open{0}; ///< the number of the output that may; 0 for none
        std::atomic<bool> inside{false};
        void pass(std::uint64_t number, float* interleaved, int frames);
    };
    /// Work of one thread, which nobody waits for.
    struct Job {
        std::string id, before; ///< what to open; what else, when that fails; empty for nothing
        HeldBlocks held = HeldBlocks::Listening;
        std::unique_ptr<AudioOutput> leaving; ///< closed first
        std::uint64_t number = 0;             ///< of the output that it opens
        bool isProbe = false;                 ///< whether the output that was lost answers; all else plays on
        bool awaited = false;
        double begun = 0;
        std::unique_ptr<AudioOutput> opened;
        std::string openedId; ///< by which it was asked for
        std::optional<Error> error;
        std::atomic<bool> done{false};
    };
    [[nodiscard]] AudioCallback callbackFor(std::uint64_t number) const;
    std::shared_ptr<Job> makeJob(const std::string& id);
    void begin(std::shared_ptr<Job> job);
    template <class Work> void beside(Work work);
    void leave(std::unique_ptr<AudioOutput> output);
    void take(std::unique_ptr<AudioOutput> output, std::uint64_t number);
    void playSilence();
    void awaitLost(const std::string& id);
    void lookForLost(double time);
    OutputNews takeJob();

    std::shared_ptr<Gate> m_gate = std::make_shared<Gate>();
    std::shared_ptr<std::atomic<int>> m_working = std::make_shared<std::atomic<int>>(0); ///< threads
    Open m_open;
    std::unique_ptr<AudioOutput> m_output;
    std::shared_ptr<Job> m_job; ///< under way; null for none
    std::string m_id;           ///< by which what plays was asked for; empty when it was not by id
    std::string m_lost;         ///< the backend that has gone or hung; empty for none
    HeldBlocks m_held = HeldBlocks::Listening;
    std::uint64_t m_numbers = 0;
    bool m_hung = false;                      ///< the job was given up waiting for
    double m_nextProbe = 0, m_probePause = 0; ///< seconds
    Error m_problem;
};

} // namespace cobbleway
