/// The window's actions for drums: what each is called, its keys, and the one edit or call it makes.
#include "app/mainwindow.h"

#include "app/dialogs/ask.h"
#include "app/dialogs/beatdialog.h"
#include "app/dialogs/namesdialog.h"
#include "app/dialogs/takeoutdialog.h"
#include "app/pages/drumspage.h"
#include "app/session/jobs.h"
#include "app/session/paths.h"
#include "app/session/session.h"
#include "files/shipped.h"
#include "song/drums/drumedits.h"

#include <QMenu>

namespace cobbleway {
namespace {

const QString namesFilter = QObject::tr(
    "Lists of drum names (*.txt *.csv *.midnam);;Text (*.txt);;CSV (*.csv);;MIDI name document (*.midnam)");

const QStringList nameEndings = {QStringLiteral(".txt"), QStringLiteral(".csv"), QStringLiteral(".midnam"),
                                 QStringLiteral(".xml")};

} // namespace

QList<ActionRow> MainWindow::drumRows() {
    const auto onPage = [this](auto what) {
        return [this, what] {
            showPage(Step::Drums);
            if (m_drums->part()) what(*m_drums);
        };
    };
    // An edit of the part that the page shows, and of the notes selected there.
    const auto edits = [this, onPage](const QString& name, auto change) {
        return onPage([this, name, change](DrumsPage& page) {
            m_session.current.edit(name, [&](const Song& song) { return change(song, page); });
        });
    };
    const auto notesOf = [this](const Song& song, PartId id) {
        return m_session.findings.derived()->drums(song, *song.part(id), m_session.sounds.catalogue());
    };
    return {
        {"hearDrum",
         tr("&Hear the note"),
         {},
         "Drums",
         needs::aDrumPart,
         onPage([](DrumsPage& page) { page.hear(); }),
         tr("Hear")},
        {"onlyDrum",
         tr("Hear &only the selected notes"),
         {QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_O)},
         "Drums",
         needs::aDrumPart,
         onPage([this](DrumsPage& page) { page.hearOnly(m_session.sounds.heardOnly().empty()); }),
         tr("Only this"),
         [](const Session& s) { return !s.sounds.heardOnly().empty(); }},
        {"loopDrum",
         tr("&Loop the bars where it is struck"),
         {QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_L)},
         "Drums",
         needs::aDrumPart,
         onPage([](DrumsPage& page) { page.loopBars(); }),
         tr("Loop its bars")},
        {"leaveOut",
         tr("Lea&ve the notes out, or bring them back"),
         {QKeySequence(Qt::CTRL | Qt::Key_Delete)},
         "Drums",
         needs::aDrumPart,
         edits(tr("Leave drum notes out"),
               [](const Song& song, const DrumsPage& page) {
                   const auto keys = page.selectedKeys();
                   const bool off =
                       !keys.empty() && song.part(page.part())->recipe.drumPlan(keys.front()).off;
                   return edits::setDrumOff(song, page.part(), keys, !off);
               }),
         tr("Leave out")},
        {"resetDrums",
         tr("Set the notes back to &how they came"),
         {},
         "Drums",
         needs::aDrumPart,
         edits(tr("Drum notes as they came"),
               [](const Song& song, const DrumsPage& page) {
                   return edits::resetDrums(song, page.part(), page.selectedKeys());
               })},
        gap("Drums"),
        {"fitKit",
         tr("Play the &nearest for silent notes"),
         {},
         "Drums",
         needs::aDrumPart,
         edits(tr("Fit to the kit"),
               [notesOf](const Song& song, const DrumsPage& page) {
                   return edits::fitKit(song, page.part(), notesOf(song, page.part())->notes);
               })},
        {"playByNames",
         tr("&Play each note as its name means"),
         {},
         "Drums",
         needs::aDrumPart,
         onPage([this](DrumsPage& page) {
             const Part* part = m_session.current.song().part(page.part());
             const auto layout = layoutByNames(m_session.current.song(), *part);
             m_session.current.edit(tr("Play notes by their names"),
                                    [&](const Song& song) { return edits::playByNames(song, page.part()); });
             if (layout.asked.empty()) return;
             page.selectKeys(layout.asked);
             Q_EMIT m_session.messages.problem(
                 tr("Some names could mean several drums"),
                 tr("%1 notes stay where they are, the first is %2 %3. Choose the key of each in the "
                    "list.")
                     .arg(layout.asked.size())
                     .arg(layout.asked.front())
                     .arg(QString::fromStdString(part->keyNames.at(layout.asked.front()))));
         })},
        {"evenHits",
         tr("Make all hits a si&xteenth long, or as they came"),
         {},
         "Drums",
         needs::aDrumPart,
         edits(tr("Length of hits"),
               [](const Song& song, const DrumsPage& page) {
                   const bool even = song.part(page.part())->recipe.hitLength > 0;
                   return edits::setHitLength(song, page.part(), even ? 0 : song.tempo->quarter() / 4);
               })},
        {"loadNames",
         tr("Load na&mes…"),
         {},
         "Drums/Names",
         needs::aDrumPart,
         onPage([this](DrumsPage&) {
             ask::forFile(this, tr("Load drum names"), textOfPath(shippedFile("drumnames")), namesFilter,
                          [this](const QString& path) { showNames(path); });
         }),
         tr("Load names…")},
        {"", {}, {}, "Drums/Names/Published names", nullptr},
        {"saveNames",
         tr("&Save the names shown…"),
         {},
         "Drums/Names",
         needs::aDrumPart,
         onPage([this](DrumsPage&) {
             ask::whereToSave(this, tr("Save drum names"), {}, namesFilter, nameEndings,
                              [this](const QString& path) { writeNames(path, false); });
         }),
         tr("Save names…")},
        {"saveAllNames",
         tr("Save the names of &all keys…"),
         {},
         "Drums/Names",
         needs::aDrumPart,
         onPage([this](DrumsPage&) {
             ask::whereToSave(this, tr("Save drum names"), {}, namesFilter, nameEndings,
                              [this](const QString& path) { writeNames(path, true); });
         })},
        gap("Drums"),
        {"pieceApart",
         tr("Make the p&iece a separate part"),
         {},
         "Drums",
         needs::aDrumPart,
         onPage([this](DrumsPage& page) {
             const PartId whole = page.part();
             m_session.current.edit(
                 tr("Make the %1 a part").arg(QString::fromUtf8(pieceName(page.selectedPiece()).data())),
                 [&](const Song& song) { return edits::pieceApart(song, whole, page.selectedPiece()); });
         }),
         tr("Make this piece a part")},
        {"pieceBack",
         tr("Put it &back into the kit"),
         {},
         "Drums",
         needs::drumsBeside,
         onPage([this](DrumsPage& page) {
             const Song& song = m_session.current.song();
             const Part* piece = song.part(page.part());
             PartId whole = 0; // the drums on the same channel that stand nearest before it, else after it
             bool passed = false;
             for (const Part& part : song.parts) {
                 passed = passed || part.id == piece->id;
                 const bool beside = part.id != piece->id && part.source.drums && !part.aside &&
                                     part.source.port == piece->source.port &&
                                     part.source.channel == piece->source.channel;
                 if (beside && (!passed || whole == 0)) whole = part.id;
             }
             m_session.current.edit(tr("Put the piece back"), [&](const Song& now) {
                 return edits::pieceBack(now, whole, page.part());
             });
             m_session.current.selectPart(whole);
         }),
         tr("Put it back"),
         nullptr,
         needs::drumsBeside},
        {"takeOut",
         tr("&Give joined tracks their parts again…"),
         {},
         "Drums",
         needs::drumsOfSeveral,
         onPage([this](DrumsPage& page) { (new TakeOutDialog(m_session, page.part(), this))->open(); })},
        gap("Drums"),
        {"drumsBack",
         tr("Make parts that look like &drums one kit"),
         {},
         "Drums",
         needs::likeDrums,
         [this] {
             std::vector<PartId> parts;
             for (const Snag& snag : m_session.findings.snags())
                 if (snag.kind == "drums-elsewhere") parts.push_back(snag.part);
             m_session.current.edit(tr("Make them drums"),
                                    [&](const Song& song) { return edits::drumsBack(song, parts); });
             showPage(Step::Drums);
         },
         tr("Make them drums"),
         nullptr,
         needs::likeDrums},
        {"addBeat",
         tr("Add a b&eat…"),
         {},
         "Drums",
         needs::aSong,
         [this] {
             showPage(Step::Drums);
             if (m_session.current.hasSong()) (new BeatDialog(m_session, this))->open();
         },
         tr("Add a beat…")},
    };
}

