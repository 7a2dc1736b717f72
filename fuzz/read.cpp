/// Any bytes at all are read: nothing crashes, ticks are in order, every note has an end, and what was read
/// is written and read back with the same notes.
#include "insist.h"

#include "midi/reader.h"
#include "midi/writer.h"

using namespace cobbleway;

namespace {

struct Counts {
    std::size_t starts = 0, ends = 0;
};

Counts countsOf(const MidiFile& file) {
    Counts counts;
    for (const Track& track : file.tracks)
        for (const Event& event : track.events) {
            counts.starts += event.isNoteOn();
            counts.ends += event.isNoteOff();
        }
    return counts;
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const auto read = readMidi({data, data + size}, "any.mid");
    if (!read) return 0;
    const MidiFile& file = read.value().midi;
    for (const Track& track : file.tracks)
        for (std::size_t i = 1; i < track.events.size(); ++i)
            insist(track.events[i - 1].tick <= track.events[i].tick, "events are in order");
    for (const Damage& damage : read.value().damage)
        insist(damage.offset <= size, "reports lie within the file");
    const Counts counts = countsOf(file);
    insist(counts.ends >= counts.starts, "every note has an end");
    const auto again = readMidi(writeMidi(file), "again.mid");
    insist(again.ok() && countsOf(again.value().midi).starts == counts.starts, "every note is written");
    return 0;
}
