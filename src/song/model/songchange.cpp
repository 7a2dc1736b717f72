#include "song/model/songchange.h"

#include <algorithm>

namespace cobbleway {

Sides differenceOf(const Song& before, const Song& after) {
    if (before.source != after.source) return allSides;
    Sides sides;
    const auto look = [&](bool same, Sides side) {
        if (!same) sides |= side;
    };
    const auto parts = [&](auto same) {
        return before.parts.size() == after.parts.size() &&
               std::equal(before.parts.begin(), before.parts.end(), after.parts.begin(), same);
    };
    look(before.title == after.title && before.encoding == after.encoding &&
             parts([](const Part& a, const Part& b) { return a.identity() == b.identity(); }),
         Side::Names);
    look(before.trackStarts == after.trackStarts && before.made == after.made &&
             before.keyShift == after.keyShift && before.conductor == after.conductor &&
             before.dialect == after.dialect && before.dialects == after.dialects &&
             parts([](const Part& a, const Part& b) { return a.source == b.source && a.recipe == b.recipe; }),
         Side::Notes);
    look(before.tempo == after.tempo && before.tempoEdited == after.tempoEdited && before.end == after.end &&
             before.trackStarts == after.trackStarts && before.sections == after.sections &&
             before.sectionsEdited == after.sectionsEdited,
         Side::Time);
    look(before.effects == after.effects && before.fontOrder == after.fontOrder &&
             parts([](const Part& a, const Part& b) {
                 return a.sound == b.sound && a.mix.effects == b.mix.effects &&
                        a.source.drums == b.source.drums;
             }),
         Side::Sounds);
    look(before.backDb == after.backDb && before.room == after.room &&
             before.roomSeconds == after.roomSeconds && before.masterDb == after.masterDb &&
             before.masterVolume == after.masterVolume && before.mixes == after.mixes &&
             parts([](const Part& a, const Part& b) { return a.mix == b.mix; }),
         Side::Levels);
    look(before.midi == after.midi && before.settled == after.settled && before.tidied == after.tidied,
         Side::Writing);
    return sides;
}

Tick shiftOf(const Song& before, const Song& after) {
    if (before.source != after.source || before.trackStarts->empty()) return 0;
    const Tick shift = after.trackStarts->front() - before.trackStarts->front();
    for (std::size_t t = 0; t < before.trackStarts->size(); ++t)
        if ((*after.trackStarts)[t] - (*before.trackStarts)[t] != shift) return 0;
    return shift;
}

} // namespace cobbleway
