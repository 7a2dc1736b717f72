#include "sound/plan.h"

#include "song/levels.h"
#include "sound/fontinstrument.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace cobbleway {
Plan::Plan(std::size_t count, int hz) : rate(hz), parts(count), samples(count * 2 * maxFrames) {
    const auto silent = std::make_shared<const Schedule>();
    for (std::size_t i = 0; i < count; ++i) {
        parts[i].id = static_cast<PartId>(i) + 1;
        parts[i].schedule = silent;
    }
    for (std::size_t i = 0; i < count; ++i)
        blocks.push_back({&samples[i * 2 * maxFrames], &samples[(i * 2 + 1) * maxFrames]});
}

void applyMix(Plan& plan, const Song& song) {
    for (PlanPart& planned : plan.parts) {
        const Part* part = song.part(planned.id);
        if (!part) continue;
        // The master volume follows the same law as a part's: 40·log10 (GM developer guidelines).
        const double gain = mixGain(song, *part) * song.masterVolume * song.masterVolume;
        // Balance: the middle leaves both sides as they are, the ends silence one.
        const double left = part->pan <= 0 ? 1 : std::cos(part->pan * std::numbers::pi / 2);
        const double right = part->pan >= 0 ? 1 : std::cos(-part->pan * std::numbers::pi / 2);
        planned.mix.left = static_cast<float>(gain * left);
        planned.mix.right = static_cast<float>(gain * right);
        planned.mix.send = static_cast<float>(song.room);
    }
}

std::shared_ptr<Instrument> InstrumentBank::instrument(const SoundFont& font, int slots, Error* problem) {
    if (has(font.id, slots)) return m_held[font.id].instrument;
    const int rounded = (slots + m_slotStep - 1) / m_slotStep * m_slotStep;
    auto loaded = loadFontInstrument(font.path, rounded, m_rate);
    if (!loaded) {
        if (problem) *problem = loaded.error();
        return nullptr;
    }
    Held& held = m_held[font.id];
    held = {std::shared_ptr<Instrument>(std::move(loaded.value())), rounded};
    return held.instrument;
}

bool InstrumentBank::has(const std::string& fontId, int slots) const {
    const auto at = m_held.find(fontId);
    return at != m_held.end() && at->second.slots >= slots;
}

std::unique_ptr<Plan> makePlan(const Song& song, const Catalogue& catalogue,
                               const std::vector<PartMatch>& matches, InstrumentBank& bank,
                               const Plan* before) {
    // A part's slot is its id − 1, so that reordering moves nothing.
    int slots = 1;
    for (const Part& part : song.parts) slots = std::clamp(part.id, slots, maxSlots);
    auto plan = std::make_unique<Plan>(static_cast<std::size_t>(slots), bank.rate());
    plan->endFrame = endFrame(song, bank.rate());
    const auto voiceOf = [&](const std::optional<SoundRef>& sound) -> Voice {
        const SoundFont* font = sound ? catalogue.font(sound->font) : nullptr;
        if (!font) return {};
        auto instrument = bank.instrument(*font, slots);
        if (instrument && std::find(plan->instruments.begin(), plan->instruments.end(), instrument) ==
                              plan->instruments.end())
            plan->instruments.push_back(instrument);
        return {instrument.get(), sound->bank, sound->program};
    };
    for (std::size_t i = 0; i < song.parts.size(); ++i) {
        if (song.parts[i].id > slots) continue;
        PlanPart& planned = plan->parts[static_cast<std::size_t>(song.parts[i].id - 1)];
        Schedule schedule = scheduleOf(song, song.parts[i], matches[i], bank.rate());
        const PlanPart* old = before && static_cast<std::size_t>(song.parts[i].id) <= before->parts.size()
                                  ? &before->parts[static_cast<std::size_t>(song.parts[i].id - 1)]
                                  : nullptr;
        planned.schedule = old && *old->schedule == schedule
                               ? old->schedule
                               : std::make_shared<const Schedule>(std::move(schedule));
        for (const auto& sound : planned.schedule->sounds) planned.voices.push_back(voiceOf(sound));
    }
    applyMix(*plan, song);
    return plan;
}

} // namespace cobbleway
