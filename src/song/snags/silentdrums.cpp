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
    std::vector<Message> names;
    for (std::size_t i = 0; i < silent.size() && i < 4; ++i)
        names.push_back({"drum.name", {{"key", silent[i].key.value}, {"name", silent[i].name}}});
    if (silent.size() > 4) names.push_back({"list.more", {{"count", silent.size() - 4}}});
    Snag snag = forPart(part, "silent-drums", Step::Drums);
    snag.serious = true;
    snag.pill = {"silent-drums.pill", {{"drums", silent.size()}}};
    snag.what = {"silent-drums.what",
                 {{"kit", view->kit.sound->name},
                  {"drums", silent.size()},
                  {"part", part.name},
                  {"names", std::move(names)}}};
    snag.why = {"silent-drums.why", {{"hits", hits}, {"all", all}}};
    const bool any =
        std::any_of(silent.begin(), silent.end(), [](const DrumNote& n) { return n.instead.has_value(); });
    if (any)
        snag.fixes.push_back(
            {silent.size() == 1 ? Message("fix.play-key-instead", {{"key", silent[0].instead->key.value}})
                                : Message("fix.play-nearest"),
             false, [id = part.id, silent](const Song& song) { return edits::fitKit(song, id, silent); }});
    const auto kits = kitsFor(part, *view->hits, context.catalogue);
    if (!kits.empty() && kits.front().sounding == all)
        snag.fixes.push_back({{"fix.use-whole-kit", {{"sound", kits.front().sound.name}}},
                              false,
                              [id = part.id, sound = kits.front().sound](const Song& song) {
                                  return edits::chooseSound(song, id, sound);
                              }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
