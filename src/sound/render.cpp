#include "sound/render.h"

#include "sound/denormals.h"
#include "sound/engine.h"
#include "sound/mixdesk.h"

#include <algorithm>
#include <condition_variable>
#include <mutex>
#include <thread>

namespace cobbleway {
namespace {

constexpr float silence = 1e-4F; // −80 dBFS
constexpr double silentSeconds = 0.3, longestTailSeconds = 12;
constexpr int chunkFrames = 8 * maxFrames;
constexpr std::size_t manyMixes = 4; ///< from so many on a second thread pays

/// Some blocks of all lanes in a row.
struct Chunk {
    explicit Chunk(std::size_t lanes) : samples(lanes * 2 * chunkFrames) {
        for (std::size_t i = 0; i < lanes; ++i)
            blocks.push_back({&samples[i * 2 * chunkFrames], &samples[(i * 2 + 1) * chunkFrames]});
    }
    bool findPeak = false; ///< asked of its mixes
    void append(std::span<const StereoBlock> from, int count) {
        for (std::size_t i = 0; i < blocks.size(); ++i) {
            std::copy_n(from[i].left, count, blocks[i].left + frames);
            std::copy_n(from[i].right, count, blocks[i].right + frames);
        }
        frames += count;
    }
    std::vector<float> samples;
    std::vector<StereoBlock> blocks;
    int frames = 0;
};

/// Mixes chunks on a thread of its own, one at a time, in order.
class MixThread {
  public:
    explicit MixThread(MixDesk& desk)
        : m_thread([this, &desk](const std::stop_token& stop) { run(desk, stop); }) {}

    /// Hands a chunk over; waits for the one before. It is free again after the next give() or wait().
    void give(Chunk& chunk) {
        std::unique_lock hold(m_lock);
        m_changed.wait(hold, [this] { return !m_chunk; });
        m_chunk = &chunk;
        m_changed.notify_all();
    }
    /// Waits until all is mixed; gives the last chunk's peak, negative when a mix was refused.
    float wait() {
        std::unique_lock hold(m_lock);
        m_changed.wait(hold, [this] { return !m_chunk; });
        return m_peak;
    }
    [[nodiscard]] bool refused() {
        const std::lock_guard hold(m_lock);
        return m_peak < 0;
    }

  private:
    void run(MixDesk& desk, const std::stop_token& stop) {
        const NoDenormals fast;
        std::unique_lock hold(m_lock);
        while (m_changed.wait(hold, stop, [this] { return m_chunk != nullptr; })) {
            Chunk& chunk = *m_chunk;
            hold.unlock();
            const float peak = m_peak < 0 ? -1 : desk.process(chunk.blocks, chunk.frames, chunk.findPeak);
            hold.lock();
            m_peak = peak;
            m_chunk = nullptr;
            m_changed.notify_all();
        }
    }
    std::mutex m_lock;
    std::condition_variable_any m_changed;
    Chunk* m_chunk = nullptr;
    float m_peak = 0;
    std::jthread m_thread; // last, so that it ends first
};

class Renderer {
  public:
    Renderer(Plan& plan, const std::vector<MixOrder>& orders, const RenderOptions& options)
        : m_plan(plan), m_options(options),
          m_desk(plan, orders), m_chunks{Chunk(plan.mixed), Chunk(plan.mixed)},
          m_pace(std::clamp(options.pace, 25.0, 200.0) / 100), m_end(static_cast<double>(plan.endFrame)) {
        if (orders.size() >= manyMixes) m_thread.emplace(m_desk);
        m_lanes.swap(&plan);
        m_lanes.seek(0);
    }

    RenderEnd run() {
        const NoDenormals fast;
        bool goesOn = song() && flush() >= 0 && tail();
        if (m_thread && m_thread->wait() < 0) goesOn = false;
        m_lanes.swap(nullptr);
        m_plan.mixFault = m_desk.fault();
        return goesOn ? RenderEnd::Done : RenderEnd::Stopped;
    }

  private:
    bool song() {
        int sinceProgress = 0;
        while (m_lanes.frame() < m_end) {
            if (m_options.stop.stop_requested()) return false;
            const int frames = m_lanes.render(maxFrames, m_pace, m_end);
            chunk().append(m_plan.mixedBlocks(), frames);
            if (chunk().frames + maxFrames > chunkFrames && !handOn()) return false;
            if (m_options.progress && (sinceProgress += frames) >= m_plan.rate) {
                sinceProgress = 0;
                m_options.progress(std::min(1.0, m_lanes.frame() / m_end));
            }
        }
        return true;
    }

    /// Goes on until all is silent: what is late, too.
    bool tail() {
        m_lanes.setSounding(false);
        for (Chunk& chunk : m_chunks) chunk.findPeak = true; // to tell when all is silent
        double silent = -m_plan.latency, length = 0;
        while (silent < silentSeconds * m_plan.rate && length < longestTailSeconds * m_plan.rate) {
            if (m_options.stop.stop_requested()) return false;
            const int frames = m_lanes.render(maxFrames, 0, m_end);
            chunk().append(m_plan.mixedBlocks(), frames);
            const float peak = flush();
            if (peak < 0) return false;
            silent = peak < silence ? silent + frames : std::min(silent, 0.0);
            length += frames;
        }
        return true;
    }

    Chunk& chunk() { return m_chunks[m_filling]; }

    bool handOn() {
        if (!m_thread) return flush() >= 0;
        m_thread->give(chunk());
        m_filling = 1 - m_filling;
        chunk().frames = 0; // give() has waited for its mixing to end
        return !m_thread->refused();
    }

    /// Mixes all that is there; gives its peak, negative when a mix was refused.
    float flush() {
        float peak = 0;
        if (m_thread) {
            m_thread->give(chunk());
            peak = m_thread->wait();
        } else {
            peak = m_desk.process(chunk().blocks, chunk().frames, chunk().findPeak);
        }
        chunk().frames = 0;
        return peak;
    }

    Plan& m_plan;
    const RenderOptions& m_options;
    Lanes m_lanes;
    MixDesk m_desk;
    std::array<Chunk, 2> m_chunks;
    std::size_t m_filling = 0;
    double m_pace, m_end;
    std::optional<MixThread> m_thread; // last, so that it ends first
};

} // namespace

RenderEnd renderMixes(Plan& plan, const std::vector<MixOrder>& orders, const RenderOptions& options) {
    return std::make_unique<Renderer>(plan, orders, options)->run();
}

std::vector<float> renderToMemory(const Song& song, const Catalogue& catalogue, int rate,
                                  const RenderOptions& options, const BankOptions& bankOptions) {
    InstrumentBank bank(rate, bankOptions);
    const auto plan = makePlan(song, catalogue, matchSong(song, catalogue), bank);
    std::vector<float> samples;
    const MixOrder order{song, [&](std::span<const float> block) {
                             samples.insert(samples.end(), block.begin(), block.end());
                             return true;
                         }};
    renderMixes(*plan, {order}, options);
    return samples;
}

} // namespace cobbleway
