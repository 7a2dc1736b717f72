/// The small LV2 plug-ins that ship: an instrument, a compressor, a tone control. Plain LV2, so that any host
/// can use them.
#pragma once
#include <lv2/core/lv2.h>

#define COBBLEWAY_PLUGINS "https://cobbleway.example/plugins#"

namespace cobbleway::plugins {

extern const LV2_Descriptor quayReed, evener, tilt;

} // namespace cobbleway::plugins
