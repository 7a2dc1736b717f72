#include "song/shape/edits.h"
#include "song/snags/kinds.h"

#include <algorithm>

namespace cobbleway {

void snags::notRendered(const PartContext& context, Found& found) {
    const Part& part = context.part;
    bool outside = false;
    forEachSound(part.sound, [&](const SoundRef& sound) {
        const PortInfo* port = sound.kind == SoundKind::Port ? context.catalogue.port(sound.font) : nullptr;
        outside = outside || (port && !port->standIn);
    });
    if (part.aside || !outside) return;
    Snag snag = forPart(part, "not-rendered", Step::Export);
    snag.pill = {"not-rendered.pill"};
    snag.what = {"not-rendered.what", {{"part", part.name}}};
    snag.why = {"not-rendered.why"};
    snag.fixes.push_back({{"fix.follow-file"}, false, [id = part.id](const Song& song) {
                              return edits::followFile(song, id);
                          }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
