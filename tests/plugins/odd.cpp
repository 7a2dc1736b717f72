/// LV2 plug-ins that a host must bear with, for tests. Late ones, which say so: an effect that gives its
/// input back, and an instrument that gives one click a note. An instrument that plays memory it never set.
/// One with sound in and four channels out; and one that plays a file it is given by a message, and prints.
#include <algorithm>
#include <array>
#include <cstdint>
#include <cstdio>
#include <cstring>
#include <lv2/atom/util.h>
#include <lv2/core/lv2.h>
#include <lv2/midi/midi.h>
#include <lv2/patch/patch.h>
#include <lv2/urid/urid.h>

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

/// While a note sounds, channel n gives n / 10 and what comes in.
struct Many {
    std::array<void*, 6> ports{};
    bool sounds = false;
};

void runMany(LV2_Handle handle, std::uint32_t frames) {
    Many& self = *static_cast<Many*>(handle);
    LV2_ATOM_SEQUENCE_FOREACH(static_cast<const LV2_Atom_Sequence*>(self.ports[0]), event) {
        const auto* message = reinterpret_cast<const std::uint8_t*>(event + 1);
        if ((message[0] & 0xF0) == 0x90) self.sounds = message[2] > 0;
        if ((message[0] & 0xF0) == 0x80) self.sounds = false;
    }
    const auto* in = static_cast<const float*>(self.ports[1]);
    for (std::size_t out = 2; out < 6; ++out)
        for (std::uint32_t f = 0; f < frames; ++f)
            static_cast<float*>(self.ports[out])[f] = in[f] + (self.sounds ? 0.1F * float(out - 1) : 0.0F);
}

/// While a note sounds it gives the first byte of its file, a digit, in tenths, times its gain.
struct Filed {
    std::array<void*, 2> ports{};
    LV2_URID_Map* map = nullptr;
    float level = 0, gain = 1;
    bool sounds = false;
    LV2_URID of(const char* uri) const { return map->map(map->handle, uri); }
};

LV2_Handle makeFiled(const LV2_Descriptor*, double, const char*, const LV2_Feature* const* features) {
    auto* made = new Filed;
    for (; *features; ++features)
        if (std::strcmp((*features)->URI, LV2_URID__map) == 0)
            made->map = static_cast<LV2_URID_Map*>((*features)->data);
    std::puts("ok\nok\nok"); // not a verdict
    std::fflush(stdout);
    return made;
}

void take(Filed& self, const LV2_Atom_Object* object) {
    const LV2_Atom *property = nullptr, *value = nullptr;
    lv2_atom_object_get(object, self.of(LV2_PATCH__property), &property, self.of(LV2_PATCH__value), &value,
                        0);
    if (object->body.otype != self.of(LV2_PATCH__Set) || !property || !value ||
        property->type != self.of(LV2_ATOM__URID))
        return;
    const LV2_URID key = reinterpret_cast<const LV2_Atom_URID*>(property)->body;
    if (key == self.of("urn:cobbleway:test:filed#gain") && value->type == self.of(LV2_ATOM__Float))
        self.gain = reinterpret_cast<const LV2_Atom_Float*>(value)->body;
    if (key == self.of("urn:cobbleway:test:filed#file") && value->type == self.of(LV2_ATOM__Path)) {
        self.level = 0;
        if (std::FILE* file = std::fopen(reinterpret_cast<const char*>(value + 1), "rb")) {
            if (const int digit = std::fgetc(file); digit >= '0' && digit <= '9')
                self.level = 0.1F * float(digit - '0');
            std::fclose(file);
        }
    }
}

void runFiled(LV2_Handle handle, std::uint32_t frames) {
    Filed& self = *static_cast<Filed*>(handle);
    LV2_ATOM_SEQUENCE_FOREACH(static_cast<const LV2_Atom_Sequence*>(self.ports[0]), event) {
        if (event->body.type == self.of(LV2_ATOM__Object))
            take(self, reinterpret_cast<const LV2_Atom_Object*>(&event->body));
        if (event->body.type != self.of(LV2_MIDI__MidiEvent)) continue;
        const auto* message = reinterpret_cast<const std::uint8_t*>(event + 1);
        if ((message[0] & 0xF0) == 0x90) self.sounds = message[2] > 0;
        if ((message[0] & 0xF0) == 0x80) self.sounds = false;
    }
    std::fill_n(static_cast<float*>(self.ports[1]), frames, self.sounds ? self.level * self.gain : 0.0F);
}

template <class Plugin> void connectTo(LV2_Handle handle, std::uint32_t port, void* data) {
    static_cast<Plugin*>(handle)->ports[port] = data;
}
template <class Plugin> void endOf(LV2_Handle handle) { delete static_cast<Plugin*>(handle); }

const std::array<LV2_Descriptor, 5> descriptors = {
    LV2_Descriptor{"urn:cobbleway:test:many",
                   [](const LV2_Descriptor*, double, const char*, const LV2_Feature* const*) -> LV2_Handle {
                       return new Many;
                   },
                   connectTo<Many>, nullptr, runMany, nullptr, endOf<Many>, nullptr},
    LV2_Descriptor{"urn:cobbleway:test:filed", makeFiled, connectTo<Filed>, nullptr, runFiled, nullptr,
                   endOf<Filed>, nullptr},
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
