#include "midi/gm.h"
#include "song/match/names.h"
#include "song/shape/edits.h"
#include "song/snags/kinds.h"

namespace cobbleway {
namespace {

/// Families that names do not tell apart: strings and ensembles, brass and its synthetic kin.
int kinOf(int program) {
    const int family = program / 8;
    if (family == 6) return 5;                   // ensemble with strings
    if (family == 10 || family == 11) return 10; // synth lead and pad
    return family;
}

bool disagree(int named, int asked) {
    if (kinOf(named) == kinOf(asked)) return false;
    const auto between = [](int program, int low, int high) { return program >= low && program <= high; };
    if (between(named, 80, 95) || between(asked, 80, 95))
        return false; // a synthetic sound may be called anything
    if (named == 52 && between(asked, 53, 54)) return false;
    if (named == 33 && (asked == 43 || between(asked, 58, 58) || asked == 70))
        return false; // "bass" is many things
    if (named == 58 && between(asked, 32, 39)) return false;
    if (named == 47 && asked == 47) return false;
    return true;
}

} // namespace

void snags::nameDisagrees(const PartContext& context, Found& found) {
    const Part& part = context.part;
    const auto& asked = context.match.asks.front().program;
    if (part.aside || part.source.drums || part.sound.chosen || !part.nameGiven || !asked ||
        !part.sound.followsPrograms)
        return;
    const auto named = programFromName(part.name);
    if (!named || !disagree(named->value, asked->value)) return;
    const std::string name(programName(*named)), program(programName(*asked));
    Snag snag = forPart(part, "name-disagrees", Step::Sounds);
    snag.pill = {"name-disagrees.pill"};
    snag.what = {"name-disagrees.what", {{"part", part.name}, {"program", program}, {"named", name}}};
    snag.why = {"name-disagrees.why"};
    snag.fixes.push_back(
        {{"fix.use-program", {{"program", name}}}, false, [id = part.id, to = *named](const Song& song) {
             return edits::fixProgram(song, id, to);
         }});
    found.push_back(std::move(snag));
}

} // namespace cobbleway
