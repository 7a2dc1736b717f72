#pragma once
#include <malloc.h>

namespace cobbleway {

/// While it lives, new memory is zero, but for small pieces that are used again. Some plug-ins (mda JX10, for
/// one) begin with memory that they never set: without this they sound another way each time, or not at all.
/// By the C library of GNU; elsewhere nothing happens.
class CleanMemory {
  public:
#ifdef M_PERTURB
    CleanMemory() { mallopt(M_PERTURB, 0xFF); } // what is new is filled with the complement
    ~CleanMemory() { mallopt(M_PERTURB, 0); }
#else
    CleanMemory() = default;
    ~CleanMemory() = default;
#endif
    CleanMemory(const CleanMemory&) = delete;
    CleanMemory& operator=(const CleanMemory&) = delete;
};

} // namespace cobbleway
