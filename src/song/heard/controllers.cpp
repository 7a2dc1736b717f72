#include "song/heard/controllers.h"

#include <algorithm>
#include <array>

namespace cobbleway {

ControllerId controllerOf(const Event& event) {
    switch (event.kind()) {
    case 0xB0: return event.data1;
    case 0xD0: return pressureId;
    case 0xE0: return pitchBendId;
    default: return -1;
    }
}

int controlValue(const Event& event) {
    switch (event.kind()) {
    case 0xD0: return event.data1;
    case 0xE0: return event.bend();
    default: return event.data2;
    }
}

std::string controllerName(ControllerId id) {
    struct Name {
        ControllerId id;
        const char* name;
    };
    // Names by the MIDI 1.0 table of controllers.
    static constexpr Name names[] = {{0, "bank select"},
                                     {1, "modulation"},
                                     {2, "breath"},
                                     {4, "foot pedal"},
                                     {5, "portamento time"},
                                     {6, "data entry"},
                                     {7, "volume"},
                                     {8, "balance"},
                                     {10, "pan"},
                                     {11, "expression"},
                                     {32, "bank select fine"},
                                     {38, "data entry fine"},
                                     {64, "sustain pedal"},
                                     {65, "portamento"},
                                     {66, "sostenuto pedal"},
                                     {67, "soft pedal"},
                                     {71, "resonance"},
                                     {72, "release time"},
                                     {73, "attack time"},
                                     {74, "brightness"},
                                     {91, "reverb send"},
                                     {93, "chorus send"},
                                     {98, "NRPN fine"},
                                     {99, "NRPN"},
                                     {100, "RPN fine"},
                                     {101, "RPN"},
                                     {120, "all sound off"},
                                     {121, "reset all controllers"},
                                     {123, "all notes off"}};
    if (id == pitchBendId) return "pitch bend";
    if (id == pressureId) return "pressure";
    for (const Name& n : names)
        if (n.id == id) return std::string(n.name) + " (" + std::to_string(id) + ")";
    return "controller " + std::to_string(id);
}

bool canThin(ControllerId id) {
    if (id == pitchBendId || id == pressureId) return true;
    const bool bankOrData = id == cc::bankMsb || id == cc::bankLsb || id == cc::dataEntryMsb ||
                            id == cc::dataEntryLsb || (id >= 96 && id <= 101);
    const bool pedal = id >= cc::sustain && id <= 69;
    return id >= 0 && id < cc::allSoundOff && !bankOrData && !pedal;
}

std::vector<ControlPoint> thinned(const std::vector<ControlPoint>& points, int tolerance) {
    std::vector<ControlPoint> kept;
    int low = 0, high = 0;
    for (std::size_t i = 0; i < points.size(); ++i) {
        if (i + 1 < points.size() && points[i + 1].tick == points[i].tick) continue; // holds for no time
        const int value = points[i].value;
        const bool joins = !kept.empty() && std::max(high, value) - std::min(low, value) <= 2 * tolerance;
        low = joins ? std::min(low, value) : value;
        high = joins ? std::max(high, value) : value;
        if (!joins) kept.push_back({points[i].tick, value});
        kept.back().value = (low + high) / 2;
    }
    return kept;
}

std::vector<ControlPoint> controlPoints(const SongEvents& events, const PartSource& source,
                                        ControllerId controller) {
    std::vector<ControlPoint> points;
    events.eachBesideNotes(*source.events, [&](const Event& event, EventRef ref) {
        if (controllerOf(event) == controller) points.push_back({events.tickOf(ref), controlValue(event)});
    });
    return points;
}

namespace {

/// What one pass over a part's events gathers of one controller.
struct Gathered {
    ControllerUse use;
    int current = -1, played = -1; ///< the value that holds; one that held under a note
};

void gather(Gathered& g, ControllerId id, int value) {
    if (g.use.events == 0) g.use = {id, 0, 0, value, value, false};
    ++g.use.events;
    g.use.lowest = std::min(g.use.lowest, value);
    g.use.highest = std::max(g.use.highest, value);
    g.current = value;
}

} // namespace

std::vector<ControllerUse> controllersOf(const SongEvents& events, const PartSource& source,
                                         const PartRecipe& recipe) {
    std::array<Gathered, 130> all;
    std::vector<ControllerId> seen;
    bool playing = false;
    for (const EventRef ref : *source.events) {
        const Event& event = events.event(ref);
        if (event.isNoteOn()) {
            playing = true;
            for (const ControllerId id : seen) {
                Gathered& g = all[static_cast<std::size_t>(id)];
                g.use.moves = g.use.moves || (g.played >= 0 && g.played != g.current);
                g.played = g.current;
            }
        }
        const ControllerId id = controllerOf(event);
        if (id < 0) continue;
        Gathered& g = all[static_cast<std::size_t>(id)];
        if (g.use.events == 0) seen.push_back(id);
        const int before = g.current;
        gather(g, id, controlValue(event));
        // A value sent for the first time after the first note was another before.
        if (playing && before != g.current) g.use.moves = true;
    }
    std::vector<ControllerUse> uses;
    for (Gathered& g : all) {
        if (g.use.events == 0) continue;
        g.use.kept = g.use.events;
        const auto plan = recipe.controllers.find(g.use.controller);
        if (plan != recipe.controllers.end())
            g.use.kept = plan->second.drop
                             ? 0
                             : static_cast<int>(thinned(controlPoints(events, source, g.use.controller),
                                                        plan->second.tolerance)
                                                    .size());
        uses.push_back(g.use);
    }
    return uses;
}

} // namespace cobbleway
