#pragma once
#include <pthread.h>

namespace cobbleway {

/// Lets the calling thread run before other work, as the threads of devices do, where the system allows it.
inline void runUrgently() {
    const sched_param urgent{.sched_priority = 5};
    (void)pthread_setschedparam(pthread_self(), SCHED_RR, &urgent);
}

} // namespace cobbleway
