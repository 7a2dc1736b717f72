#include "song/drums/drumnotes.h"

#include "song/heard/barprint.h"
#include "song/heard/realise.h"

#include <algorithm>

namespace cobbleway {
namespace {

struct Named {
    std::string name;
    NameFrom from = NameFrom::None;
};

Named nameOf(const Part& part, const KitKeys& kit, const PercussionKit& asked, Key key) {
    if (const auto own = part.keyNames.find(key.value); own != part.keyNames.end() && !own->second.empty())
        return {own->second, NameFrom::Person};
    if (!kit.name(key).empty()) return {kit.name(key), NameFrom::Kit};
    if (const auto name = drumName(asked, key); !name.empty()) return {std::string(name), NameFrom::Dialect};
    return {keyName(key), NameFrom::None};
}

/// The drum by RP-003 that an incoming key stands for: as the person's name says, else as the dialect's.
Key meaningOf(const Part& part, const PercussionKit& asked, Key key) {
    if (const auto own = part.keyNames.find(key.value); own != part.keyNames.end())
        if (const auto meant = drumMeant(own->second); meant && meant->sure) return meant->gm;
    const bool inGm = key.value >= 35 && key.value <= 81;
    if (asked.dialect == Dialect::XG || asked.effects || !inGm)
        if (const auto name = drumName(asked, key); !name.empty())
            if (const auto meant = drumMeant(std::string(name)); meant && meant->sure) return meant->gm;
    return key;
}

double meanOf(const DrumHits::Velocities& velocities, int count) {
    double sum = 0;
    for (std::size_t v = 1; v < 128; ++v) sum += static_cast<double>(v) * velocities[v];
    return count > 0 ? sum / count : 0;
}

} // namespace

DrumHits drumHitsOf(const SongEvents& events, const PartSource& source, const PartRecipe& recipe) {
    DrumHits hits;
    events.each(*source.events, [&](const Event& event, EventRef) {
        if (!event.isNoteOn()) return;
        ++hits.before[event.data1 & 0x7FU][event.data2 & 0x7FU];
        ++hits.counts[event.data1 & 0x7FU];
    });
    double sum = 0, count = 0;
    std::array<double, 128> means{};
    for (std::size_t key = 0; key < 128; ++key) {
        means[key] = meanOf(hits.before[key], hits.counts[key]);
        sum += means[key] * hits.counts[key];
        count += hits.counts[key];
    }
    const double mean = count > 0 ? sum / count : 0;
    for (std::size_t key = 0; key < 128; ++key) {
        const DrumPlan plan = recipe.drumPlan(Key{static_cast<std::uint8_t>(key)});
        if ((plan.off && source.drums) || hits.counts[key] == 0) continue;
        for (int v = 1; v < 128; ++v)
            if (const int struck = hits.before[key][static_cast<std::size_t>(v)]) {
                const int whole = shapedVelocity(v, recipe.velocity, mean);
                hits.after[key][static_cast<std::size_t>(shapedVelocity(whole, plan.trim, means[key]))] +=
                    struck;
            }
    }
    return hits;
}

std::string_view nameFromWord(NameFrom from) {
    switch (from) {
    case NameFrom::Person: return "person";
    case NameFrom::Kit: return "kit";
    case NameFrom::Dialect: return "dialect";
    case NameFrom::None: break;
    }
    return "none";
}

PartKit partKitOf(const PartMatch& match, const Catalogue& catalogue) {
    PartKit kit;
    kit.sound = match.first().sound;
    if (!kit.sound || kit.sound->kind != SoundKind::Preset) return kit;
    const SoundFont* font = catalogue.font(kit.sound->font);
    const Preset* preset = font ? font->find(kit.sound->bank, kit.sound->program) : nullptr;
    if (!preset) return kit;
    kit.keys = KitKeys(*font, *preset);
    kit.isKit = preset->isKit();
    return kit;
}

const PercussionKit& askedKit(const PartMatch& match) {
    const Ask& ask = match.asks.front();
    return percussionKit(ask.dialect, ask.program.value_or(Program{0}), ask.bankMsb == 126);
}

std::vector<DrumNote> drumNotesOf(const Part& part, const PartMatch& match, const PartKit& kit,
                                  const DrumHits& hits, bool all) {
    const PercussionKit& asked = askedKit(match);
    std::vector<DrumNote> notes;
    for (std::uint8_t k = 0; k < 128; ++k) {
        if (!all && hits.counts[k] == 0) continue;
        const Key key{k};
        const DrumPlan plan = part.recipe.drumPlan(key);
        DrumNote note;
        note.key = key;
        const Named named = nameOf(part, kit.keys, asked, key);
        note.name = named.name;
        note.from = named.from;
        note.piece = pieceOf(part, key);
        note.hits = hits.counts[k];
        for (int v = 1; v < 128; ++v)
            if (hits.before[k][static_cast<std::size_t>(v)]) {
                if (!note.lowestVelocity) note.lowestVelocity = v;
                note.highestVelocity = v;
            }
        note.plays = plan.target.value_or(key);
        note.playsName = nameOf(Part{}, kit.keys, asked, note.plays).name;
        note.off = plan.off;
        note.trim = plan.trim;
        for (int v = 1; v < 128; ++v)
            if (!kit.keys.sounds(note.plays, v)) note.silent += hits.after[k][static_cast<std::size_t>(v)];
        if (note.silent > 0)
            note.instead = insteadOf(kit.keys, note.plays, meaningOf(part, asked, key), hits.after[k]);
        notes.push_back(std::move(note));
    }
    return notes;
}

std::vector<DrumNote> drumNotesOf(const SongFrame& song, const Part& part, const PartMatch& match,
                                  const Catalogue& catalogue) {
    return drumNotesOf(part, match, partKitOf(match, catalogue), drumHitsOf(song, part.source, part.recipe));
}

std::vector<KitFit> kitsFor(const Part& part, const DrumHits& hits, const Catalogue& catalogue) {
    std::vector<KitFit> kits;
    std::vector<const SoundFont*> fonts = catalogue.order();
    for (const FontPtr& font : catalogue.fonts())
        if (std::find(fonts.begin(), fonts.end(), font.get()) == fonts.end()) fonts.push_back(font.get());
    for (const SoundFont* font : fonts) {
        for (const Preset& preset : font->presets) {
            if (!preset.isKit()) continue;
            KitFit fit;
            fit.sound.font = font->id;
            fit.sound.bank = preset.bank;
            fit.sound.program = preset.program;
            fit.sound.name = preset.name;
            fit.font = font->name;
            const KitKeys keys(*font, preset);
            for (std::uint8_t k = 0; k < 128; ++k) {
                if (hits.counts[k] == 0) continue;
                const Key plays = part.recipe.drumPlan(Key{k}).target.value_or(Key{k});
                for (int v = 1; v < 128; ++v)
                    if (const int struck = hits.after[k][static_cast<std::size_t>(v)];
                        struck && keys.sounds(plays, v))
                        fit.sounding += struck;
            }
            kits.push_back(std::move(fit));
        }
    }
    std::stable_sort(kits.begin(), kits.end(),
                     [](const KitFit& a, const KitFit& b) { return a.sounding > b.sounding; });
    return kits;
}

std::vector<std::pair<int, int>> barRunsOf(const SongFrame& song, const PartSource& source, Key key) {
    std::vector<std::pair<int, int>> runs;
    song.each(*source.events, [&](const Event& event, EventRef ref) {
        if (!event.isNoteOn() || event.data1 != key.value) return;
        const int bar = song.tempo->position(song.tickOf(ref)).bar;
        if (!runs.empty() && bar <= runs.back().second + 2)
            runs.back().second = std::max(runs.back().second, bar);
        else
            runs.emplace_back(bar, bar);
    });
    return runs;
}

std::optional<KitHint> kitHintFor(const SongFrame& song, const Part& part, const DrumHits& hits) {
    const auto count = [&](std::initializer_list<int> keys) {
        int sum = 0;
        for (const int key : keys) sum += hits.counts[static_cast<std::size_t>(key)];
        return sum;
    };
    int all = 0, timpani = 0;
    for (int key = 0; key < 128; ++key) {
        all += hits.counts[static_cast<std::size_t>(key)];
        if (key >= 41 && key <= 53) timpani += hits.counts[static_cast<std::size_t>(key)];
    }
    if (all < 16) return std::nullopt;
    const int hats = count({42, 44, 46}), rides = count({51, 53, 59}), kicks = count({35, 36});
    if (hats == 0 && kicks * 4 < all && timpani * 2 > all)
        return KitHint{Program{48}, {"drums.hint-orchestra"}};
    const BarPrints prints = barPrintsOf(song, part.source, 0, song.end);
    if (!prints.swing || rides + count({44}) <= hats - count({44})) return std::nullopt;
    if (song.tempo->bpm(0) < 110 && count({38, 40}) > 0) return KitHint{Program{40}, {"drums.hint-brushes"}};
    return KitHint{Program{32}, {"drums.hint-jazz"}};
}

} // namespace cobbleway
