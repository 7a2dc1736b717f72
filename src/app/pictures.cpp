/// cobbleway-pictures: takes the pictures in docs/screenshots from the demo set.
/// Usage: cobbleway-pictures FOLDER [WIDTH HEIGHT]
#include "app/look/theme.h"
#include "app/mainwindow.h"
#include "app/pages/drumspage.h"
#include "app/pages/exportpage.h"
#include "app/pages/soundspage.h"
#include "app/session/session.h"
#include "app/widgets/surface.h"
#include "files/shipped.h"
#include "song/shape/edits.h"

#include <QApplication>
#include <QDialog>
#include <QDir>
#include <QElapsedTimer>
#include <QListWidget>
#include <QPainter>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QTreeWidget>
#include <cstdio>
#include <functional>

namespace {

using namespace cobbleway;

bool waitUntil(const std::function<bool()>& done, int milliseconds = 60000) {
    QElapsedTimer clock;
    clock.start();
    while (!done() && clock.elapsed() < milliseconds)
        QCoreApplication::processEvents(QEventLoop::WaitForMoreEvents, 20);
    return done();
}

class Photographer {
  public:
    Photographer(MainWindow& window, const QDir& folder) : m_window(window), m_folder(folder) {}
    void take(const QString& name) {
        const QString path = m_folder.filePath(name + QStringLiteral(".png"));
        if (!settled(m_window).save(path)) std::fprintf(stderr, "%s cannot be written\n", qPrintable(path));
    }

    /// The window with the dialog that an action opens.
    void takeDialog(const QString& name, const QString& action,
                    const std::function<void(QDialog*)>& prepare = {}) {
        m_window.action(action)->trigger();
        waitUntil([] { return QApplication::activeModalWidget() != nullptr; }, 2000);
        auto* dialog = qobject_cast<QDialog*>(QApplication::activeModalWidget());
        if (!dialog) return std::fprintf(stderr, "%s opened no dialog\n", qPrintable(action)), void();
        if (prepare) prepare(dialog);
        (void)settled(*dialog);
        QPixmap picture = m_window.grab();
        const QPixmap front = dialog->grab();
        QPainter painter(&picture);
        const QPoint at((m_window.width() - dialog->width()) / 2, (m_window.height() - dialog->height()) / 2);
        painter.fillRect(m_window.rect(), QColor(0, 0, 0, 60));
        painter.drawPixmap(at, front);
        painter.setPen(theme().line);
        painter.drawRect(QRect(at, dialog->size()));
        painter.end();
        picture.save(m_folder.filePath(name + QStringLiteral(".png")));
        dialog->reject();
        waitUntil([] { return QApplication::activeModalWidget() == nullptr; }, 2000);
    }

