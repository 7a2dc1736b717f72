#include "sound/midisink.h"

#include "sound/silencealsa.h"

#include <RtMidi.h>
#include <alsa/asoundlib.h>

namespace cobbleway {
namespace {

void sayNothing(RtMidiError::Type, const std::string&, void*) {}

/// Whether the system has a sequencer for MIDI ports. Asked first, since RtMidi tells of a missing one on the
/// error stream.
bool hasPorts() {
    silenceAlsa();
    snd_seq_t* sequencer = nullptr;
    if (snd_seq_open(&sequencer, "default", SND_SEQ_OPEN_DUPLEX, SND_SEQ_NONBLOCK) < 0) return false;
    snd_seq_close(sequencer);
    return true;
}

/// Calls work with a fresh RtMidi object; what it throws goes no further.
template <class Midi, class Work> auto with(Work work)
    -> decltype(work(std::declval<std::unique_ptr<Midi>>())) {
    if (!hasPorts()) return {};
    try {
        auto midi = std::make_unique<Midi>(RtMidi::LINUX_ALSA, "Cobbleway");
        midi->setErrorCallback(&sayNothing);
        return work(std::move(midi));
    } catch (const RtMidiError&) { return {}; }
}

/// Port names carry numbers that change from start to start: "Device:Port 20:0" is known by what stands
/// before.
std::string idOf(const std::string& name) {
    const auto end = name.find_last_not_of("0123456789: ");
    return end == std::string::npos ? name : name.substr(0, end + 1);
}

template <class Midi> std::vector<PortInfo> ports() {
    return with<Midi>([](std::unique_ptr<Midi> midi) {
        std::vector<PortInfo> found;
        for (unsigned i = 0; i < midi->getPortCount(); ++i) {
            const std::string id = idOf(midi->getPortName(i));
            if (id.find("Cobbleway") == std::string::npos) found.push_back({id, id, false});
        }
        return found;
    });
}

/// The port with this id, opened; null when it is not there or is in use.
template <class Midi> std::unique_ptr<Midi> opened(const std::string& id) {
    return with<Midi>([&](std::unique_ptr<Midi> midi) -> std::unique_ptr<Midi> {
        for (unsigned i = 0; i < midi->getPortCount(); ++i) {
            if (idOf(midi->getPortName(i)) != id) continue;
            midi->openPort(i, "Cobbleway");
            return midi->isPortOpen() ? std::move(midi) : nullptr;
        }
        return nullptr;
    });
}

class PortSink final : public MidiSink {
  public:
    explicit PortSink(std::unique_ptr<RtMidiOut> midi) : m_midi(std::move(midi)) {}
    void send(std::span<const std::uint8_t> message) override {
        m_midi->sendMessage(message.data(), message.size());
    }

  private:
    std::unique_ptr<RtMidiOut> m_midi;
};

class PortInput final : public MidiInput {
  public:
    PortInput(std::unique_ptr<RtMidiIn> midi, MidiReceiver receiver)
        : m_receiver(std::move(receiver)), m_midi(std::move(midi)) {
        m_midi->setCallback(
            [](double, std::vector<unsigned char>* message, void* self) {
                static_cast<PortInput*>(self)->m_receiver({message->data(), message->size()});
            },
            this);
    }

  private:
    MidiReceiver m_receiver;
    std::unique_ptr<RtMidiIn> m_midi; // last, so that it ends first
};

Error notThere(const std::string& id) { return {{"error.port-open"}, id, {"now.check-instrument"}}; }

} // namespace

std::vector<PortInfo> midiOutputs() {
    auto found = ports<RtMidiOut>();
    found.push_back({standInPort, "Stand-in module", true});
    return found;
}

Result<std::unique_ptr<MidiSink>> openMidiOutput(const std::string& id) {
    auto midi = opened<RtMidiOut>(id);
    if (!midi) return notThere(id);
    return std::unique_ptr<MidiSink>(std::make_unique<PortSink>(std::move(midi)));
}

std::vector<PortInfo> midiInputs() { return ports<RtMidiIn>(); }

Result<std::unique_ptr<MidiInput>> openMidiInput(const std::string& id, MidiReceiver receiver) {
    auto midi = opened<RtMidiIn>(id);
    if (!midi) return notThere(id);
    return std::unique_ptr<MidiInput>(std::make_unique<PortInput>(std::move(midi), std::move(receiver)));
}

} // namespace cobbleway
