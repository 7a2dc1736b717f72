#include "song/model/levels.h"

#include <algorithm>
#include <cmath>
#include <set>

namespace cobbleway {
namespace {

/// The values that a controller has while the part plays; −1 for before it is sent.
std::set<int> valuesUsed(const SongEvents& song, const Part& part, std::uint8_t controller) {
    std::set<int> used;
    std::optional<int> current;
    bool playing = false;
    if (part.recipe.drops(controller)) return used;
    if (!song.anyBesideNotes(*part.source.events,
                             [&](const Event& event, EventRef) { return event.isController(controller); })) {
        if (song.any(*part.source.events, [](const Event& event, EventRef) { return event.isNoteOn(); }))
            used.insert(-1);
        return used;
    }
    int last = -2; // of the values inserted; −2 for none
    song.each(*part.source.events, [&](const Event& event, EventRef) {
        if (event.isController(controller)) {
            current = event.data2;
            if (playing) used.insert(*current);
        }
        if (!event.isNoteOn()) return;
        playing = true;
        if (const int now = current.value_or(-1); now != last) used.insert(last = now);
    });
    return used;
}

} // namespace

double volumeDb(int value) {
    return value <= 0 ? lowestLevelDb : std::max(lowestLevelDb, 40 * std::log10(value / 127.0));
}
int pannedValue(int value, double pan) {
    return std::clamp(value + static_cast<int>(std::lround(pan * panSpan)), 0, 127);
}
double dbToGain(double db) { return std::pow(10.0, db / 20); }
double gainToDb(double gain) { return gain <= 1e-6 ? -120 : 20 * std::log10(gain); }

std::optional<int> fixedValue(const SongEvents& song, const Part& part, std::uint8_t controller) {
    const auto used = valuesUsed(song, part, controller);
    if (used.size() != 1 || *used.begin() < 0) return std::nullopt;
    return *used.begin();
}

std::optional<int> fixedVolume(const SongEvents& song, const Part& part) {
    return fixedValue(song, part, cc::volume);
}

bool volumeMoves(const SongEvents& song, const Part& part) {
    return valuesUsed(song, part, cc::volume).size() > 1;
}

double roomShareOf(const SongEvents& song, const PartSource& source) {
    constexpr double usual = 40, most = 2;
    std::optional<int> send;
    if (!song.anyBesideNotes(*source.events,
                             [](const Event& event, EventRef) { return event.isController(cc::reverbSend); }))
        return 1;
    (void)song.any(*source.events, [&](const Event& event, EventRef) {
        if (event.isController(cc::reverbSend)) send = event.data2;
        return event.isNoteOn();
    });
    return send ? std::min(*send / usual, most) : 1;
}

MixGains::MixGains(const Song& song)
    : m_someSolo(std::any_of(song.parts.begin(), song.parts.end(),
                             [](const Part& p) { return p.mix.solo && !p.aside; })),
      m_backDb(std::any_of(song.parts.begin(), song.parts.end(),
                           [](const Part& p) { return p.mix.role == Role::Lead; })
                   ? song.backDb
                   : 0) {}

double MixGains::of(const Part& part) const {
    if (part.mix.role == Role::Off || part.mix.muted || (m_someSolo && !part.mix.solo)) return 0;
    return dbToGain(part.mix.levelDb + (part.mix.role == Role::Back ? m_backDb : 0));
}

double mixGain(const Song& song, const Part& part) { return MixGains(song).of(part); }

Song stemOf(const Song& song, PartId id) {
    Song all = song;
    for (Part& part : all.parts)
        part.mix.muted = part.mix.solo = false; // a stem is what was asked for by name
    const MixGains gains(all);
    Song alone = all;
    for (Part& part : alone.parts) {
        if (part.id != id)
            part.mix.role = Role::Off;
        else if (part.mix.role == Role::Back)
            part.mix.levelDb = gainToDb(gains.of(part)); // nobody leads any more
    }
    return alone;
}

} // namespace cobbleway
