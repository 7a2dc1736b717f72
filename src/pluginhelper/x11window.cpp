#include "pluginhelper/x11window.h"

#include "sound/urids.h"

#include <X11/Xatom.h>
#include <X11/Xlib.h>
#include <X11/Xutil.h>
#include <X11/keysym.h>
#include <algorithm>
#include <array>
#include <cstring>
#include <dlfcn.h>
#include <lv2/atom/atom.h>
#include <lv2/data-access/data-access.h>
#include <lv2/instance-access/instance-access.h>
#include <lv2/options/options.h>
#include <lv2/parameters/parameters.h>
#include <lv2/ui/ui.h>
#include <lv2/urid/urid.h>
#include <vector>

namespace cobbleway {
namespace {

/// Errors of the display are the plug-in's, and no reason to end.
int passOver(Display*, XErrorEvent*) { return 0; }

/// Points to a pixel: what the desktop says of its letters, 96 a step of 1.
float scaleOf(Display* display) {
    const char* said = XGetDefault(display, "Xft", "dpi");
    const float dpi = said ? std::strtof(said, nullptr) : 96;
    return std::clamp(dpi / 96, 1.0F, 4.0F);
}

/// The frame on the desktop that a plug-in's own window lies in.
class Frame {
  public:
    Frame(Display* display, const std::string& title) : m_display(display) {
        XSetErrorHandler(passOver);
        const int screen = DefaultScreen(display);
        m_window = XCreateSimpleWindow(display, RootWindow(display, screen), 0, 0, 400, 300, 0, 0,
                                       BlackPixel(display, screen));
        XSelectInput(display, m_window, StructureNotifyMask | SubstructureNotifyMask | KeyPressMask);
        m_closing = XInternAtom(display, "WM_DELETE_WINDOW", False);
        XSetWMProtocols(display, m_window, &m_closing, 1);
        const Atom name = XInternAtom(display, "_NET_WM_NAME", False),
                   utf8 = XInternAtom(display, "UTF8_STRING", False);
        XStoreName(display, m_window, title.c_str());
        XChangeProperty(display, m_window, name, utf8, 8, PropModeReplace,
                        reinterpret_cast<const unsigned char*>(title.data()), static_cast<int>(title.size()));
        std::array<char, 10> kind{"cobbleway"};
        XClassHint hint{kind.data(), kind.data()};
        XSetClassHint(display, m_window, &hint);
    }
    ~Frame() {
        XDestroyWindow(m_display, m_window);
        XSync(m_display, True);
    }
    Frame(const Frame&) = delete;
    Frame& operator=(const Frame&) = delete;

    [[nodiscard]] Window window() const { return m_window; }
    void show() {
        XMapRaised(m_display, m_window);
        XFlush(m_display);
    }
    void resize(int width, int height, bool fixed) {
        if (width <= 0 || height <= 0) return;
        if (fixed) {
            XSizeHints hints{};
            hints.flags = PMinSize | PMaxSize;
            hints.min_width = hints.max_width = width;
            hints.min_height = hints.max_height = height;
            XSetWMNormalHints(m_display, m_window, &hints);
        }
        XResizeWindow(m_display, m_window, static_cast<unsigned>(width), static_cast<unsigned>(height));
        XFlush(m_display);
    }
    [[nodiscard]] bool isClosing(const XEvent& event) const {
        return event.type == ClientMessage && static_cast<Atom>(event.xclient.data.l[0]) == m_closing;
    }

  private:
    Display* m_display;
    Window m_window = 0;
    Atom m_closing = 0;
};

struct CloseDisplay {
    void operator()(Display* display) const { XCloseDisplay(display); }
};
struct CloseLibrary {
    void operator()(void* library) const { dlclose(library); }
};

class X11Window final : public PluginWindow {
  public:
    X11Window(std::unique_ptr<Display, CloseDisplay> display, const WindowPlace& place, WindowHost& host,
              const std::string& title)
        : m_display(std::move(display)), m_place(place), m_host(host), m_frame(m_display.get(), title),
          m_scale(scaleOf(m_display.get())), m_rate(static_cast<float>(host.rate())) {}
    ~X11Window() override {
        if (m_handle) m_face->cleanup(m_handle);
    }

