#include "song/derived.h"
#include "song/drums/drumedits.h"
#include "song/shape/edits.h"
#include "song/snags/kinds.h"

namespace cobbleway {

/// Notes that the kit has no sound for: one snag a kit, however many notes they are.
void snags::silentDrums(const PartContext& context, Found& found) {
    const Part& part = context.part;
    if (!part.source.drums || part.aside) return;
    const auto view = context.drums();
    if (!view->kit.sound || !view->kit.isKit) return;
    std::vector<DrumNote> silent;
    int hits = 0, all = 0;
    for (const DrumNote& note : view->notes) {
        all += note.off ? 0 : note.hits;
        if (note.silent == 0) continue;
        hits += note.silent;
        silent.push_back(note);
    }
    if (silent.empty()) return;
    std::string names;
    for (std::size_t i = 0; i < silent.size() && i < 4; ++i)
        names += (i ? ", " : "") + std::to_string(silent[i].key.value) + " " + silent[i].name;
    if (silent.size() > 4) names += " and " + std::to_string(silent.size() - 4) + " more";
    Snag snag = forPart(part, "silent-drums", Step::Drums);
    snag.serious = true;
    snag.pill = silent.size() == 1 ? "silent drum" : "silent drums";
    snag.what = view->kit.sound->name + " has no sound for " + counted(silent.size(), "drum note") + " of " +
                part.name + ": " + names + ".";
    snag.why = counted(static_cast<std::size_t>(hits), "hit") + " of " + std::to_string(all) +
               (hits == 1 ? " is not heard." : " are not heard.");
    const bool any =
        std::any_of(silent.begin(), silent.end(), [](const DrumNote& n) { return n.instead.has_value(); });
    if (any)
        snag.mends.push_back(
            {silent.size() == 1 ? "Play " + std::to_string(silent[0].instead->key.value) + " instead"
                                : "Play the nearest instead",
             false, [id = part.id, silent](const Song& song) { return edits::fitKit(song, id, silent); }});
    const auto kits = kitsFor(part, *view->hits, context.catalogue);
    if (!kits.empty() && kits.front().sounding == all)
        snag.mends.push_back({"Use " + kits.front().sound.name + ", which has them all", false,
                              [id = part.id, sound = kits.front().sound](const Song& song) {
                                  return edits::chooseSound(song, id, sound);
                              }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
