/// A window with a session, for tests that drive it.
#pragma once
#include "support/support.h"

#include "app/look/theme.h"
#include "app/mainwindow.h"
#include "app/session/session.h"
#include "app/session/settings.h"
#include "app/widgets/surface.h"

#include <QAction>
#include <QApplication>
#include <QDialog>
#include <QMessageBox>
#include <QPushButton>
#include <QStandardPaths>

namespace support {

/// Once, before the first window.
inline void prepareApplication() {
    QStandardPaths::setTestModeEnabled(true);
    QCoreApplication::setOrganizationName(QStringLiteral("cobbleway-tests"));
    loadFonts();
    applyTheme(ThemeChoice::Light);
    installSurfaceAccess();
}

/// Saves the set, and waits until it is on disk or was refused.
inline bool save(Session& session, const QString& path) {
    std::optional<bool> saved;
    session.files.save(path, [&saved](bool done) { saved = done; });
    return QTest::qWaitFor([&] { return saved.has_value(); }, scaled(20000)) && *saved;
}

/// Opens a set, and waits for it.
inline bool open(Session& session, const QString& path) {
    session.files.open(path);
    return QTest::qWaitFor([&] { return !session.files.isBusy(); }, scaled(20000)) &&
           session.current.projectPath() == path;
}

class Driver {
  public:
    Driver() : m_window(m_session) {
        settings::setTidiesOnOpening(false); // levels as the file has them
        m_window.askAboutChanges = [](const auto& then) { then(QMessageBox::Discard); };
        m_window.resize(1280, 800);
        m_window.show();
        m_ok = m_session.output.player().open("silent").ok();
        m_session.sounds.setCatalogue(fontsAt(HOUSE_FONT));
        m_ok = m_ok && QTest::qWaitForWindowExposed(&m_window);
    }
    ~Driver() { m_session.recovery.end(); } // as a window that is closed
    Driver(const Driver&) = delete;
    Driver& operator=(const Driver&) = delete;
    [[nodiscard]] bool ok() const { return m_ok; }
    Session& session() { return m_session; }
    MainWindow& window() { return m_window; }
    const Song& song() { return m_session.current.song(); }

    bool openDemo(const char* name) { return open({QStringLiteral(DEMO_FOLDER "/") + QLatin1String(name)}); }
    bool open(const QStringList& paths) {
        const auto before = m_session.current.set().songs.size();
        m_session.files.addPaths(paths);
        return QTest::qWaitFor(
            [&] { return m_session.current.set().songs.size() > before && !m_session.files.isBusy(); },
            scaled(20000));
    }
    bool openSong(const MidiFile& file) {
        const QString path = m_folder.filePath(QStringLiteral("made %1.mid").arg(++m_files));
        QFile out(path);
        const Bytes bytes = writeMidi(file);
        if (!out.open(QIODevice::WriteOnly)) return false;
        out.write(reinterpret_cast<const char*>(bytes.data()), static_cast<qint64>(bytes.size()));
        out.close();
        return open({path});
    }
    bool select(const char* name) {
        for (const Part& part : song().parts)
            if (part.name == name) {
                m_session.current.selectPart(part.id);
                return true;
            }
        return false;
    }
    void act(const char* action) { m_window.action(QLatin1String(action))->trigger(); }
    /// Triggers an action and gives the dialog that it opens; null when none comes.
    QDialog* dialogOf(const char* action) {
        act(action);
        if (!QTest::qWaitFor([] { return QApplication::activeModalWidget() != nullptr; }, 5000))
            return nullptr;
        return qobject_cast<QDialog*>(QApplication::activeModalWidget());
    }
    /// Clicks the button with a text, in the window or a dialog, when it comes; false when it does not.
    static bool click(QWidget* in, const QString& text) {
        QPushButton* found = nullptr;
        const bool there = QTest::qWaitFor(
            [&] {
                for (QPushButton* b : in->findChildren<QPushButton*>())
                    if (b->isVisible() && b->isEnabled() && b->text() == text) found = b;
                return found != nullptr;
            },
            3000);
        if (there) QTest::mouseClick(found, Qt::LeftButton);
        return there;
    }
    std::vector<std::string> partNames() {
        std::vector<std::string> names;
        for (const Part& part : song().parts)
            if (!part.aside) names.push_back(part.name);
        return names;
    }

  private:
    Session m_session;
    MainWindow m_window;
    QTemporaryDir m_folder;
    int m_files = 0;
    bool m_ok = false;
};

} // namespace support
