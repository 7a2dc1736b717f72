/// LV2 plug-ins that a host must bear with, for tests. Late ones, which say so: an effect that gives its
/// input back, and an instrument that gives one click a note. And an instrument that plays memory it never
/// set.
#include <array>
#include <cstdint>
#include <cstring>
#include <lv2/atom/util.h>
#include <lv2/core/lv2.h>

namespace {

constexpr std::uint32_t effectLate = 150, instrumentLate = 1000; // frames

struct Late {
    std::array<void*, 3> ports{};
    std::array<float, effectLate> held{};
    std::uint32_t at = 0;
    long click = -1; ///< frames until the next one
};

void runEffect(LV2_Handle handle, std::uint32_t frames) {
    Late& self = *static_cast<Late*>(handle);
    const auto* in = static_cast<const float*>(self.ports[0]);
    auto* out = static_cast<float*>(self.ports[1]);
    for (std::uint32_t f = 0; f < frames; ++f) {
        float& place = self.held[self.at++ % effectLate];
        const float before = place;
        place = in[f];
        out[f] = before;
    }
    *static_cast<float*>(self.ports[2]) = effectLate;
}

void runInstrument(LV2_Handle handle, std::uint32_t frames) {
    Late& self = *static_cast<Late*>(handle);
    const auto* events = static_cast<const LV2_Atom_Sequence*>(self.ports[0]);
    auto* out = static_cast<float*>(self.ports[1]);
    LV2_ATOM_SEQUENCE_FOREACH(events, event) {
        const auto* message = reinterpret_cast<const std::uint8_t*>(event + 1);
        if ((message[0] & 0xF0) == 0x90 && message[2] > 0)
            self.click = static_cast<long>(event->time.frames) + instrumentLate;
    }
    for (std::uint32_t f = 0; f < frames; ++f) out[f] = self.click >= 0 && self.click-- == 0 ? 0.5F : 0.0F;
    *static_cast<float*>(self.ports[2]) = instrumentLate;
}

/// As large as what real plug-ins allocate for themselves.
struct Unset {
    std::array<void*, 3> ports;
    std::array<float, 4000> values;
};

void runUnset(LV2_Handle handle, std::uint32_t frames) {
    const Unset& self = *static_cast<Unset*>(handle);
    for (std::uint32_t f = 0; f < frames; ++f)
        static_cast<float*>(self.ports[1])[f] = self.values[f % self.values.size()];
}

LV2_Handle make(const LV2_Descriptor*, double, const char*, const LV2_Feature* const*) { return new Late; }
void connect(LV2_Handle handle, std::uint32_t port, void* data) {
    static_cast<Late*>(handle)->ports[port] = data;
}
void unmake(LV2_Handle handle) { delete static_cast<Late*>(handle); }

const std::array<LV2_Descriptor, 3> descriptors = {
    LV2_Descriptor{"urn:cobbleway:test:late-effect", make, connect, nullptr, runEffect, nullptr, unmake,
                   nullptr},
    LV2_Descriptor{"urn:cobbleway:test:late-instrument", make, connect, nullptr, runInstrument, nullptr,
                   unmake, nullptr},
    LV2_Descriptor{"urn:cobbleway:test:unset",
                   [](const LV2_Descriptor*, double, const char*, const LV2_Feature* const*) -> LV2_Handle {
                       return new Unset;
                   },
                   [](LV2_Handle handle, std::uint32_t port, void* data) {
                       static_cast<Unset*>(handle)->ports[port] = data;
                   },
                   nullptr, runUnset, nullptr, [](LV2_Handle handle) { delete static_cast<Unset*>(handle); },
                   nullptr}};

} // namespace

extern "C" LV2_SYMBOL_EXPORT const LV2_Descriptor* lv2_descriptor(uint32_t index) {
    return index < descriptors.size() ? &descriptors[index] : nullptr;
}
