#pragma once
#include "font/catalogue.h"
#include "midi/result.h"
#include "sound/crew.h"
#include "sound/effectchain.h"
#include "sound/fontsamples.h"
#include "sound/instrument.h"
#include "sound/pluginworld.h"

#include <filesystem>
#include <functional>
#include <map>
#include <memory>
#include <set>
#include <string>

namespace cobbleway {

struct BankOptions {
    int slotStep = 1; ///< instruments get their slots in multiples of it: 1 renders fastest, more spares live
                      ///< playing a new instrument for each song with more parts
    bool live = false; ///< outside MIDI ports are opened, plug-ins work on a thread of their own, and many
                       ///< voices are made on several processors
    std::filesystem::path pluginBundle; ///< the plug-ins that ship; may be empty
    /// Told of each font before it is loaded, and with an empty path afterwards.
    std::function<void(const std::filesystem::path&)> loading = {};
    std::shared_ptr<SampleCache> samples = {}; ///< for compressed fonts; may be null
    /// Makes who loads plug-ins, but for bundles that no one may read; empty: they run in this process.
    using MakePlugins =
        std::function<std::shared_ptr<PluginMaker>(const std::vector<std::filesystem::path>& leftOut)>;
    MakePlugins makePlugins = {};
};

/// Loaded instruments, kept while anything may use them. For one thread. Instruments of one bank must not be
/// played by two engines at once.
class InstrumentBank {
  public:
    explicit InstrumentBank(int rate, BankOptions options = {});
    ~InstrumentBank();
    InstrumentBank(const InstrumentBank&) = delete;
    InstrumentBank& operator=(const InstrumentBank&) = delete;
    [[nodiscard]] bool isLive() const { return m_options.live; }
    [[nodiscard]] int rate() const { return m_rate; }

    /// The instrument of a font with at least `slots` slots, loading it when it is not there; null when it
    /// cannot be loaded, with the reason in `problem`. `shares`: see Instrument::setShares().
    std::shared_ptr<Instrument> instrument(const SoundFont& font, int slots,
                                           std::span<const std::uint8_t> shares = {},
                                           Error* problem = nullptr);
    [[nodiscard]] bool has(const std::string& fontId, int slots) const;
    /// A plug-in for one slot; its controls are set anew when it is there already.
    std::shared_ptr<Instrument> plugin(const std::string& uri, const PluginSettings& settings, int slot,
                                       Error* problem = nullptr);
    /// The instrument behind a port. Outside ports only live; the stand-in module plays `house`.
    std::shared_ptr<Instrument> port(const PortInfo& port, const SoundFont* house, int slots,
                                     Error* problem = nullptr);
    /// A chain of effects; `place` names it, so that it is the same the next time. Null for no effect.
    std::shared_ptr<EffectChain> effects(const std::string& place, const std::vector<Effect>& effects,
                                         Error* problem = nullptr);
    /// Forgets plug-ins that were not asked for since the last call, and of such fonts and ports all but the
    /// two that were asked for last: people go back and forth between sounds. What is playing lives on as
    /// long as its plan.
    void forgetUnused();
    /// Bundles that no one may read here, since that ends the program. Call it before the first plug-in.
    void leaveOut(std::vector<std::filesystem::path> bundles) { m_unreadable = std::move(bundles); }
    /// The plug-ins there are; made when first needed.
    PluginWorld& plugins();
    /// Who loads them.
    PluginMaker& maker();
    /// Loads plug-ins anew that have ended; the next plan has them.
    void startEndedAgain();

  private:
    struct Held {
        std::shared_ptr<Instrument> instrument;
        int slots = 0;
        int unasked = 0; ///< calls of forgetUnused() since it was asked for
    };
    struct HeldPlugin;
    int m_rate;
    BankOptions m_options;
    std::shared_ptr<Crew> m_crew;       ///< for live playing; null otherwise
    std::map<std::string, Held> m_held; ///< by font id, and by port id
    std::map<std::string, HeldPlugin> m_plugins;
    std::set<std::string> m_asked;
    std::vector<std::filesystem::path> m_unreadable;
    std::unique_ptr<PluginWorld> m_world;
    std::shared_ptr<PluginMaker> m_maker;
};

} // namespace cobbleway
