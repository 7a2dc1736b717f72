/// The window's actions as a table: one row says all there is to know of one.
#pragma once
#include <QKeySequence>
#include <QList>
#include <QString>
#include <functional>

namespace cobbleway {

struct Session;

/// Whether an action is offered now.
using Need = bool (*)(const Session&);

namespace needs {
bool nothing(const Session&);
bool aSong(const Session& session);
bool anEndedPlugin(const Session& session);
bool undo(const Session& session);
bool redo(const Session& session);
bool aTypeTwoFile(const Session& session);
bool aSavedSet(const Session& session);   ///< that has a file
bool aFileOnDisk(const Session& session); ///< of which it is known where the song was read
bool aDrumPart(const Session& session);
bool likeDrums(const Session& session); ///< a part that is no drums but seems to be
// Of the selected part
bool aPart(const Session& session);
bool drums(const Session& session);
bool pitched(const Session& session);
bool programChanges(const Session& session); ///< several that are followed
bool severalChannels(const Session& session);
bool drumsOfSeveral(const Session& session); ///< drums that were joined of several tracks or channels
bool drumsBeside(const Session& session);    ///< drums beside which are others on the same channel
bool severalSections(const Session& session);
bool severalParts(const Session& session);
bool roomForALayer(const Session& session);
bool stretches(const Session& session);
bool aChosenSound(const Session& session);
bool aTriedSound(const Session& session);
bool aRange(const Session& session); ///< its sound plays certain keys
bool aRangeOrAFold(const Session& session);
bool followedPrograms(const Session& session);
bool fixedPrograms(const Session& session);
} // namespace needs

/// One action. Those of one menu are in it in the table's order; an empty id is a line between them.
struct ActionRow {
    const char* id = "";
    QString text;
    QList<QKeySequence> keys;
    const char* menu = "";      ///< "Song", or "Part/Split and join" for a menu within one
    Need need = needs::nothing; ///< it is grey when this is not met
    std::function<void()> does = {};
    QString shortText = {};                   ///< on buttons; empty: as in the menu
    bool (*ticked)(const Session&) = nullptr; ///< for those that are on or off
    Need shown = needs::nothing;              ///< it is not there when this is not met
};

/// A line between two actions of a menu.
inline ActionRow gap(const char* menu) { return {"", {}, {}, menu}; }

} // namespace cobbleway
