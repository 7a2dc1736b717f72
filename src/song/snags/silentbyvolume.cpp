#include "song/heard/controllers.h"
#include "song/shape/edits.h"
#include "song/snags/kinds.h"

namespace cobbleway {

void snags::silentByVolume(const PartContext& context, Found& found) {
    const Part& part = context.part;
    if (part.aside) return;
    int volume = -1, expression = -1;
    const std::size_t notes = context.heard.notes.size();
    std::size_t silent = 0;
    bool byVolume = false;
    Tick place = -1;
    auto control = context.heard.controls.begin();
    for (const Note& note : context.heard.notes) {
        for (; control != context.heard.controls.end() && control->tick <= note.start; ++control) {
            if (control->isController(cc::volume)) volume = control->data2;
            if (control->isController(cc::expression)) expression = control->data2;
        }
        if (volume != 0 && expression != 0) continue;
        ++silent;
        byVolume = byVolume || volume == 0;
        if (place < 0) place = note.start;
    }
    if (silent * 4 < notes || silent == 0) return; // a fade-out has a few
    const ControllerId guilty = byVolume ? cc::volume : cc::expression;
    Snag snag = forPart(part, "silent-by-volume", Step::Parts);
    snag.place = place;
    snag.serious = true;
    snag.pill = {silent == notes ? "silent-by-volume.pill" : "silent-by-volume.pill-some"};
    snag.what = {silent == notes ? "silent-by-volume.what" : "silent-by-volume.what-some",
                 {{"notes", silent}, {"part", part.name}, {"controller", controllerName(guilty)}}};
    snag.why = {"silent-by-volume.why"};
    snag.fixes.push_back(
        {{"fix.leave-out-controller", {{"controller", controllerName(guilty)}}},
         false,
         [id = part.id, guilty](const Song& song) { return edits::dropController(song, id, guilty); }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