    /// False when it has no window after all.
    bool open() {
        m_library.reset(dlopen(m_place.library.c_str(), RTLD_NOW | RTLD_LOCAL));
        const auto faces =
            m_library ? reinterpret_cast<LV2UI_DescriptorFunction>(dlsym(m_library.get(), "lv2ui_descriptor"))
                      : nullptr;
        for (std::uint32_t i = 0; faces && !m_face; ++i) {
            const LV2UI_Descriptor* face = faces(i);
            if (!face) return false;
            if (m_place.uri == face->URI) m_face = face;
        }
        if (!m_face) return false;
        makeFeatures();
        LV2UI_Widget widget = nullptr;
        const std::string bundle = m_place.bundle.string();
        m_handle = m_face->instantiate(m_face, m_place.plugin.c_str(), bundle.c_str(), write, this, &widget,
                                       m_featureList.data());
        if (!m_handle) return false;
        m_inner = reinterpret_cast<Window>(widget);
        m_idle = static_cast<const LV2UI_Idle_Interface*>(extension(LV2_UI__idleInterface));
        m_sizes = static_cast<const LV2UI_Resize*>(extension(LV2_UI__resize));
        fitFrame();
        m_frame.show();
        return idle();
    }

    bool idle() override {
        bool open = true;
        while (XPending(m_display.get()) > 0) {
            XEvent event;
            XNextEvent(m_display.get(), &event);
            if (m_frame.isClosing(event)) open = false;
            if (event.type == ConfigureNotify) takeSize(event.xconfigure);
            if (event.type == KeyPress) takeKey(event.xkey);
        }
        m_host.tellNews(
            [&](std::uint32_t port, float value) {
                if (m_face->port_event) m_face->port_event(m_handle, port, sizeof value, 0, &value);
            },
            [&](std::uint32_t port, const void* atom, std::uint32_t size) {
                if (m_face->port_event)
                    m_face->port_event(m_handle, port, size, uridOf(LV2_ATOM__eventTransfer), atom);
            });
        if (m_idle && m_idle->idle && m_idle->idle(m_handle) != 0) open = false;
        return open;
    }

    void raise() override { m_frame.show(); }

  private:
    const void* extension(const char* uri) const {
        return m_face->extension_data ? m_face->extension_data(uri) : nullptr;
    }

    static void write(LV2UI_Controller self, std::uint32_t port, std::uint32_t size, std::uint32_t protocol,
                      const void* bytes) {
        auto& window = *static_cast<X11Window*>(self);
        if (protocol == 0 && size == sizeof(float)) {
            float value = 0;
            std::memcpy(&value, bytes, sizeof value);
            window.m_host.turn(port, value);
        } else if (protocol == uridOf(LV2_ATOM__eventTransfer)) {
            window.m_host.send(port, bytes, size);
        }
    }

    void makeFeatures() {
        m_resize = {this, [](LV2UI_Feature_Handle self, int width, int height) {
                        auto& window = *static_cast<X11Window*>(self);
                        window.m_frame.resize(width, height, window.m_place.fixedSize);
                        return 0;
                    }};
        m_portMap = {this, [](LV2UI_Feature_Handle self, const char* symbol) {
                         return static_cast<X11Window*>(self)->m_host.portNamed(symbol);
                     }};
        // A control is one step to undo until the person pauses, so that nothing is to be done here.
        m_touch = {this, [](LV2UI_Feature_Handle, std::uint32_t, bool) {}};
        m_data.data_access = m_host.extensions();
        const LV2_URID fine = uridOf(LV2_ATOM__Float);
        m_options = {
            {{LV2_OPTIONS_INSTANCE, 0, uridOf(LV2_PARAMETERS__sampleRate), sizeof m_rate, fine, &m_rate},
             {LV2_OPTIONS_INSTANCE, 0, uridOf(LV2_UI__updateRate), sizeof m_updates, fine, &m_updates},
             {LV2_OPTIONS_INSTANCE, 0, uridOf(LV2_UI__scaleFactor), sizeof m_scale, fine, &m_scale},
             {LV2_OPTIONS_INSTANCE, 0, 0, 0, 0, nullptr}}};
        m_features = {{LV2_UI__parent, reinterpret_cast<void*>(m_frame.window())},
                      {LV2_UI__resize, &m_resize},
                      {LV2_UI__portMap, &m_portMap},
                      {LV2_UI__touch, &m_touch},
                      {LV2_UI__idleInterface, nullptr},
                      {LV2_UI__noUserResize, nullptr},
                      {LV2_URID__map, uridMap()},
                      {LV2_URID__unmap, uridUnmap()},
                      {LV2_OPTIONS__options, m_options.data()},
                      {LV2_INSTANCE_ACCESS_URI, m_host.instance()}};
        if (m_data.data_access) m_features.push_back({LV2_DATA_ACCESS_URI, &m_data});
        for (const LV2_Feature& feature : m_features) m_featureList.push_back(&feature);
        m_featureList.push_back(nullptr);
    }

