/// Lantern Quay: the band of the harbour town walks along the quay as the lanterns are lit. G major; the
/// procession in C. Type 0, ten channels on one track.
#include "compose.h"

namespace demo {
namespace {

enum { lead = 1, second, clarinets, left, right, strings, guitar, tuba, bells, kit };

constexpr const char* quaysideTune =
    "!d5/1 b4/.5 c5 d5/1 !g5 | f#5/1.5 e5/.5 d5/2 | e5/1 b4/.5 c5 d5/1 b4 | c5/1.5 b4/.5 a4/1 g4 |"
    "!d5/1 b4/.5 c5 d5/1 !g5 | a5/1 g5/.5 e5 f#5/1 d5 | g5/1 d5/.5 b4 e5/1 c5/.5 e5 | d5/3 r/1 |"
    "!d5/1 b4/.5 c5 d5/1 !g5 | f#5/1.5 e5/.5 d5/1 a4 | g5/1 f#5/.5 e5 b4/1 e5 | e5/1 d5/.5 c5 g4/1 c5 |"
    "c5/1 e5 !a5 g5/.5 e5 | f#5/1.5 g5/.5 a5/1 f#5 | e5/.5 g5 e5 c5 d5/1 f#5 | !g5/3 r/1";
constexpr const char* quaysideChords = "G D/F# Em C | G Am:2 D:2 G:2 C:2 D | G D/F# Em C | Am D7 C:2 D7:2 G";

constexpr const char* lanternsTune =
    "e5/2 g5/1 f#5/.5 e5 | d5/3 b4/1 | c5/1 e5 g5 e5 | d5/3 r/1 | c5/1 b4/.5 a4 e5/1 c5 | b4/2 g4/1 b4 | "
    "c5/1 d5/.5 e5 g5/1 e5 | f#5/3 r/1 |"
    "!b5/2 a5/1 g5/.5 f#5 | f#5/2 d5/1 b4 | e5/1 g5 !c6 b5/.5 g5 | d5/2 g5/1 b5 | a5/1 g5/.5 e5 c5/1 e5 | "
    "d#5/1 f#5 !b5 a5 | g5/1 f#5/.5 e5 b4/1 g4 | a4/1 f#4 d5 r";
constexpr const char* lanternsChords = "Em Bm C G | Am Em C D | Em Bm C G | Am B7 Em D";

constexpr const char* processionTune =
    "!g5/.75 g5/.25 e5/1 c5 e5 | d5/.75 d5/.25 b4/1 g4 d5 | c5/.75 d5/.25 e5/1 !a5/1.5 g5/.5 | f5/1 a5/.5 g5 "
    "f5/1 e5/.5 d5 |"
    "!e5/.75 e5/.25 g5/1 !c6 g5 | a5/1.5 g5/.5 f5/1 a5 | d5/.75 e5/.25 f5/1 a5 f5 | g5/3 r/1 |"
    "!g5/.75 g5/.25 e5/1 c5 g5 | g#5/.75 b5/.25 g#5/1 e5 b4 | c5/.75 d5/.25 e5/1 a5 !c6 | a5/1 g5/.5 f5 c5/1 "
    "f5 |"
    "e5/.75 g5/.25 !c6/1 g5 e5 | d5/.75 g5/.25 !b5/1 d5 g5 | a5/1 f5/.5 a5 b5/1 g5 | !c6/3 r/1";
constexpr const char* processionChords = "C G/B Am F | C F Dm G7 | C E7 Am F | C/G G7 F:2 G7:2 C";

constexpr const char* homeTune =
    "d5/2 b4/1 c5 | d5/3 g4/1 | e5/2 c5/1 e5 | d5/3 r/1 | b4/2 d5/1 g5 | e5/2 c5/1 a4 | b4/2 a4 | g4/4";
constexpr const char* homeChords = "G Em C D | G C G/D:2 D7:2 G";

struct Place {
    double intro = 0, quayside = 32, lanterns = 96, again = 160, procession = 224, home = 288, end = 320;
};

void rhythm(Score& score, const Changes& changes, const char* bassPattern, int velocity, unsigned seed) {
    Tones oompah = comp(changes, "BCFC", 1, 60, velocity - 8);
    Tones bassLine = comp(changes, bassPattern, 0.5, 50, velocity + 4);
    for (Tone& tone : bassLine) tone.key -= tone.key > 50 ? 12 : 0;
    Tones low = comp(changes, "B-F-", 1, 53, velocity);
    humanise(oompah, 0.02, 6, seed);
    humanise(bassLine, 0.015, 5, seed + 1);
    humanise(low, 0.02, 4, seed + 2);
    score.add(0, left, oompah);
    score.add(0, guitar, bassLine);
    score.add(0, tuba, low);
}

void beat(Score& score, double start, double quarters, int velocity, bool march) {
    Tones tones = march ? drums({{36, "X...x...X...x..."},
                                 {38, "..x.X.xx..x.X.xo"},
                                 {42, "x.x.x.x.x.x.x.x."},
                                 {44, "....x.......x..."}},
                                start, quarters, velocity)
                        : drums({{36, "X.....x.X......."},
                                 {38, "....X..o....X..."},
                                 {42, "x.o.x.o.x.o.x.o."},
                                 {54, "..x...x...x...x."}},
                                start, quarters, velocity);
    // A fill into what comes next, with a cymbal to greet it.
    const Tones fill = drums({{50, "xx.............."},
                              {48, "..xx............"},
                              {45, "....xx.........."},
                              {43, "......xX........"}},
                             start + quarters - 2, 2, velocity + 6);
    tones.insert(tones.end(), fill.begin(), fill.end());
    tones.push_back({start, 0.5, 49, velocity + 16});
    humanise(tones, 0.012, 7, static_cast<unsigned>(start) + 7);
    score.add(0, kit, tones);
}

void intro(Score& score, const Place& at) {
    const Changes changes("G C/G G D | Em C D7 D7", at.intro);
    rhythm(score, changes, "B..BF.B.", 66, 11);
    score.add(0, bells,
              tune("r/16 b5/.5 d6 g6/1 r/2 | e6/.5 c6 g5/1 r/2 | f#5/.5 a5 c6 d6 f#6/1 r", at.intro, 70));
    score.add(0, kit, drums({{42, "x.o.x.o.x.o.x.o."}, {37, "....x.......x..."}}, at.intro + 16, 16, 64));
    Tones accordion = comp(changes, "...C..C.", 0.5, 72, 62);
    swell(accordion, 70, 110);
    score.add(0, right, accordion);
}

void quayside(Score& score, double start, bool full) {
    const Changes changes(quaysideChords, start);
    const Tones melody = tune(quaysideTune, start, full ? 100 : 92);
    Tones above = melody;
    humanise(above, 0.02, 6, 21);
    score.add(0, lead, above);
    if (full) score.add(0, second, harmony(melody, changes, 84));
    Tones run = comp(changes, full ? "13245342" : "1-3-5-3-", 0.5, 67, full ? 70 : 62);
    humanise(run, 0.015, 8, 23);
    score.add(0, clarinets, run);
    score.add(0, right, comp(changes, "..C...C.", 0.5, 72, 66));
    if (full) score.add(0, strings, pad(changes, 64, 3, 58));
    rhythm(score, changes, "B.BFB.FB", full ? 80 : 74, 25);
    beat(score, start, 64, full ? 84 : 76, false);
}

void lanterns(Score& score, double start) {
    const Changes changes(lanternsChords, start);
    Tones song = tune(lanternsTune, start, 86);
    humanise(song, 0.025, 5, 31);
    score.add(0, clarinets, song);
    Tones held = pad(changes, 67, 4, 60);
    swell(held, 75, 125);
    score.add(0, strings, held);
    score.add(0, lead, tune("r/30 f#5/.5 g5 a5/1 | b5/3 r/1 | r/20 | d5/.5 f#5 a5/1 r/2 | r/12", start, 78));
    Tones twinkle = comp(changes, "..5.4...6...5...", 0.5, 84, 64);
    score.add(0, bells, twinkle);
    score.add(0, right, comp(changes, "C-------", 0.5, 69, 56));
    rhythm(score, changes, "B...F...", 66, 33);
    Tones soft =
        drums({{36, "X.......x......."}, {37, "....x.......x..."}, {51, "x...x.x.x...x.x."}}, start, 60, 66);
    score.add(0, kit, soft);
    score.add(0, kit, drums({{38, "oooxoxxxxxxxXXXX"}}, start + 60, 4, 72));
}

void procession(Score& score, double start) {
    const Changes changes(processionChords, start);
    const Tones melody = tune(processionTune, start, 106);
    score.add(0, lead, melody);
    score.add(0, second, harmony(melody, changes, 94));
    Tones counter = comp(changes, "3-5-4-3-2-4-3-1-", 0.5, 67, 80);
    score.add(0, clarinets, counter);
    score.add(0, right, comp(changes, ".C.C.CCC", 0.5, 72, 74));
    score.add(0, strings, pad(changes, 67, 4, 72));
    score.add(0, bells, comp(changes, "5.......3.......", 0.5, 86, 78));
    rhythm(score, changes, "BFBFBFFB", 90, 41);
    beat(score, start, 64, 94, true);
}

void home(Score& score, const Place& at) {
    const Changes changes(homeChords, at.home);
    Tones melody = tune(homeTune, at.home, 84);
    swell(melody, 100, 70);
    score.add(0, lead, melody);
    Tones held = pad(changes, 66, 4, 74);
    score.add(0, strings, held);
    for (int step = 0; step <= 28; ++step)
        score.controller(0, strings, at.home + step, cobbleway::cc::volume, 100 - step * 3); // the fade
    score.add(0, bells, tune("r/12 f#6/.5 d6 a5/1 r/2 | r/8 | b5/.5 d6 g6/1 r/2", at.home, 58));
    Tones oompah = comp(changes, "BCFC", 1, 60, 62);
    swell(oompah, 100, 60);
    score.add(0, left, oompah);
    Tones low = comp(changes, "B---", 1, 53, 66);
    swell(low, 100, 70);
    score.add(0, tuba, low);
    Tones bassLine = comp(changes, "B---F---", 0.5, 50, 66);
    score.add(0, guitar, bassLine);
    score.add(0, kit, drums({{42, "x...o...x...o..."}, {36, "x..............."}}, at.home, 24, 54));
    score.add(0, kit, {{at.end - 4, 1, 49, 60}});
}

} // namespace

cobbleway::MidiFile lanternQuay() {
    const Place at;
    Score score(0, 1);
    score.text(0, 0, cobbleway::meta::trackName, "lantern_quay");
    score.sysex({0x7E, 0x7F, 0x09, 0x01, 0xF7}); // General MIDI on (RP-003)
    score.metre(4, 4);
    score.tempo(0, 108);
    score.tempo(at.lanterns, 104);
    score.tempo(at.again, 110);
    score.tempo(at.procession, 118);
    score.tempo(at.home, 106);
    score.tempo(at.end - 8, 104);
    const struct {
        int channel;
        const char* name;
        int program, volume, pan;
    } band[] = {{lead, "Lead cornet", 57, 100, 58},     {second, "Second cornet", 57, 92, 76},
                {clarinets, "Clarinets", 72, 92, 44},   {left, "Accordion left", 22, 84, 36},
                {right, "Accordion right", 22, 84, 90}, {strings, "Harbour strings", 49, 100, 64},
                {guitar, "Guitar", 25, 104, 64},        {tuba, "Tuba", 59, 96, 56},
                {bells, "Glass bells", 10, 80, 84},     {kit, "Drums", 1, 100, 64}};
    for (const auto& player : band) {
        score.name(0, player.channel, player.name);
        score.program(0, player.channel, player.program);
        score.controller(0, player.channel, 0, cobbleway::cc::volume, player.volume);
        score.controller(0, player.channel, 0, cobbleway::cc::pan, player.pan);
    }
    score.marker(at.intro, "Intro");
    score.marker(at.quayside, "Quayside");
    score.marker(at.lanterns, "Lanterns lit");
    score.marker(at.again, "Quayside");
    score.marker(at.procession, "Procession");
    score.marker(at.home, "Home");
    intro(score, at);
    quayside(score, at.quayside, false);
    lanterns(score, at.lanterns);
    quayside(score, at.again, true);
    procession(score, at.procession);
    home(score, at);
    return score.finish();
}

} // namespace demo
