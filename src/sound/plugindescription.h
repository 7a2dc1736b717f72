/// What the descriptions of LV2 plug-ins say, as PluginWorld and loading need it; seen by no one else.
#pragma once
#include "sound/plugininner.h"

#include <functional>

namespace cobbleway {

PortUse useOf(LilvWorld* world, const LilvPlugin* plugin, const LilvPort* port);
bool takesMidi(LilvWorld* world, const LilvPlugin* plugin, const LilvPort* port);
bool takesMessages(LilvWorld* world, const LilvPlugin* plugin, const LilvPort* port); ///< LV2 patch
bool takesTime(LilvWorld* world, const LilvPlugin* plugin, const LilvPort* port);     ///< LV2 time
/// Sound that only steers what is done with the main one.
bool isSideChain(LilvWorld* world, const LilvPlugin* plugin, const LilvPort* port);

/// Whether ports are numbered as they must be, from 0 on. The library takes memory for the highest number
/// that a description names, whatever that is, so it is looked at before it is asked for ports.
bool hasSaneIndexes(LilvWorld* world, const LilvPlugin* plugin);
/// Whether all that it needs of its host is offered, and its ports are numbered as they must be.
bool canRun(LilvWorld* world, const LilvPlugin* plugin);
/// Whether it is used as an instrument, else as an effect. Only of one that can run.
bool isPlayed(LilvWorld* world, const LilvPlugin* plugin);
/// All that is told of it, and why it cannot be used, if it cannot.
PluginFound described(LilvWorld* world, const LilvPlugin* plugin);

/// What a parameter's values are.
struct ParameterType {
    LV2_URID atom = 0;
    PluginControl::Kind kind = PluginControl::Kind::Number;
    bool toggled = false, whole = false;
};
/// Calls `take(parameter, its type)` for the parameters that can be set (patch:writable).
void eachParameter(LilvWorld* world, const LilvPlugin* plugin,
                   const std::function<void(const LilvNode*, const ParameterType&)>& take);

/// Where an audio output goes, and what sets its level.
struct OutputPlace {
    float toLeft = 1, toRight = 1;
    std::string control; ///< "output:" and the symbol of the pair's first
    std::string name;    ///< without its side
};
/// The audio outputs in order: they go where they are said to, else by the end of their names; what is of
/// neither side is in the middle. Neighbours of one name but for the side are a pair.
std::vector<OutputPlace> outputsOf(LilvWorld* world, const LilvPlugin* plugin);
inline constexpr float leastOutputDb = -60, mostOutputDb = 12; ///< at the least it is silent

PluginControl controlOf(LilvWorld* world, const LilvPlugin* plugin, const LilvPort* port);
PluginControl controlOf(LilvWorld* world, const LilvNode* parameter, const ParameterType& type);

/// Its own window, where it has one that can be shown here (X11).
std::optional<WindowPlace> windowOf(LilvWorld* world, const LilvPlugin* plugin);
std::filesystem::path pathOf(const LilvNode* uri); ///< of a file's URI; empty for another

} // namespace cobbleway
