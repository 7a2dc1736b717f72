#include "song/heard/phrase.h"

#include <algorithm>
#include <array>

namespace cobbleway {
namespace {

constexpr double longest = 3, lastStart = 2.5; // seconds

} // namespace

std::vector<PhraseNote> phraseOf(const Song& song, const HeardPart& heard, Tick from) {
    auto first = std::find_if(heard.notes.begin(), heard.notes.end(),
                              [&](const Note& note) { return note.start >= from; });
    if (first == heard.notes.end()) first = heard.notes.begin();
    std::vector<PhraseNote> phrase;
    if (first == heard.notes.end()) return phrase;
    const double begins = song.tempo->seconds(first->start);
    for (auto note = first; note != heard.notes.end(); ++note) {
        const double start = song.tempo->seconds(note->start) - begins;
        if (start > lastStart) break;
        phrase.push_back(
            {start, std::min(longest, song.tempo->seconds(note->end) - begins), note->key, note->velocity});
    }
    return phrase;
}

std::vector<PhraseNote> scaleIn(KeyRange range) {
    constexpr std::array steps = {-4, -2, 0, 1, 3}; // semitones around the third
    constexpr double apart = 0.25;
    const int middle = std::clamp((range.lowest + range.highest) / 2, 4, 124);
    std::vector<PhraseNote> scale;
    double at = 0;
    for (const int step : steps) {
        scale.push_back({at, at + apart, Key{static_cast<std::uint8_t>(middle + step)}, Velocity{90}});
        at += apart;
    }
    return scale;
}

} // namespace cobbleway
