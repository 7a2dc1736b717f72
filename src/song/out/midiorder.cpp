#include "song/out/midiorder.h"

#include "midi/cut.h"
#include "song/model/levels.h"

#include <algorithm>

namespace cobbleway {

Song onlyHeard(Song song) {
    const MixGains gains(song);
    std::erase_if(song.parts, [&](const Part& part) { return part.aside || gains.of(part) == 0; });
    for (Part& part : song.parts) {
        part.mix.levelDb = std::max(lowestLevelDb, gainToDb(gains.of(part)));
        part.mix.role = Role::Back;
        part.mix.solo = false;
    }
    return song;
}

namespace {

MidiFile wholeOf(const Song& song, const MidiOrder& order) {
    if (order.part == 0) return toMidi(order.asHeard ? onlyHeard(song) : song, order.layout);
    const Part* part = song.part(order.part);
    return part ? toMidi(song, *part, order.layout) : MidiFile{};
}

} // namespace

MidiFile midiOf(const Song& song, const MidiOrder& order) {
    MidiFile file = wholeOf(song, order);
    if (order.port) file = portAlone(file, *order.port);
    if (order.stretch)
        file = cutOut(file, order.stretch->first, order.stretch->second,
                      order.keepsPlace ? CutPlace::AsItWas : CutPlace::AtStart);
    return order.notesOnly ? notesAndNames(file) : file;
}

} // namespace cobbleway
