#include "app/xscreen.h"

#include <QProcess>
#include <X11/Xlib.h>
#include <X11/Xutil.h>
#include <X11/keysym.h>
#include <vector>

struct XScreen::Inner {
    QProcess server;
    Display* display = nullptr;
};

XScreen::XScreen() : m_inner(std::make_unique<Inner>()) {
    m_inner->server.start(QStringLiteral("Xvfb"),
                          {QStringLiteral("-displayfd"), QStringLiteral("1"), QStringLiteral("-screen"),
                           QStringLiteral("0"), QStringLiteral("1280x800x24"), QStringLiteral("-nolisten"),
                           QStringLiteral("tcp")});
    constexpr int longest = 30000; // milliseconds
    if (!m_inner->server.waitForReadyRead(longest)) return;
    qputenv("DISPLAY", ":" + m_inner->server.readLine().trimmed());
    qunsetenv("XAUTHORITY");
    m_inner->display = XOpenDisplay(nullptr);
    XSetErrorHandler([](Display*, XErrorEvent*) { return 0; }); // windows go while they are looked at
}

XScreen::~XScreen() {
    if (m_inner->display) XCloseDisplay(m_inner->display);
    m_inner->server.kill();
    m_inner->server.waitForFinished();
}

bool XScreen::ok() const { return m_inner->display != nullptr; }

namespace {

std::vector<Window> childrenOf(Display* display, Window window) {
    Window root = 0, parent = 0, *children = nullptr;
    unsigned count = 0;
    if (XQueryTree(display, window, &root, &parent, &children, &count) == 0) return {};
    std::vector<Window> all(children, children + count);
    if (children) XFree(children);
    return all;
}

} // namespace

std::string XScreen::titleOf(unsigned long window) const {
    char* name = nullptr;
    XTextProperty said{};
    const Atom wanted = XInternAtom(m_inner->display, "_NET_WM_NAME", False);
    if (XGetTextProperty(m_inner->display, window, &said, wanted) != 0 && said.value) {
        std::string title(reinterpret_cast<const char*>(said.value), said.nitems);
        XFree(said.value);
        return title;
    }
    std::string title;
    if (XFetchName(m_inner->display, window, &name) != 0 && name) title = name;
    if (name) XFree(name);
    return title;
}

unsigned long XScreen::titled(const std::string& title) const {
    for (const Window window : childrenOf(m_inner->display, DefaultRootWindow(m_inner->display)))
        if (titleOf(window) == title) return window;
    return 0;
}

unsigned long XScreen::within(unsigned long window) const {
    const auto children = childrenOf(m_inner->display, window);
    return children.empty() ? 0 : children.front();
}

int XScreen::widthOf(unsigned long window) const {
    XWindowAttributes is{};
    return XGetWindowAttributes(m_inner->display, window, &is) != 0 ? is.width : 0;
}

void XScreen::press(unsigned long window, int button, int x) const {
    XEvent event{};
    event.xbutton.type = ButtonPress;
    event.xbutton.window = window;
    event.xbutton.x = x;
    event.xbutton.y = 10;
    event.xbutton.button = static_cast<unsigned>(button);
    XSendEvent(m_inner->display, window, True, ButtonPressMask, &event);
    XFlush(m_inner->display);
}

void XScreen::type(unsigned long window, unsigned long key, bool control) const {
    XEvent event{};
    event.xkey.type = KeyPress;
    event.xkey.window = window;
    event.xkey.keycode = XKeysymToKeycode(m_inner->display, key);
    event.xkey.state = control ? ControlMask : 0;
    XSendEvent(m_inner->display, window, True, KeyPressMask, &event);
    XFlush(m_inner->display);
}

void XScreen::close(unsigned long window) const {
    XEvent event{};
    event.xclient.type = ClientMessage;
    event.xclient.window = window;
    event.xclient.message_type = XInternAtom(m_inner->display, "WM_PROTOCOLS", False);
    event.xclient.format = 32;
    event.xclient.data.l[0] = static_cast<long>(XInternAtom(m_inner->display, "WM_DELETE_WINDOW", False));
    XSendEvent(m_inner->display, window, False, NoEventMask, &event);
    XFlush(m_inner->display);
}
