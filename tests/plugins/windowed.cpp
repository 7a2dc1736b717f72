/// An LV2 instrument with a window of its own (ui:X11UI), for tests. While a note sounds it gives its level.
/// In the window: button 1 sets the level by where it is pressed; button 2 gives the plug-in a file, which it
/// keeps in its state; button 3 ends the process. The level that the window was told last is its property
/// LEVEL, in per cent.
#include <algorithm>
#include <array>
#include <cmath>
#include <cstdlib>
#include <cstring>
#include <lv2/atom/forge.h>
#include <lv2/atom/util.h>
#include <lv2/core/lv2.h>
#include <lv2/midi/midi.h>
#include <lv2/patch/patch.h>
#include <lv2/state/state.h>
#include <lv2/ui/ui.h>
#include <lv2/urid/urid.h>
#include <string>

#include <X11/Xlib.h> // last: it has macros for common words

namespace {

constexpr const char* fileKey = "urn:cobbleway:test:windowed#file";
constexpr int width = 200, height = 100;

LV2_URID_Map* mapOf(const LV2_Feature* const* features) {
    for (; *features; ++features)
        if (std::strcmp((*features)->URI, LV2_URID__map) == 0)
            return static_cast<LV2_URID_Map*>((*features)->data);
    return nullptr;
}

struct Sounding {
    std::array<void*, 3> ports{}; // events, level, out
    LV2_URID_Map* map = nullptr;
    std::string file;
    bool sounds = false;
    LV2_URID of(const char* uri) const { return map->map(map->handle, uri); }

    void take(const LV2_Atom_Object* object) {
        const LV2_Atom* value = nullptr;
        lv2_atom_object_get(object, of(LV2_PATCH__value), &value, 0);
        if (object->body.otype == of(LV2_PATCH__Set) && value && value->type == of(LV2_ATOM__Path))
            file = reinterpret_cast<const char*>(value + 1);
    }
    void run(std::uint32_t frames) {
        LV2_ATOM_SEQUENCE_FOREACH(static_cast<const LV2_Atom_Sequence*>(ports[0]), event) {
            const auto* message = reinterpret_cast<const std::uint8_t*>(event + 1);
            if (event->body.type == of(LV2_ATOM__Object))
                take(reinterpret_cast<const LV2_Atom_Object*>(&event->body));
            else if ((message[0] & 0xF0) == 0x90)
                sounds = message[2] > 0;
        }
        const float level = sounds ? *static_cast<const float*>(ports[1]) : 0;
        std::fill_n(static_cast<float*>(ports[2]), frames, level);
    }
};

const LV2_State_Interface keeping = {
    [](LV2_Handle handle, LV2_State_Store_Function store, LV2_State_Handle into, std::uint32_t,
       const LV2_Feature* const*) {
        const Sounding& self = *static_cast<Sounding*>(handle);
        if (!self.file.empty())
            store(into, self.of(fileKey), self.file.c_str(), self.file.size() + 1, self.of(LV2_ATOM__String),
                  LV2_STATE_IS_POD | LV2_STATE_IS_PORTABLE);
        return LV2_STATE_SUCCESS;
    },
    [](LV2_Handle handle, LV2_State_Retrieve_Function retrieve, LV2_State_Handle from, std::uint32_t,
       const LV2_Feature* const*) {
        Sounding& self = *static_cast<Sounding*>(handle);
        std::size_t size = 0;
        std::uint32_t type = 0, flags = 0;
        if (const void* kept = retrieve(from, self.of(fileKey), &size, &type, &flags))
            self.file = static_cast<const char*>(kept);
        return LV2_STATE_SUCCESS;
    }};

const LV2_Descriptor plugin = {
    "urn:cobbleway:test:windowed",
    [](const LV2_Descriptor*, double, const char*, const LV2_Feature* const* features) -> LV2_Handle {
        auto* made = new Sounding;
        made->map = mapOf(features);
        return made;
    },
    [](LV2_Handle handle, std::uint32_t port, void* data) {
        static_cast<Sounding*>(handle)->ports[port] = data;
    },
    nullptr,
    [](LV2_Handle handle, std::uint32_t frames) { static_cast<Sounding*>(handle)->run(frames); },
    nullptr,
    [](LV2_Handle handle) { delete static_cast<Sounding*>(handle); },
    [](const char* uri) -> const void* {
        return std::strcmp(uri, LV2_STATE__interface) == 0 ? &keeping : nullptr;
    }};

struct Shown {
    Display* display = XOpenDisplay(nullptr);
    Window window = 0;
    LV2_URID_Map* map = nullptr;
    LV2UI_Write_Function write = nullptr;
    LV2UI_Controller host = nullptr;
    LV2_URID of(const char* uri) const { return map->map(map->handle, uri); }

