/// LV2 instruments that misbehave, for tests: one crashes, one never comes back, one will not start, one
/// gives numbers that are no sound, one is far too loud.
#include <chrono>
#include <csignal>
#include <cstring>
#include <limits>
#include <lv2/core/lv2.h>
#include <thread>

namespace {

struct Bad {
    float* out = nullptr;
};

bool is(const char* kind) { return !std::strcmp(BAD_KIND, kind); }

void run(LV2_Handle self, std::uint32_t frames) {
    if (is("crash")) {
        std::signal(SIGSEGV, SIG_DFL); // also where a sanitizer would see to it
        std::raise(SIGSEGV);
    }
    while (is("hang")) std::this_thread::sleep_for(std::chrono::seconds(1));
    for (std::uint32_t f = 0; f < frames; ++f)
        static_cast<Bad*>(self)->out[f] = is("loud") ? 100 : std::numeric_limits<float>::quiet_NaN();
}

const LV2_Descriptor descriptor = {
    "urn:cobbleway:test:" BAD_KIND,
    [](const LV2_Descriptor*, double, const char*, const LV2_Feature* const*) -> LV2_Handle {
        return is("refuse") ? nullptr : new Bad;
    },
    [](LV2_Handle self, std::uint32_t port, void* data) {
        if (port == 1) static_cast<Bad*>(self)->out = static_cast<float*>(data);
    },
    nullptr,
    run,
    nullptr,
    [](LV2_Handle self) { delete static_cast<Bad*>(self); },
    nullptr};

} // namespace

extern "C" LV2_SYMBOL_EXPORT const LV2_Descriptor* lv2_descriptor(uint32_t index) {
    return index == 0 ? &descriptor : nullptr;
}
