/// The window's actions for parts: what each is called, its keys, and the one edit or call it makes.
#include "app/mainwindow.h"

#include "app/dialogs/controllersdialog.h"
#include "app/dialogs/effectsdialog.h"
#include "app/dialogs/fontsdialog.h"
#include "app/dialogs/joindialog.h"
#include "app/dialogs/layersdialog.h"
#include "app/dialogs/pitchdialog.h"
#include "app/dialogs/pluginchooser.h"
#include "app/dialogs/splitdialog.h"
#include "app/pages/drumspage.h"
#include "app/pages/partspage.h"
#include "app/pages/shelf.h"
#include "app/pages/soundspage.h"
#include "app/session/session.h"
#include "song/drums/drumedits.h"
#include "song/match/evidence.h"
#include "song/match/rangefit.h"
#include "song/shape/edits.h"

#include <QLineEdit>

namespace cobbleway {
namespace {

/// A handler that edits the selected part; nothing happens when there is none. Edits of one gesture are one
/// step to undo.
std::function<void()> onPart(Session& session, const QString& name,
                             std::function<Song(const Song&, const Part&)> change,
                             const QString& gesture = {}) {
    return [&session, name, change = std::move(change), gesture] {
        const Part* selected = session.current.part();
        if (!selected) return;
        session.current.edit(
            name, [&](const Song& song) { return change(song, *selected); },
            gesture.isEmpty() ? gesture : gesture + QString::number(selected->id));
    };
}

std::function<void()> onPart(Session& session, const QString& name, Song (*change)(Song, PartId)) {
    return onPart(session, name,
                  [change](const Song& song, const Part& part) { return change(song, part.id); });
}

/// A handler that opens a dialog about the selected part.
template <class Make> std::function<void()> opens(Session& session, Make make) {
    return [&session, make] {
        if (session.current.part()) make()->open();
    };
}

} // namespace

QList<ActionRow> MainWindow::partRows() {
    const auto step = [this](int by) {
        return [this, by] {
            const auto& parts =
                m_session.current.hasSong() ? m_session.current.song().parts : std::vector<Part>{};
            for (std::size_t i = 0; i < parts.size(); ++i) {
                const auto to = static_cast<std::ptrdiff_t>(i) + by;
                if (parts[i].id == m_session.current.selectedPart() && to >= 0 && to < std::ssize(parts) &&
                    !parts[static_cast<std::size_t>(to)].aside)
                    return m_session.current.selectPart(parts[static_cast<std::size_t>(to)].id);
            }
        };
    };
    const auto move = [this](int by) {
        return [this, by] {
            m_session.current.edit(
                tr("Move part"), [id = m_session.current.selectedPart(), by](const Song& song) {
                    for (std::size_t i = 0; i < song.parts.size(); ++i)
                        if (song.parts[i].id == id)
                            return edits::moveTo(song, id, std::max(0, static_cast<int>(i) + by));
                    return song;
                });
        };
    };
    const auto role = [this](Role to) {
        return onPart(m_session, tr("Change role"),
                      [to](const Song& song, const Part& part) { return edits::setRole(song, part.id, to); });
    };
    const auto splitDialog = [this](SplitDialog::Way way) {
        return opens(m_session, [this, way] { return new SplitDialog(m_session, way, this); });
    };
    const auto splitNow = [this](const QString& name, Split (*way)(const Song&, const Part&)) {
        return [this, name, way] { m_session.current.split(name, way); };
    };
    return {
        {"nextPart",
         tr("&Next part"),
         {QKeySequence(Qt::ALT | Qt::Key_PageDown)},
         "Part",
         needs::aSong,
         step(1)},
        {"previousPart",
         tr("&Previous part"),
         {QKeySequence(Qt::ALT | Qt::Key_PageUp)},
         "Part",
         needs::aSong,
         step(-1)},
        gap("Part"),
        {"rename",
         tr("&Rename"),
         {QKeySequence(Qt::Key_F2)},
         "Part",
         needs::aSong,
         [this] {
             if (page() == Step::Drums) return m_drums->nameSelected();
             if (page() == Step::Parts && m_parts->editsAValue()) return; // F2 edits where it stands
             showPage(Step::Parts);
             m_parts->renameSelected();
         }},
        {"moveUp", tr("Move &up"), {QKeySequence(Qt::ALT | Qt::Key_Up)}, "Part", needs::aSong, move(-1)},
        {"moveDown", tr("Move &down"), {QKeySequence(Qt::ALT | Qt::Key_Down)}, "Part", needs::aSong, move(1)},
        gap("Part"),
        {"split",
         tr("&Split…"),
         {QKeySequence(Qt::Key_F4)},
         "Part/Split and join",
         needs::aSong,
         splitDialog(SplitDialog::ByProgram),
         tr("Split…")},
        {"splitProgram",
         tr("Split by &instrument change"),
         {},
         "Part/Split and join",
         needs::programChanges,
         splitNow(tr("Split by instrument change"), splitByProgram),
         tr("instrument change")},
        {"splitPitch",
         tr("Split by &pitch…"),
         {},
         "Part/Split and join",
         needs::aSong,
         splitDialog(SplitDialog::ByPitch),
         tr("pitch"),
         nullptr,
         needs::pitched},
        {"splitLines",
         tr("Split into &top and bottom line"),
         {},
         "Part/Split and join",
         needs::aSong,
         splitNow(tr("Split into top and bottom line"),
                  [](const Song& s, const Part& p) { return splitIntoLines(s, p, 2); }),
         tr("top and bottom line"),
         nullptr,
         needs::pitched},
        {"splitPiece",
         tr("Split by piece of the &kit"),
         {},
         "Part/Split and join",
         needs::aSong,
         splitNow(tr("Split by piece of the kit"), splitByPiece),
         tr("piece of the kit"),
         nullptr,
         needs::drums},
        {"splitChannel",
         tr("Split by &channel"),
         {},
         "Part/Split and join",
         needs::severalChannels,
         splitNow(tr("Split by channel"), splitByChannel),
         tr("channel")},
        {"splitSections",
         tr("Split by s&ection"),
         {},
         "Part/Split and join",
         needs::severalSections,
         splitNow(tr("Split by section"), splitBySection),
         tr("section")},
        {"splitPlace",
         tr("Split at a pl&ace…"),
         {},
         "Part/Split and join",
         needs::aSong,
         splitDialog(SplitDialog::AtPlace)},
        gap("Part/Split and join"),
        {"join",
         tr("&Join…"),
         {QKeySequence(Qt::Key_F5)},
         "Part/Split and join",
         needs::severalParts,
         opens(m_session, [this] { return new JoinDialog(m_session, this); }),
         tr("Join…")},
        {"events",
         tr("E&vents"),
         {QKeySequence(Qt::Key_F6)},
         "Part",
         needs::aSong,
         [this] {
             const bool show = page() != Step::Parts || !m_parts->showsEvents();
             showPage(Step::Parts);
             m_parts->showEvents(show);
         }},
        {"controllers",
         tr("&Controllers…"),
         {},
         "Part",
         needs::aSong,
         opens(m_session, [this] { return new ControllersDialog(m_session, this); }),
         tr("Controllers…")},
        {"pitchVelocity",
         tr("Pitch and velocit&y…"),
         {},
         "Part",
         needs::aSong,
         opens(m_session, [this] { return new PitchDialog(m_session, this); }),
         tr("Pitch and velocity…")},
        {"makeDrums",
         tr("Make it dru&ms"),
         {},
         "Part",
         needs::aSong,
         onPart(m_session, tr("Make it drums"),
                [](const Song& song, const Part& part) { return edits::drumsBack(song, {part.id}); }),
         tr("Make drums"),
         nullptr,
         needs::pitched},
        {"makePitched",
         tr("Make it pitche&d"),
         {},
         "Part",
         needs::aSong,
         onPart(m_session, tr("Make it pitched"), edits::makePitched),
         tr("Make pitched"),
         nullptr,
         needs::drums},
        {"fixProgram",
         tr("Fi&x the sound"),
         {},
         "Part",
         needs::followedPrograms,
         onPart(m_session, tr("Fix the sound"),
                [](const Song& song, const Part& part) { return edits::fixProgram(song, part.id); })},
        {"followPrograms",
         tr("Follow the file's pro&gram changes"),
         {},
         "Part",
         needs::fixedPrograms,
         onPart(m_session, tr("Follow program changes"), edits::followPrograms)},
        {"octaveUp",
         tr("Shift an octave u&p"),
         {QKeySequence(Qt::ALT | Qt::SHIFT | Qt::Key_Up)},
         "Part/Pitch and level",
         needs::aSong,
         onPart(
             m_session, tr("Shift octaves"),
             [](const Song& s, const Part& p) {
                 return p.source.drums ? s : edits::setOctaves(s, p.id, p.recipe.octaves + 1);
             },
             QStringLiteral("setOctaves "))},
        {"octaveDown",
         tr("Shift an octave d&own"),
         {QKeySequence(Qt::ALT | Qt::SHIFT | Qt::Key_Down)},
         "Part/Pitch and level",
         needs::aSong,
         onPart(
             m_session, tr("Shift octaves"),
             [](const Song& s, const Part& p) {
                 return p.source.drums ? s : edits::setOctaves(s, p.id, p.recipe.octaves - 1);
             },
             QStringLiteral("setOctaves "))},
        {"louder",
         tr("&Louder"),
         {QKeySequence(Qt::ALT | Qt::Key_Plus)},
         "Part/Pitch and level",
         needs::aSong,
         onPart(
             m_session, tr("Set level"),
             [](const Song& s, const Part& p) { return edits::setLevel(s, p.id, p.mix.levelDb + 1); },
             QStringLiteral("setLevel "))},
        {"softer",
         tr("&Softer"),
         {QKeySequence(Qt::ALT | Qt::Key_Minus)},
         "Part/Pitch and level",
         needs::aSong,
         onPart(
             m_session, tr("Set level"),
             [](const Song& s, const Part& p) { return edits::setLevel(s, p.id, p.mix.levelDb - 1); },
             QStringLiteral("setLevel "))},
        {"volumeIntoLevel",
         tr("Make a fixed &volume the part's level"),
         {},
         "Part/Pitch and level",
         needs::aSong,
         onPart(m_session, tr("Make it the part's level"), edits::volumeIntoLevel)},
        {"inFront",
         tr("In fron&t of the others"),
         {QKeySequence(Qt::ALT | Qt::Key_1)},
         "Part/In the mix",
         needs::aSong,
         onPart(m_session, tr("In front"), edits::putInFront)},
        {"alone",
         tr("&Alone"),
         {QKeySequence(Qt::ALT | Qt::Key_2)},
         "Part/In the mix",
         needs::aSong,
         onPart(m_session, tr("Alone"), edits::onlyPart)},
        {"without",
         tr("All &but this part"),
         {QKeySequence(Qt::ALT | Qt::Key_3)},
         "Part/In the mix",
         needs::aSong,
         onPart(m_session, tr("Without it"), edits::allBut)},
        {"fullBand",
         tr("Full ba&nd"),
         {QKeySequence(Qt::ALT | Qt::Key_0)},
         "Part/In the mix",
         needs::aSong,
         [this] { m_session.current.edit(tr("Full band"), edits::everyone); }},
        gap("Part/In the mix"),
        {"lead", tr("&Lead"), {}, "Part/In the mix", needs::aPart, role(Role::Lead)},
        {"back", tr("Bac&k"), {}, "Part/In the mix", needs::aPart, role(Role::Back)},
        {"off", tr("&Off"), {}, "Part/In the mix", needs::aPart, role(Role::Off)},
        {"mute",
         tr("&Mute"),
         {},
         "Part/In the mix",
         needs::aPart,
         onPart(m_session, tr("Mute"),
                [](const Song& s, const Part& p) { return edits::setMuted(s, p.id, !p.mix.muted); }),
         {},
         [](const Session& s) { return s.current.part() && s.current.part()->mix.muted; }},
        {"solo",
         tr("&Solo"),
         {},
         "Part/In the mix",
         needs::aPart,
         onPart(m_session, tr("Solo"),
                [](const Song& s, const Part& p) { return edits::setSolo(s, p.id, !p.mix.solo); }),
         {},
         [](const Session& s) { return s.current.part() && s.current.part()->mix.solo; }},
    };
}

QList<ActionRow> MainWindow::soundRows() {
    const auto shelf = [this](void (Shelf::*what)()) {
        return [this, what] {
            showPage(Step::Sounds);
            (m_sounds->shelf()->*what)();
        };
    };
    const auto preset = [this](const Part& selected) -> const Preset* {
        const PartMatch* match = m_session.findings.matchOf(selected.id);
        return match && match->first().sound ? m_session.sounds.catalogue().find(*match->first().sound)
                                             : nullptr;
    };
    return {
        {"findSound",
         tr("&Find a sound on the shelf"),
         {QKeySequence(QKeySequence::Find)},
         "Sound",
         needs::nothing,
         [this] {
             showPage(Step::Sounds);
             m_sounds->shelf()->search()->setFocus();
         }},
        {"keepSound",
         tr("&Keep the sound that is tried"),
         {},
         "Sound",
         needs::aTriedSound,
         [this] { m_session.sounds.keepTried(); }},
        {"dropSound",
         tr("&Go back to the old sound"),
         {},
         "Sound",
         needs::aTriedSound,
         [this] { m_session.sounds.dropTried(); }},
        {"useInSection",
         tr("Use it in this &section only"),
         {},
         "Sound",
         needs::aSong,
         shelf(&Shelf::useInSection)},
        {"addLayer",
         tr("Add it as a la&yer"),
         {QKeySequence(Qt::CTRL | Qt::Key_Return)},
         "Sound",
         needs::roomForALayer,
         shelf(&Shelf::addAsLayer)},
        {"favourite",
         tr("Keep it among the f&avourites, or not"),
         {QKeySequence(Qt::CTRL | Qt::Key_D)},
         "Sound",
         needs::aSong,
         shelf(&Shelf::toggleFavourite)},
        {"followFile",
         tr("Sound as the f&ile asks"),
         {},
         "Sound",
         needs::aChosenSound,
         onPart(m_session, tr("As the file asks"), edits::followFile),
         tr("As the file asks")},
        {"clearStretches",
         tr("One sound throughout"),
         {},
         "Sound",
         needs::stretches,
         onPart(m_session, tr("One sound throughout"),
                [](Song song, const Part& selected) {
                    for (const SoundStretch& stretch : selected.sound.stretches)
                        song = edits::clearStretch(std::move(song), selected.id, stretch.start);
                    return song;
                })},
        {"instrument",
         tr("Choose an instr&ument…"),
         {},
         "Sound",
         needs::aPart,
         opens(m_session,
               [this] {
                   return new PluginChooser(m_session, PluginChooser::Of::Instruments,
                                            m_session.current.selectedPart(), this);
               }),
         tr("Instrument…")},
        gap("Sound"),
        {"layers",
         tr("&Layers and controls…"),
         {QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_C)},
         "Sound",
         needs::aSong,
         opens(m_session, [this] { return new LayersDialog(m_session, this); }),
         tr("Layers and controls…")},
        {"effects",
         tr("E&ffects…"),
         {},
         "Sound",
         needs::aSong,
         opens(m_session, [this] { return new EffectsDialog(m_session, EffectsDialog::ThePart, this); }),
         tr("Effects…")},
        {"fitOctaves",
         tr("Fit to the sound by &octaves"),
         {},
         "Sound/Range",
         needs::aRange,
         onPart(m_session, tr("Fit by octaves"),
                [preset](const Song& song, const Part& selected) {
                    const Preset* plays = preset(selected);
                    if (!plays || selected.source.drums) return song;
                    const int octaves =
                        bestOctaves(traitsOf(song, realise(song, selected)).keys, withinCompass(*plays));
                    return edits::setOctaves(song, selected.id, selected.recipe.octaves + octaves);
                }),
         tr("Fit by octaves")},
        {"foldNotes",
         tr("Move single notes into &range"),
         {},
         "Sound/Range",
         needs::aRangeOrAFold,
         onPart(m_session, tr("Move single notes into range"),
                [preset](const Song& song, const Part& selected) {
                    const Preset* plays = preset(selected);
                    return edits::foldInto(song, selected.id,
                                           selected.recipe.folded || !plays
                                               ? std::nullopt
                                               : std::optional(foldRange(withinCompass(*plays))));
                }),
         tr("Move single notes in"),
         [](const Session& s) { return s.current.part() && s.current.part()->recipe.folded; }},
        gap("Sound"),
        {"matchAgain",
         tr("Match all parts &again"),
         {},
         "Sound",
         needs::aSong,
         [this] { m_session.current.edit(tr("Match all again"), edits::followFileEverywhere); },
         tr("Match all again")},
        {"fonts",
         tr("&Fonts and instruments…"),
         {},
         "Sound",
         needs::nothing,
         [this] { (new FontsDialog(m_session, this))->open(); },
         tr("Fonts and instruments…")},
        {"startPlugins",
         tr("&Start plug-ins again"),
         {},
         "Sound",
         needs::anEndedPlugin,
         [this] { m_session.planner.startPluginsAgain(); },
         tr("Start again"),
         nullptr,
         needs::anEndedPlugin},
        {"compare",
         tr("&Compare two fonts"),
         {QKeySequence(Qt::Key_F7)},
         "Sound",
         needs::aSong,
         [this] { m_session.sounds.toggleCompare(); },
         tr("Compare"),
         [](const Session& s) { return s.sounds.comparedFont() != nullptr; }},
        {"mixEffects",
         tr("&Effects on the whole mix…"),
         {},
         "Sound/Whole mix",
         needs::aSong,
         [this] {
             if (m_session.current.hasSong())
                 (new EffectsDialog(m_session, EffectsDialog::TheMix, this))->open();
         },
         tr("Effects…")},
        {"bringToLevel",
         tr("&Match loudness"),
         {},
         "Sound/Whole mix",
         needs::aSong,
         [this] { m_session.levelling.bringToLevel(); }},
    };
}

