#include "midi/devicemessages.h"
#include "song/snags/kinds.h"

#include <map>

namespace cobbleway {

void snags::deviceMessages(const SongContext& context, Found& found) {
    std::map<std::string, std::size_t> kinds;
    std::size_t all = 0;
    Tick place = -1;
    eachDeviceMessage(context.song.source->midi, [&](const DeviceMessage& message) {
        if (message.followed) return;
        ++kinds[message.what];
        ++all;
        if (place < 0) place = message.tick;
    });
    if (kinds.empty()) return;
    Snag snag = forSong("device-messages", Step::Songs);
    snag.asked = false;
    snag.place = std::max<Tick>(0, place);
    snag.pill = "device messages";
    snag.what = counted(all, "device message") + (all == 1 ? " is" : " are") + " not followed: ";
    std::size_t said = 0;
    for (const auto& [what, count] : kinds) {
        if (said == 3) {
            snag.what += " and others";
            break;
        }
        snag.what += (said ? ", " : "") + what + (count > 1 ? " (" + std::to_string(count) + " times)" : "");
        ++said;
    }
    snag.what += ".";
    snag.why =
        "On the device that the file was made for it may sound a little different; MIDI files that are "
        "written keep them.";
    found.push_back(std::move(snag));
}

} // namespace cobbleway
