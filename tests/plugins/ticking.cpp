/// An LV2 instrument and an effect that count beats from what they are told of the music's time, for tests:
/// each gives one sample of 1 at the start of a bar, of 0.5 at each other beat, and of −0.25 when it is told
/// something.
#include <algorithm>
#include <cmath>
#include <cstdint>
#include <cstring>
#include <lv2/atom/util.h>
#include <lv2/core/lv2.h>
#include <lv2/time/time.h>
#include <lv2/urid/urid.h>

namespace {

struct Ticking {
    double rate = 48000;
    LV2_URID position = 0, bar = 0, barBeat = 0, perBar = 0, perMinute = 0, speed = 0;
    const LV2_Atom_Sequence* events = nullptr;
    float* out = nullptr;
    double beat = 0;    ///< of the bar, where it is
    double beats = 4;   ///< a bar
    double advance = 0; ///< beats a frame; 0: it stands
};

float numberOf(const LV2_Atom* atom) {
    return atom && atom->size == sizeof(float) ? reinterpret_cast<const LV2_Atom_Float*>(atom)->body : 0;
}

bool take(Ticking& self, const LV2_Atom_Event& event) {
    const auto* object = reinterpret_cast<const LV2_Atom_Object*>(&event.body);
    if (object->body.otype != self.position) return false;
    const LV2_Atom *barBeat = nullptr, *perBar = nullptr, *perMinute = nullptr, *speed = nullptr;
    lv2_atom_object_get(object, self.barBeat, &barBeat, self.perBar, &perBar, self.perMinute, &perMinute,
                        self.speed, &speed, 0);
    self.beat = numberOf(barBeat);
    self.beats = numberOf(perBar);
    self.advance = numberOf(speed) * numberOf(perMinute) / 60 / self.rate;
    return true;
}

void run(LV2_Handle handle, std::uint32_t frames) {
    auto& self = *static_cast<Ticking*>(handle);
    bool told = false;
    std::fill_n(self.out, frames, 0.0F);
    const LV2_Atom_Event* event = lv2_atom_sequence_begin(&self.events->body);
    for (std::uint32_t f = 0; f < frames; ++f) {
        for (; !lv2_atom_sequence_is_end(&self.events->body, self.events->atom.size, event) &&
               event->time.frames <= f;
             event = lv2_atom_sequence_next(event))
            told = take(self, *event) || told;
        if (self.advance == 0) continue;
        const double next = std::ceil(self.beat - 1e-4);
        if (next < self.beat + self.advance - 1e-4)
            self.out[f] = std::fmod(next, self.beats) < 0.5 ? 1 : 0.5F;
        self.beat += self.advance;
    }
    if (told && self.out[1] == 0) self.out[1] = -0.25F;
}

LV2_Handle make(const LV2_Descriptor*, double rate, const char*, const LV2_Feature* const* features) {
    const LV2_URID_Map* map = nullptr;
    for (; *features; ++features)
        if (!std::strcmp((*features)->URI, LV2_URID__map))
            map = static_cast<const LV2_URID_Map*>((*features)->data);
    if (!map) return nullptr;
    const auto urid = [&](const char* uri) { return map->map(map->handle, uri); };
    return new Ticking{rate,
                       urid(LV2_TIME__Position),
                       urid(LV2_TIME__bar),
                       urid(LV2_TIME__barBeat),
                       urid(LV2_TIME__beatsPerBar),
                       urid(LV2_TIME__beatsPerMinute),
                       urid(LV2_TIME__speed)};
}

void connect(LV2_Handle self, std::uint32_t port, void* data) {
    if (port == 0) static_cast<Ticking*>(self)->events = static_cast<const LV2_Atom_Sequence*>(data);
    if (port == 1) static_cast<Ticking*>(self)->out = static_cast<float*>(data);
}

constexpr auto end = [](LV2_Handle self) { delete static_cast<Ticking*>(self); };
const LV2_Descriptor plugins[] = {
    {"urn:cobbleway:test:ticking", make, connect, nullptr, run, nullptr, end, nullptr},
    {"urn:cobbleway:test:ticking-effect", make, connect, nullptr, run, nullptr, end, nullptr}};

} // namespace

extern "C" LV2_SYMBOL_EXPORT const LV2_Descriptor* lv2_descriptor(uint32_t index) {
    return index < 2 ? &plugins[index] : nullptr;
}
