#pragma once
#include <cstdint>

#include <lv2/urid/urid.h>

namespace cobbleway {

/// Numbers for URIs, as LV2 plug-ins exchange them; one table for the whole process. Safe from any thread.
LV2_URID_Map* uridMap();
LV2_URID_Unmap* uridUnmap();
LV2_URID uridOf(const char* uri);
const char* uriOf(LV2_URID urid); ///< empty for a number that was never given

} // namespace cobbleway
