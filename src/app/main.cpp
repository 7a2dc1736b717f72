/// cobbleway: the window.
#include "app/look/textsize.h"
#include "app/look/theme.h"
#include "app/mainwindow.h"
#include "app/session/mediacontrol.h"
#include "app/session/paths.h"
#include "app/session/session.h"
#include "app/session/settings.h"
#include "app/widgets/surface.h"
#include "files/folders.h"
#include "files/shipped.h"

#include <QApplication>
#include <QCommandLineParser>
#include <QFileInfo>
#include <QThreadPool>
#include <QTimer>
#include <algorithm>
#include <chrono>
#include <cstdlib>
#include <thread>
#include <unistd.h>

namespace {

/// Begins anew when the system's text is larger than usual, since Qt is told before it begins. Returns if
/// not.
void followSystemTextSize(char** words) {
    using namespace cobbleway;
    const char* const begun = "COBBLEWAY_TEXT_SIZE"; // not a second time
    if (settings::textSize() != 0 || qEnvironmentVariableIsSet(begun)) return;
    const int size = systemTextSize();
    if (size == 100) return;
    qputenv(begun, QByteArray::number(size));
    prepareTextSize(size);
    execv("/proc/self/exe", words); // when it fails the window is there at the usual size
}

/// Ends the process two seconds after the last window has gone, whatever hangs: a disk, a device, a plug-in.
void endSoon() {
    std::thread([] {
        std::this_thread::sleep_for(std::chrono::milliseconds(1600));
        std::_Exit(0);
    }).detach();
}

/// What the program can be asked on the command line.
void declareOptions(QCommandLineParser& parser) {
    parser.setApplicationDescription(
        QApplication::translate("main", "From a MIDI file to a practice track."));
    parser.addHelpOption();
    parser.addVersionOption();
    parser.addOption({QStringLiteral("demo"), QApplication::translate("main", "Open the demo set.")});
    parser.addOption(
        {QStringLiteral("painted-then-quit"),
         QApplication::translate("main", "Quit as soon as the window has been painted; for measuring.")});
    parser.addPositionalArgument(QStringLiteral("files"),
                                 QApplication::translate("main", "MIDI files, folders, or a set."),
                                 QStringLiteral("[files…]"));
}

/// Whether help or the version alone is asked for, which needs no display.
bool asksForWordsAlone(const QStringList& said) {
    const QStringList before = said.mid(0, std::max<qsizetype>(0, said.indexOf(QStringLiteral("--"))));
    const QStringList& options = said.contains(QStringLiteral("--")) ? before : said;
    for (const char* option : {"--version", "-v", "--help", "-h", "--help-all"})
        if (options.contains(QLatin1String(option))) return true;
    return false;
}

} // namespace

int main(int count, char** words) {
    using namespace cobbleway;
    QStringList said; // not as Qt reads them: the name of a file need not be UTF-8
    for (int i = 0; i < count; ++i) said << textOfPath(words[i]);
    QCommandLineParser parser;
    QApplication::setApplicationName(QStringLiteral("cobbleway"));
    QApplication::setOrganizationName(QStringLiteral("cobbleway"));
    QApplication::setApplicationVersion(QStringLiteral(COBBLEWAY_VERSION));
    declareOptions(parser);
    if (asksForWordsAlone(said)) {
        const QCoreApplication withoutDisplay(count, words);
        parser.process(said); // says it and ends
    }
    prepareTextSize(settings::textSize());
    QApplication application(count, words);
    followSystemTextSize(words);
    for (const char* name : {"QT_SCALE_FACTOR", "QT_FONT_DPI", "COBBLEWAY_TEXT_SIZE"})
        qunsetenv(name); // not for what it starts, itself among it
    parser.process(said);

    loadFonts();
    const auto choice = static_cast<ThemeChoice>(settings::themeChoice());
    prepareTheme(choice);
    installSurfaceAccess();
    Session session;
    MainWindow window(session);
    applyTheme(choice);
    window.show();
    const MediaControl media(
        session,
        [&window] {
            window.raise();
            window.activateWindow();
        },
        [&window] { window.close(); });
    if (parser.isSet(QStringLiteral("painted-then-quit")))
        QTimer::singleShot(0, &window, [&window] {
            window.repaint();
            QApplication::exit(0);
        });

    // The window is there; sound and fonts follow.
    QTimer::singleShot(0, &window, [&] {
        session.playAlong.restoreInput();
        session.output.restore();
        QStringList folders = {settings::exportFolder()};
        for (const QString& path : settings::recentFiles()) folders << QFileInfo(path).absolutePath();
        folders << Recovery::folder();
        folders.removeDuplicates();
        QThreadPool::globalInstance()->start([folders] {
            keepToOwner();
            for (const QString& folder : folders)
                removeAbandoned(pathOf(folder)); // of programs that were killed
        });
        session.sounds.rescanFonts();
        session.sounds.rescanPlugins();
        QStringList paths = parser.positionalArguments();
        if (parser.isSet(QStringLiteral("demo"))) {
            const QString folder = QString::fromStdString(shippedFile("demo").string());
            for (const char* name :
                 {"lantern_quay.mid", "TIDEMILL.MID", "pilots-evening-song.kar", "SLACKW~1.MID"})
                paths << folder + QLatin1Char('/') + QLatin1String(name);
        }
        if (!parser.isSet(QStringLiteral("painted-then-quit"))) window.offerRecovered();
        window.openPaths(paths);
    });
    // The window closes only when nothing is to be kept any more: the copy of the work goes first.
    QObject::connect(&window, &MainWindow::closed, &session.recovery, [&session] {
        endSoon();
        session.recovery.end();
    });
    const int code = QApplication::exec();
    // What still runs has nothing to keep: it reads, measures or loads. Nobody waits for it.
    window.hide();
    if (!session.waitForDone(200)) std::_Exit(code);
    return code;
}
