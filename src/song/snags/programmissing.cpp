#include "song/edits.h"
#include "song/snags/kinds.h"

namespace cobbleway {

void snags::programMissing(const SnagContext& context, Found& found) {
    for (std::size_t i = 0; i < context.song.parts.size(); ++i) {
        const Part& part = context.song.parts[i];
        if (part.aside || part.chosen || context.matches[i].asks.front().program) continue;
        Snag snag = forPart(part, "program-missing", Step::Sounds);
        const auto& sound = context.matches[i].first().sound;
        const std::string plays = sound ? sound->name : "nothing";
        snag.pill = "no program";
        snag.what = "The file does not say which instrument plays " + part.name + ".";
        snag.why = "Until you choose, " + plays + " plays it, since that is what program 1 means.";
        snag.mends.push_back(
            {part.drums ? "Use the standard kit" : "Use program 1", part.drums,
             [id = part.id](const Song& song) { return edits::giveProgram(song, id, Program{0}); }});
        found.push_back(std::move(snag));
    }
}

} // namespace cobbleway
