/// A plug-in that runs in this process, as PluginWorld makes it; seen by no one else.
#pragma once
#include "sound/instrument.h"
#include "sound/messagering.h"
#include "sound/pluginworker.h"
#include "sound/pluginworld.h"
#include "sound/urids.h"

#include <array>
#include <atomic>
#include <lilv/lilv.h>
#include <limits>
#include <lv2/atom/atom.h>
#include <lv2/atom/forge.h>
#include <lv2/buf-size/buf-size.h>
#include <lv2/options/options.h>
#include <mutex>
#include <optional>

namespace cobbleway {

/// An owned lilv node.
struct NodePtr {
    LilvNode* node = nullptr;
    explicit NodePtr(LilvNode* owned) : node(owned) {}
    NodePtr(NodePtr&& other) noexcept : node(std::exchange(other.node, nullptr)) {}
    NodePtr(const NodePtr&) = delete;
    NodePtr& operator=(const NodePtr&) = delete;
    NodePtr& operator=(NodePtr&&) = delete;
    ~NodePtr() { lilv_node_free(node); }
    operator const LilvNode*() const { return node; } // NOLINT: it is used as one everywhere
    [[nodiscard]] std::string text() const { return node ? lilv_node_as_string(node) : ""; }
};

/// The library's world. Units keep it as long as they live.
struct LilvHold {
    LilvWorld* world = lilv_world_new();
    std::mutex lock; ///< the library is for one thread at a time; units end on any
    LilvHold() = default;
    LilvHold(const LilvHold&) = delete;
    LilvHold& operator=(const LilvHold&) = delete;
    ~LilvHold() { lilv_world_free(world); }
};

enum class PortUse { Control, ControlOut, AudioIn, AudioOut, Events, EventsOut, Unused };

struct UnitPort {
    PortUse use = PortUse::Unused;
    std::string symbol;
    float normal = 0;             ///< as the plug-in's description says
    float start = 0;              ///< what its preset and state gave it
    std::atomic<float> wanted{0}; ///< set from outside
    std::atomic<float> shown{0};  ///< of one that the plug-in writes: what it wrote last
    float value = 0;              ///< what the plug-in reads or writes
    std::vector<std::uint8_t> events;
    std::vector<float> audio; ///< a block
    // Of a channel of sound out:
    float toLeft = 1, toRight = 1;   ///< what of it goes where
    std::string levelSymbol;         ///< of the first of a pair: the control of their level
    const UnitPort* level = nullptr; ///< whose `wanted` is its level in dB; null: it has none
    float gain = 1;                  ///< as of the last block
};

/// A parameter that is set by messages (LV2 patch).
struct UnitParameter {
    std::string uri;
    LV2_URID key = 0, type = 0; ///< of the property, and of the atom that holds a value of it
    float normal = 0;           ///< as its description says
    bool hasNormal = false;
    std::atomic<float> wanted{0}; ///< set from outside
    float told = 0;               ///< what the plug-in was told last, once wasTold
    bool wasTold = false;
    /// What it is where nobody says; no number where that is not known.
    [[nodiscard]] float start() const { return hasNormal ? normal : std::numeric_limits<float>::quiet_NaN(); }
};

constexpr std::size_t eventBytes = 16384;

/// A plug-in in this process.
class LoadedPlugin final : public PluginUnit {
  public:
    struct Inner;
    explicit LoadedPlugin(std::unique_ptr<Inner> inner);
    ~LoadedPlugin() override;
    void event(std::uint8_t status, std::uint8_t data1, std::uint8_t data2) override;
    void setTime(const MusicTime& time, int offset) override;
    void run(float* left, float* right, int frames) override;
    void setControl(const std::string& symbol, float value) override;
    void setControls(const PluginSettings& settings) override;
    [[nodiscard]] int latency() const override;
    [[nodiscard]] PluginFault fault() const override;
    [[nodiscard]] PluginSettings settings() const override;

