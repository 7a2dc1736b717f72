/// What several tests need: bytes from text, songs from events; ears are in ears.h.
#pragma once
#include "font/catalogue.h"
#include "midi/reader.h"
#include "midi/writer.h"
#include "song/model/song.h"
#include "support/ears.h"

#include <QByteArray>
#include <QElapsedTimer>
#include <QFile>
#include <QtTest>
#include <algorithm>
#include <cmath>
#include <vector>

namespace support {

using namespace cobbleway;
using Bytes = std::vector<std::uint8_t>;

/// How long to wait, in milliseconds, for what takes at most so long on a quiet machine: longer by as much as
/// this one is slower at the moment, measured anew every few seconds; at most ten times.
inline int scaled(int milliseconds) {
    static QElapsedTimer since;
    static double slowness = 1;
    if (!since.isValid() || since.elapsed() > 5000) {
        QElapsedTimer clock;
        clock.start();
        volatile double sum = 0;
        for (int i = 0; i < 5'000'000; ++i) sum = sum + i;
        constexpr double usual = 10; // milliseconds, on the machine on which the waits were set
        slowness = std::clamp(2 * static_cast<double>(clock.nsecsElapsed()) * 1e-6 / usual, 1.0, 10.0);
        since.start();
    }
    return static_cast<int>(milliseconds * slowness);
}

#undef QTRY_VERIFY
#undef QTRY_COMPARE
#define QTRY_VERIFY(isSo) QTRY_VERIFY_WITH_TIMEOUT((isSo), support::scaled(5000))
#define QTRY_COMPARE(actual, expected) QTRY_COMPARE_WITH_TIMEOUT((actual), expected, support::scaled(5000))

/// "4D54 68" → bytes; blanks do not matter.
inline Bytes hex(const char* text) {
    const QByteArray bytes = QByteArray::fromHex(text);
    return {bytes.begin(), bytes.end()};
}

inline Bytes joined(std::initializer_list<Bytes> parts) {
    Bytes all;
    for (const Bytes& part : parts) all.insert(all.end(), part.begin(), part.end());
    return all;
}

inline Bytes fileBytes(const QString& path) {
    QFile file(path);
    if (!file.open(QIODevice::ReadOnly)) return {};
    const QByteArray bytes = file.readAll();
    return {bytes.begin(), bytes.end()};
}

/// The example that the standard prints as format 0 and as format 1 (SMF 1.0, RP-001; from memory).
inline Bytes specificationFormat0() {
    return hex("4D546864 00000006 0000 0001 0060 4D54726B 0000003B 00FF580404021808 00FF510307A120 00C005 "
               "00C12E 00C246"
               "00923060 003C60 60914340 60904C20 8140823040 003C40 00814340 00804C40 00FF2F00");
}
inline Bytes specificationFormat1() {
    return hex("4D546864 00000006 0001 0004 0060 4D54726B 00000014 00FF580404021808 00FF510307A120 8300FF2F00"
               "4D54726B 00000010 00C005 8140904C20 81404C00 00FF2F00 4D54726B 0000000F 00C12E 60914340 "
               "82204300 00FF2F00"
               "4D54726B 00000015 00C246 00923060 003C60 83003000 003C00 00FF2F00");
}

/// A track chunk around events.
inline Bytes track(const Bytes& events) {
    Bytes chunk = hex("4D54726B");
    for (int shift = 24; shift >= 0; shift -= 8)
        chunk.push_back(static_cast<std::uint8_t>(events.size() >> shift));
    chunk.insert(chunk.end(), events.begin(), events.end());
    return chunk;
}
inline Bytes header(int type, int tracks, int division = 96) {
    Bytes chunk = hex("4D546864 00000006");
    for (const int value : {type, tracks, division}) {
        chunk.push_back(static_cast<std::uint8_t>(value >> 8));
        chunk.push_back(static_cast<std::uint8_t>(value));
    }
    return chunk;
}

inline Song songOf(const MidiFile& file, const std::string& name = "test.mid") {
    auto read = readMidi(writeMidi(file), name);
    return makeSong(std::make_shared<const SourceFile>(std::move(read.value())));
}
inline Song songOf(const Bytes& bytes, const std::string& name = "test.mid") {
    auto read = readMidi(bytes, name);
    return makeSong(std::make_shared<const SourceFile>(std::move(read.value())));
}
inline Song demoSong(const char* name) {
    return songOf(fileBytes(QStringLiteral(DEMO_FOLDER "/") + QLatin1String(name)), name);
}

/// Builds one-track files: 480 ticks to a quarter, 120 quarters a minute, so that 960 ticks are a second.
struct Builder {
    MidiFile file;
    Builder(int type = 0, int tracks = 1) {
        file.type = type;
        file.division.ticksPerQuarter = 480;
        file.tracks.resize(static_cast<std::size_t>(tracks));
        file.addTempo(0, 0, 500000);
    }
    Builder& note(int channel, double start, double length, int key, int velocity = 127, std::size_t on = 0) {
        file.addChannel(on, at(start), static_cast<std::uint8_t>(0x90 | channel),
                        static_cast<std::uint8_t>(key), static_cast<std::uint8_t>(velocity));
        file.addChannel(on, at(start + length), static_cast<std::uint8_t>(0x80 | channel),
                        static_cast<std::uint8_t>(key), 64);
        return *this;
    }
    Builder& cc(int channel, double time, int number, int value, std::size_t on = 0) {
        file.addChannel(on, at(time), static_cast<std::uint8_t>(0xB0 | channel),
                        static_cast<std::uint8_t>(number), static_cast<std::uint8_t>(value));
        return *this;
    }
    Builder& program(int channel, double time, int number, std::size_t on = 0) { // 0-based
        file.addChannel(on, at(time), static_cast<std::uint8_t>(0xC0 | channel),
                        static_cast<std::uint8_t>(number));
        return *this;
    }
    Builder& bend(int channel, double time, int value) {
        file.addChannel(0, at(time), static_cast<std::uint8_t>(0xE0 | channel),
                        static_cast<std::uint8_t>(value & 0x7F), static_cast<std::uint8_t>(value >> 7));
        return *this;
    }
    Builder& sysex(const char* text, double time = 0) {
        file.addSysex(0, at(time), hex(text));
        return *this;
    }
    static Tick at(double seconds) { return std::llround(seconds * 960); }
    Song song() {
        file.sortTracks();
        return songOf(file);
    }
};

inline Catalogue fontsAt(const char* path) { return scanFonts(FontFolders{path, {}, {}}, houseFontId); }
inline Catalogue testFont() { return fontsAt(TEST_FONT); }

} // namespace support
