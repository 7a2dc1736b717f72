#include "sound/render.h"

#include "sound/denormals.h"
#include "sound/engine.h"
#include "sound/mixdesk.h"

#include <algorithm>
#include <cmath>
#include <condition_variable>
#include <mutex>
#include <thread>

namespace cobbleway {
namespace {

constexpr float silence = 1e-4F; // −80 dBFS
constexpr double silentSeconds = 0.3, longestTailSeconds = 12;
/// What is rendered and not yet mixed stays in a processor's own cache: with more, all is slower.
constexpr std::size_t ringBytes = 512 << 10;

/// One block of all lanes.
struct Chunk {
    explicit Chunk(std::size_t lanes) : samples(lanes * 2 * maxFrames) {
        for (std::size_t i = 0; i < lanes; ++i)
            blocks.push_back({&samples[i * 2 * maxFrames], &samples[(i * 2 + 1) * maxFrames]});
    }
    std::vector<float> samples;
    std::vector<StereoBlock> blocks;
};

/// Renders each share of the lanes into a ring of chunks, and mixes those that all shares have filled.
/// Whoever has nothing to do takes what is furthest behind: the caller and, where there are processors for
/// them, helpers. What is done does not depend on how many there are.
class Renderer {
  public:
    Renderer(Plan& plan, const std::vector<MixOrder>& orders, const RenderOptions& options)
        : m_plan(plan), m_options(options), m_desk(plan, orders),
          m_pace(std::clamp(options.pace, 25.0, 200.0) / 100),
          m_end(std::min(lastFrame(plan, m_pace), std::max(0.0, options.to) * plan.rate)),
          m_start(std::clamp(options.from * plan.rate, 0.0, m_end)) {
        makeLanes();
        const auto sounding = std::count_if(plan.parts.begin(), plan.parts.end(),
                                            [](const PlanPart& part) { return part.share != noShare; });
        const std::size_t chunkBytes =
            std::max<std::size_t>(1, static_cast<std::size_t>(sounding)) * 2 * maxFrames * sizeof(float);
        const std::size_t depth = std::clamp<std::size_t>(ringBytes / chunkBytes, 2, 16);
        for (std::size_t i = 0; i < depth; ++i) m_ring.emplace_back(plan.parts.size());
        m_frames =
            static_cast<std::int64_t>(std::ceil((m_end - m_start) / m_pace / blockFrames)) * blockFrames;
        m_tailStart = (m_frames + maxFrames - 1) / maxFrames;
        m_chunks = m_tailStart + static_cast<std::int64_t>(longestTailSeconds * plan.rate) / maxFrames;
        m_silent = -plan.latency;
        m_next.resize(m_lanes.size() + 1, 0);
        m_busy.resize(m_lanes.size() + 1, false);
    }

    RenderEnd run() {
        {
            std::vector<std::jthread> helpers;
            const Workers& workers = m_options.workers;
            const auto most = std::min(static_cast<std::size_t>(workers.ownCount()), m_next.size());
            const auto help = [&](ThreadShare* share) {
                try {
                    helpers.emplace_back([this, share] {
                        work(false);
                        if (share) share->giveBackOne();
                    });
                } catch (const std::system_error&) { // no more threads: those that there are do it
                    if (share) share->giveBackOne();
                }
            };
            for (std::size_t i = 1; i < most; ++i) help(nullptr);
            for (std::size_t i = most; i < m_next.size() && workers.share && workers.share->takeOne(); ++i)
                help(workers.share);
            work(true);
        }
        if (m_thrown) std::rethrow_exception(m_thrown);
        for (Lanes& lanes : m_lanes) lanes.swap(nullptr);
        m_plan.mixFault = m_desk.fault();
        return m_stopped ? RenderEnd::Stopped : RenderEnd::Done;
    }

  private:
    void makeLanes() {
        std::vector<std::uint8_t> shares;
        for (const PlanPart& lane : m_plan.parts) shares.push_back(lane.share);
        const bool dealt =
            m_plan.shares > 1 && std::all_of(m_plan.instruments.begin(), m_plan.instruments.end(),
                                             [&](const auto& i) { return i->setShares(shares); });
        if (dealt)
            for (int share = 0; share < m_plan.shares; ++share) m_lanes.emplace_back(share);
        else
            m_lanes.emplace_back(); // all of them
        for (Lanes& lanes : m_lanes) {
            lanes.swap(&m_plan);
            lanes.seek(m_start);
        }
    }

    /// Takes piece after piece until all are done or it is stopped.
    void work(bool caller) {
        const NoDenormals fast;
        std::optional<std::size_t> row; // the last one's samples and voices are in this processor's cache
        std::unique_lock hold(m_lock);
        while (!hasEnded()) {
            if (!row || ready(*row) <= 0) row = nextRow();
            if (!row) {
                m_changed.wait(hold, [this] { return hasEnded() || isWorthWaking(); });
                continue;
            }
            m_busy[*row] = true;
            const std::int64_t chunk = m_next[*row];
            hold.unlock();
            const bool goesOn = doPiece(*row, chunk) && !m_options.stop.stop_requested();
            if (caller && m_options.progress)
                m_options.progress(
                    chunk < m_tailStart ? static_cast<double>(chunk) / static_cast<double>(m_tailStart) : 1);
            hold.lock();
            m_busy[*row] = false;
            ++m_next[*row];
            if (!goesOn) m_stopped = true;
            if (hasEnded() || isWorthWaking()) m_changed.notify_all();
        }
    }