/// The published lists, a menu a dialect: what they name becomes the part's own names.
void MainWindow::fillPublishedNames(QMenu* menu) {
    QHash<QString, QMenu*> dialects;
    for (const PercussionKit& kit : percussionKits()) {
        const QString dialect = QString::fromUtf8(dialectName(kit.dialect).data());
        QMenu*& of = dialects[dialect];
        if (!of) of = menu->addMenu(dialect);
        of->addAction(QString::fromUtf8(kit.name.data()), this, [this, kit] {
            showPage(Step::Drums);
            DrumNames names;
            for (std::uint8_t key = 0; key < 128; ++key)
                if (const auto name = drumName(kit, Key{key}); !name.empty()) names[key] = std::string(name);
            m_session.current.edit(tr("Published drum names"),
                                   [part = m_drums->part(), names](const Song& song) {
                                       return edits::nameDrums(song, part, names);
                                   });
        });
    }
}

void MainWindow::showNames(const QString& path) {
    runJob(
        this, &m_session.files.thread(), [path = pathOf(path)] { return readNames(path); },
        [this](Result<NameFile> file) {
            if (!file)
                return void(Q_EMIT m_session.messages.problem(
                    tr("No names were loaded"), QString::fromStdString(file.error().message())));
            if (m_drums->part())
                (new NamesDialog(m_session, m_drums->part(), std::move(file.value()), this))->open();
        });
}

void MainWindow::writeNames(const QString& path, bool all) {
    const Part* part = m_session.current.hasSong() ? m_session.current.song().part(m_drums->part()) : nullptr;
    if (!part) return;
    DrumNames names = m_drums->namesShown();
    if (all) {
        const Song& song = m_session.current.song();
        const auto view = m_session.findings.derived()->drums(song, *part, m_session.sounds.catalogue());
        for (const DrumNote& note :
             drumNotesOf(*part, *m_session.findings.matchOf(part->id), view->kit, *view->hits, true))
            names[note.key.value] = note.name;
    }
    QString target = path;
    if (!target.contains(QLatin1Char('.'), Qt::CaseInsensitive)) target += QStringLiteral(".txt");
    const auto written = cobbleway::writeNames(names, part->name, pathOf(target));
    if (!written)
        Q_EMIT m_session.messages.problem(tr("The names were not saved"),
                                          QString::fromStdString(written.error().message()));
    else
        Q_EMIT m_session.messages.announced(tr("%1 names saved").arg(names.size()));
}

} // namespace cobbleway
