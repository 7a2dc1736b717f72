#include "song/heard/controllers.h"
#include "song/shape/edits.h"
#include "song/snags/kinds.h"

namespace cobbleway {
namespace {

constexpr int many = 300; // events of one controller from which thinning is worth a word

/// A tolerance that nobody hears: one step of 127; of a bend an eighth of a semitone's hundredth at the usual
/// range of two semitones (16 of 8192 steps).
int unheard(ControllerId id) { return id == pitchBendId ? 16 : 1; }

} // namespace

void snags::controllerFlood(const PartContext& context, Found& found) {
    const SongFrame& song = context.song;
    const Part& part = context.part;
    if (static_cast<int>(part.source.events->size()) < many) return;
    std::array<int, 130> counts{};
    song.eachBesideNotes(*part.source.events, [&](const Event& event, EventRef) {
        if (const ControllerId id = controllerOf(event); id >= 0) ++counts[static_cast<std::size_t>(id)];
    });
    for (ControllerId id = 0; id <= pressureId; ++id) {
        const int count = counts[static_cast<std::size_t>(id)];
        if (count < many || !canThin(id) || part.recipe.controllers.contains(id)) continue;
        const auto kept = thinned(controlPoints(song, part.source, id), unheard(id)).size();
        if (kept * 2 > static_cast<std::size_t>(count)) continue;
        Snag snag = forPart(part, "controller-flood", Step::Parts);
        snag.key += ":" + std::to_string(id);
        snag.pill = {"controller-flood.pill", {{"controller", controllerName(id)}}};
        snag.what = {"controller-flood.what",
                     {{"part", part.name}, {"events", count}, {"controller", controllerName(id)}}};
        snag.why = {"controller-flood.why", {{"kept", kept}, {"steps", unheard(id)}}};
        snag.fixes.push_back({{"fix.thin", {{"kept", kept}}}, true, [id, part = part.id](const Song& s) {
                                  return edits::thinController(s, part, id, unheard(id));
                              }});
        found.push_back(std::move(snag));
    }
}

} // namespace cobbleway
