#include "midi/devicemessages.h"
#include "song/snags/kinds.h"

#include <map>

namespace cobbleway {

void snags::deviceMessages(const SongContext& context, Found& found) {
    std::map<std::string, std::pair<Message, std::size_t>> kinds; // by what they are in words
    std::size_t all = 0;
    Tick place = -1;
    eachDeviceMessage(context.song.source->midi, [&](const DeviceMessage& message) {
        if (message.followed) return;
        auto& kind = kinds[inWords(message.what)];
        kind.first = message.what;
        ++kind.second;
        ++all;
        if (place < 0) place = message.tick;
    });
    if (kinds.empty()) return;
    Snag snag = forSong("device-messages", Step::Songs);
    snag.asked = false;
    snag.place = std::max<Tick>(0, place);
    snag.pill = {"device-messages.pill"};
    std::vector<Message> told;
    for (const auto& [what, kind] : kinds) {
        if (told.size() == 3) {
            told.push_back({"device-messages.others"});
            break;
        }
        told.push_back({"device-messages.item", {{"what", kind.first}, {"times", kind.second}}});
    }
    snag.what = {"device-messages.what", {{"messages", all}, {"kinds", std::move(told)}}};
    snag.why = {"device-messages.why"};
    found.push_back(std::move(snag));
}

} // namespace cobbleway
