#include "sound/pluginworld.h"

#include "font/fileversion.h"

#include "sound/cleanmemory.h"
#include "sound/newthreads.h"
#include "sound/plugindescription.h"
#include "sound/pluginfolders.h"
#include "words/message.h"

#include <algorithm>
#include <cmath>
#include <lv2/atom/atom.h>
#include <lv2/core/lv2.h>
#include <lv2/midi/midi.h>
#include <lv2/patch/patch.h>
#include <lv2/port-groups/port-groups.h>
#include <lv2/port-props/port-props.h>
#include <lv2/presets/presets.h>
#include <lv2/state/state.h>
#include <lv2/time/time.h>
#include <lv2/ui/ui.h>
#include <lv2/units/units.h>
#include <map>

namespace cobbleway {

struct PluginWorld::Inner {
    std::shared_ptr<LilvHold> hold = std::make_shared<LilvHold>();
    [[nodiscard]] LilvWorld* world() const { return hold->world; }
    [[nodiscard]] NodePtr uri(const char* text) const { return NodePtr(lilv_new_uri(world(), text)); }
    [[nodiscard]] const LilvPlugin* find(const std::string& wanted) const {
        const NodePtr node(lilv_new_uri(world(), wanted.c_str()));
        return node.node ? lilv_plugins_get_by_uri(lilv_world_get_all_plugins(world()), node) : nullptr;
    }
};

namespace {

/// A bundle as the library names it: with a stroke at the end.
NodePtr bundleNode(LilvWorld* world, const std::filesystem::path& bundle) {
    return NodePtr(lilv_new_file_uri(world, nullptr, (bundle.string() + "/").c_str()));
}

} // namespace

PluginWorld::PluginWorld(PluginPlaces places)
    : m_inner(std::make_unique<Inner>()), m_places(std::move(places)), m_bundles(pluginBundles()) {
    if (!m_places.shipped.empty() &&
        std::find(m_bundles.begin(), m_bundles.end(), m_places.shipped) == m_bundles.end())
        m_bundles.push_back(m_places.shipped);
    std::erase_if(m_bundles, [&](const std::filesystem::path& bundle) {
        return std::find(m_places.leftOut.begin(), m_places.leftOut.end(), bundle) != m_places.leftOut.end();
    });
    LilvWorld* world = m_inner->world();
    for (const auto& bundle : m_bundles) {
        if (m_places.reading) m_places.reading(bundle);
        lilv_world_load_bundle(world, bundleNode(world, bundle));
    }
    lilv_world_load_specifications(world);
    lilv_world_load_plugin_classes(world);
}

PluginWorld::~PluginWorld() = default;

std::vector<PluginInfo> PluginWorld::usable() const {
    std::vector<PluginInfo> usable;
    for (PluginFound& found : list())
        if (!found.unfit) usable.push_back(std::move(found.plugin));
    return usable;
}

namespace {

/// Names by the node of a group: "" for one that has none.
std::string groupOf(LilvWorld* world, const LilvNode* group) {
    for (const char* key : {LV2_CORE__name, LILV_NS_RDFS "label"})
        if (const NodePtr name(lilv_world_get(world, group, NodePtr(lilv_new_uri(world, key)), nullptr));
            name.node)
            return name.text();
    return {};
}

/// Ports that a person sets: not those that only the host is to see.
bool isShown(LilvWorld* world, const LilvPlugin* plugin, const LilvPort* port) {
    return useOf(world, plugin, port) == PortUse::Control &&
           !lilv_port_has_property(plugin, port, NodePtr(lilv_new_uri(world, LV2_PORT_PROPS__notOnGUI)));
}

/// Those of one group stand together, where the first of them stands.
void gatherGroups(std::vector<PluginControl>& controls) {
    std::map<std::string, std::size_t> place;
    std::vector<std::pair<std::size_t, PluginControl>> placed;
    for (std::size_t i = 0; i < controls.size(); ++i) {
        const std::string& group = controls[i].group;
        placed.emplace_back(group.empty() ? i : place.emplace(group, i).first->second,
                            std::move(controls[i]));
    }
    std::stable_sort(placed.begin(), placed.end(),
                     [](const auto& a, const auto& b) { return a.first < b.first; });
    for (std::size_t i = 0; i < controls.size(); ++i) controls[i] = std::move(placed[i].second);
}

/// A level for each output, or pair, of an instrument with more than two channels.
void addLevels(LilvWorld* world, const LilvPlugin* plugin, std::vector<PluginControl>& controls) {
    const auto outputs = outputsOf(world, plugin);
    std::string last;
    for (const OutputPlace& output : outputs) {
        if (outputs.size() <= 2 || std::exchange(last, output.control) == output.control) continue;
        PluginControl level;
        level.symbol = output.control;
        level.name = output.name;
        level.unit = "dB";
        level.group = inWords({"plugin.outputs"});
        level.least = leastOutputDb;
        level.most = mostOutputDb;
        controls.push_back(std::move(level));
    }
}

} // namespace

void PluginWorld::listBundle(const std::filesystem::path& bundle, std::vector<PluginFound>& found) const {
    LilvWorld* world = m_inner->world();
    const NodePtr here = bundleNode(world, bundle);
    const LilvPlugins* all = lilv_world_get_all_plugins(world);
    LILV_FOREACH(plugins, i, all) {
        const LilvPlugin* plugin = lilv_plugins_get(all, i);
        if (!lilv_node_equals(lilv_plugin_get_bundle_uri(plugin), here)) continue;
        found.push_back(described(world, plugin));
    }
}

std::vector<PluginFound> PluginWorld::list() const {
    const std::lock_guard guard(m_inner->hold->lock);
    std::vector<PluginFound> found;
    for (const auto& bundle : m_bundles) {
        if (m_places.reading) m_places.reading(bundle);
        listBundle(bundle, found);
    }
    std::sort(found.begin(), found.end(), [](const PluginFound& a, const PluginFound& b) {
        return std::tie(a.plugin.name, a.plugin.uri) < std::tie(b.plugin.name, b.plugin.uri);
    });
    return found;
}

std::vector<PluginControl> PluginWorld::controls(const std::string& uri) const {
    const std::lock_guard guard(m_inner->hold->lock);
    std::vector<PluginControl> controls;
    const LilvPlugin* plugin = m_inner->find(uri);
    if (!plugin || !hasSaneIndexes(m_inner->world(), plugin)) return controls;
    for (std::uint32_t i = 0; i < lilv_plugin_get_num_ports(plugin); ++i) {
        const LilvPort* port = lilv_plugin_get_port_by_index(plugin, i);
        if (!isShown(m_inner->world(), plugin, port)) continue;
        controls.push_back(controlOf(m_inner->world(), plugin, port));
        if (const NodePtr group(lilv_port_get(plugin, port, m_inner->uri(LV2_PORT_GROUPS__group)));
            group.node)
            controls.back().group = groupOf(m_inner->world(), group);
    }
    gatherGroups(controls);
    addLevels(m_inner->world(), plugin, controls);
    const auto ports = static_cast<std::ptrdiff_t>(controls.size());
    eachParameter(m_inner->world(), plugin, [&](const LilvNode* parameter, const ParameterType& type) {
        controls.push_back(controlOf(m_inner->world(), parameter, type));
    });
    // Files come first, since a sampler is silent without; parameters have no order of their own.
    std::sort(controls.begin() + ports, controls.end(), [](const PluginControl& a, const PluginControl& b) {
        return std::tie(a.name, a.symbol) < std::tie(b.name, b.symbol);
    });
    std::stable_partition(controls.begin(), controls.end(),
                          [](const PluginControl& c) { return c.kind == PluginControl::Kind::File; });
    return controls;
}

std::vector<PluginPreset> PluginWorld::presets(const std::string& uri) const {
    const std::lock_guard guard(m_inner->hold->lock);
    std::vector<PluginPreset> presets;
    const LilvPlugin* plugin = m_inner->find(uri);
    if (!plugin) return presets;
    LilvWorld* world = m_inner->world();
    LilvNodes* found = lilv_plugin_get_related(plugin, m_inner->uri(LV2_PRESETS__Preset));
    LILV_FOREACH(nodes, i, found) {
        const LilvNode* preset = lilv_nodes_get(found, i);
        lilv_world_load_resource(world, preset);
        const NodePtr name(lilv_world_get(world, preset, m_inner->uri(LILV_NS_RDFS "label"), nullptr));
        presets.push_back({lilv_node_as_uri(preset), name.node ? name.text() : lilv_node_as_uri(preset)});
    }
    lilv_nodes_free(found);
    std::sort(presets.begin(), presets.end(),
              [](const PluginPreset& a, const PluginPreset& b) { return a.name < b.name; });
    return presets;
}

std::optional<WindowPlace> PluginWorld::window(const std::string& uri) const {
    const std::lock_guard guard(m_inner->hold->lock);
    const LilvPlugin* plugin = m_inner->find(uri);
    return plugin ? windowOf(m_inner->world(), plugin) : std::nullopt;
}

std::filesystem::path PluginWorld::library(const std::string& uri) const {
    const std::lock_guard guard(m_inner->hold->lock);
    const LilvPlugin* plugin = m_inner->find(uri);
    return plugin ? pathOf(lilv_plugin_get_library_uri(plugin)) : std::filesystem::path();
}

namespace {

void addPort(LoadedPlugin::Inner& unit, LilvWorld* world, const LilvPlugin* plugin, std::uint32_t index) {
    const LilvPort* port = lilv_plugin_get_port_by_index(plugin, index);
    auto made = std::make_unique<UnitPort>();
    made->use = useOf(world, plugin, port);
    made->symbol = lilv_node_as_string(lilv_port_get_symbol(plugin, port));
    void* data = nullptr;
    switch (made->use) {
    case PortUse::Control:
        made->normal = controlOf(world, plugin, port).normal;
        made->wanted = made->value = made->normal;
        unit.controls.push_back(made.get());
        data = &made->value;
        break;
    case PortUse::ControlOut:
        if (lilv_plugin_has_latency(plugin) && lilv_plugin_get_latency_port_index(plugin) == index)
            unit.latency = made.get();
        data = &made->value;
        break;
    case PortUse::AudioIn: // what is no main one hears silence
        made->audio.assign(blockFrames, 0.0F);
        if (unit.isEffect && unit.audioIn.size() < 2 && !isSideChain(world, plugin, port))
            unit.audioIn.push_back(made.get());
        data = made->audio.data();
        break;
    case PortUse::AudioOut:
        made->audio.assign(blockFrames, 0.0F);
        unit.audioOut.push_back(made.get());
        data = made->audio.data();
        break;
    case PortUse::Events:
    case PortUse::EventsOut:
        made->events.assign(eventBytes, 0);
        if (made->use == PortUse::Events && !unit.events && takesMidi(world, plugin, port))
            unit.events = made.get();
        if (made->use == PortUse::Events && !unit.messages && takesMessages(world, plugin, port))
            unit.messages = made.get();
        if (made->use == PortUse::Events && !unit.time && takesTime(world, plugin, port))
            unit.time = made.get();
        data = made->events.data();
        break;
    case PortUse::Unused: break;
    }
    lilv_instance_connect_port(unit.instance, index, data);
    unit.ports.push_back(std::move(made));
}

/// The channels of an instrument with more than two, with a level for each, or each pair.
void placeOutputs(LoadedPlugin::Inner& unit, LilvWorld* world, const LilvPlugin* plugin) {
    const auto places = outputsOf(world, plugin);
    if (places.size() <= 2 || places.size() != unit.audioOut.size()) return;
    for (std::size_t i = 0; i < places.size(); ++i) {
        UnitPort& out = *unit.audioOut[i];
        out.toLeft = places[i].toLeft;
        out.toRight = places[i].toRight;
        const auto first = std::find_if(unit.levels.begin(), unit.levels.end(), [&](const UnitPort* level) {
            return level->levelSymbol == places[i].control;
        });
        out.level = first == unit.levels.end() ? &out : *first;
        if (first != unit.levels.end()) continue;
        out.levelSymbol = places[i].control;
        unit.levels.push_back(&out);
    }
}

void addParameters(LoadedPlugin::Inner& unit, LilvWorld* world, const LilvPlugin* plugin) {
    eachParameter(world, plugin, [&](const LilvNode* node, const ParameterType& type) {
        auto made = std::make_unique<UnitParameter>();
        made->uri = lilv_node_as_uri(node);
        made->key = uridOf(made->uri.c_str());
        made->type = type.atom;
        made->hasNormal =
            NodePtr(lilv_world_get(world, node, NodePtr(lilv_new_uri(world, LV2_CORE__default)), nullptr))
                .node != nullptr;
        made->normal = controlOf(world, node, type).normal;
        if (type.kind == PluginControl::Kind::Number) unit.parameters.push_back(std::move(made));
    });
}

/// A preset, or what the plug-in itself kept, into an instance that does not run yet.
void restore(LoadedPlugin::Inner& unit, LilvState* state) {
    if (!state) return;
    lilv_state_restore(
        state, unit.instance,
        [](const char* symbol, void* self, const void* value, std::uint32_t size, std::uint32_t type) {
            UnitPort* port = static_cast<LoadedPlugin::Inner*>(self)->control(symbol);
            if (!port || size < sizeof(float)) return;
            if (type == uridOf(LV2_ATOM__Float)) port->wanted = *static_cast<const float*>(value);
            if (type == uridOf(LV2_ATOM__Int))
                port->wanted = static_cast<float>(*static_cast<const std::int32_t*>(value));
        },
        &unit, 0, unit.featureList.data());
    lilv_state_free(state);
}

} // namespace

Result<std::unique_ptr<PluginUnit>> PluginWorld::load(const std::string& uri, const PluginSettings& settings,
                                                      int rate, bool offline) {
    const Error refused{{"error.plugin-load"}, uri, {"now.install-plugin"}};
    auto unit = std::make_unique<LoadedPlugin::Inner>(offline);
    unit->hold = m_inner->hold;
    const NewThreads own; // those that it begins
    {
        const std::lock_guard guard(m_inner->hold->lock);
        LilvWorld* world = m_inner->world();
        unit->plugin = m_inner->find(uri);
        if (unit->plugin && canRun(world, unit->plugin)) {
            unit->makeFeatures(rate);
            const CleanMemory clean;
            unit->instance = lilv_plugin_instantiate(unit->plugin, rate, unit->featureList.data());
        }
        if (unit->instance) {
            unit->isEffect = !isPlayed(world, unit->plugin);
            for (std::uint32_t i = 0; i < lilv_plugin_get_num_ports(unit->plugin); ++i)
                addPort(*unit, world, unit->plugin, i);
            placeOutputs(*unit, world, unit->plugin);
            addParameters(*unit, world, unit->plugin);
            if (!unit->messages) unit->messages = unit->events;
            unit->preset = settings.preset;
            if (!settings.preset.empty()) {
                const NodePtr preset(lilv_new_uri(world, settings.preset.c_str()));
                lilv_world_load_resource(world, preset);
                restore(*unit, lilv_state_new_from_world(world, uridMap(), preset));
            }
            if (!settings.state.empty())
                restore(*unit, lilv_state_new_from_string(world, uridMap(), settings.state.c_str()));
            for (UnitPort* port : unit->controls) port->start = port->wanted;
            unit->worker.begin(lilv_instance_get_handle(unit->instance),
                               static_cast<const LV2_Worker_Interface*>(
                                   lilv_instance_get_extension_data(unit->instance, LV2_WORKER__interface)));
            lilv_instance_activate(unit->instance);
        }
    }
    if (!unit->instance || unit->audioOut.empty()) return refused;
    unit->set(settings);
    unit->clearEvents();
    for (const auto& [parameter, path] : settings.files) unit->tellFile(uridOf(parameter.c_str()), path);
    std::array<float, blockFrames> left{}, right{};
    // Some make their sounds on a thread of theirs, begun when they are made or run first, and what they give
    // until then is none.
    constexpr double longest = 4; // seconds
    own.awaitRest(longest);
    unit->runBlock(left.data(), right.data()); // tells the latency
    own.awaitRest(longest);
    return std::unique_ptr<PluginUnit>(std::make_unique<LoadedPlugin>(std::move(unit)));
}

} // namespace cobbleway
