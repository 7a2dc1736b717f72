/// The window's actions for parts: what each is called, its keys, and the one edit or call it makes.
#include "app/mainwindow.h"

#include "app/dialogs/controllersdialog.h"
#include "app/dialogs/effectsdialog.h"
#include "app/dialogs/encodingdialog.h"
#include "app/dialogs/joindialog.h"
#include "app/dialogs/layersdialog.h"
#include "app/dialogs/pitchdialog.h"
#include "app/dialogs/sectionsdialog.h"
#include "app/dialogs/splitdialog.h"
#include "app/dialogs/tempodialog.h"
#include "app/pages/partspage.h"
#include "app/pages/shelf.h"
#include "app/pages/soundspage.h"
#include "app/session/session.h"
#include "song/edits.h"
#include "song/evidence.h"
#include "song/rangefit.h"
#include "song/timeedits.h"

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

void MainWindow::makePartActions() {
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
    add(QStringLiteral("nextPart"), tr("&Next part"), Qt::ALT | Qt::Key_PageDown, step(1));
    add(QStringLiteral("previousPart"), tr("&Previous part"), Qt::ALT | Qt::Key_PageUp, step(-1));
    add(QStringLiteral("rename"), tr("&Rename"), Qt::Key_F2, [this] {
        showPage(Step::Parts);
        m_parts->renameSelected();
    });
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
    add(QStringLiteral("moveUp"), tr("Move &up"), Qt::ALT | Qt::Key_Up, move(-1));
    add(QStringLiteral("moveDown"), tr("Move &down"), Qt::ALT | Qt::Key_Down, move(1));
    add(QStringLiteral("octaveUp"), tr("Shift an octave u&p"), Qt::ALT | Qt::SHIFT | Qt::Key_Up,
        onPart(
            m_session, tr("Shift octaves"),
            [](const Song& s, const Part& p) {
                return p.source.drums ? s : edits::setOctaves(s, p.id, p.recipe.octaves + 1);
            },
            QStringLiteral("setOctaves ")));
    add(QStringLiteral("octaveDown"), tr("Shift an octave d&own"), Qt::ALT | Qt::SHIFT | Qt::Key_Down,
        onPart(
            m_session, tr("Shift octaves"),
            [](const Song& s, const Part& p) {
                return p.source.drums ? s : edits::setOctaves(s, p.id, p.recipe.octaves - 1);
            },
            QStringLiteral("setOctaves ")));
    add(QStringLiteral("louder"), tr("&Louder"), Qt::ALT | Qt::Key_Plus,
        onPart(
            m_session, tr("Set level"),
            [](const Song& s, const Part& p) { return edits::setLevel(s, p.id, p.mix.levelDb + 1); },
            QStringLiteral("setLevel ")));
    add(QStringLiteral("softer"), tr("&Softer"), Qt::ALT | Qt::Key_Minus,
        onPart(
            m_session, tr("Set level"),
            [](const Song& s, const Part& p) { return edits::setLevel(s, p.id, p.mix.levelDb - 1); },
            QStringLiteral("setLevel ")));
    add(QStringLiteral("findSound"), tr("&Find a sound on the shelf"), QKeySequence::Find, [this] {
        showPage(Step::Sounds);
        m_sounds->shelf()->search()->setFocus();
    });
    add(QStringLiteral("keepSound"), tr("&Keep the sound that is tried"), {},
        [this] { m_session.sounds.keepTried(); });
    add(QStringLiteral("dropSound"), tr("&Go back to the old sound"), {},
        [this] { m_session.sounds.dropTried(); });
    add(QStringLiteral("followFile"), tr("Sound as the f&ile asks"), {},
        onPart(m_session, tr("As the file asks"), edits::followFile))
        ->setIconText(tr("As the file asks"));
    add(QStringLiteral("volumeIntoLevel"), tr("Make a fixed &volume the part's level"), {},
        onPart(m_session, tr("Make it the part's level"), edits::volumeIntoLevel));
    add(QStringLiteral("inFront"), tr("In fron&t of the others"), Qt::ALT | Qt::Key_1,
        onPart(m_session, tr("In front"), edits::putInFront));
    add(QStringLiteral("alone"), tr("&Alone"), Qt::ALT | Qt::Key_2,
        onPart(m_session, tr("Alone"), edits::onlyPart));
    add(QStringLiteral("without"), tr("All &but this part"), Qt::ALT | Qt::Key_3,
        onPart(m_session, tr("Without it"), edits::allBut));
    add(QStringLiteral("fullBand"), tr("Full ba&nd"), Qt::ALT | Qt::Key_0,
        [this] { m_session.current.edit(tr("Full band"), edits::everyone); });
}