    [[nodiscard]] bool hasEnded() const { return m_stopped || m_isSilent || mixed() == m_chunks; }
    /// How many chunks are mixed, and how many all shares have rendered.
    [[nodiscard]] std::int64_t mixed() const { return m_next.back(); }
    [[nodiscard]] std::int64_t rendered() const {
        return *std::min_element(m_next.begin(), m_next.end() - 1);
    }

    /// How many pieces of a share, or of the mix, are there to be done one after the other.
    [[nodiscard]] std::int64_t ready(std::size_t row) const {
        const auto depth = static_cast<std::int64_t>(m_ring.size());
        const std::int64_t end = row == m_lanes.size() ? rendered() : std::min(m_chunks, mixed() + depth);
        return m_busy[row] ? 0 : end - m_next[row];
    }

    /// The share or the mix that is furthest behind of those that can go on.
    [[nodiscard]] std::optional<std::size_t> nextRow() const {
        std::optional<std::size_t> found;
        for (std::size_t row = 0; row < m_next.size(); ++row)
            if (ready(row) > 0 && (!found || m_next[row] < m_next[*found])) found = row;
        return found;
    }

    /// Being woken costs more than a piece, so that it is done for several, but at the end.
    [[nodiscard]] bool isWorthWaking() const {
        std::int64_t sum = 0;
        for (std::size_t row = 0; row < m_next.size(); ++row) sum += ready(row);
        return sum >= static_cast<std::int64_t>(m_ring.size() / 2) || (sum > 0 && rendered() == m_chunks);
    }

    /// False when a mix was refused.
    bool doPiece(std::size_t row, std::int64_t chunk) {
        const bool isTail = chunk >= m_tailStart;
        const auto frames =
            isTail ? maxFrames
                   : static_cast<int>(std::min<std::int64_t>(maxFrames, m_frames - chunk * maxFrames));
        Chunk& here = m_ring[static_cast<std::size_t>(chunk) % m_ring.size()];
        try {
            if (row == m_lanes.size()) {
                tellTime(chunk, frames, isTail);
                return isTail ? mixTail(here) : mix(here, frames, false) >= 0;
            }
            if (chunk == m_tailStart) m_lanes[row].setSounding(false);
            m_lanes[row].renderOnly(frames, isTail ? 0 : m_pace, m_end, here.blocks);
            return true;
        } catch (...) { // of who takes the samples, or for want of memory
            const std::lock_guard hold(m_lock);
            if (!m_thrown) m_thrown = std::current_exception();
            return false;
        }
    }

    /// To the effects.
    void tellTime(std::int64_t chunk, int frames, bool isTail) {
        if (!m_plan.hasPlugins) return;
        const double frame = std::min(m_start + static_cast<double>(chunk * maxFrames) * m_pace, m_end);
        const MusicPace pace{m_plan.rate, m_pace, !isTail};
        const auto tell = [this](const MusicTime& time, int offset) {
            tellEffects(m_plan, time, offset);
            m_desk.setTime(time, offset);
        };
        tell(musicTimeAt(*m_plan.song.tempo, frame, pace), 0);
        eachTimeChange(*m_plan.song.tempo, frame, frames, pace, tell);
    }

    /// Goes on until all is silent: what is late, too.
    bool mixTail(const Chunk& chunk) {
        const float peak = mix(chunk, maxFrames, true);
        if (peak < 0) return false;
        m_silent = peak < silence ? m_silent + maxFrames : std::min(m_silent, 0.0);
        if (m_silent < silentSeconds * m_plan.rate) return true;
        const std::lock_guard hold(m_lock);
        m_isSilent = true;
        return true;
    }

    /// Mixes a chunk. Gives its peak where asked to; negative when the mix was refused.
    float mix(const Chunk& chunk, int frames, bool findPeak) {
        finishBlocks(m_plan, chunk.blocks, frames);
        return m_desk.process(std::span(chunk.blocks).first(m_plan.mixed), frames, findPeak);
    }

    Plan& m_plan;
    const RenderOptions& m_options;
    std::vector<Lanes> m_lanes; ///< one a share, or one for all
    MixDesk m_desk;
    double m_pace, m_end, m_start; ///< the last two in frames of the song
    std::vector<Chunk> m_ring;
    std::int64_t m_frames = 0;                  ///< of the song
    std::int64_t m_tailStart = 0, m_chunks = 0; ///< in chunks: where the song ends, and the longest tail
    double m_silent = 0;                        ///< for how many frames the tail has been silent

    std::mutex m_lock; ///< guards what follows
    std::condition_variable m_changed;
    std::vector<std::int64_t> m_next; ///< the chunk that each share, and last the mix, comes to next
    std::vector<bool> m_busy;
    bool m_stopped = false, m_isSilent = false;
    std::exception_ptr m_thrown; ///< the first, until all threads have ended
};

} // namespace

RenderEnd renderMixes(Plan& plan, const std::vector<MixOrder>& orders, const RenderOptions& options) {
    return Renderer(plan, orders, options).run();
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
