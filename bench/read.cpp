/// Reading a million notes, against libsmf in the same run. Aim: forty times as fast, under 64 bytes a note.
/// Usage: bench-read [FILE.mid], which also writes what is read, for readers in other languages.
#include "measure.h"

#include "midi/reader.h"
#include "midi/writer.h"

#include <cstdio>
#include <fstream>
#include <malloc.h>
#include <smf.h>

using namespace cobbleway;

namespace {

constexpr int notes = 1000000;

std::vector<std::uint8_t> millionNotes() {
    MidiFile file;
    file.type = 1;
    file.tracks.resize(16);
    for (int i = 0; i < notes; ++i) {
        const auto track = static_cast<std::size_t>(i % 16);
        const Tick tick = Tick{i / 16} * 120;
        const auto key = static_cast<std::uint8_t>(36 + i * 7 % 60);
        file.addChannel(track, tick, static_cast<std::uint8_t>(0x90 | track), key, 80);
        file.addChannel(track, tick + 100, static_cast<std::uint8_t>(0x80 | track), key, 64);
    }
    file.sortTracks();
    return writeMidi(file);
}

} // namespace

int main(int count, char** words) {
    const auto bytes = millionNotes();
    if (count == 2)
        std::ofstream(words[1], std::ios::binary)
            .write(reinterpret_cast<const char*>(bytes.data()), std::ssize(bytes));
    std::size_t events = 0;
    const double ours = cpuSeconds(5, [&] {
        const auto read = readMidi(bytes, "bench.mid");
        events = 0;
        for (const Track& track : read.value().midi.tracks) events += track.events.size();
    });
    const double theirs = cpuSeconds(1, [&] { // it takes most of a minute
        smf_t* smf = smf_load_from_memory(bytes.data(), static_cast<int>(bytes.size()));
        smf_delete(smf);
    });
    auto copy = bytes;
    const auto before = mallinfo2();
    const auto read = readMidi(std::move(copy), "bench.mid");
    const auto after = mallinfo2();
    const double held = static_cast<double>(after.uordblks + after.hblkhd) -
                        static_cast<double>(before.uordblks + before.hblkhd) +
                        static_cast<double>(bytes.size());
    std::printf(
        "read %d notes (%zu events): %.1f ms (aim 40), libsmf %.1f ms: %.1f times as fast; %.1f bytes a "
        "note (aim 64)\n",
        notes, events, ours * 1e3, theirs * 1e3, theirs / ours, held / notes);
    return read.ok() ? 0 : 1;
}