void MainWindow::addPartButtons() {
    const auto actionsOf = [this](const QStringList& ids) {
        QList<QAction*> actions;
        for (const QString& id : ids) actions << action(id);
        return actions;
    };
    const auto L = [](const char* ids) { return QString::fromLatin1(ids).split(QLatin1Char(' ')); };
    m_parts->addActions(actionsOf(L("split join events")),
                        actionsOf(L("splitProgram splitPitch splitLines splitPiece")),
                        actionsOf(L("controllers pitchVelocity makeDrums makePitched")));
    m_drums->addActions(actionsOf(L("loadNames saveNames")),
                        actionsOf(L("hearDrum onlyDrum loopDrum leaveOut")),
                        actionsOf(L("pieceApart pieceBack")), actionsOf(L("addBeat drumsBack")));
    m_drums->rows()->addActions(
        actionsOf(L("rename hearDrum onlyDrum loopDrum leaveOut resetDrums pieceApart "
                    "pieceBack playByNames fitKit")));
    m_drums->rows()->setContextMenuPolicy(Qt::ActionsContextMenu);
    m_sounds->shelf()->offer(actionsOf(L("useInSection addLayer favourite")));
    m_sounds->rows()->addActions(
        actionsOf(L("findSound layers effects fitOctaves foldNotes clearStretches followFile")));
    m_sounds->rows()->setContextMenuPolicy(Qt::ActionsContextMenu);
    for (QAction* item :
         actionsOf(L("rename split splitProgram splitPitch splitLines splitPiece splitSections join "
                     "events controllers "
                     "pitchVelocity makeDrums makePitched fixProgram followPrograms")))
        m_parts->rows()->addAction(item);
}

} // namespace cobbleway
