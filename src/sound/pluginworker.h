#pragma once
#include "sound/queue.h"

#include <array>
#include <atomic>
#include <cstddef>
#include <lv2/worker/worker.h>
#include <semaphore>
#include <thread>

namespace cobbleway {

/// Work that a plug-in hands over while it runs, done beside the audio thread (LV2 worker). Offline it is
/// done between two runs on the same thread.
class PluginWorker {
  public:
    explicit PluginWorker(bool offline) : m_offline(offline) {}
    ~PluginWorker() { end(); }
    PluginWorker(const PluginWorker&) = delete;
    PluginWorker& operator=(const PluginWorker&) = delete;

    /// To be called once, before the first run.
    void begin(LV2_Handle plugin, const LV2_Worker_Interface* face);
    /// After each run: hands answers to the plug-in.
    void deliver();
    /// Does what is still to be done and hands over the answers, since both may own memory; nothing is taken
    /// any more. To be called after the last run, before the plug-in is freed.
    void end();
    LV2_Worker_Schedule* schedule() { return &m_schedule; }

  private:
    struct Message {
        alignas(
            std::max_align_t) std::array<std::uint8_t, 1024> bytes{}; // whatever the plug-in makes of them
        std::uint32_t size = 0;
    };
    static LV2_Worker_Status take(LV2_Worker_Schedule_Handle self, std::uint32_t size, const void* data);
    static LV2_Worker_Status respond(LV2_Worker_Respond_Handle self, std::uint32_t size, const void* data);
    static bool put(SpscQueue<Message, 64>& queue, std::uint32_t size, const void* data);
    void work(const Message& message);
    bool answer(); ///< hands over the answers there are; false for none

    bool m_offline;
    LV2_Handle m_plugin = nullptr;
    const LV2_Worker_Interface* m_face = nullptr;
    LV2_Worker_Schedule m_schedule{this, &PluginWorker::take};
    SpscQueue<Message, 64> m_requests, m_responses;
    std::counting_semaphore<1024> m_wanted{0};
    std::atomic<bool> m_stop{false};
    std::thread m_thread;
};

} // namespace cobbleway
