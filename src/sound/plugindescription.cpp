#include "sound/plugindescription.h"

#include "words/letters.h"

#include <algorithm>
#include <lv2/core/lv2.h>
#include <lv2/midi/midi.h>
#include <lv2/patch/patch.h>
#include <lv2/port-groups/port-groups.h>
#include <lv2/port-props/port-props.h>
#include <lv2/state/state.h>
#include <lv2/time/time.h>
#include <lv2/ui/ui.h>
#include <lv2/units/units.h>
#include <map>

namespace cobbleway {

namespace {

/// What stands for the name of something that has none: the end of its URI.
std::string lastOf(const std::string& uri) {
    const auto at = uri.find_last_of("#/:");
    return at == std::string::npos || at + 1 == uri.size() ? uri : uri.substr(at + 1);
}

bool offered(const std::string& feature) {
    for (const char* known :
         {LV2_URID__map, LV2_URID__unmap, LV2_OPTIONS__options, LV2_WORKER__schedule,
          LV2_BUF_SIZE__boundedBlockLength, LV2_BUF_SIZE__fixedBlockLength, LV2_BUF_SIZE__powerOf2BlockLength,
          LV2_STATE__loadDefaultState, LV2_CORE__isLive, LV2_CORE__inPlaceBroken, LV2_CORE__hardRTCapable})
        if (feature == known) return true;
    return false;
}

} // namespace

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

namespace {

/// By its own types, which need no description of the classes that there are.
bool isInstrument(LilvWorld* world, const LilvPlugin* plugin) {
    return lilv_world_ask(world, lilv_plugin_get_uri(plugin),
                          NodePtr(lilv_new_uri(world, LILV_NS_RDF "type")),
                          NodePtr(lilv_new_uri(world, LV2_CORE__InstrumentPlugin)));
}

} // namespace

bool isSideChain(LilvWorld* world, const LilvPlugin* plugin, const LilvPort* port) {
    return lilv_port_has_property(plugin, port, NodePtr(lilv_new_uri(world, LV2_CORE_PREFIX "isSideChain")));
}

namespace {

/// Ports by what they are for.
struct PortCounts {
    int audioIn = 0, audioOut = 0, events = 0; ///< side chains are not counted
    std::string strange; ///< the name of one that this host cannot serve; empty for none
};

} // namespace

bool takesMessages(LilvWorld* world, const LilvPlugin* plugin, const LilvPort* port) {
    return lilv_port_supports_event(plugin, port, NodePtr(lilv_new_uri(world, LV2_PATCH__Message)));
}

bool takesTime(LilvWorld* world, const LilvPlugin* plugin, const LilvPort* port) {
    return lilv_port_supports_event(plugin, port, NodePtr(lilv_new_uri(world, LV2_TIME__Position)));
}

namespace {

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

} // namespace

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

namespace {

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

} // namespace

bool canRun(LilvWorld* world, const LilvPlugin* plugin) {
    return hasSaneIndexes(world, plugin) && missingFeature(plugin).empty();
}

namespace {

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

float numberOf(const LilvNode* node, float otherwise) {
    return node && (lilv_node_is_float(node) || lilv_node_is_int(node)) ? lilv_node_as_float(node)
                                                                        : otherwise;
}

} // namespace

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

namespace {

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

} // namespace

void eachParameter(LilvWorld* world, const LilvPlugin* plugin,
                   const std::function<void(const LilvNode*, const ParameterType&)>& take) {
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

std::filesystem::path pathOf(const LilvNode* uri) {
    char* path = uri && lilv_node_is_uri(uri) ? lilv_file_uri_parse(lilv_node_as_uri(uri), nullptr) : nullptr;
    std::filesystem::path result(path ? path : "");
    lilv_free(path);
    return result;
}

std::optional<WindowPlace> windowOf(LilvWorld* world, const LilvPlugin* plugin) {
    const auto node = [&](const char* uri) { return NodePtr(lilv_new_uri(world, uri)); };
    const NodePtr kind = node(LV2_UI__X11UI), fixed = node(LV2_UI__noUserResize),
                  optional = node(LV2_CORE__optionalFeature), required = node(LV2_CORE__requiredFeature);
    std::optional<WindowPlace> found;
    LilvUIs* windows = lilv_plugin_get_uis(plugin);
    LILV_FOREACH(uis, i, windows) {
        const LilvUI* window = lilv_uis_get(windows, i);
        if (found || !lilv_ui_is_a(window, kind)) continue;
        const LilvNode* self = lilv_ui_get_uri(window);
        found = {lilv_node_as_uri(lilv_plugin_get_uri(plugin)), lilv_node_as_uri(self),
                 pathOf(lilv_ui_get_binary_uri(window)), pathOf(lilv_ui_get_bundle_uri(window)),
                 lilv_world_ask(world, self, optional, fixed) ||
                     lilv_world_ask(world, self, required, fixed)};
        if (found->library.empty()) found.reset();
    }
    lilv_uis_free(windows);
    return found;
}

namespace {

/// By its own types (LV2 core classes), the telling ones first, since a reverb is a delay, too; of those that
/// say nothing by their name (common practice, no source).
PluginKind kindOf(LilvWorld* world, const LilvPlugin* plugin, const std::string& name) {
    using enum PluginKind;
    static constexpr std::pair<const char*, PluginKind> classes[] = {
        {LV2_CORE__AnalyserPlugin, Meter},        {LV2_CORE__ReverbPlugin, Reverb},
        {LV2_CORE__CompressorPlugin, Compressor}, {LV2_CORE__LimiterPlugin, Compressor},
        {LV2_CORE__GatePlugin, Compressor},       {LV2_CORE__ExpanderPlugin, Compressor},
        {LV2_CORE__EQPlugin, Equaliser},          {LV2_CORE__ParaEQPlugin, Equaliser},
        {LV2_CORE__MultiEQPlugin, Equaliser},     {LV2_CORE__ChorusPlugin, Chorus},
        {LV2_CORE__FlangerPlugin, Chorus},        {LV2_CORE__PhaserPlugin, Chorus},
        {LV2_CORE__WaveshaperPlugin, Distortion}, {LV2_CORE__DistortionPlugin, Distortion},
        {LV2_CORE__PitchPlugin, Pitch},           {LV2_CORE__DelayPlugin, Delay},
        {LV2_CORE__AllpassPlugin, Filter},        {LV2_CORE__BandpassPlugin, Filter},
        {LV2_CORE__CombPlugin, Filter},           {LV2_CORE__HighpassPlugin, Filter},
        {LV2_CORE__LowpassPlugin, Filter},        {LV2_CORE__FilterPlugin, Filter},
        {LV2_CORE__DynamicsPlugin, Compressor}};
    const NodePtr type(lilv_new_uri(world, LILV_NS_RDF "type"));
    for (const auto& [uri, kind] : classes)
        if (lilv_world_ask(world, lilv_plugin_get_uri(plugin), type, NodePtr(lilv_new_uri(world, uri))))
            return kind;
    static constexpr std::pair<const char*, PluginKind> words[] = {
        {"reverb", Reverb},      {"compress", Compressor}, {"limiter", Compressor}, {"gate", Compressor},
        {"equali", Equaliser},   {"delay", Delay},         {"echo", Delay},         {"chorus", Chorus},
        {"flanger", Chorus},     {"phaser", Chorus},       {"distort", Distortion}, {"overdrive", Distortion},
        {"saturat", Distortion}, {"filter", Filter},       {"pitch", Pitch},        {"analy", Meter},
        {"meter", Meter},        {"scope", Meter}};
    const std::string small = inSmallLetters(name);
    for (const auto& [word, kind] : words)
        if (small.find(word) != std::string::npos) return kind;
    return Other;
}

/// What can be told of its ports and parameters.
void addPorts(PluginInfo& info, LilvWorld* world, const LilvPlugin* plugin) {
    const PortCounts ports = countsOf(world, plugin);
    info.instrument = takesNotes(world, plugin, ports);
    info.in = ports.audioIn;
    info.out = ports.audioOut;
    for (std::uint32_t i = 0; i < lilv_plugin_get_num_ports(plugin); ++i)
        info.controls += useOf(world, plugin, lilv_plugin_get_port_by_index(plugin, i)) == PortUse::Control;
    eachParameter(world, plugin, [&](const LilvNode*, const ParameterType& type) {
        ++info.controls;
        info.file = info.file || type.kind == PluginControl::Kind::File;
    });
    info.window = windowOf(world, plugin).has_value();
}

} // namespace

namespace {

/// One that ends as a side does.
struct Side {
    bool left = false, right = false;
    std::string rest; ///< the name without it
};

Side sideOf(const std::string& name, const std::string& said) {
    static constexpr std::pair<const char*, bool> ends[] = {
        {" left", true},   {"(left)", true},   {"_l", true},  {" l", true},  {"(l)", true},
        {" right", false}, {"(right)", false}, {"_r", false}, {" r", false}, {"(r)", false}};
    Side side{said == LV2_PORT_GROUPS__left, said == LV2_PORT_GROUPS__right, name};
    const std::string small = inSmallLetters(name);
    for (const auto& [end, left] : ends)
        if (small.ends_with(end) && small.size() > std::string_view(end).size()) {
            side.rest = name.substr(0, name.size() - std::string_view(end).size());
            if (said.empty()) (left ? side.left : side.right) = true;
            break;
        }
    if (said.empty() && small == "left") side.left = true;
    if (said.empty() && small == "right") side.right = true;
    while (side.rest.ends_with(' ')) side.rest.pop_back();
    return side;
}

} // namespace

std::vector<OutputPlace> outputsOf(LilvWorld* world, const LilvPlugin* plugin) {
    constexpr float middle = 0.7071F;
    const NodePtr designation(lilv_new_uri(world, LV2_CORE__designation));
    std::vector<OutputPlace> outputs;
    bool wasLeft = false;
    for (std::uint32_t i = 0; i < lilv_plugin_get_num_ports(plugin); ++i) {
        const LilvPort* port = lilv_plugin_get_port_by_index(plugin, i);
        if (useOf(world, plugin, port) != PortUse::AudioOut) continue;
        const Side side = sideOf(NodePtr(lilv_port_get_name(plugin, port)).text(),
                                 NodePtr(lilv_port_get(plugin, port, designation)).text());
        const bool isPair = side.right && wasLeft && outputs.back().name == side.rest;
        const std::string symbol = lilv_node_as_string(lilv_port_get_symbol(plugin, port));
        outputs.push_back({side.left    ? 1
                           : side.right ? 0
                                        : middle,
                           side.right  ? 1
                           : side.left ? 0
                                       : middle,
                           isPair ? outputs.back().control : "output:" + symbol, side.rest});
        wasLeft = side.left;
    }
    return outputs;
}

bool isPlayed(LilvWorld* world, const LilvPlugin* plugin) {
    return takesNotes(world, plugin, countsOf(world, plugin));
}

PluginFound described(LilvWorld* world, const LilvPlugin* plugin) {
    const std::string uri = lilv_node_as_uri(lilv_plugin_get_uri(plugin)),
                      name = NodePtr(lilv_plugin_get_name(plugin)).text();
    auto unfit = unfitness(world, plugin); // first: it reads all that describes it
    PluginInfo info{uri, name.empty() ? lastOf(uri) : name,
                    NodePtr(lilv_plugin_get_author_name(plugin)).text()};
    info.kind = kindOf(world, plugin, info.name);
    if (hasSaneIndexes(world, plugin)) addPorts(info, world, plugin);
    return {std::move(info), std::move(unfit)};
}

} // namespace cobbleway
