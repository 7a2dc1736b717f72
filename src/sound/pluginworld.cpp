#include "sound/pluginworld.h"

#include "font/fileversion.h"

#include "sound/cleanmemory.h"
#include "sound/newthreads.h"
#include "sound/pluginfolders.h"
#include "sound/plugininner.h"
#include "words/letters.h"

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

bool offered(const std::string& feature) {
    for (const char* known :
         {LV2_URID__map, LV2_URID__unmap, LV2_OPTIONS__options, LV2_WORKER__schedule,
          LV2_BUF_SIZE__boundedBlockLength, LV2_BUF_SIZE__fixedBlockLength, LV2_BUF_SIZE__powerOf2BlockLength,
          LV2_STATE__loadDefaultState, LV2_CORE__isLive, LV2_CORE__inPlaceBroken, LV2_CORE__hardRTCapable})
        if (feature == known) return true;
    return false;
}

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

/// By its own types, which need no description of the classes that there are.
bool isInstrument(LilvWorld* world, const LilvPlugin* plugin) {
    return lilv_world_ask(world, lilv_plugin_get_uri(plugin),
                          NodePtr(lilv_new_uri(world, LILV_NS_RDF "type")),
                          NodePtr(lilv_new_uri(world, LV2_CORE__InstrumentPlugin)));
}

/// Sound that only steers what is done with the main one.
bool isSideChain(LilvWorld* world, const LilvPlugin* plugin, const LilvPort* port) {
    return lilv_port_has_property(plugin, port, NodePtr(lilv_new_uri(world, LV2_CORE_PREFIX "isSideChain")));
}

/// Ports by what they are for.
struct PortCounts {
    int audioIn = 0, audioOut = 0, events = 0; ///< side chains are not counted
    std::string strange; ///< the name of one that this host cannot serve; empty for none
};

bool takesMessages(LilvWorld* world, const LilvPlugin* plugin, const LilvPort* port) {
    return lilv_port_supports_event(plugin, port, NodePtr(lilv_new_uri(world, LV2_PATCH__Message)));
}

bool takesTime(LilvWorld* world, const LilvPlugin* plugin, const LilvPort* port) {
    return lilv_port_supports_event(plugin, port, NodePtr(lilv_new_uri(world, LV2_TIME__Position)));
}

