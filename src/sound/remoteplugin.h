/// A plug-in in a process of its own.
#pragma once
#include "sound/pluginunit.h"
#include "sound/unitchannel.h"

#include <array>
#include <atomic>
#include <deque>
#include <functional>
#include <map>
#include <mutex>
#include <string>
#include <vector>

namespace cobbleway {

class PluginWorld;
class WireMessage;

/// How a plug-in is loaded.
struct PluginOrder {
    std::string uri;
    PluginSettings settings;
    int rate = 48000; ///< Hz
    bool offline = false;
};

/// The side that plays. One that has ended, or hangs, is silent (an effect lets through what goes in), its
/// sound fades within a block, and fault() says so; it never comes back.
class RemotePlugin final : public PluginUnit {
  public:
    /// Asks the process at the other end of `socket`, which has `memory` (a UnitChannel) too, to load it.
    /// Both descriptors are the object's from here on.
    static Result<std::unique_ptr<PluginUnit>> load(int memory, int socket, const PluginOrder& order);
    ~RemotePlugin() override;

    void event(std::uint8_t status, std::uint8_t data1, std::uint8_t data2) override;
    void setTime(const MusicTime& time, int offset) override;
    void run(float* left, float* right, int frames) override;
    void setControl(const std::string& symbol, float value) override;
    void setControls(const PluginSettings& settings) override;
    [[nodiscard]] int latency() const override;
    [[nodiscard]] PluginFault fault() const override;
    [[nodiscard]] PluginSettings settings() const override;
    Result<bool> showWindow(const std::string& title) override;
    void closeWindow() override;
    WindowNews windowNews() override;

    /// How long the audio thread waits for one run, in seconds.
    static constexpr double deadline = 0.01;
    /// After so many seconds in which it gives nothing, live, it counts as one that hangs.
    static constexpr double patience = 2;

  private:
    RemotePlugin(UnitChannel* channel, int socket, const PluginOrder& order);
    struct Control {
        std::string symbol;
        float start = 0;            ///< no number: it was never told a value
        std::atomic<float> last{0}; ///< what it was set to last from here, or was seen to have been turned to
        Control(std::string name, float value) : symbol(std::move(name)), start(value), last(value) {}
    };
    bool takeFace(WireMessage& answer); ///< what the process says of it once it is loaded
    [[nodiscard]] bool isIdle() const { return m_channel->done.now() == m_asked; }
    void runPiece(float* left, float* right, int frames);
    bool await(); ///< until it has run; false when it is late or has ended
    void passOver(float* left, float* right, int frames);
    [[nodiscard]] bool hasEnded() const;
    void note(PluginFault found); ///< the worst counts

    UnitChannel* m_channel; ///< mapped
    int m_socket;
    PluginOrder m_order; ///< as it was loaded
    std::deque<Control> m_controls;
    std::map<std::string, std::size_t> m_numbers; ///< of the controls
    bool m_isEffect = false;
    int m_process = 0; ///< its number
    std::uint32_t m_asked = 0;
    std::vector<UnitChannel::Event> m_events;                        ///< of the next run
    std::array<UnitChannel::Time, UnitChannel::mostTimes> m_times{}; ///< the same
    std::uint32_t m_timeCount = 0;
    double m_lateFor = 0;                  ///< seconds of sound that it owes
    float m_lastLeft = 0, m_lastRight = 0; ///< what it gave last
    std::atomic<PluginFault> m_fault{PluginFault::None};
    std::uint32_t m_turned = 0, m_changed = 0; ///< as windowNews() has told them
    std::array<std::uint32_t, 3> m_keys{};     ///< the same
    void set(std::size_t control, float value);
    mutable std::mutex m_asking; ///< the socket; never taken by who runs it
};

/// What the process of a plug-in brings along.
struct ServeTools {
    std::function<void(const PluginOrder&)> prepare; ///< called before any foreign code runs
    OpenWindow openWindow;                           ///< may be empty: then none is opened
};

/// The side of the plug-in: loads what it is asked for by `world` and serves until the other side is gone.
void servePlugin(PluginWorld& world, int memory, int socket, const ServeTools& tools);

} // namespace cobbleway
