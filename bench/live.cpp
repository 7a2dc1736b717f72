/// Playing live: 64 parts, blocks of 256 frames at 48 kHz, with the silent output. Says how often it ran dry
/// (a block was late), and how long blocks took, as shares of the time that one lasts. Beside it a watcher
/// with nothing to do wakes on each processor every millisecond: when it does not, the machine itself stood
/// still. Usage: bench-live FONT.sf2 FILE.mid SECONDS [START]
#include "files/songfile.h"
#include "midi/writer.h"
#include "song/out/tomidi.h"
#include "sound/player.h"

#include <algorithm>
#include <array>
#include <chrono>
#include <cstdio>
#include <cstdlib>
#include <ctime>
#include <fstream>
#include <mutex>
#include <pthread.h>
#include <sched.h>
#include <string>
#include <thread>
#include <unistd.h>
#include <vector>

using namespace cobbleway;

namespace {

constexpr std::size_t partsWanted = 64;

/// The song with its parts again and again, each copy on a port of its own and a little later, until there
/// are 64.
Song manyParts(const Song& song) {
    const MidiFile split = toMidi(song, Layout::TrackPerPart);
    MidiFile many = split;
    for (std::size_t copy = 1; many.tracks.size() <= partsWanted; ++copy)
        for (std::size_t t = 1; t < split.tracks.size() && many.tracks.size() <= partsWanted; ++t) {
            Track track;
            for (Event event : split.tracks[t].events) {
                if (!event.isChannel()) continue;
                event.port = static_cast<std::uint8_t>(copy);
                event.tick += static_cast<Tick>(copy) * 60;
                track.events.push_back(event);
            }
            track.end = split.tracks[t].end + static_cast<Tick>(copy) * 60;
            many.tracks.push_back(std::move(track));
        }
    auto read = readMidi(writeMidi(many), "many.mid");
    return makeSong(std::make_shared<const SourceFile>(std::move(read.value())));
}

/// Seconds that other guests of the same host took from this machine's processors since it started.
double stolenSeconds() {
    std::ifstream file("/proc/stat");
    std::string name;
    double ticks = 0;
    file >> name;
    for (int field = 0; field < 8; ++field) file >> ticks; // the eighth is "steal"
    return ticks / static_cast<double>(sysconf(_SC_CLK_TCK));
}

using Clock = std::chrono::steady_clock;

/// Notes when the processors of this machine stood still, each with a thread of its own.
class StallWatch {
  public:
    static constexpr auto least = std::chrono::milliseconds(5);

    StallWatch() {
        for (unsigned i = 0; i < std::thread::hardware_concurrency(); ++i)
            m_threads.emplace_back([this, i](const std::stop_token& stop) { watch(stop, i); });
    }
    /// Whether one fell into the time before `when`.
    bool anyBefore(Clock::time_point when, Clock::duration time) {
        const std::lock_guard hold(m_lock);
        return std::any_of(m_stalls.begin(), m_stalls.end(),
                           [&](const Stall& stall) { return stall.end > when - time && stall.start < when; });
    }
    void print() {
        const std::lock_guard hold(m_lock);
        constexpr std::array bounds = {5, 10, 20, 50, 100, 1000000}; // ms
        for (std::size_t i = 0; i + 1 < bounds.size(); ++i) {
            const auto n = std::count_if(m_stalls.begin(), m_stalls.end(), [&](const Stall& stall) {
                return stall.length() >= std::chrono::milliseconds(bounds[i]) &&
                       stall.length() < std::chrono::milliseconds(bounds[i + 1]);
            });
            if (n == 0) continue;
            if (i + 2 < bounds.size())
                std::printf("  a processor stood still for %d to %d ms: %ld times\n", bounds[i],
                            bounds[i + 1], n);
            else
                std::printf("  a processor stood still for longer: %ld times\n", n);
        }
    }

