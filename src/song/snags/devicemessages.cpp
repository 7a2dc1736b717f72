#include "midi/devicemessages.h"
#include "song/snags/kinds.h"

namespace cobbleway {

void snags::deviceMessages(const SongContext& context, Found& found) {
    auto kinds = deviceMessageKinds(context.song.source->midi);
    std::erase_if(kinds, [](const DeviceMessageKind& kind) { return kind.first.followed; });
    if (kinds.empty()) return;
    std::size_t all = 0;
    for (const DeviceMessageKind& kind : kinds) all += kind.times;
    Snag snag = forSong("device-messages", Step::Songs);
    snag.asked = false;
    snag.place = kinds.front().first.tick;
    snag.pill = {"device-messages.pill"};
    std::vector<Message> told;
    for (const auto& [first, times] : kinds) {
        if (told.size() == 3) {
            told.push_back({"device-messages.others"});
            break;
        }
        told.push_back({"device-messages.item", {{"what", first.what}, {"times", times}}});
    }
    snag.what = {"device-messages.what", {{"messages", all}, {"kinds", std::move(told)}}};
    snag.why = {"device-messages.why"};
    found.push_back(std::move(snag));
}

} // namespace cobbleway
