#include "sound/lanestate.h"

#include "midi/event.h"

#include <algorithm>

namespace cobbleway {

int soundControllerOf(int nrpnLsb) {
    switch (nrpnLsb) {
    case 0x08: return 76; // vibrato rate
    case 0x09: return 77; // vibrato depth
    case 0x0A: return 78; // vibrato delay
    case 0x20: return 74; // brightness
    case 0x21: return 71; // resonance
    case 0x63: return 73; // attack
    case 0x64: return 75; // decay
    case 0x66: return 72; // release
    default: return -1;
    }
}

LaneState::LaneState() {
    controllers.fill(-1);
    rpnMsb.fill(-1);
    rpnLsb.fill(-1);
    velocity.fill(0);
}

void LaneState::take(const TimedEvent& event) {
    const std::size_t data = event.data1 & 0x7FU;
    switch (event.status & 0xF0) {
    case 0x80: velocity[data] = 0; break; // a schedule has the end of a key's last note alone
    case 0x90: velocity[data] = event.data2; break;
    case 0xB0: control(static_cast<std::uint8_t>(data), event.data2); break;
    case 0xC0: sound = event.data1; break;
    case 0xD0: pressure = event.data1; break;
    case 0xE0: bend = static_cast<std::int16_t>(event.data1 | (event.data2 << 7)); break;
    case 0xF0: takeDevice(event); break;
    default: break;
    }
}

void LaneState::takeDevice(const TimedEvent& event) {
    const int both = event.data1 << 8 | event.data2;
    switch (event.status) {
    case lanemessage::tuneKey:
        keyTuning[event.data1 % 12] = static_cast<std::int8_t>(event.data2 - 100);
        break;
    case lanemessage::tuneAll: tuning = static_cast<std::int16_t>(both - 1000); break;
    case lanemessage::volume: volume = static_cast<std::uint16_t>(both); break;
    default: break;
    }
}

void LaneState::control(std::uint8_t number, std::uint8_t value) {
    switch (number) {
    case cc::rpnLsb:
    case cc::rpnMsb:
    case cc::nrpnLsb:
    case cc::nrpnMsb: {
        controllers[number] = value;
        nrpn = number == cc::nrpnLsb || number == cc::nrpnMsb;
        const bool kept = !nrpn && controllers[cc::rpnMsb] == 0 && controllers[cc::rpnLsb] >= 0 &&
                          controllers[cc::rpnLsb] < 3;
        rpn = kept ? controllers[cc::rpnLsb] : -1;
        break;
    }
    case cc::dataEntryMsb: setParameter(value, false); break;
    case cc::dataEntryLsb: setParameter(value, true); break;
    case cc::dataIncrement: stepParameter(1); break;
    case cc::dataDecrement: stepParameter(-1); break;
    case cc::portamentoControl: break; // is for the next note alone
    case cc::resetAll:
        // RP-015: volume, pan, effects and the rest keep their values
        for (const std::uint8_t pedal :
             {cc::modulation, cc::expression, cc::sustain, cc::portamento, cc::sostenuto, cc::soft})
            controllers[pedal] = -1;
        bend = 8192;
        pressure = -1;
        rpn = -1;
        for (const std::uint8_t parameter : {cc::rpnLsb, cc::rpnMsb, cc::nrpnLsb, cc::nrpnMsb})
            controllers[parameter] = -1;
        break;
    case cc::mono:
    case cc::poly: mono = number == cc::mono; [[fallthrough]];
    case cc::omniOff:
    case cc::omniOn:
    case cc::allNotesOff:
    case cc::allSoundOff: velocity.fill(0); break; // each ends the notes (MIDI 1.0)
    default:
        if (number < cc::allSoundOff) controllers[number] = value;
    }
}

void LaneState::setParameter(std::uint8_t value, bool fine) {
    if (rpn >= 0) {
        (fine ? rpnLsb : rpnMsb)[static_cast<std::size_t>(rpn)] = value;
    } else if (nrpn && !fine && controllers[cc::nrpnMsb] == 1) {
        const int controller = soundControllerOf(controllers[cc::nrpnLsb]);
        if (controller >= 0) controllers[static_cast<std::size_t>(controller)] = value;
    }
}

/// RP-018: the bend range by cents, fine tuning by its last step, coarse tuning by semitones.
void LaneState::stepParameter(int by) {
    if (rpn < 0) return;
    const auto at = static_cast<std::size_t>(rpn);
    const int msb = rpnMsb[at] < 0 ? (rpn == 0 ? 2 : 64) : rpnMsb[at], lsb = std::max<int>(rpnLsb[at], 0);
    const int step = rpn == 0 ? 100 : 128; // of the fine half
    const int value = rpn == 2 ? (msb + by) * step + lsb : msb * step + lsb + by;
    const int held = std::clamp(value, 0, 127 * step + step - 1);
    rpnMsb[at] = static_cast<std::int16_t>(held / step);
    rpnLsb[at] = static_cast<std::int16_t>(held % step);
}

} // namespace cobbleway
