#include "sound/outputdesk.h"

#include <algorithm>
#include <chrono>
#include <thread>
#include <utility>

namespace cobbleway {
namespace {

constexpr double longestWait = 2;                      // seconds until an output counts as hung
constexpr double firstPause = 0.5, longestPause = 1.8; // seconds between looks for one that has gone
constexpr double longestEnd = 1; // seconds for which closing is waited for when the desk goes

double now() {
    return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
}

void pause() { std::this_thread::sleep_for(std::chrono::milliseconds(1)); }

} // namespace

void OutputDesk::Gate::pass(std::uint64_t number, float* interleaved, int frames) {
    if (!inside.exchange(true)) {
        const bool mine = open.load() == number;
        if (mine) callback(interleaved, frames);
        inside.store(false);
        if (mine) return;
    }
    std::fill_n(interleaved, std::size_t{2} * static_cast<std::size_t>(frames), 0.0F);
}

OutputDesk::OutputDesk(AudioCallback callback, Open open) : m_open(std::move(open)) {
    m_gate->callback = std::move(callback);
}

OutputDesk::~OutputDesk() {
    while (!close(longestEnd)) {}
    leave(std::move(m_output));
    for (const double until = now() + longestEnd; *m_working > 0 && now() < until; pause()) {}
}

/// Does work on a thread of its own, which may hang.
template <class Work> void OutputDesk::beside(Work work) {
    ++*m_working;
    std::thread([working = m_working, work = std::move(work)]() mutable {
        work();
        --*working;
    }).detach();
}

bool OutputDesk::isQuiet() const { return m_gate->open.load() == 0 && !m_gate->inside.load(); }

bool OutputDesk::close(double seconds) {
    m_gate->open.store(0);
    for (const double until = now() + seconds; m_gate->inside.load(); pause())
        if (now() > until) return false;
    return true;
}

AudioCallback OutputDesk::callbackFor(std::uint64_t number) const {
    return
        [gate = m_gate, number](float* interleaved, int frames) { gate->pass(number, interleaved, frames); };
}

std::shared_ptr<OutputDesk::Job> OutputDesk::makeJob(const std::string& id) {
    auto job = std::make_shared<Job>();
    job->id = id;
    job->held = m_held;
    job->number = ++m_numbers;
    job->begun = now();
    return job;
}

void OutputDesk::begin(std::shared_ptr<Job> job) {
    m_hung = false;
    m_job = job;
    beside([job, open = m_open, callback = callbackFor(job->number)] {
        job->leaving.reset(); // two streams to one device: some take only one
        auto opened = open(job->id, callback, job->held);
        job->openedId = job->id;
        if (!opened) {
            job->error = opened.error();
            for (const std::string& other : {job->before, std::string(job->isProbe ? "" : "auto")}) {
                if (opened || other.empty()) continue;
                opened = open(other, callback, job->held);
                job->openedId = other;
            }
        }
        if (opened) job->opened = std::move(opened.value());
        job->done.store(true);
    });
}

void OutputDesk::leave(std::unique_ptr<AudioOutput> output) {
    if (output) beside([leaving = std::move(output)]() mutable { leaving.reset(); });
}

void OutputDesk::want(const std::string& id, HeldBlocks held, bool awaited) {
    m_held = held;
    m_lost.clear();
    auto job = makeJob(id);
    job->awaited = awaited;
    job->before = m_output && id != m_id ? m_id : std::string();
    m_gate->open.store(0);
    job->leaving = std::move(m_output);
    if (m_job && m_job->done) leave(std::move(m_job->opened)); // one that is still at it closes what it opens
    begin(std::move(job));
}

void OutputDesk::take(std::unique_ptr<AudioOutput> output, std::uint64_t number) {
    leave(std::exchange(m_output, std::move(output)));
    m_gate->open.store(m_output ? number : 0);
}

void OutputDesk::use(std::unique_ptr<AudioOutput> output) {
    m_job.reset();
    m_id.clear();
    take(std::move(output), 0);
}

void OutputDesk::replaceGone() {
    const std::string lost = m_output ? m_output->id() : std::string();
    want("auto", m_held);
    awaitLost(lost);
}

void OutputDesk::awaitLost(const std::string& id) {
    m_lost = id;
    m_probePause = firstPause;
    m_nextProbe = now() + m_probePause;
}

void OutputDesk::playSilence() {
    const std::uint64_t number = ++m_numbers;
    if (auto silent = openOutput("silent", callbackFor(number), m_held))
        take(std::move(silent.value()), number);
}

/// Whether what was lost answers again, is asked while something else plays: soon, then less and less often.
void OutputDesk::lookForLost(double time) {
    if (m_lost.empty() || m_job || time < m_nextProbe) return;
    m_probePause = std::min(longestPause, 1.5 * m_probePause);
    m_nextProbe = time + m_probePause;
    auto job = makeJob(m_lost);
    job->isProbe = true;
    begin(std::move(job));
}

OutputNews OutputDesk::takeJob() {
    const auto job = std::exchange(m_job, nullptr);
    const bool hung = std::exchange(m_hung, false);
    if (job->isProbe) {
        if (!job->opened) return OutputNews::None; // not yet
        m_lost.clear();
        take(std::move(job->opened), job->number);
        return OutputNews::Back;
    }
    m_id = job->openedId;
    if (job->opened && !(hung && job->opened->isSilent())) {
        if (hung) m_lost.clear();
        take(std::move(job->opened), job->number);
    }
    if (hung) {
        m_nextProbe = now() + firstPause;
        return m_output && !m_output->isSilent() ? OutputNews::Back : OutputNews::None;
    }
    if (!job->error) return OutputNews::Opened;
    if (job->awaited) awaitLost(job->id);
    m_problem = *job->error;
    return OutputNews::Failed;
}

OutputNews OutputDesk::look() {
    const double time = now();
    if (m_job && m_job->done.load()) return takeJob();
    if (m_job && !m_job->isProbe && !m_hung && time - m_job->begun > longestWait) {
        m_hung = true;
        if (m_lost.empty()) awaitLost(m_job->id == "auto" ? "pulse" : m_job->id);
        playSilence();
        return OutputNews::Hung;
    }
    lookForLost(time);
    return OutputNews::None;
}

Result<Done> OutputDesk::waitUntilOpen() {
    for (;; pause()) switch (look()) {
        case OutputNews::None:
            if (!m_job || m_job->isProbe) return Done{};
            break;
        case OutputNews::Opened:
        case OutputNews::Back: return Done{};
        case OutputNews::Failed: return m_problem;
        case OutputNews::Hung: return Error{{"error.output-hangs"}, m_job->id, {"now.output-later"}};
        }
}

} // namespace cobbleway
