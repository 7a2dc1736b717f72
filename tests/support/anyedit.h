/// Any shaping of parts and time at all, for property tests.
#pragma once
#include "support/randomsong.h"

#include "song/drums/drumedits.h"
#include "song/shape/edits.h"
#include "song/shape/eventlist.h"
#include "song/shape/join.h"
#include "song/shape/splits.h"
#include "song/shape/timeedits.h"

namespace support {

using Heard = std::multiset<std::tuple<Tick, Tick, int, int>>;

/// All notes of all parts as they sound.
inline Heard notesHeard(const Song& song) {
    Heard heard;
    for (const Part& part : song.parts)
        for (const Note& n : realise(song, part).notes)
            heard.insert({n.start, n.end, n.key.value, n.velocity.value});
    return heard;
}

/// How many notes the parts hold, before recipes.
inline std::size_t notesHeld(const Song& song) {
    std::size_t count = 0;
    for (const Part& part : song.parts) count += notesOf(song, part.source).size();
    return count;
}

/// Any split at all.
inline Split anySplit(const Song& song, const Part& part, std::mt19937& random) {
    switch (random() % 8) {
    case 0: return splitByProgram(song, part);
    case 1: return splitByPitch(song, part, Key{static_cast<std::uint8_t>(random() % 128)});
    case 2: return splitIntoLines(song, part, 2 + static_cast<int>(random() % 5));
    case 3: return splitByPiece(song, part);
    case 4: return splitAtTime(song, part, static_cast<Tick>(random() % 20000));
    case 5: return splitBySection(song, part);
    case 6: return splitByOrigin(song, part);
    default: return splitByChannel(song, part);
    }
}

/// An edit that drops no note: any of those that shape parts and time, with any values.
inline Song anyShaping(const Song& song, std::mt19937& random) {
    const auto number = [&random](int from, int to) {
        return from + static_cast<int>(random() % static_cast<unsigned>(to - from + 1));
    };
    const Part& part = song.parts[random() % song.parts.size()];
    const Part& other = song.parts[random() % song.parts.size()];
    const PartId id = part.id;
    const Tick tick = number(0, 20000);
    const SoundRef sound{"house", number(0, 1) * 8, number(0, 127), "Any"};
    const Key anyKey{static_cast<std::uint8_t>(number(0, 127))};
    switch (number(0, 41)) {
    case 33: return edits::foldInto(song, id, KeyRange{number(20, 60), number(61, 110)});
    case 34: return edits::setUnisons(song, id, static_cast<Unisons>(number(0, 2)));
    case 23: return edits::addLayer(song, id, sound);
    case 24:
        return edits::setLayer(
            song, id, 0,
            {sound,
             {{{"gain", 0.5F}}, "urn:preset", "state", {{"urn:file", "/samples/ümlaut.wav"}}},
             double(number(-70, 20)),
             number(-6, 6),
             {number(0, 70), number(0, 140)}});
    case 25: return edits::chooseForStretch(song, id, tick, tick + number(0, 9000), sound);
    case 26: return edits::clearStretch(song, id, tick);
    case 27: return edits::setRoomShare(song, id, number(-1, 30) / 10.0, number(0, 1) == 1);
    case 28: return edits::setMuted(edits::setSolo(song, id, number(0, 1) == 1), id, number(0, 1) == 1);
    case 29:
        return edits::setEffects(song, number(0, 1) * id,
                                 {{"urn:effect", "Any", {{{"mix", 1.0F}}, "", ""}, number(0, 1) == 1}});
    case 30: return edits::setMasterLevel(edits::setRoomSeconds(song, number(0, 60) / 10.0), number(-40, 40));
    case 31: return edits::setFontOrder(song, {"house", "/fonts/any.sf2"});
    case 32:
        return edits::setSettings(
            edits::chooseSound(
                song, id,
                number(0, 1) ? SoundRef{"urn:plugin", 0, 0, "Any", SoundKind::Plugin, 0}
                             : SoundRef{"Port", 0, number(0, 127), "Any", SoundKind::Port, number(0, 15)}),
            id, {{{"cutoff", 0.25F}}, "", "text \"quoted\"\n"});
    case 0:
    case 1:
    case 2: return edits::split(song, id, anySplit(song, part, random));
    case 3: return edits::join(song, {id, other.id}, {Unisons::Cut, number(0, 1) == 1, number(0, 1) == 1});
    case 4: return part.source.drums ? edits::makePitched(song, id) : edits::makeDrums(song, id);
    case 5: return edits::thinController(song, id, number(0, 129), number(0, 9));
    case 6: return edits::dropController(song, id, number(0, 129));
    case 7: return edits::controllerIntoMix(song, id, number(0, 1) ? cc::volume : cc::pan);
    case 8: return edits::fixProgram(song, id, Program{static_cast<std::uint8_t>(number(0, 127))});
    case 9: return edits::setSemitones(song, id, number(-12, 12));
    case 10:
        return edits::setVelocity(song, id, {number(2, 20) / 10.0, number(-20, 20), number(0, 10) / 10.0});
    case 11: return edits::setDrumTrim(song, id, {Key{60}, anyKey}, {0.5, 3, 0});
    case 35:
        return edits::setDrumTarget(song, id, {anyKey, Key{60}},
                                    Key{static_cast<std::uint8_t>(number(0, 127))});
    case 36: return edits::nameDrum(song, id, anyKey, number(0, 1) ? "Große Trommel" : "hh");
    case 37: return edits::setHitLength(song, id, number(0, 400));
    case 38: return edits::drumsBack(song, {id, other.id});
    case 39: return edits::takeOut(song, id, {static_cast<std::size_t>(number(0, 2))});
    case 40: return edits::pieceApart(song, id, static_cast<DrumPiece>(number(0, pieceCount - 1)));
    case 41: return edits::playByNames(song, id);
    case 12: return edits::setTempo(song, tick, number(20, 300));
    case 13: return edits::scaleTempo(song, number(5, 20) / 10.0);
    case 14: return edits::flattenTempo(song, number(0, 50) / 1000.0);
    case 15: return edits::setMetre(song, tick, number(1, 9), 1 << number(0, 4));
    case 16: return edits::setPickUp(song, number(0, 2000));
    case 17: return edits::removeLeadingSilence(song, number(0, 3000));
    case 18: return edits::addSection(song, tick, "Section " + std::to_string(number(0, 5)));
    case 19: return song.sections.empty() ? song : edits::removeSection(song, song.sections.back().start);
    case 20:
        return part.source.events->empty()
                   ? song
                   : edits::setEventValue(song, id,
                                          (*part.source.events)[random() % part.source.events->size()],
                                          number(-200, 200));
    case 21:
        return part.source.events->empty()
                   ? song
                   : edits::moveEvents(
                         song, id, {(*part.source.events)[random() % part.source.events->size()]}, "Moved");
    default: return edits::separateChannels(song);
    }
}

} // namespace support
