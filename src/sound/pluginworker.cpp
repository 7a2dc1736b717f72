#include "sound/pluginworker.h"

#include <cstring>

namespace cobbleway {

void PluginWorker::end() {
    m_stop = true;
    m_wanted.release();
    if (m_thread.joinable()) m_thread.join();
    constexpr int most = 64; // one that hands over more with every answer is not followed for ever
    bool more = m_face;
    for (int round = 0; more && round < most; ++round) {
        const auto message = m_requests.pop();
        if (message) work(*message);
        more = answer() || message;
    }
    m_face = nullptr;
}

void PluginWorker::begin(LV2_Handle plugin, const LV2_Worker_Interface* face) {
    m_plugin = plugin;
    m_face = face;
    if (!face || m_offline) return;
    m_thread = std::thread([this] {
        for (m_wanted.acquire(); !m_stop; m_wanted.acquire())
            while (const auto message = m_requests.pop()) work(*message);
    });
}

bool PluginWorker::put(SpscQueue<Message, 64>& queue, std::uint32_t size, const void* data) {
    Message message;
    if (size > message.bytes.size()) return false;
    message.size = size;
    if (size > 0) std::memcpy(message.bytes.data(), data, size);
    return queue.push(message);
}

LV2_Worker_Status PluginWorker::take(LV2_Worker_Schedule_Handle self, std::uint32_t size, const void* data) {
    auto* worker = static_cast<PluginWorker*>(self);
    if (!put(worker->m_requests, size, data)) return LV2_WORKER_ERR_NO_SPACE;
    if (!worker->m_offline) worker->m_wanted.release();
    return LV2_WORKER_SUCCESS;
}

LV2_Worker_Status PluginWorker::respond(LV2_Worker_Respond_Handle self, std::uint32_t size,
                                        const void* data) {
    auto* worker = static_cast<PluginWorker*>(self);
    return put(worker->m_responses, size, data) ? LV2_WORKER_SUCCESS : LV2_WORKER_ERR_NO_SPACE;
}

void PluginWorker::work(const Message& message) {
    m_face->work(m_plugin, &PluginWorker::respond, this, message.size, message.bytes.data());
}

bool PluginWorker::answer() {
    bool any = false;
    while (const auto answer = m_responses.pop()) {
        any = true;
        if (m_face->work_response) m_face->work_response(m_plugin, answer->size, answer->bytes.data());
    }
    return any;
}

void PluginWorker::deliver() {
    if (!m_face) return;
    if (m_offline)
        while (const auto message = m_requests.pop()) work(*message);
    answer();
    if (m_face->end_run) m_face->end_run(m_plugin);
}

} // namespace cobbleway