PortCounts countsOf(LilvWorld* world, const LilvPlugin* plugin) {
    PortCounts counts;
    const NodePtr optional(lilv_new_uri(world, LV2_CORE__connectionOptional));
    for (std::uint32_t i = 0; i < lilv_plugin_get_num_ports(plugin); ++i) {
        const LilvPort* port = lilv_plugin_get_port_by_index(plugin, i);
        switch (useOf(world, plugin, port)) {
        case PortUse::AudioIn: counts.audioIn += !isSideChain(world, plugin, port); break;
        case PortUse::AudioOut: ++counts.audioOut; break;
        case PortUse::Events: counts.events += takesMidi(world, plugin, port); break;
        case PortUse::Unused:
            if (!lilv_port_has_property(plugin, port, optional))
                counts.strange = NodePtr(lilv_port_get_name(plugin, port)).text();
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

/// What it needs of its host and does not get; empty for nothing.
std::string missingFeature(const LilvPlugin* plugin) {
    LilvNodes* required = lilv_plugin_get_required_features(plugin);
    std::string missing;
    LILV_FOREACH(nodes, i, required) {
        const char* feature = lilv_node_as_string(lilv_nodes_get(required, i));
        if (!offered(feature)) missing = feature;
    }
    lilv_nodes_free(required);
    return missing;
}

bool canRun(LilvWorld* world, const LilvPlugin* plugin) {
    return hasSaneIndexes(world, plugin) && missingFeature(plugin).empty();
}

/// Whether it is used as an instrument, else as an effect.
bool takesNotes(LilvWorld* world, const LilvPlugin* plugin, const PortCounts& ports) {
    return ports.events > 0 && (ports.audioIn == 0 || isInstrument(world, plugin));
}

/// Why it cannot be used here, if it cannot.
std::optional<Message> unfitness(LilvWorld* world, const LilvPlugin* plugin) {
    if (!lilv_plugin_verify(plugin) || !hasSaneIndexes(world, plugin)) return Message{"plugin.description"};
    if (const std::string feature = missingFeature(plugin); !feature.empty())
        return Message{"plugin.needs", {{"feature", feature.substr(feature.find_last_of("#/") + 1)}}};
    const PortCounts ports = countsOf(world, plugin);
    if (!ports.strange.empty()) return Message{"plugin.port", {{"port", ports.strange}}};
    if (ports.audioOut == 0) return Message{"plugin.no-output"};
    if (takesNotes(world, plugin, ports)) return std::nullopt;
    if (ports.audioIn == 0) return Message{"plugin.no-input"};
    if (ports.audioOut > 2) // of the sound that goes in, what comes after two channels hears silence
        return Message{"plugin.channels", {{"in", ports.audioIn}, {"out", ports.audioOut}}};
    return std::nullopt;
}

/// A bundle as the library names it: with a stroke at the end.
NodePtr bundleNode(LilvWorld* world, const std::filesystem::path& bundle) {
    return NodePtr(lilv_new_file_uri(world, nullptr, (bundle.string() + "/").c_str()));
}

/// What stands for the name of something that has none: the end of its URI.
std::string lastOf(const std::string& uri) {
    const auto at = uri.find_last_of("#/:");
    return at == std::string::npos || at + 1 == uri.size() ? uri : uri.substr(at + 1);
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

void PluginWorld::listBundle(const std::filesystem::path& bundle, std::vector<PluginFound>& found) const {
    LilvWorld* world = m_inner->world();
    const NodePtr here = bundleNode(world, bundle);
    const LilvPlugins* all = lilv_world_get_all_plugins(world);
    LILV_FOREACH(plugins, i, all) {
        const LilvPlugin* plugin = lilv_plugins_get(all, i);
        if (!lilv_node_equals(lilv_plugin_get_bundle_uri(plugin), here)) continue;
        auto unfit = unfitness(world, plugin);
        const bool sane = hasSaneIndexes(world, plugin);
        const std::string uri = lilv_node_as_uri(lilv_plugin_get_uri(plugin)),
                          name = NodePtr(lilv_plugin_get_name(plugin)).text();
        found.push_back(
            {{uri, name.empty() ? lastOf(uri) : name, NodePtr(lilv_plugin_get_author_name(plugin)).text(),
              sane && takesNotes(world, plugin, countsOf(world, plugin))},
             std::move(unfit)});
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

std::vector<PluginInfo> PluginWorld::usable() const {
    std::vector<PluginInfo> usable;
    for (PluginFound& found : list())
        if (!found.unfit) usable.push_back(std::move(found.plugin));
    return usable;
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

/// What a parameter's values are; nothing for a type that cannot be set here.
struct ParameterType {
    LV2_URID atom = 0;
    PluginControl::Kind kind = PluginControl::Kind::Number;
    bool toggled = false, whole = false;
};

std::optional<ParameterType> parameterType(const std::string& range) {
    const auto number = [&](bool toggled, bool whole) {
        return ParameterType{uridOf(range.c_str()), PluginControl::Kind::Number, toggled, whole};
    };
    if (range == LV2_ATOM__Path) return ParameterType{uridOf(LV2_ATOM__Path), PluginControl::Kind::File};
    if (range == LV2_ATOM__Bool) return number(true, false);
    if (range == LV2_ATOM__Int || range == LV2_ATOM__Long) return number(false, true);
    if (range == LV2_ATOM__Float || range == LV2_ATOM__Double) return number(false, false);
    return std::nullopt;
}

/// Calls `take(parameter, its type)` for the parameters that can be set (patch:writable).
template <class Take> void eachParameter(LilvWorld* world, const LilvPlugin* plugin, Take take) {
    const NodePtr writable(lilv_new_uri(world, LV2_PATCH__writable)),
        range(lilv_new_uri(world, LILV_NS_RDFS "range"));
    LilvNodes* found = lilv_world_find_nodes(world, lilv_plugin_get_uri(plugin), writable, nullptr);
    LILV_FOREACH(nodes, i, found) {
        const LilvNode* parameter = lilv_nodes_get(found, i);
        if (!lilv_node_is_uri(parameter)) continue;
        const NodePtr type(lilv_world_get(world, parameter, range, nullptr));
        if (const auto known = parameterType(type.text())) take(parameter, *known);
    }
    lilv_nodes_free(found);
}

PluginControl controlOf(LilvWorld* world, const LilvNode* parameter, const ParameterType& type) {
    const auto value = [&](const char* key, float otherwise) {
        const NodePtr name(lilv_new_uri(world, key));
        const NodePtr node(lilv_world_get(world, parameter, name, nullptr));
        if (node.node && lilv_node_is_bool(node)) return lilv_node_as_bool(node) ? 1.0F : 0.0F;
        return numberOf(node, otherwise);
    };
    PluginControl control;
    control.symbol = lilv_node_as_uri(parameter);
    control.name =
        NodePtr(lilv_world_get(world, parameter, NodePtr(lilv_new_uri(world, LILV_NS_RDFS "label")), nullptr))
            .text();
    if (control.name.empty()) control.name = lastOf(control.symbol);
    control.kind = type.kind;
    control.toggled = type.toggled;
    control.whole = type.whole;
    control.least = value(LV2_CORE__minimum, 0);
    control.most = std::max(value(LV2_CORE__maximum, 1), control.least);
    control.normal = std::clamp(value(LV2_CORE__default, control.least), control.least, control.most);
    return control;
}

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

} // namespace

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

namespace {

std::filesystem::path pathOf(const LilvNode* uri) {
    char* path = uri && lilv_node_is_uri(uri) ? lilv_file_uri_parse(lilv_node_as_uri(uri), nullptr) : nullptr;
    std::filesystem::path result(path ? path : "");
    lilv_free(path);
    return result;
}

} // namespace

std::optional<WindowPlace> PluginWorld::window(const std::string& uri) const {
    const std::lock_guard guard(m_inner->hold->lock);
    const LilvPlugin* plugin = m_inner->find(uri);
    if (!plugin) return std::nullopt;
    LilvWorld* world = m_inner->world();
    const NodePtr kind(m_inner->uri(LV2_UI__X11UI)), fixed(m_inner->uri(LV2_UI__noUserResize)),
        optional(m_inner->uri(LV2_CORE__optionalFeature)), required(m_inner->uri(LV2_CORE__requiredFeature));
    std::optional<WindowPlace> found;
    LilvUIs* windows = lilv_plugin_get_uis(plugin);
    LILV_FOREACH(uis, i, windows) {
        const LilvUI* window = lilv_uis_get(windows, i);
        if (found || !lilv_ui_is_a(window, kind)) continue;
        const LilvNode* self = lilv_ui_get_uri(window);
        found = {uri, lilv_node_as_uri(self), pathOf(lilv_ui_get_binary_uri(window)),
                 pathOf(lilv_ui_get_bundle_uri(window)),
                 lilv_world_ask(world, self, optional, fixed) ||
                     lilv_world_ask(world, self, required, fixed)};
        if (found->library.empty()) found.reset();
    }
    lilv_uis_free(windows);
    return found;
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

/// Where the channels of an instrument with more than two go: by what they are said to be, else by the end of
/// their names; what is of neither side is in the middle.
void placeOutputs(LoadedPlugin::Inner& unit, LilvWorld* world, const LilvPlugin* plugin) {
    constexpr float middle = 0.7071F;
    if (unit.audioOut.size() <= 2) return;
    const NodePtr designation(lilv_new_uri(world, LV2_CORE__designation));
    for (UnitPort* out : unit.audioOut) {
        const NodePtr symbol(lilv_new_string(world, out->symbol.c_str()));
        const LilvPort* port = lilv_plugin_get_port_by_symbol(plugin, symbol);
        const std::string said = NodePtr(lilv_port_get(plugin, port, designation)).text();
        const std::string name = inSmallLetters(NodePtr(lilv_port_get_name(plugin, port)).text());
        const auto is = [&](const char* kind, std::initializer_list<const char*> ends) {
            return said == kind ||
                   (said.empty() && std::any_of(ends.begin(), ends.end(),
                                                [&](const char* end) { return name.ends_with(end); }));
        };
        const bool left = is(LV2_PORT_GROUPS__left, {" l", "_l", "left", "(l)"});
        const bool right = is(LV2_PORT_GROUPS__right, {" r", "_r", "right", "(r)"});
        out->toLeft = left ? 1 : right ? 0 : middle;
        out->toRight = right ? 1 : left ? 0 : middle;
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
            unit->isEffect = !takesNotes(world, unit->plugin, countsOf(world, unit->plugin));
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
