/// Tide Mill Reel: a reel in D, played three times round with a turn into B minor. Type 1, GS; melody and
/// rhythm players share a track each.
#include "compose.h"

namespace demo {
namespace {

enum { fiddle = 1, flute, box, bouzouki, bass, drone, harp, shaker = 9, kit = 10 };
constexpr int melodyTrack = 1, rhythmTrack = 2, lowTrack = 3;

constexpr const char* first = "!f#5/.5 d5 a4 d5 !f#5 d5 g5 f#5 | !e5 c#5 a4 c#5 !e5 c#5 f#5 e5 | !d5 b4 g4 "
                              "b4 !d5 b4 e5 d5 | !c#5 a4 b4 c#5 d5 e5 f#5 g5 |"
                              "!f#5 d5 a4 d5 !f#5 d5 g5 f#5 | !e5 c#5 a4 c#5 !e5 f#5 g5 e5 | !f#5 a5 g5 f#5 "
                              "!e5 g5 f#5 e5 | !d5 f#5 e5 c#5 !d5/1 d5";
constexpr const char* firstChords = "D A G A | D A D:2 A:2 D";
constexpr const char* turn = "!a5/.5 f#5 d5 f#5 !a5 f#5 b5 a5 | !g5 e5 c#5 e5 !g5 e5 a5 g5 | !f#5 d5 b4 d5 "
                             "!f#5 g5 a5 f#5 | !e5 d5 c#5 b4 !a4/1 c#5/.5 e5 |"
                             "!a5 f#5 d5 f#5 !a5 b5 c#6 a5 | !b5 g5 e5 g5 !b5 a5 g5 b5 | !a5 f#5 g5 e5 !f#5 "
                             "d5 e5 c#5 | !d5 f#5 e5 c#5 !d5/1 r";
constexpr const char* turnChords = "D A Bm A | D G A D";
constexpr const char* minor = "!b4/.5 d5 f#5 d5 !b5 f#5 d5 f#5 | !a5 f#5 e5 f#5 !d5 e5 f#5 a5 | !g5 b5 a5 g5 "
                              "!f#5 a5 g5 f#5 | !e5 f#5 g5 e5 !c#5 d5 e5 c#5 |"
                              "!b4 d5 f#5 d5 !b5 f#5 d5 f#5 | !a5 b5 c#6 a5 !f#5 a5 e5 f#5 | !g5 f#5 e5 d5 "
                              "!c#5 e5 a4 c#5 | !b4 f#5 d5 c#5 !b4/1 b4";
constexpr const char* minorChords = "Bm D G A | Bm F#m G:2 A:2 Bm";

struct Round {
    int number = 1;
    double start = 0;
};

void eight(Score& score, const Round& round, const char* tuneText, const char* chordText, bool minorTurn) {
    const Changes changes(chordText, round.start);
    Tones melody = tune(tuneText, round.start, 84 + 5 * round.number);
    Tones played = melody;
    humanise(played, 0.018, 8, static_cast<unsigned>(round.start) + 3);
    score.add(melodyTrack, fiddle, played);
    if (round.number >= 2) {
        Tones doubled = melody;
        for (Tone& tone : doubled) tone.velocity -= 14;
        humanise(doubled, 0.02, 5, static_cast<unsigned>(round.start) + 5);
        score.add(melodyTrack, flute, doubled);
    }
    if (round.number == 3 || minorTurn) score.add(melodyTrack, harp, comp(changes, "1-3-5-3-", 0.5, 67, 66));
    Tones chords = comp(changes, "..C...C.", 0.5, 64, 66 + 4 * round.number);
    humanise(chords, 0.015, 6, 5);
    score.add(rhythmTrack, box, chords);
    Tones strum = comp(changes, "C.CCC.CC", 0.5, 57, 58 + 4 * round.number);
    humanise(strum, 0.01, 9, 9);
    score.add(rhythmTrack, bouzouki, strum);
    Tones low = comp(changes, "B.F.B.FB", 0.5, 50, 84);
    score.add(lowTrack, bass, low);
    if (minorTurn) score.add(lowTrack, drone, pad(changes, 57, 2, 62));
    Tones skins = drums({{64, "X..ox.o.X..ox.oo"}, {63, "....o.......o.x."}, {70, "x.o.x.o.x.o.x.o."}},
                        round.start, 32, 66 + 6 * round.number);
    if (round.number == 3) {
        const Tones kick = drums({{36, "X.......X......."}, {54, "....x.......x..."}}, round.start, 32, 80);
        skins.insert(skins.end(), kick.begin(), kick.end());
    }
    humanise(skins, 0.012, 9, static_cast<unsigned>(round.start));
    score.add(rhythmTrack, kit, skins);
}

} // namespace

cobbleway::MidiFile tideMillReel() {
    Score score(1, 4);
    score.text(0, 0, cobbleway::meta::trackName, "Tide Mill Reel");
    score.sysex({0x41, 0x10, 0x42, 0x12, 0x40, 0x00, 0x7F, 0x00, 0x41, 0xF7}); // GS reset
    score.metre(4, 4);
    score.tempo(0, 196);
    score.text(melodyTrack, 0, cobbleway::meta::trackName, "Melody players");
    score.text(rhythmTrack, 0, cobbleway::meta::trackName, "Rhythm players");
    score.text(lowTrack, 0, cobbleway::meta::trackName, "Low end");
    score.program(melodyTrack, fiddle, 111);
    score.program(melodyTrack, flute, 74);
    score.program(melodyTrack, harp, 47);
    score.program(rhythmTrack, box, 22, 8);      // variation 8: another accordion
    score.program(rhythmTrack, bouzouki, 26, 8); // variation 8: twelve strings
    score.program(rhythmTrack, kit, 1);
    score.program(lowTrack, bass, 33);
    score.program(lowTrack, drone, 110);
    for (const auto& [track, channel, volume, pan] : {std::array{melodyTrack, int{fiddle}, 104, 64},
                                                      {melodyTrack, int{flute}, 88, 82},
                                                      {melodyTrack, int{harp}, 90, 40},
                                                      {rhythmTrack, int{box}, 84, 46},
                                                      {rhythmTrack, int{bouzouki}, 82, 88},
                                                      {rhythmTrack, int{kit}, 96, 64},
                                                      {lowTrack, int{bass}, 100, 64},
                                                      {lowTrack, int{drone}, 70, 64}}) {
        score.controller(track, channel, 0, cobbleway::cc::volume, volume);
        score.controller(track, channel, 0, cobbleway::cc::pan, pan);
    }
    score.add(rhythmTrack, kit, drums({{37, "x...x...x.x.x..."}}, 0, 8, 76)); // two bars of sticks
    double start = 8;
    for (int number = 1; number <= 3; ++number) {
        score.marker(start, "Round " + std::to_string(number));
        for (const bool again : {false, true})
            eight(score, {again && number == 1 ? 1 : number, start + (again ? 32 : 0)}, first, firstChords,
                  false);
        start += 64;
        if (number == 2) {
            score.marker(start, "The sluice");
            eight(score, {2, start}, minor, minorChords, true);
            eight(score, {3, start + 32}, minor, minorChords, true);
        } else {
            score.marker(start, "The wheel");
            eight(score, {number, start}, turn, turnChords, false);
            eight(score, {number, start + 32}, turn, turnChords, false);
        }
        start += 64;
    }
    score.marker(start, "Last chord");
    const Changes last("D:8", start);
    score.add(melodyTrack, fiddle, tune("d5/.5 f#5 a5 d6/4", start, 104));
    score.add(rhythmTrack, box, pad(last, 64, 3, 80));
    score.add(lowTrack, bass, tune("d2/6", start, 90));
    score.add(rhythmTrack, kit, {{start, 1, 49, 90}, {start, 1, 36, 100}});
    return score.finish();
}

} // namespace demo
