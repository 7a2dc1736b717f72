/// The process of a plug-in: see RemotePlugin.
#include "sound/denormals.h"
#include "sound/plugininner.h"
#include "sound/pluginwire.h"
#include "sound/remoteplugin.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstring>
#include <lv2/atom/util.h>
#include <lv2/patch/patch.h>
#include <sched.h>
#include <thread>
#include <unistd.h>

namespace cobbleway {
namespace {

/// The property and the value of a patch:Set message; null for another message, and for a value that is cut.
struct SetByWindow {
    const LV2_Atom* property = nullptr;
    const LV2_Atom* value = nullptr;
    SetByWindow(const void* atom, std::uint32_t size) {
        static const LV2_URID object = uridOf(LV2_ATOM__Object), set = uridOf(LV2_PATCH__Set),
                              propertyKey = uridOf(LV2_PATCH__property), valueKey = uridOf(LV2_PATCH__value),
                              urid = uridOf(LV2_ATOM__URID);
        const auto* const whole = static_cast<const LV2_Atom_Object*>(atom);
        if (size < sizeof(LV2_Atom_Object) || whole->atom.size + sizeof(LV2_Atom) > size ||
            whole->atom.type != object || whole->body.otype != set)
            return;
        lv2_atom_object_get(whole, propertyKey, &property, valueKey, &value, 0);
        if (!property || property->type != urid || property->size != sizeof(LV2_URID)) value = nullptr;
    }
    [[nodiscard]] std::string key() const {
        return uriOf(reinterpret_cast<const LV2_Atom_URID*>(property)->body);
    }
};

/// Runs a plug-in each time that the other side asks for it, and is what its window sees of it.
class Server final : public WindowHost {
  public:
    Server(LoadedPlugin& unit, UnitChannel& channel, std::vector<std::string> controls,
           const PluginOrder& order)
        : m_unit(unit), m_channel(channel), m_controls(std::move(controls)), m_told(m_controls.size()),
          m_files(order.settings.files), m_rate(order.rate), m_shown(unit.portCount()) {
        for (std::size_t i = 0; i < m_controls.size(); ++i) m_told[i] = m_channel.wanted[i].load();
        m_thread = std::jthread([this](const std::stop_token& stop) { serve(stop); });
    }
    ~Server() override {
        m_thread.request_stop();
        m_channel.asked.wake();
    }
    Server(const Server&) = delete;
    Server& operator=(const Server&) = delete;
    /// Not while it runs.
    PluginSettings settings() {
        const std::lock_guard hold(m_running);
        hearWindow();
        PluginSettings settings = m_unit.settings();
        settings.files = m_files;
        return settings;
    }

    /// From now on, or no more, somebody looks.
    void setWatched(bool watched) {
        m_unit.listen(watched);
        std::fill(m_shown.begin(), m_shown.end(), std::numeric_limits<float>::quiet_NaN());
        m_channel.windowOpen = watched;
    }
    void turn(std::uint32_t port, float value) override {
        const auto symbol = m_unit.controlAt(port);
        if (!symbol || std::isnan(value)) return;
        m_shown[port] = value; // it knows
        turnNamed(*symbol, value);
    }
    void send(std::uint32_t port, const void* atom, std::uint32_t size) override {
        m_unit.send(port, atom, size);
        m_unheard = true;
        const SetByWindow set(atom, size);
        if (!set.value) return;
        if (set.value->type == uridOf(LV2_ATOM__Path)) {
            const auto* const text = reinterpret_cast<const char*>(set.value + 1);
            m_files[set.key()] = std::string(text, strnlen(text, set.value->size));
        }
        if (const auto number = numberIn(set.value); number && turnNamed(set.key(), *number)) return;
        m_channel.changed.fetch_add(1);
    }
    [[nodiscard]] std::uint32_t portNamed(const std::string& symbol) const override {
        return m_unit.portNamed(symbol);
    }
    void tellNews(const std::function<void(std::uint32_t, float)>& value,
                  const std::function<void(std::uint32_t, const void*, std::uint32_t)>& atom) override {
        takeControlsWhenStill();
        for (std::uint32_t port = 0; port < m_shown.size(); ++port)
            if (const auto now = m_unit.valueAt(port); now && m_shown[port] != *now) {
                m_shown[port] = *now;
                value(port, *now);
            }
        std::uint32_t port = 0;
        while (m_unit.takeMessage(port, m_message))
            atom(port, m_message.data(), static_cast<std::uint32_t>(m_message.size()));
    }
    void pressed(WindowKey key) override { m_channel.keys[static_cast<std::size_t>(key)].fetch_add(1); }
    [[nodiscard]] void* instance() const override { return m_unit.handle(); }
    [[nodiscard]] Extensions extensions() const override { return m_unit.extensions(); }
    [[nodiscard]] int rate() const override { return m_rate; }

