/// What shaping costs: all snags of a song of 100 000 notes (aim: under 100 ms), one part split out of a
/// million notes (aim: under 50 ms), as multiples of reading the same bytes too; and looking through a drum
/// part. Usage: bench-shape FONT.sf2
#include "measure.h"

#include "midi/writer.h"
#include "song/drums/drumnotes.h"
#include "song/heard/barprint.h"
#include "song/shape/eventlist.h"
#include "song/shape/splits.h"
#include "song/snags/snags.h"

#include <cstdio>

using namespace cobbleway;

namespace {

/// `notes` notes over 16 channels of as many tracks, with volume curves, bends and a beat on channel 10; or
/// all on one channel.
std::vector<std::uint8_t> bytesOf(int notes, bool oneChannel) {
    MidiFile file;
    file.type = 1;
    const std::size_t tracks = oneChannel ? 1 : 16;
    file.tracks.resize(tracks);
    file.addTempo(0, 0, 500000);
    for (std::size_t t = 0; t < tracks; ++t)
        file.addChannel(t, 0, static_cast<std::uint8_t>(0xC0 | t), static_cast<std::uint8_t>(t * 7));
    for (int i = 0; i < notes; ++i) {
        const auto track = static_cast<std::size_t>(i) % tracks;
        const Tick tick = static_cast<Tick>(i) / static_cast<Tick>(tracks) * 60;
        const auto key = static_cast<std::uint8_t>(track == 9 ? 35 + i / 16 % 20 : 36 + i * 7 % 60);
        file.addChannel(track, tick, static_cast<std::uint8_t>(0x90 | track), key,
                        static_cast<std::uint8_t>(40 + i % 80));
        file.addChannel(track, tick + 50, static_cast<std::uint8_t>(0x80 | track), key, 64);
        if (i % 8 == 0)
            file.addChannel(track, tick + 20, static_cast<std::uint8_t>(0xB0 | track), 11,
                            static_cast<std::uint8_t>(i / 128 % 128));
    }
    file.sortTracks();
    return writeMidi(file);
}

Song songOf(const std::vector<std::uint8_t>& bytes) {
    auto read = readMidi(bytes, "bench.mid");
    return makeSong(std::make_shared<const SourceFile>(std::move(read.value())));
}

} // namespace

int main(int count, char** words) {
    if (count != 2) return std::fprintf(stderr, "Usage: bench-shape FONT.sf2\n"), 1;
    const Catalogue catalogue = scanFonts({words[1], {}, {}}, houseFontId);
    const auto bytes = bytesOf(100000, false);
    const Song song = songOf(bytes);
    const auto matches = matchSong(song, catalogue);
    std::size_t found = 0;
    const double reading = cpuSeconds(5, [&] { (void)readMidi(bytes, "bench.mid").ok(); });
    const double snags = cpuSeconds(5, [&] { found = findSnags(song, catalogue).size(); });
    std::printf("100 000 notes: %zu snags in %.1f ms, %.1f times reading\n", found, snags * 1e3,
                snags / reading);

    // One drum part of 100 000 hits: names, pieces and bar print (aim: under 5 ms), against std::sort of as
    // many numbers in the same run.
    MidiFile beat;
    beat.tracks.resize(1);
    beat.addTempo(0, 0, 500000);
    std::vector<std::uint32_t> numbers;
    for (int i = 0; i < 100000; ++i) {
        beat.addChannel(0, i * 30, 0x99, static_cast<std::uint8_t>(35 + i * 7 % 47),
                        static_cast<std::uint8_t>(1 + i * 13 % 127));
        beat.addChannel(0, i * 30 + 20, 0x89, static_cast<std::uint8_t>(35 + i * 7 % 47), 64);
        numbers.push_back(static_cast<std::uint32_t>(i) * 2654435761U);
    }
    beat.sortTracks();
    const Song drums = songOf(writeMidi(beat));
    const PartMatch kit = matchPart(drums, drums.parts[0], catalogue);
    std::size_t drumRows = 0;
    const double looking = cpuSeconds(20, [&] {
        drumRows = drumNotesOf(drums, drums.parts[0], kit, catalogue).size();
        drumRows += barPrintsOf(drums, drums.parts[0].source, 0, drums.end).slots();
    });
    const double sorting = cpuSeconds(20, [&] {
        auto sorted = numbers;
        std::sort(sorted.begin(), sorted.end());
    });
    std::printf(
        "100 000 drum hits: names, pieces, bar print (%zu) in %.2f ms, %.2f times sorting as many numbers\n",
        drumRows, looking * 1e3, looking / sorting);

    const auto million = bytesOf(1000000, true);
    const double readMillion = cpuSeconds(3, [&] { (void)readMidi(million, "bench.mid").ok(); });
    const Song big = songOf(million);
    std::size_t parts = 0;
    const double split = cpuSeconds(5, [&] {
        parts = edits::split(big, big.parts[0].id, splitByPitch(big, big.parts[0], Key{60})).parts.size();
    });
    const double lines = cpuSeconds(3, [&] { parts += splitIntoLines(big, big.parts[0], 2).groupOf.size(); });
    std::size_t rows = 0;
    const double filter = cpuSeconds(5, [&] {
        rows = filterEvents(big, big.parts[0], {.kind = EventKind::Note, .lowestKey = 60}).size();
    });
    std::printf("a million notes in one part: split out by pitch %.1f ms, %.2f times reading; into two lines "
                "%.1f ms; "
                "event list filtered to %zu rows in %.1f ms\n",
                split * 1e3, split / readMillion, lines * 1e3, rows, filter * 1e3);
    return parts > 1 ? 0 : 1;
}