void MainWindow::makeShapeActions() {
    const auto splitDialog = [this](SplitDialog::Way way) {
        return opens(m_session, [this, way] { return new SplitDialog(m_session, way, this); });
    };
    const auto splitNow = [this](const QString& name, Split (*way)(const Song&, const Part&)) {
        return [this, name, way] { m_session.current.split(name, way); };
    };
    add(QStringLiteral("split"), tr("&Split…"), Qt::Key_F4, splitDialog(SplitDialog::ByProgram))
        ->setIconText(tr("Split…"));
    add(QStringLiteral("splitProgram"), tr("Split by &instrument change"), {},
        splitNow(tr("Split by instrument change"), splitByProgram))
        ->setIconText(tr("instrument change"));
    add(QStringLiteral("splitPitch"), tr("Split by &pitch…"), {}, splitDialog(SplitDialog::ByPitch))
        ->setIconText(tr("pitch"));
    add(QStringLiteral("splitLines"), tr("Split into &top and bottom line"), {},
        splitNow(tr("Split into top and bottom line"),
                 [](const Song& s, const Part& p) { return splitIntoLines(s, p, 2); }))
        ->setIconText(tr("top and bottom line"));
    add(QStringLiteral("splitPiece"), tr("Split by piece of the &kit"), {},
        splitNow(tr("Split by piece of the kit"), splitByPiece))
        ->setIconText(tr("piece of the kit"));
    add(QStringLiteral("splitChannel"), tr("Split by &channel"), {},
        splitNow(tr("Split by channel"), splitByChannel))
        ->setIconText(tr("channel"));
    add(QStringLiteral("splitSections"), tr("Split by s&ection"), {},
        splitNow(tr("Split by section"), splitBySection))
        ->setIconText(tr("section"));
    add(QStringLiteral("splitPlace"), tr("Split at a pl&ace…"), {}, splitDialog(SplitDialog::AtPlace));
    add(QStringLiteral("join"), tr("&Join…"), Qt::Key_F5,
        opens(m_session, [this] { return new JoinDialog(m_session, this); }))
        ->setIconText(tr("Join…"));
    add(QStringLiteral("events"), tr("E&vents"), Qt::Key_F6, [this] {
        const bool show = page() != Step::Parts || !m_parts->showsEvents();
        showPage(Step::Parts);
        m_parts->showEvents(show);
    });
    add(QStringLiteral("controllers"), tr("&Controllers…"), {},
        opens(m_session, [this] { return new ControllersDialog(m_session, this); }))
        ->setIconText(tr("Controllers…"));
    add(QStringLiteral("pitchVelocity"), tr("Pitch and velocit&y…"), {},
        opens(m_session, [this] { return new PitchDialog(m_session, this); }))
        ->setIconText(tr("Pitch and velocity…"));
    add(QStringLiteral("makeDrums"), tr("Make it dru&ms"), {},
        onPart(m_session, tr("Make it drums"), edits::makeDrums))
        ->setIconText(tr("Make drums"));
    add(QStringLiteral("makePitched"), tr("Make it pitche&d"), {},
        onPart(m_session, tr("Make it pitched"), edits::makePitched))
        ->setIconText(tr("Make pitched"));
    add(QStringLiteral("fixProgram"), tr("Fi&x the sound"), {},
        onPart(m_session, tr("Fix the sound"),
               [](const Song& song, const Part& part) { return edits::fixProgram(song, part.id); }));
    add(QStringLiteral("followPrograms"), tr("Follow the file's pro&gram changes"), {},
        onPart(m_session, tr("Follow program changes"), edits::followPrograms));
    add(QStringLiteral("tempo"), tr("&Tempo and bars…"), {},
        opens(m_session, [this] { return new TempoDialog(m_session, this); }));
    add(QStringLiteral("sections"), tr("S&ections…"), {},
        opens(m_session, [this] { return new SectionsDialog(m_session, this); }));
    add(QStringLiteral("sectionHere"), tr("Section from &here"), Qt::Key_F9, [this] {
        if (!m_session.current.hasSong()) return;
        const TempoMap& map = *m_session.current.song().tempo;
        const Tick bar = map.barStart(map.position(m_session.playback.place()).bar);
        m_session.current.edit(tr("Add a section"),
                               [bar, name = tr("Section").toStdString()](const Song& song) {
                                   return edits::addSection(song, bar, name);
                               });
    });
    add(QStringLiteral("encoding"), tr("Te&xt encoding…"), {},
        opens(m_session, [this] { return new EncodingDialog(m_session, this); }));
    add(QStringLiteral("tracksToSongs"), tr("Each trac&k a song of its own"), {},
        [this] { m_session.current.tracksToSongs(); });
}

