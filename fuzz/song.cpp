/// What is done with any bytes at all: read, made a song, shaped, written and read again. Nothing of it may
/// crash, and what was read must be written and read back with the same notes.
#include "insist.h"

#include "midi/reader.h"
#include "midi/writer.h"
#include "song/heard/lyrics.h"
#include "song/heard/realise.h"
#include "song/out/tomidi.h"
#include "song/shape/join.h"
#include "song/shape/splits.h"
#include "song/shape/timeedits.h"
#include "song/snags/snags.h"

using namespace cobbleway;

namespace {

std::size_t notesOf(const MidiFile& file) {
    std::size_t count = 0;
    for (const Track& track : file.tracks)
        for (const Event& event : track.events) count += event.isNoteOn();
    return count;
}

std::size_t notesHeard(const Song& song) {
    std::size_t count = 0;
    for (const Part& part : song.parts) count += realise(song, part).notes.size();
    return count;
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const auto read = readMidi({data, data + size}, "any.mid");
    if (!read) return 0;
    const std::size_t notes = notesOf(read.value().midi);
    for (const Track& track : read.value().midi.tracks)
        for (std::size_t i = 1; i < track.events.size(); ++i)
            insist(track.events[i - 1].tick <= track.events[i].tick, "events are in order");
    Song song = makeSong(std::make_shared<const SourceFile>(read.value()));
    insist(notesHeard(song) == notes, "every note is in a part");
    const auto again = readMidi(writeMidi(toMidi(song, Layout::TrackPerPart)), "again.mid");
    insist(again.ok() && notesOf(again.value().midi) == notes, "every note is written");
    static const Catalogue noFonts;
    (void)findSnags(song, noFonts);
    (void)lyricLines(song);
    if (song.parts.empty()) return 0;
    const Part& part = song.parts[size % song.parts.size()];
    Song shaped = edits::split(song, part.id, splitIntoLines(song, part, 2 + static_cast<int>(size % 3)));
    shaped = edits::split(shaped, part.id, splitByProgram(shaped, *shaped.part(part.id)));
    insist(notesHeard(shaped) == notes, "splitting loses nothing");
    shaped = edits::flattenTempo(edits::removeLeadingSilence(shaped, static_cast<Tick>(size)), 0.02);
    std::vector<PartId> all;
    for (const Part& p : shaped.parts)
        if (all.size() < 4) all.push_back(p.id);
    const auto before = notesHeard(shaped);
    shaped = edits::join(shaped, all, {Unisons::KeepBoth, true, true});
    insist(notesHeard(shaped) == before, "joining loses nothing");
    (void)toMidi(shaped, Layout::SingleTrack);
    return 0;
}
