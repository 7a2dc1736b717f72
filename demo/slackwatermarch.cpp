/// Slack Water March: an old file as they are handed down. Type 0, XG, a second drum channel, names in
/// Shift-JIS, notes without end, cut off in the middle of its track. B flat, the trio in E flat.
#include "compose.h"

#include "midi/writer.h"

#include <iconv.h>
#include <stdexcept>

namespace demo {
namespace {

enum {
    cornet = 1,
    secondCornet,
    clarinet,
    horn,
    trombone,
    euphonium,
    tuba,
    piccolo,
    strings = 9,
    kit = 10,
    sideDrums = 11,
    glocken = 13,
    organ = 15
};

constexpr const char* strain = "!a#4/1 d5/.5 f5 a#5/1 f5 | g5/.75 f5/.25 d#5/.5 d5 c5/2 | !d#5/1 c5/.5 d#5 "
                               "f5/1 d#5 | d5/.75 c5/.25 a#4/.5 c5 d5/2 |"
                               "!a#4/1 d5/.5 f5 a#5/1 a#5 | c6/.75 a#5/.25 a5/.5 g5 f5/2 | g5/.5 a5 a#5 g5 "
                               "f5/1 d5 | c5/.5 d5 d#5 a4 a#4/2";
constexpr const char* strainChords = "Bb Eb:2 F7:2 F7 Bb | Bb F7 Eb:2 Bb:2 F7:2 Bb:2";
constexpr const char* second =
    "!f5/.75 f5/.25 f5/.5 a5 c6/1 a5 | a#5/.75 a5/.25 g5/.5 f5 d5/2 | !e5/.75 e5/.25 e5/.5 g5 a#5/1 g5 | "
    "a5/.75 g5/.25 f5/.5 e5 f5/2 |"
    "!f5/.75 f5/.25 f5/.5 a5 c6/1 a5 | a#5/1 d6/.5 c6 a#5/1 g5 | f5/.5 g5 a#5 d6 c6/1 a5 | a#5/3 r/1";
constexpr const char* secondChords = "F7 Bb C7 F | F7 Gm Bb/F:2 F7:2 Bb";
constexpr const char* trio = "g5/2 d#5/1 g5 | a#5/3 g5/1 | f5/1.5 d#5/.5 f5/1 g5 | d#5/4 | c5/2 d#5/1 g5 | "
                             "a#5/2 g5/1 d#5 | f5/1 g5 f5 c5 | d5/3 r/1 |"
                             "g5/2 d#5/1 g5 | a#5/3 d#5/1 | c6/1.5 a#5/.5 g#5/1 g5 | f5/4 | g#5/1.5 g5/.5 "
                             "f5/1 c6 | a#5/2 g5/1 d#5 | f5/1.5 g5/.5 f5/1 d5 | d#5/3 r/1";
constexpr const char* trioChords = "Eb Eb/G Bb7 Eb | Ab Eb/Bb F7 Bb7 | Eb Eb7/G Ab Bb7 | Fm7 Eb/Bb Bb7 Eb";

std::string shiftJis(std::string_view utf8) {
    const iconv_t converter = iconv_open("SHIFT_JIS", "UTF-8");
    std::string in(utf8), out(in.size() * 2 + 4, '\0');
    char *from = in.data(), *to = out.data();
    std::size_t left = in.size(), room = out.size();
    if (iconv(converter, &from, &left, &to, &room) == static_cast<std::size_t>(-1))
        throw std::runtime_error("a name has no Shift-JIS form");
    iconv_close(converter);
    out.resize(out.size() - room);
    return out;
}

void march(Score& score, double start, const char* tuneText, const char* chordText, int loudness,
           bool quiet) {
    const Changes changes(chordText, start);
    const double length = changes.end() - start;
    Tones melody = tune(tuneText, start, loudness);
    humanise(melody, 0.012, 5, static_cast<unsigned>(start));
    score.add(0, quiet ? clarinet : cornet, melody);
    if (!quiet) {
        score.add(0, secondCornet, harmony(melody, changes, loudness - 10));
        score.add(0, clarinet, comp(changes, "3-5-4-3-", 0.5, 72, loudness - 20));
        Tones sparkle = tune(tuneText, start, loudness - 22);
        for (Tone& tone : sparkle) tone.key += 12;
        score.add(0, piccolo, sparkle);
        score.add(0, trombone, comp(changes, "..B-..F-", 0.5, 62, loudness - 6));
    } else {
        score.add(0, strings, pad(changes, 63, 4, loudness - 24));
        score.add(0, glocken, comp(changes, "5...3...", 0.5, 82, loudness - 22));
        Tones counter = comp(changes, "1---3-2-", 0.5, 58, loudness - 10);
        score.add(0, euphonium, counter);
    }
    score.add(0, horn, comp(changes, ".C.C.C.C", 0.5, 60, loudness - 18));
    score.add(0, tuba, comp(changes, "B-F-", 1, 51, loudness - 2));
    score.add(0, kit,
              drums({{36, "X...x...X...x..."}, {42, "..x...x...x...x."}}, start, length, loudness - 14));
    score.add(0, sideDrums,
              drums({{38, quiet ? "o..oo.o.o..oo.oo" : "X.xxX.x.X.xxXxxx"}}, start, length, loudness - 18));
    score.add(0, kit, {{start, 1, 49, loudness - 4}});
}

void nameAll(Score& score) {
    score.text(0, 0, cobbleway::meta::trackName, shiftJis("Slack Water March 潮だるみ行進曲"));
    score.text(0, 0, cobbleway::meta::text, shiftJis("港の楽隊のために"));
    score.text(0, 0, cobbleway::meta::copyright, shiftJis("港町楽団 灯籠祭り"));
    const std::pair<int, const char*> names[] = {{cornet, "第一コルネット"}, {secondCornet, "第二コルネット"},
                                                 {clarinet, "クラリネット"}, {horn, "ホルン"},
                                                 {trombone, "トロンボーン"}, {euphonium, "ユーフォニアム"},
                                                 {tuba, "チューバ"},         {piccolo, "ピッコロ"},
                                                 {strings, "弦楽"},          {kit, "大太鼓"},
                                                 {sideDrums, "小太鼓"},      {glocken, "鉄琴"},
                                                 {organ, "オルガン"}};
    for (const auto& [channel, name] : names) score.name(0, channel, shiftJis(name));
}

/// Takes every third note-off of a channel's last notes away, as a failing recorder did.
void leaveStuck(cobbleway::MidiFile& file, int channel) {
    auto& events = file.tracks[0].events;
    int seen = 0;
    std::erase_if(events, [&](const cobbleway::Event& event) {
        return event.isNoteOff() && event.channel().value == channel - 1 && ++seen % 23 == 0;
    });
}

} // namespace

std::vector<std::uint8_t> slackWaterMarch() {
    Score score(0, 1);
    nameAll(score);
    score.sysex({0x43, 0x10, 0x4C, 0x00, 0x00, 0x7E, 0x00, 0xF7}); // XG on
    score.metre(4, 4);
    score.tempo(0, 112);
    const std::array<int, 3> players[] = {{cornet, 57, 100}, {secondCornet, 57, 90}, {clarinet, 72, 92},
                                          {horn, 61, 88},    {trombone, 58, 92},     {euphonium, 58, 90},
                                          {tuba, 59, 96},    {piccolo, 73, 78},      {strings, 49, 80},
                                          {glocken, 10, 74}};
    for (const auto& [channel, program, volume] : players) {
        score.program(0, channel, program, 0,
                      channel == strings ? 3 : 0); // the strings ask for a wider variation
        score.controller(0, channel, 0, cobbleway::cc::volume, volume);
    }
    for (const int channel : {int{kit}, int{sideDrums}}) {
        score.program(0, channel, 1, 127, 0);
        score.controller(0, channel, 0, cobbleway::cc::volume, 98);
    }
    score.program(0, organ, 20); // never plays
    score.add(0, sideDrums, drums({{38, "X.xxX.x.X.xxXxxx"}}, 0, 16, 84));
    score.add(0, cornet, tune("r/8 f5/.75 f5/.25 f5/1 a#5 f5 | d6/.75 d6/.25 d6/1 c6/.5 a#5 a5 g5", 0, 96));
    double start = 16;
    score.marker(0, "Roll-off");
    score.marker(start, "First strain");
    march(score, start, strain, strainChords, 98, false);
    march(score, start + 32, strain, strainChords, 102, false);
    score.marker(start + 64, "Second strain");
    march(score, start + 64, second, secondChords, 104, false);
    march(score, start + 96, second, secondChords, 106, false);
    score.marker(start + 128, "Trio");
    march(score, start + 128, trio, trioChords, 84, true);
    march(score, start + 192, trio, trioChords, 100, false);
    score.marker(start + 256, "Last strain");
    march(score, start + 256, strain, strainChords, 106, false);
    march(score, start + 288, second, secondChords, 110, false);
    cobbleway::MidiFile file = score.finish();
    leaveStuck(file, trombone);
    leaveStuck(file, horn);
    auto bytes = cobbleway::writeMidi(file);
    bytes.erase(bytes.end() - static_cast<std::ptrdiff_t>(bytes.size() / 40),
                bytes.end()); // the disk was full
    return bytes;
}

} // namespace demo