  private:
    static std::optional<float> numberIn(const LV2_Atom* atom) {
        const auto as = [&](auto kind) -> std::optional<float> {
            if (atom->size < sizeof kind) return std::nullopt;
            std::memcpy(&kind, atom + 1, sizeof kind);
            return static_cast<float>(kind);
        };
        if (atom->type == uridOf(LV2_ATOM__Float)) return as(float{});
        if (atom->type == uridOf(LV2_ATOM__Double)) return as(double{});
        if (atom->type == uridOf(LV2_ATOM__Long)) return as(std::int64_t{});
        if (atom->type == uridOf(LV2_ATOM__Int) || atom->type == uridOf(LV2_ATOM__Bool))
            return as(std::int32_t{});
        return std::nullopt;
    }

    /// False when there is no such control.
    bool turnNamed(const std::string& symbol, float value) {
        const auto at = std::find(m_controls.begin(), m_controls.end(), symbol);
        if (at == m_controls.end()) return false;
        m_channel.wanted[static_cast<std::size_t>(at - m_controls.begin())].store(value);
        m_channel.turned.fetch_add(1);
        return true;
    }

    /// A plug-in takes messages when it runs; while nothing plays it runs for them alone.
    void hearWindow() {
        if (!m_unheard.exchange(false)) return;
        std::array<float, blockFrames> left{}, right{};
        takeControls();
        m_unit.run(left.data(), right.data(), blockFrames);
    }

    /// What was set from outside is shown also while nothing plays.
    void takeControlsWhenStill() {
        const std::unique_lock hold(m_running, std::try_to_lock);
        if (hold.owns_lock()) takeControls();
    }

    void serve(const std::stop_token& stop) {
        const NoDenormals quick; // as where it would run otherwise
        std::uint32_t seen = 0;
        while (!stop.stop_requested()) {
            m_channel.asked.wait(seen);
            const std::uint32_t asked = m_channel.asked.now();
            if (asked == seen) continue;
            const std::lock_guard hold(m_running);
            followCaller();
            run();
            seen = asked;
            m_channel.done.set(asked);
        }
    }

    /// Runs on the processor of the thread that waits for it: to wake another takes longer than many plug-ins
    /// do, and nothing is lost, since one of the two always waits.
    void followCaller() {
        constexpr int fewTimes = 8; // threads move now and then
        const int wanted = m_channel.processor;
        m_elsewhere = wanted == m_processor || wanted < 0 || wanted >= CPU_SETSIZE ? 0 : m_elsewhere + 1;
        if (m_elsewhere < fewTimes) return;
        cpu_set_t one;
        CPU_ZERO(&one);
        CPU_SET(static_cast<unsigned>(wanted), &one);
        sched_setaffinity(0, sizeof one, &one); // of this thread alone
        m_processor = wanted;
        m_elsewhere = 0;
    }

    void takeControls() {
        for (std::size_t i = 0; i < m_controls.size(); ++i) {
            const float wanted = m_channel.wanted[i].load(std::memory_order_relaxed);
            if (std::bit_cast<std::uint32_t>(wanted) == std::bit_cast<std::uint32_t>(m_told[i]))
                continue; // also what is no number
            m_told[i] = wanted;
            m_unit.setControl(m_controls[i], wanted);
        }
    }

    void run() {
        m_unheard = false;
        takeControls();
        const auto times = std::min<std::size_t>(m_channel.timeCount, UnitChannel::mostTimes);
        for (std::size_t i = 0; i < times; ++i)
            m_unit.setTime(m_channel.times[i].time, m_channel.times[i].offset);
        const auto events = std::min<std::size_t>(m_channel.eventCount, UnitChannel::mostEvents);
        for (std::size_t i = 0; i < events; ++i) {
            const UnitChannel::Event& event = m_channel.events[i];
            m_unit.event(event.status, event.data1, event.data2);
        }
        const auto frames = std::min<std::uint32_t>(m_channel.frames, maxFrames);
        if (!m_unit.isEffect()) {
            std::fill_n(m_channel.left.begin(), frames, 0.0F);
            std::fill_n(m_channel.right.begin(), frames, 0.0F);
        }
        m_unit.run(m_channel.left.data(), m_channel.right.data(), static_cast<int>(frames));
        m_channel.latency.store(m_unit.latency(), std::memory_order_relaxed);
        m_channel.fault.store(static_cast<std::uint8_t>(m_unit.fault()), std::memory_order_relaxed);
    }

