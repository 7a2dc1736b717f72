#include "compose.h"

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <sstream>

namespace demo {
namespace {

int pitchClassOf(std::string_view text, std::size_t& used) {
    static constexpr std::array<int, 7> natural = {9, 11, 0, 2, 4, 5, 7}; // a b c d e f g
    int pitch = natural[static_cast<std::size_t>((text[0] | 0x20) - 'a')];
    used = 1;
    while (used < text.size() && (text[used] == '#' || text[used] == 'b'))
        pitch += text[used++] == '#' ? 1 : -1;
    return (pitch + 12) % 12;
}

double number(std::string_view text) { return std::stod(std::string(text)); }

std::vector<std::string> words(std::string_view text) {
    std::string plain(text);
    std::replace(plain.begin(), plain.end(), '|', ' ');
    std::istringstream in(plain);
    std::vector<std::string> list;
    for (std::string word; in >> word;) list.push_back(word);
    return list;
}

Chord chordOf(std::string_view text) {
    Chord chord;
    std::size_t used = 0;
    const int root = pitchClassOf(text, used);
    const auto slash = text.find('/');
    const std::string_view kind =
        text.substr(used, slash == std::string_view::npos ? std::string_view::npos : slash - used);
    std::vector<int> steps = {0, 4, 7};
    if (kind == "m") steps = {0, 3, 7};
    if (kind == "7") steps = {0, 4, 7, 10};
    if (kind == "m7") steps = {0, 3, 7, 10};
    if (kind == "maj7") steps = {0, 4, 7, 11};
    if (kind == "sus4") steps = {0, 5, 7};
    if (kind == "dim") steps = {0, 3, 6};
    for (const int step : steps) chord.classes.push_back((root + step) % 12);
    chord.bass = slash == std::string_view::npos ? root : pitchClassOf(text.substr(slash + 1), used);
    return chord;
}

} // namespace

cobbleway::Tick tickOf(double quarter) { return std::llround(quarter * ticksPerQuarter); }

Tones tune(std::string_view text, double start, int velocity) {
    Tones tones;
    double length = 1;
    for (std::string word : words(text)) {
        const bool accent = word[0] == '!';
        if (accent) word.erase(0, 1);
        const auto slash = word.find('/');
        if (slash != std::string::npos) length = number(std::string_view(word).substr(slash + 1));
        if (word[0] != 'r') {
            std::size_t used = 0;
            const int pitch = pitchClassOf(word, used);
            tones.push_back({start, length * 0.94, pitch + 12 * (word[used] - '0' + 1),
                             std::min(127, velocity + (accent ? 14 : 0))});
        }
        start += length;
    }
    return tones;
}

double lengthOf(std::string_view text) {
    double total = 0, length = 1;
    for (const std::string& word : words(text)) {
        const auto slash = word.find('/');
        if (slash != std::string::npos) length = number(std::string_view(word).substr(slash + 1));
        total += length;
    }
    return total;
}

Changes::Changes(std::string_view text, double start, double usual) {
    for (const std::string& word : words(text)) {
        const auto colon = word.find(':');
        const double length =
            colon == std::string::npos ? usual : number(std::string_view(word).substr(colon + 1));
        m_stretches.push_back({start, length, chordOf(std::string_view(word).substr(0, colon))});
        start += length;
    }
}

const Chord& Changes::at(double quarter) const {
    const Stretch* found = &m_stretches.front();
    for (const Stretch& stretch : m_stretches)
        if (stretch.start <= quarter + 1e-6) found = &stretch;
    return found->chord;
}

int below(int pitchClass, int top) { return top - ((top - pitchClass) % 12 + 12) % 12; }

std::vector<int> tonesWithin(const Chord& chord, int lowest, int highest) {
    std::vector<int> keys;
    for (int key = lowest; key <= highest; ++key)
        if (std::find(chord.classes.begin(), chord.classes.end(), key % 12) != chord.classes.end())
            keys.push_back(key);
    return keys;
}

Tones harmony(const Tones& melody, const Changes& changes, int velocity) {
    Tones second;
    for (Tone tone : melody) {
        const auto keys = tonesWithin(changes.at(tone.start), tone.key - 12, tone.key - 3);
        if (keys.empty()) continue;
        tone.key = keys.back();
        tone.velocity = velocity + (tone.velocity > 95 ? 6 : 0);
        second.push_back(tone);
    }
    return second;
}

Tones pad(const Changes& changes, int middle, int voices, int velocity) {
    Tones tones;
    double centre = middle;
    for (const auto& stretch : changes.stretches()) {
        auto keys = tonesWithin(stretch.chord, static_cast<int>(centre) - 9, static_cast<int>(centre) + 9);
        std::sort(keys.begin(), keys.end(),
                  [&](int a, int b) { return std::abs(a - centre) < std::abs(b - centre); });
        keys.resize(std::min(keys.size(), static_cast<std::size_t>(voices)));
        double sum = 0;
        for (const int key : keys) {
            tones.push_back({stretch.start, stretch.length * 0.98, key, velocity});
            sum += key;
        }
        centre = 0.7 * middle + 0.3 * sum / static_cast<double>(keys.size());
    }
    return tones;
}

Tones comp(const Changes& changes, std::string_view pattern, double step, int middle, int velocity) {
    Tones tones;
    std::size_t at = 0;
    for (double t = changes.start(); t < changes.end() - 1e-6; t += step, ++at) {
        const char letter = pattern[at % pattern.size()];
        const Chord& chord = changes.at(t);
        double length = step;
        for (std::size_t next = at + 1; pattern[next % pattern.size()] == '-' && length < 8; ++next)
            length += step;
        const auto play = [&](int key, int louder) {
            tones.push_back({t, length * 0.88, key, std::min(127, velocity + louder)});
        };
        if (letter == 'B') play(below(chord.bass, middle - 12), 6);
        if (letter == 'F') play(below(chord.classes[2], middle - 10), 0);
        const auto keys = tonesWithin(chord, middle - 6, middle + 14);
        if (letter == 'C')
            for (std::size_t i = 0; i < std::min<std::size_t>(3, keys.size()); ++i) play(keys[i], -6);
        if (letter >= '1' && letter <= '9' && static_cast<std::size_t>(letter - '1') < keys.size())
            play(keys[static_cast<std::size_t>(letter - '1')], at % 4 == 0 ? 6 : 0);
    }
    return tones;
}

Tones drums(const std::vector<DrumLine>& lines, double start, double quarters, int velocity) {
    Tones tones;
    for (const DrumLine& line : lines) {
        std::size_t at = 0;
        for (double t = 0; t < quarters - 1e-6; t += 0.25, ++at) {
            const char letter = line.pattern[at % line.pattern.size()];
            if (letter != 'x' && letter != 'X' && letter != 'o') continue;
            tones.push_back(
                {start + t, 0.2, line.key, velocity + (letter == 'X' ? 18 : (letter == 'o' ? -26 : 0))});
        }
    }
    return tones;
}

void humanise(Tones& tones, double time, int velocity, unsigned seed) {
    for (Tone& tone : tones) {
        seed = seed * 1664525U + 1013904223U;
        tone.start = std::max(0.0, tone.start + time * (static_cast<double>(seed >> 16 & 0xFF) / 255 - 0.5));
        tone.velocity = std::clamp(
            tone.velocity + static_cast<int>(seed >> 8 & 0xFF) * velocity / 128 - velocity, 1, 127);
    }
}

void swell(Tones& tones, double from, double to) {
    if (tones.empty()) return;
    const double first = tones.front().start, last = std::max(tones.back().start, first + 1);
    for (Tone& tone : tones) {
        const double percent = from + (to - from) * (tone.start - first) / (last - first);
        tone.velocity = std::clamp(static_cast<int>(tone.velocity * percent / 100), 1, 127);
    }
}

Score::Score(int type, int tracks) {
    m_file.type = type;
    m_file.division.ticksPerQuarter = ticksPerQuarter;
    m_file.tracks.resize(static_cast<std::size_t>(tracks));
}

void Score::tempo(double quarter, double bpm) {
    m_file.addTempo(0, tickOf(quarter), static_cast<int>(std::lround(60e6 / bpm)));
}
void Score::metre(int numerator, int denominator) { m_file.addTimeSignature(0, 0, numerator, denominator); }
void Score::marker(double quarter, std::string_view name) {
    m_file.addText(0, tickOf(quarter), cobbleway::meta::marker, name);
}
void Score::text(int track, double quarter, std::uint8_t type, std::string_view words) {
    m_file.addText(static_cast<std::size_t>(track), tickOf(quarter), type, words);
}
void Score::sysex(std::initializer_list<std::uint8_t> bytes) { m_file.addSysex(0, 0, std::vector(bytes)); }

void Score::name(int track, int channel, std::string_view name) {
    const auto t = static_cast<std::size_t>(track);
    m_file.addMeta(t, 0, cobbleway::meta::channelPrefix, std::vector{static_cast<std::uint8_t>(channel - 1)});
    m_file.addText(t, 0, cobbleway::meta::instrumentName, name);
}

void Score::program(int track, int channel, int program, int msb, int lsb) {
    if (msb >= 0) controller(track, channel, 0, cobbleway::cc::bankMsb, msb);
    if (lsb >= 0) controller(track, channel, 0, cobbleway::cc::bankLsb, lsb);
    m_file.addChannel(static_cast<std::size_t>(track), 0, static_cast<std::uint8_t>(0xC0 | (channel - 1)),
                      static_cast<std::uint8_t>(program - 1));
}

void Score::controller(int track, int channel, double quarter, int number, int value) {
    m_file.addChannel(static_cast<std::size_t>(track), tickOf(quarter),
                      static_cast<std::uint8_t>(0xB0 | (channel - 1)), static_cast<std::uint8_t>(number),
                      static_cast<std::uint8_t>(value));
}

void Score::bend(int track, int channel, double quarter, int value) {
    m_file.addChannel(static_cast<std::size_t>(track), tickOf(quarter),
                      static_cast<std::uint8_t>(0xE0 | (channel - 1)),
                      static_cast<std::uint8_t>(value & 0x7F), static_cast<std::uint8_t>(value >> 7));
}

void Score::add(int track, int channel, const Tones& tones) {
    const auto t = static_cast<std::size_t>(track);
    for (const Tone& tone : tones) {
        const auto on = static_cast<std::uint8_t>(0x90 | (channel - 1)),
                   off = static_cast<std::uint8_t>(0x80 | (channel - 1));
        const auto key = static_cast<std::uint8_t>(std::clamp(tone.key, 0, 127));
        m_file.addChannel(t, tickOf(tone.start), on, key,
                          static_cast<std::uint8_t>(std::clamp(tone.velocity, 1, 127)));
        m_file.addChannel(t, std::max(tickOf(tone.start) + 1, tickOf(tone.start + tone.length)), off, key,
                          64);
    }
}

cobbleway::MidiFile Score::finish() {
    // Ends go before starts at one tick, so that repeated notes sound.
    for (auto& track : m_file.tracks)
        std::stable_sort(track.events.begin(), track.events.end(), [](const auto& a, const auto& b) {
            return a.tick != b.tick ? a.tick < b.tick : a.isNoteOff() && b.isNoteOn();
        });
    m_file.sortTracks();
    const cobbleway::Tick bar = 4 * ticksPerQuarter;
    const cobbleway::Tick end = (m_file.end() + bar - 1) / bar * bar;
    for (auto& track : m_file.tracks) track.end = end;
    return m_file;
}

} // namespace demo
