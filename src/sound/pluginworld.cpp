#include "sound/pluginworld.h"

#include "font/fileversion.h"

#include "sound/cleanmemory.h"
#include "sound/pluginfolders.h"
#include "sound/plugininner.h"

#include <algorithm>
#include <cmath>
#include <lv2/atom/atom.h>
#include <lv2/core/lv2.h>
#include <lv2/midi/midi.h>
#include <lv2/port-props/port-props.h>
#include <lv2/presets/presets.h>
#include <lv2/state/state.h>
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

bool offered(const std::string& feature) {
    for (const char* known :
         {LV2_URID__map, LV2_URID__unmap, LV2_OPTIONS__options, LV2_WORKER__schedule,
          LV2_BUF_SIZE__boundedBlockLength, LV2_BUF_SIZE__fixedBlockLength, LV2_BUF_SIZE__powerOf2BlockLength,
          LV2_STATE__loadDefaultState, LV2_CORE__isLive, LV2_CORE__inPlaceBroken, LV2_CORE__hardRTCapable})
        if (feature == known) return true;
    return false;
}

/// Ports by what they are for; nothing when there is one that this host cannot serve.
struct PortCounts {
    int audioIn = 0, audioOut = 0, events = 0;
    bool strange = false;
};

PortUse useOf(LilvWorld* world, const LilvPlugin* plugin, const LilvPort* port) {
    const auto is = [&](const char* kind) {
        return lilv_port_is_a(plugin, port, NodePtr(lilv_new_uri(world, kind)));
    };
    const bool in = is(LV2_CORE__InputPort);
    if (is(LV2_CORE__ControlPort)) return in ? PortUse::Control : PortUse::ControlOut;
    if (is(LV2_CORE__AudioPort)) return in ? PortUse::AudioIn : PortUse::AudioOut;
    if (is(LV2_ATOM__AtomPort)) return in ? PortUse::Events : PortUse::EventsOut;
    return PortUse::Unused;
}

bool takesMidi(LilvWorld* world, const LilvPlugin* plugin, const LilvPort* port) {
    return lilv_port_supports_event(plugin, port, NodePtr(lilv_new_uri(world, LV2_MIDI__MidiEvent)));
}

PortCounts countsOf(LilvWorld* world, const LilvPlugin* plugin) {
    PortCounts counts;
    const NodePtr optional(lilv_new_uri(world, LV2_CORE__connectionOptional));
    for (std::uint32_t i = 0; i < lilv_plugin_get_num_ports(plugin); ++i) {
        const LilvPort* port = lilv_plugin_get_port_by_index(plugin, i);
        switch (useOf(world, plugin, port)) {
        case PortUse::AudioIn: ++counts.audioIn; break;
        case PortUse::AudioOut: ++counts.audioOut; break;
        case PortUse::Events: counts.events += takesMidi(world, plugin, port); break;
        case PortUse::Unused:
            counts.strange = counts.strange || !lilv_port_has_property(plugin, port, optional);
            break;
        default: break;
        }
    }
    return counts;
}

/// Whether ports are numbered as they must be, from 0 on. The library takes memory for the highest number
/// that a description names, whatever that is, so it is looked at before it is asked for ports.
bool hasSaneIndexes(LilvWorld* world, const LilvPlugin* plugin) {
    constexpr int mostPorts = 4096;
    const NodePtr port(lilv_new_uri(world, LV2_CORE__port)), index(lilv_new_uri(world, LV2_CORE__index));
    const NodePtr name(lilv_plugin_get_name(plugin)); // reads all that describes it
    LilvNodes* ports = lilv_world_find_nodes(world, lilv_plugin_get_uri(plugin), port, nullptr);
    bool sane = true;
    LILV_FOREACH(nodes, i, ports) {
        LilvNodes* numbers = lilv_world_find_nodes(world, lilv_nodes_get(ports, i), index, nullptr);
        LILV_FOREACH(nodes, n, numbers) {
            const LilvNode* number = lilv_nodes_get(numbers, n);
            sane = sane && lilv_node_is_int(number) && lilv_node_as_int(number) >= 0 &&
                   lilv_node_as_int(number) < mostPorts;
        }
        lilv_nodes_free(numbers);
    }
    lilv_nodes_free(ports);
    return sane;
}