void MainWindow::makeSoundActions() {
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
    add(QStringLiteral("useInSection"), tr("Use it in this &section only"), {}, shelf(&Shelf::useInSection));
    add(QStringLiteral("addLayer"), tr("Add it as a la&yer"), Qt::CTRL | Qt::Key_Return,
        shelf(&Shelf::addAsLayer));
    add(QStringLiteral("favourite"), tr("Keep it among the f&avourites, or not"), Qt::CTRL | Qt::Key_D,
        shelf(&Shelf::toggleFavourite));
    add(QStringLiteral("clearStretches"), tr("One sound throughout"), {},
        onPart(m_session, tr("One sound throughout"), [](Song song, const Part& selected) {
            for (const SoundStretch& stretch : selected.sound.stretches)
                song = edits::clearStretch(std::move(song), selected.id, stretch.start);
            return song;
        }));
    add(QStringLiteral("layers"), tr("&Layers and controls…"), Qt::Key_F10,
        opens(m_session, [this] { return new LayersDialog(m_session, this); }))
        ->setIconText(tr("Layers and controls…"));
    add(QStringLiteral("effects"), tr("E&ffects…"), {},
        opens(m_session, [this] { return new EffectsDialog(m_session, EffectsDialog::ThePart, this); }))
        ->setIconText(tr("Effects…"));
    add(QStringLiteral("fitOctaves"), tr("Fit to the sound by &octaves"), {},
        onPart(m_session, tr("Fit by octaves"),
               [preset](const Song& song, const Part& selected) {
                   const Preset* plays = preset(selected);
                   if (!plays || selected.source.drums) return song;
                   const int octaves = bestOctaves(traitsOf(song, realise(song, selected)).keys, *plays);
                   return edits::setOctaves(song, selected.id, selected.recipe.octaves + octaves);
               }))
        ->setIconText(tr("Fit by octaves"));
    add(QStringLiteral("foldNotes"), tr("Move single notes into &range"), {},
        onPart(m_session, tr("Move single notes into range"),
               [preset](const Song& song, const Part& selected) {
                   const Preset* plays = preset(selected);
                   return edits::foldInto(
                       song, selected.id,
                       selected.recipe.folded || !plays ? std::nullopt : std::optional(foldRange(*plays)));
               }))
        ->setIconText(tr("Move single notes in"));
    action(QStringLiteral("foldNotes"))->setCheckable(true);
    add(QStringLiteral("levels"), tr("&Levels of all parts"), Qt::Key_F3, [this] {
        const bool show = page() != Step::Sounds || !m_sounds->showsLevels();
        showPage(Step::Sounds);
        m_sounds->showLevels(show);
    });
}

void MainWindow::addPartButtons() {
    const auto of = [this](const QStringList& ids) {
        QList<QAction*> actions;
        for (const QString& id : ids) actions << action(id);
        return actions;
    };
    const auto L = [](const char* ids) { return QString::fromLatin1(ids).split(QLatin1Char(' ')); };
    m_parts->addActions(of(L("split join events")), of(L("splitProgram splitPitch splitLines splitPiece")),
                        of(L("controllers pitchVelocity makeDrums makePitched")));
    m_sounds->shelf()->offer(of(L("useInSection addLayer favourite")));
    m_sounds->rows()->addActions(
        of(L("findSound layers effects fitOctaves foldNotes clearStretches followFile")));
    m_sounds->rows()->setContextMenuPolicy(Qt::ActionsContextMenu);
    for (QAction* item : of(L("rename split splitProgram splitPitch splitLines splitPiece splitSections join "
                              "events controllers "
                              "pitchVelocity makeDrums makePitched fixProgram followPrograms")))
        m_parts->rows()->addAction(item);
}

} // namespace cobbleway
