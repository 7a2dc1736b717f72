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
    snag.pill = "outside instrument";
    snag.what = part.name + " plays on an instrument outside the computer.";
    snag.why = "Sound files will be without it; MIDI files have all its notes.";
    snag.mends.push_back({"Play it as the file asks", false,
                          [id = part.id](const Song& song) { return edits::followFile(song, id); }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