    void setLevel(float level) const {
        XStoreName(display, window, ("level " + std::to_string(std::lround(level * 100))).c_str());
        XFlush(display);
    }
    void sendFile() const {
        std::array<std::uint8_t, 512> bytes{};
        LV2_Atom_Forge forge;
        lv2_atom_forge_init(&forge, map);
        lv2_atom_forge_set_buffer(&forge, bytes.data(), bytes.size());
        LV2_Atom_Forge_Frame frame;
        lv2_atom_forge_object(&forge, &frame, 0, of(LV2_PATCH__Set));
        lv2_atom_forge_key(&forge, of(LV2_PATCH__property));
        lv2_atom_forge_urid(&forge, of(fileKey));
        lv2_atom_forge_key(&forge, of(LV2_PATCH__value));
        constexpr const char* path = "/srv/boat-bell.wav";
        lv2_atom_forge_path(&forge, path, static_cast<std::uint32_t>(std::strlen(path)));
        lv2_atom_forge_pop(&forge, &frame);
        const auto* atom = reinterpret_cast<const LV2_Atom*>(bytes.data());
        write(host, 0, lv2_atom_total_size(atom), of(LV2_ATOM__eventTransfer), atom);
    }
    void takeEvents() const {
        while (XPending(display) > 0) {
            XEvent event;
            XNextEvent(display, &event);
            if (event.type != ButtonPress) continue;
            const float level = static_cast<float>(event.xbutton.x) / width;
            if (event.xbutton.button == Button1) write(host, 1, sizeof level, 0, &level);
            if (event.xbutton.button == Button2) sendFile();
            if (event.xbutton.button == Button3) std::abort();
        }
    }
};

const LV2UI_Idle_Interface idling = {[](LV2UI_Handle handle) {
    static_cast<Shown*>(handle)->takeEvents();
    return 0;
}};

const LV2UI_Descriptor window = {
    "urn:cobbleway:test:windowed#ui",
    [](const LV2UI_Descriptor*, const char*, const char*, LV2UI_Write_Function write, LV2UI_Controller host,
       LV2UI_Widget* widget, const LV2_Feature* const* features) -> LV2UI_Handle {
        auto* made = new Shown;
        made->map = mapOf(features);
        made->write = write;
        made->host = host;
        Window parent = 0;
        for (; *features; ++features)
            if (std::strcmp((*features)->URI, LV2_UI__parent) == 0)
                parent = reinterpret_cast<Window>((*features)->data);
        made->window = XCreateSimpleWindow(made->display, parent, 0, 0, width, height, 0, 0, 0x2F5F73);
        XSelectInput(made->display, made->window, ButtonPressMask);
        XMapWindow(made->display, made->window);
        XSync(made->display, False);
        *widget = reinterpret_cast<LV2UI_Widget>(made->window);
        return made;
    },
    [](LV2UI_Handle handle) {
        auto* self = static_cast<Shown*>(handle);
        XDestroyWindow(self->display, self->window);
        XCloseDisplay(self->display);
        delete self;
    },
    [](LV2UI_Handle handle, std::uint32_t port, std::uint32_t, std::uint32_t protocol, const void* bytes) {
        float level = 0;
        if (port != 1 || protocol != 0) return;
        std::memcpy(&level, bytes, sizeof level);
        static_cast<Shown*>(handle)->setLevel(level);
    },
    [](const char* uri) -> const void* {
        return std::strcmp(uri, LV2_UI__idleInterface) == 0 ? &idling : nullptr;
    }};

} // namespace

extern "C" LV2_SYMBOL_EXPORT const LV2_Descriptor* lv2_descriptor(uint32_t index) {
    return index == 0 ? &plugin : nullptr;
}
extern "C" LV2_SYMBOL_EXPORT const LV2UI_Descriptor* lv2ui_descriptor(uint32_t index) {
    return index == 0 ? &window : nullptr;
}
