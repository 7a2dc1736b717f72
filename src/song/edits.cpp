#include "song/edits.h"

#include "song/levels.h"

#include <algorithm>

namespace cobbleway::edits {
namespace {

template <class Change> Song withPart(Song song, PartId id, Change change) {
    for (Part& part : song.parts)
        if (part.id == id) change(part);
    return song;
}

Song withRoles(Song song, PartId id, Role self, Role others) {
    for (Part& part : song.parts) part.role = part.id == id ? self : others;
    return song;
}

} // namespace

Song rename(Song song, PartId id, const std::string& name) {
    const auto first = name.find_first_not_of(" \t\r\n");
    if (first == std::string::npos) return song;
    const std::string trimmed = name.substr(first, name.find_last_not_of(" \t\r\n") - first + 1);
    const std::string unique = uniqueName(song, trimmed, id);
    return withPart(std::move(song), id, [&](Part& part) {
        if (part.name == unique) return;
        part.name = unique;
        part.nameGiven = true;
    });
}

Song setTitle(Song song, const std::string& title) {
    if (!title.empty()) song.title = title;
    return song;
}

Song setColour(Song song, PartId id, int colour) {
    return withPart(std::move(song), id, [&](Part& part) { part.colour = std::clamp(colour, 0, 11); });
}

Song moveTo(Song song, PartId id, int place) {
    const auto at =
        std::find_if(song.parts.begin(), song.parts.end(), [id](const Part& p) { return p.id == id; });
    if (at == song.parts.end()) return song;
    Part moved = std::move(*at);
    song.parts.erase(at);
    place = std::clamp(place, 0, static_cast<int>(song.parts.size()));
    song.parts.insert(song.parts.begin() + place, std::move(moved));
    return song;
}

Song chooseSound(Song song, PartId id, const SoundRef& sound) {
    return withPart(std::move(song), id, [&](Part& part) { part.chosen = sound; });
}

Song followFile(Song song, PartId id) {
    return withPart(std::move(song), id, [](Part& part) { part.chosen.reset(); });
}

Song followFileEverywhere(Song song) {
    for (Part& part : song.parts) part.chosen.reset();
    return song;
}

Song giveProgram(Song song, PartId id, Program program) {
    return withPart(std::move(song), id, [&](Part& part) { part.programGiven = program; });
}

Song setLevel(Song song, PartId id, double db) {
    return withPart(std::move(song), id,
                    [&](Part& part) { part.levelDb = std::clamp(db, lowestLevelDb, highestLevelDb); });
}

Song setPan(Song song, PartId id, double pan) {
    return withPart(std::move(song), id, [&](Part& part) { part.pan = std::clamp(pan, -1.0, 1.0); });
}

Song setOctaves(Song song, PartId id, int octaves) {
    return withPart(std::move(song), id, [&](Part& part) { part.octaves = std::clamp(octaves, -5, 5); });
}

Song volumeIntoLevel(Song song, PartId id) {
    const Part* part = song.part(id);
    const auto volume = part ? fixedVolume(song, *part) : std::nullopt;
    if (!volume) return song;
    const double db = volumeDb(*volume) - volumeDb(defaultVolume);
    return withPart(std::move(song), id, [&](Part& p) {
        p.droppedControllers.insert(cc::volume);
        p.levelDb = std::clamp(p.levelDb + db, lowestLevelDb, highestLevelDb);
    });
}

Song setRole(Song song, PartId id, Role role) {
    return withPart(std::move(song), id, [&](Part& part) { part.role = role; });
}

Song putInFront(Song song, PartId id) { return withRoles(std::move(song), id, Role::Lead, Role::Back); }
Song onlyPart(Song song, PartId id) { return withRoles(std::move(song), id, Role::Lead, Role::Off); }
Song allBut(Song song, PartId id) { return withRoles(std::move(song), id, Role::Off, Role::Back); }
Song everyone(Song song) { return withRoles(std::move(song), 0, Role::Back, Role::Back); }

Song setBackLevel(Song song, double db) {
    song.backDb = std::clamp(db, -40.0, 0.0);
    return song;
}

Song setRoom(Song song, double room) {
    song.room = std::clamp(room, 0.0, 1.0);
    return song;
}

Song setKeyShift(Song song, int semitones) {
    song.keyShift = std::clamp(semitones, -24, 24);
    return song;
}

Song settle(Song song, const std::string& snagKey) {
    song.settled.insert(snagKey);
    return song;
}

} // namespace cobbleway::edits
