#include "song/shape/edits.h"
#include "song/snags/kinds.h"

#include <map>

namespace cobbleway {
namespace {

/// Fonts that sounds were chosen from and that are not there, each with the parts that use it.
std::map<std::string, std::vector<PartId>> goneFonts(const SongContext& context) {
    std::map<std::string, std::vector<PartId>> gone;
    const auto look = [&](const Part& part, const SoundRef& sound) {
        if (sound.kind != SoundKind::Preset || context.catalogue.font(sound.font)) return;
        auto& parts = gone[sound.font];
        if (parts.empty() || parts.back() != part.id) parts.push_back(part.id);
    };
    for (const Part& part : context.song.parts) {
        forEachSound(part.sound, [&](const SoundRef& sound) { look(part, sound); });
    }
    return gone;
}

std::string fileNameOf(const std::string& path) { return path.substr(path.rfind('/') + 1); }

} // namespace

void snags::fontGone(const SongContext& context, Found& found) {
    for (const auto& [id, parts] : goneFonts(context)) {
        Snag snag = forSong("font-gone", Step::Sounds);
        snag.key += " " + id;
        snag.part = parts.front();
        snag.pill = {"font-gone.pill"};
        snag.what = {"font-gone.what", {{"font", fileNameOf(id)}, {"parts", parts.size()}}};
        snag.why = {"font-gone.why"};
        std::size_t offered = 0;
        for (const SoundFont* font : catalogueFor(context.song, context.catalogue).order())
            if (offered++ < 3)
                snag.fixes.push_back({{"fix.use-font", {{"font", font->name}}},
                                      false,
                                      [gone = id, by = *font](const Song& song) {
                                          return edits::replaceFont(song, gone, by);
                                      }});
        found.push_back(std::move(snag));
    }
}

} // namespace cobbleway
