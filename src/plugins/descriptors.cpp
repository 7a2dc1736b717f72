#include "plugins/plugins.h"

#include <cstdint>

LV2_SYMBOL_EXPORT const LV2_Descriptor* lv2_descriptor(std::uint32_t index) {
    using namespace cobbleway::plugins;
    switch (index) {
    case 0: return &quayReed;
    case 1: return &evener;
    case 2: return &tilt;
    default: return nullptr;
    }
}
