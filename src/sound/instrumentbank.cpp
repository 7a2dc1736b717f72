#include "sound/instrumentbank.h"

#include "sound/fontinstrument.h"
#include "sound/midisink.h"
#include "sound/plugininstrument.h"
#include "sound/portinstrument.h"
#include "sound/soundmodule.h"

#include <algorithm>
#include <vector>

namespace cobbleway {

struct InstrumentBank::HeldPlugin {
    std::string uri;
    std::shared_ptr<PluginInstrument> instrument;
    std::shared_ptr<PluginUnit> effect;
    [[nodiscard]] bool isOf(const std::string& wanted, const PluginSettings& settings) const {
        return uri == wanted && (instrument ? instrument->unit() : *effect).hasKept(settings);
    }
};

InstrumentBank::InstrumentBank(int rate, BankOptions options)
    : m_rate(rate), m_options(std::move(options)),
      m_crew(m_options.live ? std::make_shared<Crew>() : nullptr) {}
InstrumentBank::~InstrumentBank() = default;

PluginWorld& InstrumentBank::plugins() {
    if (!m_world) m_world = std::make_unique<PluginWorld>(PluginPlaces{m_options.pluginBundle, m_unreadable});
    return *m_world;
}

PluginMaker& InstrumentBank::maker() {
    if (!m_options.makePlugins) return plugins();
    if (!m_maker) m_maker = m_options.makePlugins(m_unreadable);
    return *m_maker;
}

void InstrumentBank::startEndedAgain() {
    std::erase_if(m_plugins, [](const auto& named) {
        const HeldPlugin& held = named.second;
        return (held.instrument && held.instrument->fault() == PluginFault::Ended) ||
               (held.effect && held.effect->fault() == PluginFault::Ended);
    });
}

std::shared_ptr<Instrument> InstrumentBank::instrument(const SoundFont& font, int slots,
                                                       std::span<const std::uint8_t> shares, Error* problem) {
    if (has(font.id, slots) && m_held[font.id].instrument->setShares(shares)) {
        m_held[font.id].unasked = -1;
        return m_held[font.id].instrument;
    }
    const int rounded = (slots + m_options.slotStep - 1) / m_options.slotStep * m_options.slotStep;
    if (m_options.loading) m_options.loading(font.path);
    auto loaded =
        loadFontInstrument(font.path, rounded, m_rate, {m_crew, m_options.samples, shares, m_options.live});
    if (m_options.loading) m_options.loading({});
    if (!loaded) {
        if (problem) *problem = loaded.error();
        return nullptr;
    }
    Held& held = m_held[font.id];
    held = {std::shared_ptr<Instrument>(std::move(loaded.value())), rounded, -1};
    return held.instrument;
}

bool InstrumentBank::has(const std::string& fontId, int slots) const {
    const auto at = m_held.find(fontId);
    return at != m_held.end() && at->second.slots >= slots;
}

std::shared_ptr<Instrument> InstrumentBank::plugin(const std::string& uri, const PluginSettings& settings,
                                                   int slot, Error* problem) {
    const std::string place = "slot " + std::to_string(slot) + " " + uri;
    m_asked.insert(place);
    HeldPlugin& held = m_plugins[place];
    if (!held.instrument || !held.isOf(uri, settings)) {
        auto loaded = maker().load(uri, settings, m_rate, !m_options.live);
        if (!loaded) {
            if (problem) *problem = loaded.error();
            return nullptr;
        }
        loaded.value()->setKept(settings);
        held = {uri, std::make_shared<PluginInstrument>(std::move(loaded.value()), slot), nullptr};
    }
    held.instrument->unit().setControls(settings);
    return held.instrument;
}

std::shared_ptr<Instrument> InstrumentBank::port(const PortInfo& port, const SoundFont* house, int slots,
                                                 Error* problem) {
    const std::string id = "port " + port.id;
    if (has(id, slots)) {
        m_held[id].unasked = -1;
        return m_held[id].instrument;
    }
    const int rounded = (slots + m_options.slotStep - 1) / m_options.slotStep * m_options.slotStep;
    if (port.standIn) {
        auto voices =
            house ? loadFontInstrument(house->path, 16, m_rate, {.live = m_options.live, .whole = true})
                  : Result<std::unique_ptr<Instrument>>(
                        Error{{"error.module-font"}, port.name, {"now.install-font"}});
        if (!voices) {
            if (problem) *problem = voices.error();
            return nullptr;
        }
        m_held[id] = {std::make_shared<ModuleInstrument>(std::move(voices.value()), rounded), rounded};
    } else {
        if (!m_options.live) return nullptr; // said before: snag "not-rendered"
        auto sink = openMidiOutput(port.id);
        if (!sink) {
            if (problem) *problem = sink.error();
            return nullptr;
        }
        m_held[id] = {std::make_shared<PortInstrument>(std::move(sink.value()), rounded, m_rate), rounded};
    }
    m_held[id].unasked = -1;
    return m_held[id].instrument;
}

std::shared_ptr<EffectChain> InstrumentBank::effects(const std::string& place,
                                                     const std::vector<Effect>& effects, Error* problem) {
    std::vector<std::shared_ptr<PluginUnit>> units;
    for (std::size_t i = 0; i < effects.size(); ++i) {
        const Effect& effect = effects[i];
        if (!effect.on) continue;
        const std::string name = "effect " + place + " " + std::to_string(i) + " " + effect.uri;
        m_asked.insert(name);
        HeldPlugin& held = m_plugins[name];
        if (!held.effect || !held.isOf(effect.uri, effect.settings)) {
            auto loaded = maker().load(effect.uri, effect.settings, m_rate, !m_options.live);
            if (!loaded) {
                if (problem) *problem = {loaded.error().what, effect.name, loaded.error().whatNow};
                continue;
            }
            loaded.value()->setKept(effect.settings);
            held = {effect.uri, nullptr, std::shared_ptr<PluginUnit>(std::move(loaded.value()))};
        }
        held.effect->setControls(effect.settings);
        units.push_back(held.effect);
    }
    return units.empty() ? nullptr : std::make_shared<EffectChain>(std::move(units));
}

void InstrumentBank::forgetUnused() {
    std::erase_if(m_plugins, [this](const auto& held) { return !m_asked.contains(held.first); });
    m_asked.clear();
    constexpr std::size_t mostUnasked = 2;
    std::vector<std::pair<int, std::string>> unasked;
    for (auto& [id, held] : m_held)
        if (++held.unasked > 0) unasked.emplace_back(held.unasked, id);
    std::sort(unasked.begin(), unasked.end());
    for (std::size_t i = mostUnasked; i < unasked.size(); ++i) m_held.erase(unasked[i].second);
}

} // namespace cobbleway
