#pragma once
#include "midi/result.h"
#include "song/model/song.h"
#include "sound/instrument.h"
#include "sound/musictime.h"
#include "sound/pluginwindow.h"

#include <cstdint>
#include <map>
#include <memory>
#include <mutex>
#include <string>
#include <utility>
#include <vector>

namespace cobbleway {

/// What a person has done in a plug-in's own window.
struct WindowNews {
    bool open = false;                                 ///< now
    std::vector<std::pair<std::string, float>> turned; ///< controls, as they are now
    bool changed = false;        ///< something that is no control has become another: settings() tells it
    std::vector<WindowKey> keys; ///< pressed, and not taken by the window
};

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
    /// Where the music will be `offset` frames into the next run(): of 0 first, then of each change of tempo
    /// or metre within, in order; past a few they are dropped. Plug-ins are told what they cannot know by
    /// counting on.
    virtual void setTime(const MusicTime& /*time*/, int /*offset*/) {}
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

    /// Opens its own window, or brings the one that is open to the front; an error says why not. May take
    /// seconds.
    virtual Result<bool> showWindow(const std::string& title);
    virtual void closeWindow() {}
    /// What was done in the window since this was asked last. For one thread.
    virtual WindowNews windowNews() { return {}; }

    /// Tells it what it was loaded with, or has kept since by itself: settings that are this but for the
    /// controls can be given by setControls(). From any thread.
    void setKept(const PluginSettings& settings);
    [[nodiscard]] bool hasKept(const PluginSettings& settings) const;

  private:
    mutable std::mutex m_keptLock;
    std::string m_preset, m_state;
    std::map<std::string, std::string> m_files;
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
