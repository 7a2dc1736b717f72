#include "song/edits.h"
#include "song/snags/kinds.h"

#include <algorithm>

namespace cobbleway {

void snags::notRendered(const SnagContext& context, Found& found) {
    for (const Part& part : context.song.parts) {
        const auto isOutside = [&](const SoundRef& sound) {
            const PortInfo* port =
                sound.kind == SoundKind::Port ? context.catalogue.port(sound.font) : nullptr;
            return port && !port->standIn;
        };
        const bool outside = (part.chosen && isOutside(*part.chosen)) ||
                             std::any_of(part.layers.begin(), part.layers.end(),
                                         [&](const Layer& l) { return isOutside(l.sound); }) ||
                             std::any_of(part.stretches.begin(), part.stretches.end(),
                                         [&](const SoundStretch& s) { return isOutside(s.sound); });
        if (part.aside || !outside) continue;
        Snag snag = forPart(part, "not-rendered", Step::Export);
        snag.pill = "outside instrument";
        snag.what = part.name + " plays on an instrument outside the computer.";
        snag.why = "Sound files will be without it; MIDI files have all its notes.";
        snag.mends.push_back({"Play it as the file asks", false,
                              [id = part.id](const Song& song) { return edits::followFile(song, id); }});
        found.push_back(std::move(snag));
    }
}

} // namespace cobbleway
