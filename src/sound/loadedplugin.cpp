#include "sound/plugindescription.h"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <lv2/atom/util.h>
#include <lv2/midi/midi.h>
#include <lv2/parameters/parameters.h>
#include <lv2/patch/patch.h>
#include <lv2/state/state.h>
#include <lv2/time/time.h>
#include <lv2/urid/urid.h>

namespace cobbleway {

LoadedPlugin::Inner::~Inner() {
    worker.end(); // first: it calls the instance
    const std::lock_guard guard(hold->lock);
    if (!instance) return;
    lilv_instance_deactivate(instance);
    lilv_instance_free(instance);
}

void LoadedPlugin::Inner::makeFeatures(int rate) {
    rateOption = static_cast<float>(rate);
    const LV2_URID whole = uridOf(LV2_ATOM__Int);
    const auto option = [&](const char* key, std::uint32_t size, LV2_URID type, const void* value) {
        options.push_back({LV2_OPTIONS_INSTANCE, 0, key ? uridOf(key) : 0, size, type, value});
    };
    option(LV2_PARAMETERS__sampleRate, sizeof rateOption, uridOf(LV2_ATOM__Float), &rateOption);
    for (const char* key :
         {LV2_BUF_SIZE__minBlockLength, LV2_BUF_SIZE__maxBlockLength, LV2_BUF_SIZE__nominalBlockLength})
        option(key, sizeof blockOption, whole, &blockOption);
    option(LV2_BUF_SIZE__sequenceSize, sizeof sequenceOption, whole, &sequenceOption);
    option(nullptr, 0, 0, nullptr);
    features = {{LV2_URID__map, uridMap()},
                {LV2_URID__unmap, uridUnmap()},
                {LV2_OPTIONS__options, options.data()},
                {LV2_WORKER__schedule, worker.schedule()},
                {LV2_BUF_SIZE__boundedBlockLength, nullptr},
                {LV2_BUF_SIZE__fixedBlockLength, nullptr},
                {LV2_BUF_SIZE__powerOf2BlockLength, nullptr},
                {LV2_STATE__loadDefaultState, nullptr}};
    for (const LV2_Feature& feature : features) featureList.push_back(&feature);
    featureList.push_back(nullptr);
    midiEvent = uridOf(LV2_MIDI__MidiEvent);
    lv2_atom_forge_init(&forge, uridMap());
}

void LoadedPlugin::Inner::clearEvents() {
    for (const auto& port : ports) {
        if (port->use != PortUse::Events && port->use != PortUse::EventsOut) continue;
        auto* sequence = reinterpret_cast<LV2_Atom_Sequence*>(port->events.data());
        static const LV2_URID sequenceType = uridOf(LV2_ATOM__Sequence), chunkType = uridOf(LV2_ATOM__Chunk);
        if (port->use == PortUse::Events) {
            sequence->atom = {sizeof(LV2_Atom_Sequence_Body), sequenceType};
            sequence->body = {0, 0};
        } else { // the plug-in is told how much room there is
            sequence->atom = {static_cast<std::uint32_t>(port->events.size() - sizeof(LV2_Atom)), chunkType};
        }
    }
}

UnitPort* LoadedPlugin::Inner::control(const std::string& symbol) {
    const auto at = std::find_if(controls.begin(), controls.end(),
                                 [&](const UnitPort* port) { return port->symbol == symbol; });
    if (at != controls.end()) return *at;
    const auto level = std::find_if(levels.begin(), levels.end(),
                                    [&](const UnitPort* port) { return port->levelSymbol == symbol; });
    return level == levels.end() ? nullptr : *level;
}

/// Levels glide within a block.
void LoadedPlugin::Inner::mixOutputs() {
    for (auto& side : mix) side.fill(0);
    for (UnitPort* out : audioOut) {
        const float db = out->level ? out->level->wanted.load(std::memory_order_relaxed) : 0;
        const float goal = db <= leastOutputDb ? 0 : std::pow(10.0F, std::min(db, mostOutputDb) / 20);
        const float step = (goal - out->gain) / blockFrames;
        for (std::size_t f = 0; f < blockFrames; ++f) {
            out->gain += step;
            mix[0][f] += out->audio[f] * out->toLeft * out->gain;
            mix[1][f] += out->audio[f] * out->toRight * out->gain;
        }
        out->gain = goal;
    }
}

UnitParameter* LoadedPlugin::Inner::parameter(const std::string& uri) {
    const auto at =
        std::find_if(parameters.begin(), parameters.end(), [&](const auto& p) { return p->uri == uri; });
    return at == parameters.end() ? nullptr : at->get();
}

void LoadedPlugin::Inner::set(const PluginSettings& settings) {
    for (UnitPort* port : controls) {
        const auto at = settings.controls.find(port->symbol);
        port->wanted.store(at == settings.controls.end() ? port->start : at->second,
                           std::memory_order_relaxed);
    }
    for (UnitPort* output : levels) {
        const auto at = settings.controls.find(output->levelSymbol);
        output->wanted.store(at == settings.controls.end() ? 0 : at->second, std::memory_order_relaxed);
    }
    for (const auto& each : parameters) {
        const auto at = settings.controls.find(each->uri);
        each->wanted.store(at == settings.controls.end() ? each->start() : at->second,
                           std::memory_order_relaxed);
    }
}

/// Those that are to be others than the plug-in was told, and of those that it was never told what is not as
/// its description says.
void LoadedPlugin::Inner::tellParameters() {
    for (const auto& each : parameters) {
        const float wanted = each->wanted.load(std::memory_order_relaxed);
        if (std::isnan(wanted)) continue;
        const bool isSo = each->wasTold ? wanted == each->told : each->hasNormal && wanted == each->normal;
        if (isSo) continue;
        tell(*each, wanted);
        each->told = wanted;
        each->wasTold = true;
    }
}

namespace {

/// A patch:Set message of one property, ready to be appended to a sequence.
template <class Value> class SetMessage {
  public:
    SetMessage(const Value& value, std::uint32_t size, LV2_URID key, LV2_URID type) {
        static const LV2_URID object = uridOf(LV2_ATOM__Object), set = uridOf(LV2_PATCH__Set),
                              urid = uridOf(LV2_ATOM__URID), property = uridOf(LV2_PATCH__property),
                              holds = uridOf(LV2_PATCH__value);
        m_head.body = {
            static_cast<std::uint32_t>(offsetof(SetMessage, m_value) - offsetof(SetMessage, m_body)) + size,
            object};
        m_body = {0, set};
        m_property = {property, 0, {sizeof(LV2_URID), urid}};
        m_key = key;
        m_holds = {holds, 0, {size, type}};
        m_value = value;
    }
    [[nodiscard]] const LV2_Atom_Event& event() const { return m_head; }

  private:
    struct Head { // LV2_Atom_Property_Body without what follows it
        LV2_URID key = 0, context = 0;
        LV2_Atom value = {0, 0};
    };
    LV2_Atom_Event m_head{};
    LV2_Atom_Object_Body m_body{};
    Head m_property;
    LV2_URID m_key = 0, m_pad = 0;
    Head m_holds;
    Value m_value{};
};

} // namespace

void LoadedPlugin::Inner::append(UnitPort* port, const LV2_Atom_Event& event) {
    if (!port) return;
    lv2_atom_sequence_append_event(
        reinterpret_cast<LV2_Atom_Sequence*>(port->events.data()),
        static_cast<std::uint32_t>(port->events.size() - sizeof(LV2_Atom_Sequence)), &event);
}

void LoadedPlugin::Inner::tellChanges(int from, int frames) {
    for (const auto& [offset, change] : changes)
        if (offset >= from && offset < from + frames) tellTime(change, offset - from);
}

void LoadedPlugin::Inner::tellTime(const MusicTime& now, int offset) {
    static const LV2_URID position = uridOf(LV2_TIME__Position), frame = uridOf(LV2_TIME__frame),
                          bar = uridOf(LV2_TIME__bar), barBeat = uridOf(LV2_TIME__barBeat),
                          perBar = uridOf(LV2_TIME__beatsPerBar), unit = uridOf(LV2_TIME__beatUnit),
                          perMinute = uridOf(LV2_TIME__beatsPerMinute), speed = uridOf(LV2_TIME__speed);
    alignas(8) std::array<std::uint8_t, 512> bytes{};
    auto* const event = reinterpret_cast<LV2_Atom_Event*>(bytes.data());
    constexpr std::size_t head = offsetof(LV2_Atom_Event, body);
    lv2_atom_forge_set_buffer(&forge, bytes.data() + head, bytes.size() - head);
    LV2_Atom_Forge_Frame whole;
    lv2_atom_forge_object(&forge, &whole, 0, position);
    const auto put = [&](LV2_URID key, float value) {
        lv2_atom_forge_key(&forge, key);
        lv2_atom_forge_float(&forge, value);
    };
    lv2_atom_forge_key(&forge, frame);
    lv2_atom_forge_long(&forge, now.frame);
    lv2_atom_forge_key(&forge, bar);
    lv2_atom_forge_long(&forge, now.bar);
    put(barBeat, now.barBeat);
    put(perBar, now.beatsPerBar);
    lv2_atom_forge_key(&forge, unit);
    lv2_atom_forge_int(&forge, static_cast<std::int32_t>(now.beatUnit));
    put(perMinute, now.beatsPerMinute);
    put(speed, now.speed);
    lv2_atom_forge_pop(&forge, &whole);
    event->time.frames = offset;
    append(time, *event);
}

void LoadedPlugin::Inner::tell(const UnitParameter& parameter, float value) {
    static const LV2_URID whole = uridOf(LV2_ATOM__Int), large = uridOf(LV2_ATOM__Long),
                          yes = uridOf(LV2_ATOM__Bool), fine = uridOf(LV2_ATOM__Double);
    const auto set = [&](auto as) {
        const SetMessage message(as, sizeof as, parameter.key, parameter.type);
        append(messages, message.event());
    };
    if (parameter.type == whole || parameter.type == yes)
        set(static_cast<std::int32_t>(std::lround(value)));
    else if (parameter.type == large)
        set(static_cast<std::int64_t>(std::lround(value)));
    else if (parameter.type == fine)
        set(static_cast<double>(value));
    else
        set(value);
}

void LoadedPlugin::Inner::tellFile(LV2_URID key, const std::string& path) {
    std::array<char, 4096> text{};
    if (path.size() >= text.size()) return;
    std::copy(path.begin(), path.end(), text.begin());
    const SetMessage message(text, static_cast<std::uint32_t>(path.size() + 1), key, uridOf(LV2_ATOM__Path));
    append(messages, message.event());
}

void LoadedPlugin::Inner::hearWindow() {
    std::uint32_t port = 0;
    while (fromWindow.pop(port, heard)) {
        if (port >= ports.size() || ports[port]->use != PortUse::Events) continue;
        auto& bytes = ports[port]->events;
        auto* sequence = reinterpret_cast<LV2_Atom_Sequence*>(bytes.data());
        const std::size_t used = sizeof(LV2_Atom) + sequence->atom.size;
        const std::size_t wanted =
            lv2_atom_pad_size(static_cast<std::uint32_t>(offsetof(LV2_Atom_Event, body) + heard.size()));
        if (used + wanted > bytes.size()) continue;
        const std::int64_t time = 0;
        std::memset(&bytes[used], 0, wanted);
        std::memcpy(&bytes[used], &time, sizeof time);
        std::memcpy(&bytes[used + offsetof(LV2_Atom_Event, body)], heard.data(), heard.size());
        sequence->atom.size += static_cast<std::uint32_t>(wanted);
    }
}

void LoadedPlugin::Inner::tellWindow() {
    if (!isListenedTo.load(std::memory_order_relaxed)) return;
    static const LV2_URID sequenceType = uridOf(LV2_ATOM__Sequence);
    for (std::uint32_t i = 0; i < ports.size(); ++i) {
        if (ports[i]->use == PortUse::ControlOut)
            ports[i]->shown.store(ports[i]->value, std::memory_order_relaxed);
        if (ports[i]->use != PortUse::EventsOut) continue;
        const auto& bytes = ports[i]->events;
        const auto* sequence = reinterpret_cast<const LV2_Atom_Sequence*>(bytes.data());
        if (sequence->atom.type != sequenceType || sequence->atom.size > bytes.size() - sizeof(LV2_Atom))
            continue; // it has said nothing, or nonsense
        const auto* const end = bytes.data() + sizeof(LV2_Atom) + sequence->atom.size;
        LV2_ATOM_SEQUENCE_FOREACH(sequence, event) {
            const auto* const body = reinterpret_cast<const std::uint8_t*>(&event->body);
            const std::size_t size = sizeof(LV2_Atom) + event->body.size;
            if (body + sizeof(LV2_Atom) > end || size > static_cast<std::size_t>(end - body)) break;
            toWindow.push(i, body, static_cast<std::uint32_t>(size));
        }
    }
}

/// 20 and 60 dB above full scale. Past the second a plug-in has gone astray, and the room would never forget.
constexpr float loudestSample = 10, leastAstray = 1000;

void LoadedPlugin::Inner::runBlock(float* left, float* right, int at) {
    for (UnitPort* port : controls) port->value = port->wanted.load(std::memory_order_relaxed);
    tellParameters();
    hearWindow();
    tellChanges(at, blockFrames); // last: events are in order of time
    for (std::size_t i = 0; i < audioIn.size(); ++i)
        for (std::size_t f = 0; f < blockFrames; ++f)
            audioIn[i]->audio[f] =
                audioIn.size() == 1 ? 0.5F * (left[f] + right[f]) : (i == 0 ? left : right)[f];
    lilv_instance_run(instance, blockFrames);
    worker.deliver();
    tellWindow();
    clearEvents();
    const bool effect = isEffect;
    const bool mixes = audioOut.size() > 2;
    if (mixes) mixOutputs();
    for (std::size_t side = 0; side < 2; ++side) {
        float* out = side == 0 ? left : right;
        const float* in =
            mixes ? mix[side].data() : audioOut[std::min(side, audioOut.size() - 1)]->audio.data();
        bool fits = true, sound = true;
        for (std::size_t f = 0; f < blockFrames; ++f) {
            const bool isSound = std::abs(in[f]) < leastAstray; // nor is what is no number
            const float sample = isSound ? std::clamp(in[f], -loudestSample, loudestSample) : 0;
            sound = sound && isSound;
            fits = fits && sample == in[f];
            out[f] = effect ? sample : out[f] + sample;
        }
        if (!fits) note(sound ? PluginFault::TooLoud : PluginFault::NoSound);
    }
    if (latency) latencyFrames.store(static_cast<int>(latency->value), std::memory_order_relaxed);
}

LoadedPlugin::LoadedPlugin(std::unique_ptr<Inner> inner) : m_inner(std::move(inner)) {
    m_inner->clearEvents();
}
LoadedPlugin::~LoadedPlugin() = default;

void LoadedPlugin::event(std::uint8_t status, std::uint8_t data1, std::uint8_t data2) {
    if (!m_inner->events) return;
    struct {
        LV2_Atom_Event head;
        std::uint8_t bytes[3];
    } message{};
    const bool two = (status & 0xF0) == 0xC0 || (status & 0xF0) == 0xD0;
    message.head.time.frames = 0;
    message.head.body = {two ? 2U : 3U, m_inner->midiEvent};
    const std::uint8_t bytes[3] = {status, data1, data2};
    std::memcpy(message.bytes, bytes, sizeof bytes);
    m_inner->append(m_inner->events, message.head);
}

void LoadedPlugin::setTime(const MusicTime& time, int offset) {
    auto& changes = m_inner->changes;
    if (!m_inner->time || (offset > 0 && changes.size() == Inner::mostChanges)) return;
    if (offset > 0)
        changes.emplace_back(offset, time);
    else if (m_inner->teller.isNews(time))
        m_inner->tellTime(time, 0);
    else
        return;
    m_inner->teller.tell(time, offset);
}

void LoadedPlugin::run(float* left, float* right, int frames) {
    for (int at = 0; at + blockFrames <= frames; at += blockFrames)
        m_inner->runBlock(left + at, right + at, at);
    m_inner->changes.clear();
    m_inner->teller.goOn(frames);
}

void LoadedPlugin::setControl(const std::string& symbol, float value) {
    if (UnitPort* port = m_inner->control(symbol)) port->wanted.store(value, std::memory_order_relaxed);
    if (UnitParameter* parameter = m_inner->parameter(symbol))
        parameter->wanted.store(value, std::memory_order_relaxed);
}

std::optional<std::string> LoadedPlugin::controlAt(std::uint32_t port) const {
    const auto& ports = m_inner->ports;
    if (port >= ports.size() || ports[port]->use != PortUse::Control) return std::nullopt;
    return ports[port]->symbol;
}

std::uint32_t LoadedPlugin::portNamed(const std::string& symbol) const {
    const auto& ports = m_inner->ports;
    const auto at =
        std::find_if(ports.begin(), ports.end(), [&](const auto& port) { return port->symbol == symbol; });
    return at == ports.end() ? std::numeric_limits<std::uint32_t>::max()
                             : static_cast<std::uint32_t>(at - ports.begin());
}

std::size_t LoadedPlugin::portCount() const { return m_inner->ports.size(); }

std::optional<float> LoadedPlugin::valueAt(std::uint32_t port) const {
    const UnitPort& at = *m_inner->ports[port];
    if (at.use == PortUse::Control) return at.wanted.load(std::memory_order_relaxed);
    if (at.use == PortUse::ControlOut) return at.shown.load(std::memory_order_relaxed);
    return std::nullopt;
}

void LoadedPlugin::send(std::uint32_t port, const void* atom, std::uint32_t size) {
    m_inner->fromWindow.push(port, atom, size);
}

bool LoadedPlugin::takeMessage(std::uint32_t& port, std::vector<std::uint8_t>& atom) {
    return m_inner->toWindow.pop(port, atom);
}

void LoadedPlugin::listen(bool listens) { m_inner->isListenedTo = listens; }
void* LoadedPlugin::handle() const { return lilv_instance_get_handle(m_inner->instance); }
WindowHost::Extensions LoadedPlugin::extensions() const {
    return lilv_instance_get_descriptor(m_inner->instance)->extension_data;
}

bool LoadedPlugin::isEffect() const { return m_inner->isEffect; }

std::vector<std::pair<std::string, float>> LoadedPlugin::starts() const {
    std::vector<std::pair<std::string, float>> starts;
    for (const UnitPort* port : m_inner->controls) starts.emplace_back(port->symbol, port->start);
    for (const UnitPort* output : m_inner->levels) starts.emplace_back(output->levelSymbol, 0.0F);
    for (const auto& each : m_inner->parameters) starts.emplace_back(each->uri, each->start());
    return starts;
}

void LoadedPlugin::setControls(const PluginSettings& settings) { m_inner->set(settings); }

PluginFault LoadedPlugin::fault() const { return m_inner->fault.load(std::memory_order_relaxed); }

int LoadedPlugin::latency() const {
    return std::max(0, m_inner->latencyFrames.load(std::memory_order_relaxed));
}

PluginSettings LoadedPlugin::settings() const {
    const std::lock_guard guard(m_inner->hold->lock);
    PluginSettings settings;
    settings.preset = m_inner->preset;
    for (const UnitPort* port : m_inner->controls) // with a preset all of them: it may change, or be gone
        if (!settings.preset.empty() || port->wanted.load() != port->normal || port->start != port->normal)
            settings.controls[port->symbol] = port->wanted.load();
    for (const UnitPort* output : m_inner->levels)
        if (const float level = output->wanted.load(); level != 0)
            settings.controls[output->levelSymbol] = level;
    const LV2_Feature map{LV2_URID__map, uridMap()}, unmap{LV2_URID__unmap, uridUnmap()};
    const LV2_Feature* features[] = {&map, &unmap, nullptr};
    LilvState* state = lilv_state_new_from_instance(m_inner->plugin, m_inner->instance, uridMap(), nullptr,
                                                    nullptr, nullptr, nullptr, nullptr, nullptr,
                                                    LV2_STATE_IS_POD | LV2_STATE_IS_PORTABLE, features);
    if (!state) return settings;
    if (lilv_state_get_num_properties(state) > 0) {
        char* text = lilv_state_to_string(m_inner->hold->world, uridMap(), uridUnmap(), state,
                                          "urn:cobbleway:state", nullptr);
        if (text) settings.state = text;
        lilv_free(text);
    }
    lilv_state_free(state);
    return settings;
}

} // namespace cobbleway
