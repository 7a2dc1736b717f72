/// Pilot's Evening Song: three voices and a piano, in F, three quarters to a bar. The voices share a track,
/// as choir files often have it. The words are sung by all three and stand with the first.
#include "compose.h"

namespace demo {
namespace {

enum { soprano = 1, alto, baritone, piano };
constexpr int voices = 1, pianoTrack = 2;

// A line of the song: its tune, chords of three quarters, and the words, a syllable a note.
struct Verse {
    const char* tune;
    const char* chords;
    std::vector<const char*> words;
};

const char* const verseTune =
    "c5/1 a4 c5 | f5/2 e5/1 | d5/1 c5 a#4 | a4/3 | a#4/1 a4 g4 | c5/2 a4/1 | g4/1 a4 a#4 | g4/3 |"
    "c5/1 a4 c5 | f5/2 g5/1 | a5/1 g5 f5 | d5/3 | c5/1 f5 a4 | g4/2 c5/1 | a4/1 g4 e4 | f4/3";
const char* const verseChords = "F F/A Bb F | Gm F/A C7 C7 | F F7/A Bb Bb | F/C C7 F:2 C7:1 F";
const char* const refrainTune =
    "f5/2 c5/1 | a5/2 g5/1 | f5/1 e5 d5 | c5/3 | d5/2 d5/1 | f5/2 d5/1 | c5/1 a4 f4 | g4/3 |"
    "f5/2 c5/1 | a5/2 a#5/1 | a5/1 g5 f5 | d5/2 a#4/1 | c5/1 f5 a5 | g5/2 e5/1 | f5/3 | f5/3";
const char* const refrainChords = "F C/E Dm F/C | Bb Bb F/A C7 | F C/E Dm Bb | F/C C7 F F";

const std::vector<Verse>& verses() {
    static const std::vector<Verse> all = {
        {verseTune, verseChords, {"\rThe ", "lamps ", "on ",    "the ",   "quay ", "are ",    "a",
                                  "light ", "now,",   "\rthe ", "gulls ", "have ", "all ",    "gone ",
                                  "home ",  "to ",    "sleep,", "\rand ", "slow ", "turns ",  "the ",
                                  "tide ",  "by ",    "the ",   "break",  "wa",    "ter ",    "where ",
                                  "the ",   "cur",    "rent ",  "runs ",  "deep,", "\rruns ", "deep."}},
        {refrainTune, refrainChords, {"\rLight ", "by ",     "light ",   "the ", "boats ", "come ",  "home ",
                                      "now,",     "\rsoft ", "ly ",      "o",    "ver ",   "slack ", "of ",
                                      "the ",     "tide,",   "\rlight ", "by ",  "light ", "the ",   "har",
                                      "bour ",    "ga",      "thers ",   "ev",   "ery ",   "heart ", "that ",
                                      "was ",     "wide,",   "\rwas ",   "wide."}},
        {verseTune,
         verseChords,
         {"\rThe ", "pi",      "lot ", "leans ", "on ",    "his ",  "lan",    "tern ", "pole,",
          "\rhe ",  "counts ", "the ", "masts ", "in ",    "from ", "the ",   "bay,",  "\rand ",
          "hums ",  "an ",     "old ", "song ",  "to ",    "the ",  "wa",     "ter ",  "till ",
          "the ",   "last ",   "of ",  "the ",   "light ", "goes ", "grey, ", "goes ", "grey."}},
        {refrainTune, refrainChords, {"\rLight ", "by ",     "light ",   "the ", "boats ", "come ",  "home ",
                                      "now,",     "\rsoft ", "ly ",      "o",    "ver ",   "slack ", "of ",
                                      "the ",     "tide,",   "\rlight ", "by ",  "light ", "the ",   "har",
                                      "bour ",    "ga",      "thers ",   "ev",   "ery ",   "heart ", "that ",
                                      "was ",     "wide,",   "\rwas ",   "wide."}}};
    return all;
}

void sing(Score& score, const Verse& verse, double start, bool refrain) {
    const Changes changes(verse.chords, start, 3);
    Tones top = tune(verse.tune, start, refrain ? 112 : 98);
    Tones middle = harmony(top, changes, refrain ? 100 : 88);
    Tones low;
    for (const auto& stretch : changes.stretches())
        low.push_back(
            {stretch.start, stretch.length * 0.95, below(stretch.chord.bass, 55), refrain ? 104 : 92});
    for (std::size_t i = 0; i < top.size() && i < verse.words.size(); ++i)
        score.text(voices, top[i].start, cobbleway::meta::lyric, verse.words[i]);
    humanise(top, 0.03, 4, static_cast<unsigned>(start) + 1);
    humanise(middle, 0.03, 4, static_cast<unsigned>(start) + 2);
    score.add(voices, soprano, top);
    score.add(voices, alto, middle);
    score.add(voices, baritone, low);
    Tones left = comp(changes, refrain ? "B-----" : "B-F-C-", 0.5, 55, refrain ? 92 : 82);
    Tones right = comp(changes, refrain ? "1.3456" : "..3.5.", 0.5, 65, refrain ? 86 : 76);
    humanise(left, 0.02, 6, 3);
    humanise(right, 0.02, 6, 4);
    score.add(pianoTrack, piano, left);
    score.add(pianoTrack, piano, right);
    for (const auto& stretch : changes.stretches()) {
        score.controller(pianoTrack, piano, stretch.start + 0.05, cobbleway::cc::sustain, 127);
        score.controller(pianoTrack, piano, stretch.start + stretch.length - 0.05, cobbleway::cc::sustain, 0);
    }
    for (int step = 0; step < 48; step += 3) // each phrase rises and falls
        for (const int voice : {int{soprano}, int{alto}, int{baritone}})
            score.controller(voices, voice, start + step, cobbleway::cc::expression,
                             (refrain ? 115 : 108) + (step % 24 < 12 ? step % 24 : 24 - step % 24));
}

} // namespace

cobbleway::MidiFile pilotsEveningSong() {
    Score score(1, 3);
    score.text(0, 0, cobbleway::meta::trackName, "Pilot's Evening Song");
    score.sysex({0x7E, 0x7F, 0x09, 0x01, 0xF7});
    score.metre(3, 4);
    score.tempo(0, 96);
    score.name(voices, soprano, "Soprano");
    score.program(voices, soprano, 53);
    score.name(voices, alto, "Alto");
    score.program(voices, alto, 53);
    score.name(voices, baritone, "Baritone");
    score.program(voices, baritone, 54);
    score.text(pianoTrack, 0, cobbleway::meta::trackName, "Piano");
    score.program(pianoTrack, piano, 1);
    for (const auto& [channel, pan] : {std::pair{int{soprano}, 48}, {int{alto}, 80}, {int{baritone}, 64}})
        score.controller(voices, channel, 0, cobbleway::cc::pan, pan);
    // The words belong to the first voice.
    score.text(voices, 0, cobbleway::meta::channelPrefix, std::string_view("\0", 1));
    score.marker(0, "Prelude");
    const Changes prelude("F Dm Gm C7 | F Dm Gm:2 C7:1 F", 0, 3);
    score.add(pianoTrack, piano, comp(prelude, "B-3-5-", 0.5, 60, 78));
    score.add(pianoTrack, piano,
              tune("c6/2 a5/1 | f5/2 a5/1 | a#5/1 a5 g5 | e5/3 | c6/2 a5/1 | d5/2 f5/1 | g5/1 a5 e5 | f5/3",
                   0, 92));
    double start = 24;
    int number = 0;
    for (const Verse& verse : verses()) {
        const bool refrain = number % 2 == 1;
        score.marker(start, refrain ? "Refrain" : "Verse " + std::to_string(number / 2 + 1));
        sing(score, verse, start, refrain);
        start += 48;
        ++number;
    }
    score.marker(start, "Postlude");
    score.tempo(start, 88);
    score.tempo(start + 12, 72);
    const Changes postlude("F Bb/F F C7 | F F", start, 3);
    score.add(pianoTrack, piano, comp(postlude, "B-3-5-", 0.5, 60, 74));
    score.add(pianoTrack, piano, tune("a5/2 g5/1 | f5/2 d5/1 | c5/1 f5 a5 | g5/3 | f5/6", start, 84));
    score.add(voices, soprano, tune("r/12 f5/6", start, 88));
    score.add(voices, alto, tune("r/12 c5/6", start, 84));
    score.add(voices, baritone, tune("r/12 f3/6", start, 84));
    return score.finish();
}

} // namespace demo