    LoadedPlugin& m_unit;
    UnitChannel& m_channel;
    std::vector<std::string> m_controls;
    std::vector<float> m_told; ///< to the controls
    std::map<std::string, std::string> m_files;
    int m_rate;
    std::vector<float> m_shown; ///< in the window, by port; no number: nothing
    std::vector<std::uint8_t> m_message;
    std::atomic<bool> m_unheard{false}; ///< its window has sent a message, and it has not run since
    int m_processor = -1;               ///< that it runs on; −1: on any
    int m_elsewhere = 0;                ///< so many times in a row it was asked for from another
    std::mutex m_running;
    std::jthread m_thread; // last: it ends first
};

/// Tells the other side what was loaded, or why not; the names of its controls.
std::optional<std::vector<std::string>> answer(int socket, const LoadedPlugin* unit, const Error& refused) {
    WireMessage message;
    message.put(unit ? std::string() : asLine(refused.what));
    message.put(static_cast<std::uint32_t>(getpid()));
    message.put(static_cast<std::uint32_t>(unit && unit->isEffect()));
    auto starts = unit ? unit->starts() : std::vector<std::pair<std::string, float>>{};
    starts.resize(std::min(starts.size(), UnitChannel::mostControls));
    message.put(static_cast<std::uint32_t>(starts.size()));
    std::vector<std::string> names;
    for (const auto& [symbol, value] : starts) {
        message.put(symbol);
        message.put(value);
        names.push_back(symbol);
    }
    if (!sendMessage(socket, message)) return std::nullopt;
    return names;
}

/// As it will be set by the other side, so that nothing is told twice.
void takeStarts(const LoadedPlugin& unit, const PluginSettings& settings, UnitChannel& channel) {
    const auto starts = unit.starts();
    for (std::size_t i = 0; i < std::min(starts.size(), UnitChannel::mostControls); ++i) {
        const auto at = settings.controls.find(starts[i].first);
        channel.wanted[i].store(at == settings.controls.end() ? starts[i].second : at->second);
    }
}

} // namespace

namespace {

/// Answers what the other side asks, and keeps the window going while it is open.
class Attendant {
  public:
    Attendant(PluginWorld& world, const PluginOrder& order, Server& server, const ServeTools& tools)
        : m_world(world), m_order(order), m_server(server), m_tools(tools) {}

    /// Until the other side is gone.
    void serve(int socket) {
        constexpr double pause = 1.0 / 30; // seconds
        while (true) {
            if (m_window && !hasInput(socket, pause)) {
                if (!m_window->idle()) close();
                continue;
            }
            auto message = receiveMessage(socket, -1);
            if (!message || !sendMessage(socket, answerTo(*message))) return;
        }
    }

  private:
    WireMessage answerTo(WireMessage& message) {
        WireMessage reply;
        const std::string what = message.text();
        if (what == "settings") reply.put(m_server.settings());
        if (what == "window") reply.put(open(message.text()));
        if (what == "close") close();
        return reply;
    }

    /// Why it cannot be opened; empty when it is.
    std::string open(const std::string& title) {
        if (m_window) {
            m_window->raise();
            return {};
        }
        const auto place = m_world.window(m_order.uri);
        if (!place || !m_tools.openWindow) return asLine({"error.plugin-window"});
        m_server.setWatched(true);
        auto opened = m_tools.openWindow(*place, m_server, title);
        if (!opened) {
            m_server.setWatched(false);
            return asLine(opened.error().what);
        }
        m_window = std::move(opened.value());
        return {};
    }

    void close() {
        m_window.reset();
        m_server.setWatched(false);
    }

    PluginWorld& m_world;
    const PluginOrder& m_order;
    Server& m_server;
    const ServeTools& m_tools;
    std::unique_ptr<PluginWindow> m_window;
};

} // namespace

void servePlugin(PluginWorld& world, int memory, int socket, const ServeTools& tools) {
    UnitChannel* const channel = UnitChannel::map(memory);
    auto wanted = channel ? receiveMessage(socket, -1) : std::nullopt;
    if (!wanted) return;
    PluginOrder order{wanted->text(), wanted->settings(), static_cast<int>(wanted->number()),
                      wanted->number() != 0};
    if (tools.prepare) tools.prepare(order);
    const auto loaded = world.load(order.uri, order.settings, order.rate, order.offline);
    auto* const unit = loaded ? static_cast<LoadedPlugin*>(loaded.value().get()) : nullptr;
    if (unit) {
        takeStarts(*unit, order.settings, *channel);
        channel->latency = unit->latency();
    }
    const auto names = answer(socket, unit, loaded ? Error{} : loaded.error());
    if (!unit || !names) return;
    Server server(*unit, *channel, *names, order);
    Attendant(world, order, server, tools).serve(socket);
    // The other side is gone. What hangs now, hangs in the plug-in.
    constexpr unsigned patience = 3; // seconds
    alarm(patience);
}

} // namespace cobbleway