    /// As large as what lies in it, unless it asks for another size.
    void fitFrame() {
        XWindowAttributes is{};
        if (m_inner == 0) m_inner = onlyChild();
        if (m_inner == 0 || XGetWindowAttributes(m_display.get(), m_inner, &is) == 0) return;
        m_frame.resize(is.width, is.height, m_place.fixedSize);
    }

    Window onlyChild() {
        Window root = 0, parent = 0, *children = nullptr;
        unsigned count = 0;
        XQueryTree(m_display.get(), m_frame.window(), &root, &parent, &children, &count);
        const Window first = count > 0 ? children[0] : 0;
        if (children) XFree(children);
        return first;
    }

    /// What lies in the frame follows it, and the frame what lies in it.
    void takeSize(const XConfigureEvent& is) {
        if (is.window == m_inner && is.event == m_frame.window()) {
            if (is.width != m_width || is.height != m_height)
                m_frame.resize(is.width, is.height, m_place.fixedSize);
        } else if (is.window == m_frame.window()) {
            if (is.width == m_width && is.height == m_height) return;
            m_width = is.width;
            m_height = is.height;
            if (m_inner != 0 && !m_place.fixedSize)
                XResizeWindow(m_display.get(), m_inner, static_cast<unsigned>(m_width),
                              static_cast<unsigned>(m_height));
            if (m_sizes && m_sizes->ui_resize) m_sizes->ui_resize(m_handle, m_width, m_height);
        }
    }

    /// Keys that the window does not take itself.
    void takeKey(XKeyEvent& event) {
        const KeySym key = XLookupKeysym(&event, 0);
        const bool control = (event.state & ControlMask) != 0, shift = (event.state & ShiftMask) != 0;
        if (key == XK_space && !control) m_host.pressed(WindowKey::Play);
        if (key == XK_z && control) m_host.pressed(shift ? WindowKey::Redo : WindowKey::Undo);
    }

    std::unique_ptr<Display, CloseDisplay> m_display;
    WindowPlace m_place;
    WindowHost& m_host;
    std::unique_ptr<void, CloseLibrary> m_library; // before what its code makes
    Frame m_frame;
    Window m_inner = 0; ///< the plug-in's
    int m_width = 0, m_height = 0;
    const LV2UI_Descriptor* m_face = nullptr;
    LV2UI_Handle m_handle = nullptr;
    const LV2UI_Idle_Interface* m_idle = nullptr;
    const LV2UI_Resize* m_sizes = nullptr;
    float m_scale, m_rate, m_updates = 30;
    LV2UI_Resize m_resize{};
    LV2UI_Port_Map m_portMap{};
    LV2UI_Touch m_touch{};
    LV2_Extension_Data_Feature m_data{};
    std::array<LV2_Options_Option, 4> m_options{};
    std::vector<LV2_Feature> m_features;
    std::vector<const LV2_Feature*> m_featureList;
};

} // namespace

bool hasDisplay() {
    const std::unique_ptr<Display, CloseDisplay> display(XOpenDisplay(nullptr));
    return display != nullptr;
}

Result<std::unique_ptr<PluginWindow>> openX11Window(const WindowPlace& place, WindowHost& host,
                                                    const std::string& title) {
    std::unique_ptr<Display, CloseDisplay> display(XOpenDisplay(nullptr));
    if (!display) return Error{{"error.no-display"}, {}, {"now.plugin-window"}};
    auto window = std::make_unique<X11Window>(std::move(display), place, host, title);
    if (!window->open()) return Error{{"error.plugin-window"}, {}, {"now.plugin-window"}};
    return std::unique_ptr<PluginWindow>(std::move(window));
}

} // namespace cobbleway
