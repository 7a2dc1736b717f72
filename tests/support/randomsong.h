/// Random music for property tests.
#pragma once
#include "support/support.h"

#include "song/heard/realise.h"

#include <random>

namespace support {

/// Any music at all: several tracks, channels, ports, controllers, texts, tempos and metres.
inline MidiFile randomFile(std::mt19937& random) {
    MidiFile file;
    file.type = random() % 4 == 0 ? 0 : 1;
    file.division.ticksPerQuarter = static_cast<int>(24 + random() % 960);
    file.tracks.resize(file.type == 0 ? 1 : 1 + random() % 6);
    for (std::size_t t = 0; t < file.tracks.size(); ++t) {
        for (unsigned i = 0; i < 3 + random() % 120; ++i) {
            const Tick tick = random() % 20000;
            const auto channel = static_cast<std::uint8_t>(random() % 16),
                       key = static_cast<std::uint8_t>(random() % 128);
            switch (random() % 10) {
            case 0: file.addChannel(t, tick, 0xC0 | channel, key); break;
            case 1:
                file.addChannel(t, tick, 0xB0 | channel, key, static_cast<std::uint8_t>(random() % 128));
                break;
            case 2: file.addChannel(t, tick, 0xE0 | channel, key, key); break;
            case 3: file.addText(t, tick, meta::lyric, "la"); break;
            case 4:
                if (t == 0) file.addTempo(t, tick, static_cast<int>(100000 + random() % 900000));
                break;
            case 5: file.addText(t, tick, meta::marker, "M" + std::to_string(i)); break;
            default:
                file.addChannel(t, tick, 0x90 | channel, key, static_cast<std::uint8_t>(1 + random() % 127));
                file.addChannel(t, tick + 1 + random() % 900, 0x80 | channel, key, 64);
            }
        }
    }
    file.sortTracks();
    for (Track& track : file.tracks) track.end += random() % 500;
    return file;
}

/// All events with what they hold, sorted: equal for files that hold the same.
inline std::vector<std::string> contentOf(const MidiFile& file) {
    std::vector<std::string> rows;
    for (const Track& track : file.tracks)
        for (const Event& event : track.events)
            rows.push_back(std::to_string(event.tick) + " " + std::to_string(event.status) + " " +
                           std::to_string(event.data1) + " " +
                           std::to_string(event.isChannel() ? event.data2 : 0) + " " +
                           std::string(file.rawText(event)));
    std::sort(rows.begin(), rows.end());
    return rows;
}

} // namespace support
