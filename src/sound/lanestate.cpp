#include "sound/lanestate.h"

#include "midi/event.h"

namespace cobbleway {

LaneState::LaneState() {
    controllers.fill(-1);
    rpnMsb.fill(-1);
    rpnLsb.fill(-1);
    velocity.fill(0);
    count.fill(0);
}

void LaneState::take(const TimedEvent& event) {
    const std::size_t data = event.data1 & 0x7FU;
    switch (event.status & 0xF0) {
    case 0x80:
    case 0x90:
        if ((event.status & 0xF0) == 0x90 && event.data2 > 0) {
            velocity[data] = event.data2;
            if (count[data] < 255) ++count[data];
        } else if (count[data] > 0 && --count[data] == 0) {
            velocity[data] = 0;
        }
        break;
    case 0xB0:
        if (data == cc::rpnLsb || data == cc::rpnMsb || data == cc::nrpnLsb || data == cc::nrpnMsb) {
            controllers[data] = event.data2;
            const bool registered = data == cc::rpnLsb || data == cc::rpnMsb;
            const bool kept = registered && controllers[cc::rpnMsb] == 0 && controllers[cc::rpnLsb] >= 0 &&
                              controllers[cc::rpnLsb] < 3;
            rpn = kept ? controllers[cc::rpnLsb] : -1;
        } else if (data == cc::dataEntryMsb || data == cc::dataEntryLsb) {
            if (rpn >= 0)
                (data == cc::dataEntryMsb ? rpnMsb : rpnLsb)[static_cast<std::size_t>(rpn)] = event.data2;
        } else if (data == cc::resetAll) {
            // RP-015: volume, pan, effects and the rest keep their values
            for (const std::uint8_t number :
                 {cc::modulation, cc::expression, cc::sustain, cc::sostenuto, cc::soft})
                controllers[number] = -1;
            bend = 8192;
            pressure = -1;
            rpn = -1;
        } else if (data == cc::allNotesOff || data == cc::allSoundOff) {
            velocity.fill(0);
            count.fill(0);
        } else {
            controllers[data] = event.data2;
        }
        break;
    case 0xC0: sound = event.data1; break;
    case 0xD0: pressure = event.data1; break;
    case 0xE0: bend = static_cast<std::int16_t>(event.data1 | (event.data2 << 7)); break;
    default: break;
    }
}

} // namespace cobbleway
