/// The plug-ins of a plan.
#include "sound/plan.h"
#include "sound/plugininstrument.h"
#include "words/message.h"

#include <algorithm>

namespace cobbleway {
namespace {

/// The effect of a chain that is number `index` of `effects`; null for one that is switched off, and where
/// some could not be loaded.
std::shared_ptr<PluginUnit> effectAt(const EffectChain* chain, const std::vector<Effect>& effects,
                                     int index) {
    const auto isOn = [](const Effect& effect) { return effect.on; };
    if (!chain || index < 0 || static_cast<std::size_t>(index) >= effects.size()) return nullptr;
    const auto at = effects.begin() + index;
    if (!at->on || static_cast<std::size_t>(std::count_if(effects.begin(), effects.end(), isOn)) !=
                       chain->units().size())
        return nullptr;
    return chain->units()[static_cast<std::size_t>(std::count_if(effects.begin(), at, isOn))];
}

/// The plug-in of a lane, kept by what owns it.
std::shared_ptr<PluginUnit> soundOf(const Plan& plan, const PlanPart& lane) {
    for (const auto& owner : plan.instruments)
        for (const Instrument* played : lane.instruments)
            if (const auto* plugin = dynamic_cast<const PluginInstrument*>(played);
                plugin && owner.get() == played)
                return {owner, &plugin->unit()};
    return nullptr;
}

} // namespace

std::shared_ptr<PluginUnit> pluginAt(const Plan& plan, const Song& song, const PluginPlace& place) {
    if (place.part == 0) return effectAt(plan.effects.get(), song.effects, place.effect);
    const Part* part = song.part(place.part);
    if (!part) return nullptr;
    for (const PlanPart& lane : plan.parts) {
        if (lane.id != place.part || lane.layer != (place.effect >= 0 ? -1 : place.layer)) continue;
        if (place.effect >= 0 && lane.under < 0)
            return effectAt(lane.effects.get(), part->mix.effects, place.effect);
        if (auto unit = place.effect < 0 ? soundOf(plan, lane) : nullptr) return unit;
    }
    return nullptr;
}

void tellEffects(const Plan& plan, const MusicTime& time, int offset) {
    for (const PlanPart& part : plan.parts)
        if (part.effects) part.effects->setTime(time, offset);
    if (plan.effects) plan.effects->setTime(time, offset);
}

std::vector<Error> pluginFaults(const Plan& plan, const Song& song) {
    std::vector<Error> faults;
    const auto add = [&](PluginFault fault, const std::string& where) {
        if (fault == PluginFault::Ended)
            faults.push_back({{"error.plugin-ended"}, where, {"now.start-plugin-again"}});
        else if (fault == PluginFault::NoSound)
            faults.push_back({{"error.plugin-no-sound"}, where, {"now.other-sound"}});
        else if (fault == PluginFault::Late)
            faults.push_back({{"error.plugin-late"}, where, {"now.plugin-late"}});
        else if (fault == PluginFault::TooLoud)
            faults.push_back({{"error.plugin-loud"}, where, {"now.turn-plugin-down"}});
    };
    for (const PlanPart& part : plan.parts) {
        PluginFault fault = part.effects ? part.effects->fault() : PluginFault::None;
        for (const InstrumentSound& sound : part.sounds)
            if (sound.instrument) fault = std::max(fault, sound.instrument->fault());
        if (fault == PluginFault::None) continue;
        const Part* named = song.part(part.id);
        add(fault, named ? named->name : std::string());
    }
    const PluginFault live = plan.effects ? plan.effects->fault() : PluginFault::None;
    add(std::max(plan.mixFault.load(), live), inWords({"mix.whole"}));
    return faults;
}

std::vector<Error> problemsOf(const Plan& plan) {
    auto problems = plan.problems;
    for (Error& error : pluginFaults(plan, plan.song)) problems.push_back(std::move(error));
    return problems;
}

} // namespace cobbleway
