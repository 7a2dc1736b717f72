#pragma once
#include "song/model/song.h"
#include "sound/instrument.h"

#include <cstdint>
#include <memory>
#include <string>

namespace cobbleway {

/// A plug-in that runs. Made by PluginWorld::load(). run() and event() are for one thread, allocate nothing
/// and do not lock; setControl() and latency() may be called from any.
class PluginUnit {
  public:
    struct Inner;
    explicit PluginUnit(std::unique_ptr<Inner> inner);
    ~PluginUnit();
    PluginUnit(const PluginUnit&) = delete;
    PluginUnit& operator=(const PluginUnit&) = delete;

    /// A channel message for the start of the next run(). Past a few hundred a run they are dropped.
    void event(std::uint8_t status, std::uint8_t data1, std::uint8_t data2);
    /// Runs `frames` (a multiple of blockFrames). An instrument adds its sound to `left` and `right`; an
    /// effect takes what is there and puts its own in its place.
    void run(float* left, float* right, int frames);

    void setControl(const std::string& symbol, float value);
    /// The values of settings; controls that they do not name go to what the plug-in started with here.
    void setControls(const PluginSettings& settings);
    [[nodiscard]] int latency() const; ///< frames by which its output is late, as it says itself
    [[nodiscard]] PluginFault fault() const;

    /// Everything that is to be kept: controls that differ from the plug-in's own values, or all of them when
    /// it was loaded with a preset; and its own state. Not while it runs.
    [[nodiscard]] PluginSettings settings() const;

  private:
    std::unique_ptr<Inner> m_inner;
};

} // namespace cobbleway