  private:
    /// What a widget looks like once layouts and the playhead stand still, which takes longer on a busy
    /// machine.
    static QPixmap settled(QWidget& widget) {
        constexpr int pause = 180, enough = 3, most = 40;
        QPixmap last = widget.grab();
        for (int same = 0, tries = 0; same < enough && tries < most; ++tries) {
            waitUntil([] { return false; }, pause);
            QPixmap now = widget.grab();
            same = now.toImage() == last.toImage() ? same + 1 : 0;
            last = std::move(now);
        }
        return last;
    }
    MainWindow& m_window;
    QDir m_folder;
};

PartId partNamed(const Session& session, const std::string& name) {
    for (const Part& part : session.current.song().parts)
        if (part.name == name) return part.id;
    return 0;
}

void takeShaping(Session& session, MainWindow& window, Photographer& camera) {
    session.current.selectPart(partNamed(session, "Accordion right"));
    camera.takeDialog(QStringLiteral("split"), QStringLiteral("splitPitch"));
    camera.takeDialog(QStringLiteral("join"), QStringLiteral("join"), [](QDialog* dialog) {
        dialog->findChild<QListWidget*>(QStringLiteral("joinParts"))->item(0)->setCheckState(Qt::Checked);
    });
    camera.takeDialog(QStringLiteral("pitch"), QStringLiteral("pitchVelocity"));
    session.current.selectPart(partNamed(session, "Harbour strings"));
    camera.takeDialog(QStringLiteral("controllers"), QStringLiteral("controllers"), [](QDialog* dialog) {
        auto* list = dialog->findChild<QTreeWidget*>(QStringLiteral("controllers"));
        list->setCurrentItem(list->topLevelItem(0));
    });
    camera.takeDialog(QStringLiteral("tempo"), QStringLiteral("tempo"));
    window.action(QStringLiteral("events"))->trigger();
    camera.take(QStringLiteral("events"));
    window.action(QStringLiteral("events"))->trigger();
    session.current.selectPart(partNamed(session, "Guitar"));
}

/// Layers, effects and levels, with the plug-ins that ship.
void takeSounding(Session& session, MainWindow& window, Photographer& camera) {
    const PluginInfo* reed = nullptr;
    std::vector<Effect> effects;
    for (const PluginInfo& plugin : session.sounds.catalogue().plugins())
        if (plugin.instrument)
            reed = &plugin;
        else
            effects.push_back({plugin.uri, plugin.name, {}, true});
    const PartId accordion = partNamed(session, "Accordion right");
    session.current.selectPart(accordion);
    session.current.edit(QStringLiteral("Try out"), [&](const Song& song) {
        Song next = edits::chooseSound(song, accordion, {reed->uri, 0, 0, reed->name, SoundKind::Plugin, 0});
        next = edits::addLayer(std::move(next), accordion, {houseFontId, 0, 72, "Piccolo"});
        next = edits::setLayer(std::move(next), accordion, 0,
                               {{houseFontId, 0, 72, "Piccolo"}, {}, -9, 1, {60, 84}});
        next = edits::setEffects(std::move(next), accordion, effects);
        next = edits::setLevel(std::move(next), partNamed(session, "Tuba"), -3);
        next = edits::setPan(std::move(next), partNamed(session, "Lead cornet"), -0.4);
        next = edits::setMuted(std::move(next), partNamed(session, "Glass bells"), true);
        return edits::setMasterLevel(std::move(next), 4);
    });
    camera.takeDialog(QStringLiteral("layers"), QStringLiteral("layers"));
    camera.takeDialog(QStringLiteral("effects"), QStringLiteral("effects"));
    camera.takeDialog(QStringLiteral("fonts"), QStringLiteral("fonts"));
    window.soundsPage()->showLevels(true);
    session.transport.togglePlay();
    waitUntil([&] {
        return session.transport.place() >
               session.transport.loop().start + 4 * session.current.song().tempo->quarter();
    });
    camera.take(QStringLiteral("levels"));
    session.transport.togglePlay();
    window.soundsPage()->showLevels(false);
    session.current.undo();
    session.current.selectPart(partNamed(session, "Guitar"));
}

/// The drums with a softer hi-hat, and a tambourine that plays a key without a sound.
void takeDrums(Session& session, MainWindow& window, Photographer& camera) {
    const PartId drums = partNamed(session, "Drums");
    session.current.selectPart(drums);
    session.current.edit(QStringLiteral("Trim drums"), [&](const Song& song) {
        return edits::setDrumTarget(edits::setDrumTrim(song, drums, {Key{42}}, {1, -28, 0.2}), drums,
                                    {Key{54}}, Key{31});
    });
    window.showPage(Step::Drums);
    const QAbstractItemModel& model = *window.drumsPage()->rows()->model();
    for (int row = 0; row < model.rowCount(); ++row)
        if (model.index(row, 0).data(Qt::AccessibleTextRole).toString().startsWith(QLatin1String("42 ")))
            window.drumsPage()->rows()->setCurrentIndex(model.index(row, 0));
    camera.take(QStringLiteral("drums"));
    session.current.undo();
}

bool takeAll(Session& session, MainWindow& window, const QString& folder, const QString& exports) {
    const QDir demo(QString::fromStdString(shippedFile("demo").string()));
    session.sounds.setCatalogue(scanFonts(FontFolders{shippedFile("house.sf2"), {}, {}}, houseFontId));
    QStringList paths;
    for (const char* name : {"lantern_quay.mid", "TIDEMILL.MID", "pilots-evening-song.kar", "SLACKW~1.MID"})
        paths << demo.filePath(QLatin1String(name));
    session.files.addPaths(paths);
    if (!waitUntil([&] { return session.current.set().songs.size() == 4 && !session.files.isBusy(); }))
        return false;
    if (!session.transport.player().open("silent")) return false;
    session.sounds.rescanPlugins();
    if (!waitUntil([&] { return session.sounds.catalogue().plugins().size() == 3; })) return false;
    Photographer camera(window, QDir(folder));
    const auto bar = [&](int number) { return session.current.song().tempo->barStart(number); };
    session.current.showSong(3);
    camera.take(QStringLiteral("songs"));
    session.current.showSong(0);
    session.transport.setLoop({bar(25), bar(41), true});
    session.transport.seek(bar(25) + session.current.song().tempo->quarter());
    session.transport.setPace(80);
    session.current.selectPart(partNamed(session, "Guitar"));
    window.showPage(Step::Parts);
    camera.take(QStringLiteral("parts"));
    window.showSnags(true);
    camera.take(QStringLiteral("snags"));
    window.showSnags(false);
    takeShaping(session, window, camera);
    window.showPage(Step::Sounds);
    session.current.edit(QStringLiteral("Use Acoustic Bass"), [&](const Song& song) {
        return edits::chooseSound(song, session.current.selectedPart(),
                                  {houseFontId, 0, 32, "Acoustic Bass"});
    });
    camera.take(QStringLiteral("sounds"));
    takeSounding(session, window, camera);
    applyTheme(ThemeChoice::Dark);
    camera.take(QStringLiteral("sounds-dark"));
    applyTheme(ThemeChoice::Light);
    takeDrums(session, window, camera);
    session.current.selectPart(partNamed(session, "Clarinets"));
    session.current.edit(QStringLiteral("In front"), [&](const Song& song) {
        return edits::setRole(edits::putInFront(song, session.current.selectedPart()),
                              partNamed(session, "Glass bells"), Role::Off);
    });
    window.showPage(Step::Practice);
    session.transport.seek(bar(27) + session.current.song().tempo->quarter() / 2);
    camera.take(QStringLiteral("practice"));
    window.showPage(Step::Export);
    window.exportPage()->setFolder(exports);
    const PartId clarinets = session.current.selectedPart();
    const PartId quiet = partNamed(session, "Glass bells");
    window.exportPage()->tickOnly([clarinets, quiet](const ExportItem& item) {
        using Kind = ExportItem::Kind;
        return item.kind == Kind::Full || item.kind == Kind::Midi || item.kind == Kind::Sheet ||
               (item.part == clarinets && item.kind != Kind::Stem) ||
               (item.part != quiet && (item.kind == Kind::Front || item.kind == Kind::Without));
    });
    window.exportPage()->write();
    if (!waitUntil([&] { return !window.exportPage()->isWriting(); })) return false;
    window.exportPage()->setFolder(QStringLiteral("Music/Lantern festival"));
    camera.take(QStringLiteral("export"));
    return true;
}

} // namespace

