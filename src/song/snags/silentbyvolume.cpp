#include "song/shape/edits.h"
#include "song/snags/kinds.h"

namespace cobbleway {

void snags::silentByVolume(const PartContext& context, Found& found) {
    const Part& part = context.part;
    if (part.aside) return;
    int volume = -1, expression = -1;
    std::size_t silent = 0, notes = 0;
    bool byVolume = false;
    Tick place = -1;
    for (const Event& event : context.heard.events) {
        if (event.isController(cc::volume)) volume = event.data2;
        if (event.isController(cc::expression)) expression = event.data2;
        if (!event.isNoteOn()) continue;
        ++notes;
        if (volume != 0 && expression != 0) continue;
        ++silent;
        byVolume = byVolume || volume == 0;
        if (place < 0) place = event.tick;
    }
    if (silent * 4 < notes || silent == 0) return; // a fade-out has a few
    const ControllerId guilty = byVolume ? cc::volume : cc::expression;
    Snag snag = forPart(part, "silent-by-volume", Step::Parts);
    snag.place = place;
    snag.serious = true;
    snag.pill = silent == notes ? "silenced" : "partly silenced";
    snag.what = (silent == notes ? "All of " : counted(silent, "note") + " of ") + part.name +
                (silent == 1 && silent != notes ? " is" : " are") + " silenced by a " +
                (byVolume ? "volume" : "expression") + " of zero.";
    snag.why = "Nothing sounds, however far its level is turned up.";
    snag.mends.push_back(
        {std::string("Leave its ") + (byVolume ? "volume" : "expression") + " out", false,
         [id = part.id, guilty](const Song& song) { return edits::dropController(song, id, guilty); }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
