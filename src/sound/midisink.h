/// MIDI ports: where messages go to and come from.
#pragma once
#include "font/catalogue.h"
#include "midi/result.h"

#include <functional>
#include <memory>
#include <span>
#include <string>
#include <vector>

namespace cobbleway {

/// The id of the sound module that ships: no port of the system, but listed among them.
inline constexpr const char* standInPort = "stand-in";

/// Takes messages, one a call. For one thread at a time.
class MidiSink {
  public:
    MidiSink() = default;
    MidiSink(const MidiSink&) = delete;
    MidiSink& operator=(const MidiSink&) = delete;
    virtual ~MidiSink() = default;
    virtual void send(std::span<const std::uint8_t> message) = 0;
};

/// Ports that notes can be sent to; the stand-in module comes last.
std::vector<PortInfo> midiOutputs();
/// Opens a port of the system by PortInfo::id.
Result<std::unique_ptr<MidiSink>> openMidiOutput(const std::string& id);

/// Takes what arrives, one message a call, on a thread of the input's own. Must not wait.
using MidiReceiver = std::function<void(std::span<const std::uint8_t>)>;

/// An open input; closed when destroyed, after which the receiver is called no more.
class MidiInput {
  public:
    MidiInput() = default;
    MidiInput(const MidiInput&) = delete;
    MidiInput& operator=(const MidiInput&) = delete;
    virtual ~MidiInput() = default;
};

std::vector<PortInfo> midiInputs(); ///< keyboards and the like
Result<std::unique_ptr<MidiInput>> openMidiInput(const std::string& id, MidiReceiver receiver);

} // namespace cobbleway