bool canRun(LilvWorld* world, const LilvPlugin* plugin) {
    if (!hasSaneIndexes(world, plugin)) return false;
    LilvNodes* required = lilv_plugin_get_required_features(plugin);
    bool all = true;
    LILV_FOREACH(nodes, i, required) all = all && offered(lilv_node_as_string(lilv_nodes_get(required, i)));
    lilv_nodes_free(required);
    return all;
}

/// A bundle as the library names it: with a stroke at the end.
NodePtr bundleNode(LilvWorld* world, const std::filesystem::path& bundle) {
    return NodePtr(lilv_new_file_uri(world, nullptr, (bundle.string() + "/").c_str()));
}

float numberOf(const LilvNode* node, float otherwise) {
    return node && (lilv_node_is_float(node) || lilv_node_is_int(node)) ? lilv_node_as_float(node)
                                                                        : otherwise;
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

void PluginWorld::listBundle(const std::filesystem::path& bundle, std::vector<PluginInfo>& found) const {
    LilvWorld* world = m_inner->world();
    const NodePtr here = bundleNode(world, bundle);
    const LilvPlugins* all = lilv_world_get_all_plugins(world);
    LILV_FOREACH(plugins, i, all) {
        const LilvPlugin* plugin = lilv_plugins_get(all, i);
        if (!lilv_node_equals(lilv_plugin_get_bundle_uri(plugin), here)) continue;
        if (!lilv_plugin_verify(plugin) || !canRun(world, plugin)) continue;
        const PortCounts ports = countsOf(world, plugin);
        if (ports.strange || ports.audioOut < 1 || ports.audioOut > 2 || ports.audioIn > 2) continue;
        const bool instrument = ports.audioIn == 0 && ports.events > 0;
        if (!instrument && ports.audioIn == 0) continue;
        found.push_back({lilv_node_as_uri(lilv_plugin_get_uri(plugin)),
                         NodePtr(lilv_plugin_get_name(plugin)).text(),
                         NodePtr(lilv_plugin_get_author_name(plugin)).text(), instrument});
    }
}

std::vector<PluginInfo> PluginWorld::list() const {
    const std::lock_guard guard(m_inner->hold->lock);
    std::vector<PluginInfo> found;
    for (const auto& bundle : m_bundles) {
        if (m_places.reading) m_places.reading(bundle);
        listBundle(bundle, found);
    }
    std::sort(found.begin(), found.end(), [](const PluginInfo& a, const PluginInfo& b) {
        return std::tie(a.name, a.uri) < std::tie(b.name, b.uri);
    });
    return found;
}

namespace {

PluginControl controlOf(LilvWorld* world, const LilvPlugin* plugin, const LilvPort* port) {
    PluginControl control;
    control.symbol = lilv_node_as_string(lilv_port_get_symbol(plugin, port));
    control.name = NodePtr(lilv_port_get_name(plugin, port)).text();
    LilvNode *normal = nullptr, *least = nullptr, *most = nullptr;
    lilv_port_get_range(plugin, port, &normal, &least, &most);
    control.least = numberOf(least, 0);
    control.most = std::max(numberOf(most, 1), control.least);
    control.normal = std::clamp(numberOf(normal, control.least), control.least, control.most);
    for (LilvNode* node : {normal, least, most}) lilv_node_free(node);
    const auto has = [&](const char* property) {
        return lilv_port_has_property(plugin, port, NodePtr(lilv_new_uri(world, property)));
    };
    control.whole = has(LV2_CORE__integer);
    control.toggled = has(LV2_CORE__toggled);
    control.choice = has(LV2_CORE__enumeration);
    control.logarithmic = has(LV2_PORT_PROPS__logarithmic) && control.least > 0;
    static const std::map<std::string, std::string> known = {
        {LV2_UNITS__db, "dB"},   {LV2_UNITS__hz, "Hz"},   {LV2_UNITS__khz, "kHz"},
        {LV2_UNITS__ms, "ms"},   {LV2_UNITS__s, "s"},     {LV2_UNITS__pc, "%"},
        {LV2_UNITS__cent, "ct"}, {LV2_UNITS__bpm, "bpm"}, {LV2_UNITS__degree, "°"},
        {LV2_UNITS__oct, "oct"}, {LV2_UNITS__min, "min"}, {LV2_UNITS__semitone12TET, "semi"}};
    const NodePtr unit(lilv_port_get(plugin, port, NodePtr(lilv_new_uri(world, LV2_UNITS__unit))));
    if (const auto at = known.find(unit.text()); at != known.end()) {
        control.unit = at->second;
    } else if (unit.node) {
        const NodePtr symbol(
            lilv_world_get(world, unit, NodePtr(lilv_new_uri(world, LV2_UNITS__symbol)), nullptr));
        control.unit = symbol.text();
    }
    if (LilvScalePoints* points = lilv_port_get_scale_points(plugin, port)) {
        LILV_FOREACH(scale_points, i, points) {
            const LilvScalePoint* point = lilv_scale_points_get(points, i);
            control.points.emplace_back(numberOf(lilv_scale_point_get_value(point), 0),
                                        lilv_node_as_string(lilv_scale_point_get_label(point)));
        }
        lilv_scale_points_free(points);
    }
    std::sort(control.points.begin(), control.points.end());
    return control;
}

/// Ports that a person sets: not those that only the host is to see.
bool isShown(LilvWorld* world, const LilvPlugin* plugin, const LilvPort* port) {
    return useOf(world, plugin, port) == PortUse::Control &&
           !lilv_port_has_property(plugin, port, NodePtr(lilv_new_uri(world, LV2_PORT_PROPS__notOnGUI)));
}

} // namespace

std::vector<PluginControl> PluginWorld::controls(const std::string& uri) const {
    const std::lock_guard guard(m_inner->hold->lock);
    std::vector<PluginControl> controls;
    const LilvPlugin* plugin = m_inner->find(uri);
    if (!plugin || !hasSaneIndexes(m_inner->world(), plugin)) return controls;
    for (std::uint32_t i = 0; i < lilv_plugin_get_num_ports(plugin); ++i) {
        const LilvPort* port = lilv_plugin_get_port_by_index(plugin, i);
        if (isShown(m_inner->world(), plugin, port))
            controls.push_back(controlOf(m_inner->world(), plugin, port));
    }
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

std::filesystem::path PluginWorld::library(const std::string& uri) const {
    const std::lock_guard guard(m_inner->hold->lock);
    const LilvPlugin* plugin = m_inner->find(uri);
    const LilvNode* library = plugin ? lilv_plugin_get_library_uri(plugin) : nullptr;
    if (!library) return {};
    char* path = lilv_file_uri_parse(lilv_node_as_uri(library), nullptr);
    std::filesystem::path result(path ? path : "");
    lilv_free(path);
    return result;
}

namespace {

void addPort(PluginUnit::Inner& unit, LilvWorld* world, const LilvPlugin* plugin, std::uint32_t index) {
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
    case PortUse::AudioIn:
    case PortUse::AudioOut:
        made->audio.assign(blockFrames, 0.0F);
        (made->use == PortUse::AudioIn ? unit.audioIn : unit.audioOut).push_back(made.get());
        data = made->audio.data();
        break;
    case PortUse::Events:
    case PortUse::EventsOut:
        made->events.assign(eventBytes, 0);
        if (made->use == PortUse::Events && !unit.events && takesMidi(world, plugin, port))
            unit.events = made.get();
        data = made->events.data();
        break;
    case PortUse::Unused: break;
    }
    lilv_instance_connect_port(unit.instance, index, data);
    unit.ports.push_back(std::move(made));
}

/// A preset, or what the plug-in itself kept, into an instance that does not run yet.
void restore(PluginUnit::Inner& unit, LilvState* state) {
    if (!state) return;
    lilv_state_restore(
        state, unit.instance,
        [](const char* symbol, void* self, const void* value, std::uint32_t size, std::uint32_t type) {
            UnitPort* port = static_cast<PluginUnit::Inner*>(self)->control(symbol);
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
    auto unit = std::make_unique<PluginUnit::Inner>(offline);
    unit->hold = m_inner->hold;
    if (m_note) unit->running = m_note->place(uri + "\t" + fileVersion(library(uri)));
    const Running now(unit->running.get());
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
            for (std::uint32_t i = 0; i < lilv_plugin_get_num_ports(unit->plugin); ++i)
                addPort(*unit, world, unit->plugin, i);
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
                                   lilv_instance_get_extension_data(unit->instance, LV2_WORKER__interface)),
                               unit->running);
            lilv_instance_activate(unit->instance);
        }
    }
    if (!unit->instance || unit->audioOut.empty()) return refused;
    for (const auto& [symbol, value] : settings.controls)
        if (UnitPort* port = unit->control(symbol)) port->wanted = value;
    unit->clearEvents();
    std::array<float, blockFrames> left{}, right{};
    unit->runBlock(left.data(), right.data()); // tells the latency
    return std::make_unique<PluginUnit>(std::move(unit));
}

} // namespace cobbleway
