#include "app/actions.h"

#include "app/session/session.h"

#include <algorithm>

namespace cobbleway::needs {
namespace {

/// Whether there is a selected part of which something is so.
template <class Ask> bool ofPart(const Session& session, Ask ask) {
    const Part* part = session.current.part();
    return part && ask(*part);
}

} // namespace

bool nothing(const Session&) { return true; }
bool aSong(const Session& session) { return session.current.hasSong(); }
bool anEndedPlugin(const Session& session) { return session.planner.hasEndedPlugins(); }
bool undo(const Session& session) { return session.current.canUndo(); }
bool redo(const Session& session) { return session.current.canRedo(); }
bool aTypeTwoFile(const Session& session) {
    return aSong(session) && session.current.song().source->midi.type == 2;
}
bool aSavedSet(const Session& session) { return !session.current.projectPath().isEmpty(); }
bool aFileOnDisk(const Session& session) {
    return aSong(session) && !session.current.song().source->path.empty();
}
bool aDrumPart(const Session& session) {
    return aSong(session) &&
           std::any_of(session.current.song().parts.begin(), session.current.song().parts.end(),
                       [](const Part& p) { return p.source.drums && !p.aside; });
}
bool likeDrums(const Session& session) {
    const auto& snags = session.findings.snags();
    return aSong(session) &&
           std::any_of(snags.begin(), snags.end(), [](const Snag& s) { return s.kind == "drums-elsewhere"; });
}
bool drumsOfSeveral(const Session& session) { return drums(session) && severalChannels(session); }
bool drumsBeside(const Session& session) {
    return ofPart(session, [&](const Part& part) {
        const auto& parts = session.current.song().parts;
        return part.source.drums && std::any_of(parts.begin(), parts.end(), [&](const Part& p) {
                   return p.id != part.id && p.source.drums && !p.aside &&
                          p.source.port == part.source.port && p.source.channel == part.source.channel;
               });
    });
}
bool aPart(const Session& session) { return session.current.part() != nullptr; }
bool drums(const Session& session) {
    return ofPart(session, [](const Part& part) { return part.source.drums; });
}
bool pitched(const Session& session) { return !drums(session); }
bool programChanges(const Session& session) {
    return ofPart(session, [&](const Part& part) {
        const PartMatch* match = session.findings.matchOf(part.id);
        return part.sound.heedsPrograms() && match && match->asks.size() > 1;
    });
}
bool severalChannels(const Session& session) {
    return ofPart(session, [&](const Part& part) { return session.findings.origins(part.id)->size() > 1; });
}
bool severalSections(const Session& session) {
    return aPart(session) && session.current.song().sections.size() > 1;
}
bool severalParts(const Session& session) {
    if (!aPart(session)) return false;
    const auto& parts = session.current.song().parts;
    return std::count_if(parts.begin(), parts.end(), [](const Part& p) { return !p.aside; }) > 1;
}
bool roomForALayer(const Session& session) {
    return ofPart(session, [](const Part& part) { return part.sound.layers.size() < mostLayers; });
}
bool stretches(const Session& session) {
    return ofPart(session, [](const Part& part) { return !part.sound.stretches.empty(); });
}
bool aChosenSound(const Session& session) {
    return ofPart(session,
                  [](const Part& part) { return part.sound.chosen || !part.sound.stretches.empty(); });
}
bool aTriedSound(const Session& session) { return session.sounds.isTrying(); }
bool aRange(const Session& session) {
    return ofPart(session, [&](const Part& part) {
        const PartMatch* match = session.findings.matchOf(part.id);
        return !part.source.drums && match && match->first().sound &&
               session.sounds.catalogue().find(*match->first().sound);
    });
}
bool aRangeOrAFold(const Session& session) {
    return aRange(session) ||
           ofPart(session, [](const Part& part) { return part.recipe.folded.has_value(); });
}
bool followedPrograms(const Session& session) {
    return ofPart(session, [](const Part& part) { return part.sound.heedsPrograms(); });
}
bool fixedPrograms(const Session& session) {
    return ofPart(session, [](const Part& part) { return !part.sound.followsPrograms; });
}

} // namespace cobbleway::needs
