/// cobbleway: the window.
#include "app/look/theme.h"
#include "app/mainwindow.h"
#include "app/session/playalong.h"
#include "app/session/session.h"
#include "app/session/settings.h"
#include "app/widgets/surface.h"
#include "files/shipped.h"

#include <QApplication>
#include <QCommandLineParser>
#include <QTimer>

int main(int count, char** words) {
    using namespace cobbleway;
    QApplication::setApplicationName(QStringLiteral("cobbleway"));
    QApplication::setOrganizationName(QStringLiteral("cobbleway"));
    QApplication::setApplicationVersion(QStringLiteral(COBBLEWAY_VERSION));
    QApplication application(count, words);
    QCommandLineParser parser;
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
    parser.process(application);

    loadFonts();
    applyTheme(static_cast<ThemeChoice>(settings::themeChoice()));
    installSurfaceAccess();
    Session session;
    MainWindow window(session);
    window.show();
    if (parser.isSet(QStringLiteral("painted-then-quit")))
        QTimer::singleShot(0, &window, [&window] {
            window.repaint();
            QApplication::exit(0);
        });

    // The window is there; sound and fonts follow.
    QTimer::singleShot(0, &session, [&] {
        window.playAlong()->restoreInput();
        if (const auto opened = session.player().open(settings::soundOutput().toStdString());
            !opened && !session.player().open("auto"))
            Q_EMIT session.problem(QApplication::translate("main", "No sound"),
                                   QString::fromStdString(opened.error().message()));
        session.rescanFonts();
        session.rescanPlugins();
        QStringList paths = parser.positionalArguments();
        if (parser.isSet(QStringLiteral("demo"))) {
            const QString folder = QString::fromStdString(shippedFile("demo").string());
            for (const char* name :
                 {"lantern_quay.mid", "TIDEMILL.MID", "pilots-evening-song.kar", "SLACKW~1.MID"})
                paths << folder + QLatin1Char('/') + QLatin1String(name);
        }
        session.addPaths(paths);
    });
    return QApplication::exec();
}
