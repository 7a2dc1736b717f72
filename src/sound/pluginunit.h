#pragma once
#include "midi/result.h"
#include "song/model/song.h"
#include "sound/instrument.h"

#include <cstdint>
#include <memory>
#include <string>

namespace cobbleway {

/// A plug-in that runs, here or in another process. run() and event() are for one thread, allocate nothing
/// and do not lock; setControl(), latency() and fault() may be called from any.
class PluginUnit {
  public:
    PluginUnit() = default;
    PluginUnit(const PluginUnit&) = delete;
    PluginUnit& operator=(const PluginUnit&) = delete;
    virtual ~PluginUnit() = default;

    /// A channel message for the start of the next run(). Past a few hundred a run they are dropped.
    virtual void event(std::uint8_t status, std::uint8_t data1, std::uint8_t data2) = 0;
    /// Runs `frames` (a multiple of blockFrames, at most maxFrames). An instrument adds its sound to `left`
    /// and `right`; an effect takes what is there and puts its own in its place.
    virtual void run(float* left, float* right, int frames) = 0;

    virtual void setControl(const std::string& symbol, float value) = 0;
    /// The values of settings; controls that they do not name go to what the plug-in started with here.
    virtual void setControls(const PluginSettings& settings) = 0;
    [[nodiscard]] virtual int latency() const = 0; ///< frames by which its output is late, as it says itself
    [[nodiscard]] virtual PluginFault fault() const = 0;

    /// Everything that is to be kept: controls that differ from the plug-in's own values, or all of them when
    /// it was loaded with a preset; and its own state. Not while it runs.
    [[nodiscard]] virtual PluginSettings settings() const = 0;
};

/// Who loads plug-ins.
class PluginMaker {
  public:
    PluginMaker() = default;
    PluginMaker(const PluginMaker&) = delete;
    PluginMaker& operator=(const PluginMaker&) = delete;
    virtual ~PluginMaker() = default;
    /// Loads a plug-in and gives it its settings. Its foreign code runs from here on.
    /// `offline`: work that it hands to another thread is done at once, so that renders are equal, and run()
    /// waits for as long as it works.
    virtual Result<std::unique_ptr<PluginUnit>> load(const std::string& uri, const PluginSettings& settings,
                                                     int rate, bool offline) = 0;
};

} // namespace cobbleway
