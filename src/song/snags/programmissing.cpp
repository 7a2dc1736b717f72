#include "song/match/evidence.h"
#include "song/shape/edits.h"
#include "song/snags/kinds.h"

#include "midi/gm.h"

#include <algorithm>

namespace cobbleway {
namespace {

constexpr std::size_t mostOffered = 3;

/// The likeliest programs as fixes; program 1, which the standard's silence means, is always among them.
void offer(const PartContext& context, Snag& snag) {
    std::vector<Guess> guesses =
        guessesOf(context.song, context.part, context.match.asks.front(), context.traits(), mostOffered);
    std::erase_if(guesses, [](const Guess& g) { return g.drums; });
    const auto isPiano = [](const Guess& g) { return g.program.value == 0; };
    if (std::none_of(guesses.begin(), guesses.end(), isPiano))
        guesses.push_back({Program{0}, false, 0, false, {}});
    for (const Guess& guess : guesses)
        snag.fixes.push_back({{"fix.use-program", {{"program", std::string(programName(guess.program))}}},
                              false,
                              [id = context.part.id, program = guess.program](const Song& song) {
                                  return edits::giveProgram(song, id, program);
                              }});
}

} // namespace

void snags::programMissing(const PartContext& context, Found& found) {
    const Part& part = context.part;
    // A drum part without a program is the standard kit (GM 1): nothing is open.
    if (part.aside || part.source.drums || part.sound.chosen || context.match.asks.front().program) return;
    Snag snag = forPart(part, "program-missing", Step::Sounds);
    snag.pill = {"program-missing.pill"};
    snag.what = {"program-missing.what", {{"part", part.name}}};
    snag.why = context.match.first().why;
    offer(context, snag);
    found.push_back(std::move(snag));
}

} // namespace cobbleway