    // For its own window, on the thread of the window; the plug-in may be running.
    [[nodiscard]] std::optional<std::string> controlAt(std::uint32_t port) const; ///< its symbol
    [[nodiscard]] std::uint32_t portNamed(const std::string& symbol) const;
    [[nodiscard]] std::size_t portCount() const;
    [[nodiscard]] std::optional<float> valueAt(std::uint32_t port) const; ///< of a control, in or out
    void send(std::uint32_t port, const void* atom, std::uint32_t size);
    /// What it has said on its ports of events since; false when that is all.
    bool takeMessage(std::uint32_t& port, std::vector<std::uint8_t>& atom);
    void listen(bool listens); ///< whether anybody takes them
    [[nodiscard]] void* handle() const;
    [[nodiscard]] WindowHost::Extensions extensions() const;

    [[nodiscard]] bool isEffect() const;
    /// Its controls, and to what setControls() sets those that are not named; no number: to nothing.
    [[nodiscard]] std::vector<std::pair<std::string, float>> starts() const;

  private:
    std::unique_ptr<Inner> m_inner;
};

struct LoadedPlugin::Inner {
    std::shared_ptr<LilvHold> hold;
    const LilvPlugin* plugin = nullptr;
    LilvInstance* instance = nullptr;
    std::vector<std::unique_ptr<UnitPort>> ports;
    std::vector<UnitPort*> audioIn, audioOut, controls; ///< sound in: the main ones alone, two at most
    std::vector<UnitPort*> levels;                      ///< those outputs that have a level
    std::vector<std::unique_ptr<UnitParameter>> parameters;
    bool isEffect = false;
    UnitPort* events = nullptr;   ///< where notes go in
    UnitPort* messages = nullptr; ///< where parameters are set; may be the same
    UnitPort* time = nullptr;     ///< where it asks to be told the music's time
    UnitPort* latency = nullptr;
    std::atomic<int> latencyFrames{0};
    std::atomic<PluginFault> fault{PluginFault::None}; ///< the worst so far; written by the one that runs it
    void note(PluginFault found) {
        if (found > fault.load(std::memory_order_relaxed)) fault.store(found, std::memory_order_relaxed);
    }
    PluginWorker worker;
    LV2_URID midiEvent = 0;
    LV2_Atom_Forge forge{}; ///< of messages
    TimeTeller teller;
    std::vector<std::pair<int, MusicTime>>
        changes; ///< of time, to be told so many frames on; see mostChanges
    static constexpr std::size_t mostChanges = 8;
    MessageRing fromWindow, toWindow;
    std::vector<std::uint8_t> heard; ///< one of the first
    std::atomic<bool> isListenedTo{false};
    std::string preset; ///< that it was loaded with

    // Features live as long as the instance.
    float rateOption = 0;
    std::int32_t blockOption = blockFrames, sequenceOption = eventBytes;
    std::vector<LV2_Options_Option> options;
    std::vector<LV2_Feature> features;
    std::vector<const LV2_Feature*> featureList;

    explicit Inner(bool offline) : worker(offline) {
        heard.reserve(MessageRing::room);
        changes.reserve(mostChanges);
    }
    Inner(const Inner&) = delete;
    Inner& operator=(const Inner&) = delete;
    ~Inner();
    void makeFeatures(int rate);
    void clearEvents();
    void runBlock(float* left, float* right, int at = 0); ///< so many frames into a run
    /// Values for controls and parameters that are named; the others go to what they started with.
    void set(const PluginSettings& settings);
    void tellParameters();
    void hearWindow(); ///< what its window has sent, for the next run
    void tellWindow(); ///< what it has said in this run
    void tellTime(const MusicTime& now, int offset);
    void tellChanges(int from, int frames); ///< of time, in these frames of the run
    static void append(UnitPort* port, const LV2_Atom_Event& event);
    void mixOutputs();
    std::array<std::array<float, blockFrames>, 2> mix{}; ///< what all outputs give, left and right
    void tell(const UnitParameter& parameter, float value);
    void tellFile(LV2_URID key, const std::string& path);
    UnitPort* control(const std::string& symbol);
    UnitParameter* parameter(const std::string& uri);
};

} // namespace cobbleway
