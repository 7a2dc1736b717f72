/// A plug-in's own window (LV2 UI, lv2plug.in/ns/extensions/ui), in the process of the plug-in.
#pragma once
#include "midi/result.h"

#include <cstdint>
#include <filesystem>
#include <functional>
#include <memory>
#include <string>

namespace cobbleway {

/// Where a window's code lies.
struct WindowPlace {
    std::string plugin, uri; ///< of the plug-in, of its window
    std::filesystem::path library, bundle;
    bool fixedSize = false; ///< the person cannot change its size
};

/// What a window can say to Cobbleway when it does not take a key itself.
enum class WindowKey : std::uint8_t { Play, Undo, Redo };

/// The plug-in, as its window sees it. For the thread of the window.
class WindowHost {
  public:
    WindowHost() = default;
    WindowHost(const WindowHost&) = delete;
    WindowHost& operator=(const WindowHost&) = delete;
    virtual ~WindowHost() = default;
    /// The person has turned a control; `port` is a control port, 0-based.
    virtual void turn(std::uint32_t port, float value) = 0;
    /// An LV2 atom, whole, for a port of events.
    virtual void send(std::uint32_t port, const void* atom, std::uint32_t size) = 0;
    /// A port by its symbol, 0-based; UINT32_MAX when there is none.
    [[nodiscard]] virtual std::uint32_t portNamed(const std::string& symbol) const = 0;
    /// Tells what is another than it was told last: `value` of a control port, or else an `atom`.
    virtual void
    tellNews(const std::function<void(std::uint32_t port, float value)>& value,
             const std::function<void(std::uint32_t port, const void* atom, std::uint32_t size)>& atom) = 0;
    virtual void pressed(WindowKey key) = 0;
    [[nodiscard]] virtual void* instance() const = 0; ///< LV2_Handle
    using Extensions = const void* (*)(const char* uri);
    [[nodiscard]] virtual Extensions extensions() const = 0; ///< the plug-in's own
    [[nodiscard]] virtual int rate() const = 0;              ///< Hz
};

/// An open window. For the thread that loaded the plug-in.
class PluginWindow {
  public:
    PluginWindow() = default;
    PluginWindow(const PluginWindow&) = delete;
    PluginWindow& operator=(const PluginWindow&) = delete;
    virtual ~PluginWindow() = default;
    /// Does what is to be done; some thirty times a second. False when it has been closed.
    virtual bool idle() = 0;
    virtual void raise() = 0; ///< before the others
};

/// Opens a window with that title.
using OpenWindow = std::function<Result<std::unique_ptr<PluginWindow>>(
    const WindowPlace& place, WindowHost& host, const std::string& title)>;

} // namespace cobbleway