  private:
    struct Stall {
        Clock::time_point start, end;
        [[nodiscard]] Clock::duration length() const { return end - start; }
    };
    void watch(const std::stop_token& stop, unsigned processor) {
        cpu_set_t set;
        CPU_ZERO(&set);
        CPU_SET(processor, &set);
        pthread_setaffinity_np(pthread_self(), sizeof set, &set);
        sched_param most{sched_get_priority_max(SCHED_FIFO)};
        pthread_setschedparam(pthread_self(), SCHED_FIFO, &most); // where it is allowed
        auto next = Clock::now();
        while (!stop.stop_requested()) {
            next += std::chrono::milliseconds(1);
            std::this_thread::sleep_until(next);
            const auto now = Clock::now();
            if (now - next < least) continue;
            const std::lock_guard hold(m_lock);
            m_stalls.push_back({next, now});
            next = now;
        }
    }
    std::mutex m_lock;
    std::vector<Stall> m_stalls;
    std::vector<std::jthread> m_threads; // last, so that they end first
};

} // namespace

int main(int count, char** words) {
    if (count < 4) return std::fprintf(stderr, "Usage: bench-live FONT.sf2 FILE.mid SECONDS [START]\n"), 1;
    const Catalogue catalogue = scanFonts({words[1], {}, {}}, houseFontId);
    const auto read = openSong(words[2]);
    if (!read) return 1;
    const Song song = manyParts(read.value());
    InstrumentBank bank(liveRate, {.slotStep = 16, .live = true, .pluginBundle = {}});
    Player player;
    player.setPlan(makePlan(song, catalogue, matchSong(song, catalogue), bank));
    player.setLoop(0, song.seconds() - 1);
    if (count > 4) player.seek(std::atof(words[4]));
    player.play();
    constexpr double given = double(liveFrames) / liveRate;
    constexpr int rows = 11;
    std::array<std::atomic<long>, rows> histogram{};
    std::atomic<long> blocks{0}, slow{0}, worked{0};
    std::atomic<const AudioOutput*> running{nullptr};
    std::vector<Clock::time_point> gaps; // of the audio thread, until it ends
    gaps.reserve(100000);
    StallWatch stalls;
    std::atomic<double> longest{0}, hardest{0};
    // Beside the time that a block took, the processor's: what else the machine does is not in it.
    const auto processor = [] {
        timespec now{};
        clock_gettime(CLOCK_THREAD_CPUTIME_ID, &now);
        return static_cast<double>(now.tv_sec) + 1e-9 * static_cast<double>(now.tv_nsec);
    };
    const double stolen = stolenSeconds();
    {
        auto output = openOutput("silent", [&](float* out, int frames) {
            const auto start = Clock::now();
            if (const AudioOutput* one = running; one && static_cast<std::size_t>(one->gaps()) > gaps.size())
                gaps.push_back(start);
            const double before = processor();
            player.process(out, frames);
            const double work = (processor() - before) / given;
            worked += work > 1;
            hardest = std::max(hardest.load(), work);
            const double share = std::chrono::duration<double>(Clock::now() - start).count() / given;
            ++histogram[static_cast<std::size_t>(std::min(rows - 1, static_cast<int>(share * 10)))];
            slow += share > 1;
            longest = std::max(longest.load(), share);
            ++blocks;
        });
        running = output.value().get();
        std::this_thread::sleep_for(std::chrono::seconds(std::atoi(words[3])));
        running = nullptr;
    }
    // A gap follows a stall when one was seen in the time that all held blocks last, or a little more.
    const auto ours = std::count_if(gaps.begin(), gaps.end(), [&](Clock::time_point when) {
        return !stalls.anyBefore(when, std::chrono::milliseconds(100));
    });
    std::size_t parts = 0;
    for (const Part& part : song.parts) parts += !part.aside;
    std::printf(
        "%zu parts, %ld blocks of %d frames at %d Hz: %zu late, %ld of them with no stall of the machine; "
        "%ld took longer than a block lasts, at most %.2f times; by processor time %ld, at most %.2f; "
        "the host took %.2f s away\n",
        parts, blocks.load(), liveFrames, liveRate, gaps.size(), ours, slow.load(), longest.load(),
        worked.load(), hardest.load(), stolenSeconds() - stolen);
    stalls.print();
    for (int row = 0; row < rows; ++row)
        if (const long n = histogram[static_cast<std::size_t>(row)]) {
            if (row == rows - 1)
                std::printf("  more than all   %ld\n", n);
            else
                std::printf("  %3d to %3d %%     %ld\n", row * 10, row * 10 + 10, n);
        }
    return 0;
}
