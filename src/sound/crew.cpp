#include "sound/crew.h"

#include "sound/denormals.h"
#include "sound/urgent.h"

#include <algorithm>

namespace cobbleway {
namespace {

constexpr int piecesMask = 0xFF;
constexpr int roundStep = piecesMask + 1;
/// So often a helper looks for more before it sleeps: about the time between two calls of one block.
constexpr int looks = 4000;

void relax() {
#if defined(__x86_64__)
    __builtin_ia32_pause();
#else
    std::this_thread::yield();
#endif
}

} // namespace

Crew::Crew(int most) {
    const int processors = static_cast<int>(std::thread::hardware_concurrency());
    for (int i = 0; i < std::min(most, processors - 1); ++i) m_helpers.emplace_back([this] { help(); });
}

Crew::~Crew() {
    m_ends = true;
    m_ticket.fetch_add(roundStep); // no pieces left: only wakes
    m_ticket.notify_all();
}

void Crew::run(int pieces, Work work, void* self) {
    m_work = work;
    m_self = self;
    m_done.store(0, std::memory_order_relaxed);
    // All pieces of the round before are taken and done, so nobody reads what was just written until now.
    const unsigned next =
        (static_cast<unsigned>(m_ticket.load(std::memory_order_relaxed)) & ~unsigned{piecesMask}) + roundStep;
    m_ticket.store(static_cast<int>(next | static_cast<unsigned>(pieces)), std::memory_order_release);
    m_ticket.notify_all();
    while (takeOne()) {}
    while (m_done.load(std::memory_order_acquire) < pieces) relax(); // what helpers have begun they end soon
}

bool Crew::takeOne() {
    int ticket = m_ticket.load(std::memory_order_acquire);
    while (ticket & piecesMask)
        if (m_ticket.compare_exchange_weak(ticket, ticket - 1, std::memory_order_acq_rel)) {
            m_work(m_self, (ticket & piecesMask) - 1);
            m_done.fetch_add(1, std::memory_order_release);
            return true;
        }
    return false;
}

void Crew::help() {
    runUrgently();
    const NoDenormals fast;
    while (!m_ends) {
        for (int look = 0; look < looks; ++look) {
            if (takeOne()) look = 0;
            relax();
        }
        const int seen = m_ticket.load();
        if (!m_ends && (seen & piecesMask) == 0) m_ticket.wait(seen);
    }
}

} // namespace cobbleway
