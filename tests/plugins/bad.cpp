/// LV2 instruments that misbehave, for tests: one crashes, one never comes back, one will not start, one
/// gives numbers that are no sound, one is far too loud. Three are well for two seconds of sound, longer than
/// a trial, and then crash, end the program, or never come back. One crashes when it is ended. One makes
/// its sound on a thread. One looks for
/// the person's files, and will not start when it can read or write the one that COBBLEWAY_TEST_SECRET names.
#include <algorithm>
#include <atomic>
#include <chrono>
#include <csignal>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <limits>
#include <lv2/core/lv2.h>
#include <thread>

namespace {

struct Bad {
    float* out = nullptr;
    std::uint32_t frames = 0;       ///< so far
    std::atomic<bool> ready{false}; ///< what the thread makes
    std::thread making;
};

bool is(const char* kind) { return !std::strcmp(BAD_KIND, kind); }

void crash() {
    std::signal(SIGSEGV, SIG_DFL); // also where a sanitizer would see to it
    std::raise(SIGSEGV);
}

/// One that is well at first; false when it is no such one.
bool runUntilLate(Bad& self, std::uint32_t frames) {
    const bool crashes = is("latecrash"), exits = is("lateexit"), hangs = is("latehang");
    if (!crashes && !exits && !hangs && !is("lateend") && !is("snoop")) return false;
    self.frames += frames;
    const bool late = self.frames > 2 * 48000;
    if (late && crashes) crash();
    if (late && exits) std::exit(3);
    while (late && hangs) std::this_thread::sleep_for(std::chrono::seconds(1));
    for (std::uint32_t f = 0; f < frames; ++f) self.out[f] = f % 64 < 32 ? 0.05F : -0.05F;
    return true;
}

bool seesTheSecret() {
    const char* secret = std::getenv("COBBLEWAY_TEST_SECRET");
    for (const char* how : {"r", "a"})
        if (std::FILE* file = secret ? std::fopen(secret, how) : nullptr) {
            std::fclose(file);
            return true;
        }
    return false;
}

/// What it will play takes half a second of work.
void make(Bad& self) {
    const auto end = std::chrono::steady_clock::now() + std::chrono::milliseconds(500);
    while (std::chrono::steady_clock::now() < end) {}
    self.ready = true;
}

void run(LV2_Handle self, std::uint32_t frames) {
    if (is("lateready"))
        return void(
            std::fill_n(static_cast<Bad*>(self)->out, frames,
                        static_cast<Bad*>(self)->ready ? 0.25F : std::numeric_limits<float>::quiet_NaN()));
    if (runUntilLate(*static_cast<Bad*>(self), frames)) return;
    if (is("crash")) crash();
    while (is("hang")) std::this_thread::sleep_for(std::chrono::seconds(1));
    for (std::uint32_t f = 0; f < frames; ++f)
        static_cast<Bad*>(self)->out[f] = is("loud") ? 100 : std::numeric_limits<float>::quiet_NaN();
}

const LV2_Descriptor descriptor = {
    "urn:cobbleway:test:" BAD_KIND,
    [](const LV2_Descriptor*, double, const char*, const LV2_Feature* const*) -> LV2_Handle {
        if (is("refuse") || (is("snoop") && seesTheSecret())) return nullptr;
        auto* made = new Bad;
        if (is("lateready")) made->making = std::thread(make, std::ref(*made));
        return made;
    },
    [](LV2_Handle self, std::uint32_t port, void* data) {
        if (port == 1) static_cast<Bad*>(self)->out = static_cast<float*>(data);
    },
    nullptr,
    run,
    nullptr,
    [](LV2_Handle self) {
        if (is("lateend")) crash();
        if (static_cast<Bad*>(self)->making.joinable()) static_cast<Bad*>(self)->making.join();
        delete static_cast<Bad*>(self);
    },
    nullptr};

} // namespace

extern "C" LV2_SYMBOL_EXPORT const LV2_Descriptor* lv2_descriptor(uint32_t index) {
    return index == 0 ? &descriptor : nullptr;
}