int main(int count, char** words) {
    QApplication::setApplicationName(QStringLiteral("cobbleway-pictures"));
    QStandardPaths::setTestModeEnabled(true);
    QTemporaryDir settings, exports;
    qputenv("XDG_CONFIG_HOME", settings.path().toUtf8());
    qputenv("XDG_CACHE_HOME", settings.path().toUtf8());
    qputenv("XDG_STATE_HOME", settings.path().toUtf8());
    qputenv("COBBLEWAY_LV2_PATH", "/no/plug-ins"); // the machine's own are not shown
    QApplication application(count, words);
    if (count != 2 && count != 4) {
        std::fprintf(stderr, "Usage: cobbleway-pictures FOLDER [WIDTH HEIGHT]\n");
        return 1;
    }
    loadFonts();
    applyTheme(ThemeChoice::Light);
    installSurfaceAccess();
    Session session;
    MainWindow window(session);
    window.askAboutChanges = [](const auto& then) { then(0x00800000); }; // discard
    window.resize(count == 4 ? QString::fromLocal8Bit(words[2]).toInt() : 1280,
                  count == 4 ? QString::fromLocal8Bit(words[3]).toInt() : 800);
    window.show();
    QDir().mkpath(QString::fromLocal8Bit(words[1]));
    const bool done = takeAll(session, window, QString::fromLocal8Bit(words[1]), exports.path());
    session.recovery.end();
    if (!done) std::fprintf(stderr, "The pictures could not all be taken.\n");
    return done ? 0 : 1;
}
