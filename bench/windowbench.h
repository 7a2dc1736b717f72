/// What measures of the whole window share: a window that is seen by nobody, songs made of any number of
/// notes, and the processor time of the interface's thread.
#pragma once
#include "app/look/theme.h"
#include "app/mainwindow.h"
#include "app/session/session.h"
#include "files/shipped.h"
#include "midi/writer.h"

#include <QApplication>
#include <QElapsedTimer>
#include <QMessageBox>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QTimer>
#include <algorithm>
#include <cstdio>
#include <ctime>

namespace bench {

using namespace cobbleway;

/// `notes` notes over 16 tracks and channels.
inline std::vector<std::uint8_t> bytesOf(int notes) {
    MidiFile file;
    file.type = 1;
    file.tracks.resize(16);
    for (std::size_t t = 0; t < 16; ++t)
        file.addChannel(t, 0, static_cast<std::uint8_t>(0xC0 | t), static_cast<std::uint8_t>(t * 7));
    for (int i = 0; i < notes; ++i) {
        const auto track = static_cast<std::size_t>(i % 16);
        const Tick tick = Tick{i / 16} * 60;
        const auto key = static_cast<std::uint8_t>(track == 9 ? 35 + i / 16 % 20 : 40 + i * 7 % 48);
        file.addChannel(track, tick, static_cast<std::uint8_t>(0x90 | track), key, 90);
        file.addChannel(track, tick + 50, static_cast<std::uint8_t>(0x80 | track), key, 64);
    }
    file.sortTracks();
    return writeMidi(file);
}

/// Of this thread.
inline double threadSeconds() {
    timespec now{};
    clock_gettime(CLOCK_THREAD_CPUTIME_ID, &now);
    return static_cast<double>(now.tv_sec) + 1e-9 * static_cast<double>(now.tv_nsec);
}

/// The middle of several measures of this thread's time, in milliseconds.
inline double middle(int runs, const std::function<void(int)>& work) {
    std::vector<double> times;
    for (int i = 0; i < runs; ++i) {
        const double before = threadSeconds();
        work(i);
        times.push_back((threadSeconds() - before) * 1e3);
    }
    std::nth_element(times.begin(), times.begin() + runs / 2, times.end());
    return times[static_cast<std::size_t>(runs / 2)];
}

inline bool settled(const std::function<bool()>& done) {
    QElapsedTimer clock;
    clock.start();
    while (!done() && clock.elapsed() < 120'000) QCoreApplication::processEvents(QEventLoop::AllEvents, 20);
    return done();
}

/// The application, with state of its own and no display.
class Stage {
  public:
    Stage(int& count, char** words) {
        qputenv("QT_QPA_PLATFORM", "offscreen");
        QStandardPaths::setTestModeEnabled(true);
        for (const char* kind : {"XDG_CONFIG_HOME", "XDG_CACHE_HOME", "XDG_STATE_HOME"})
            qputenv(kind, folder.path().toUtf8());
        application = std::make_unique<QApplication>(count, words);
        loadFonts();
        applyTheme(ThemeChoice::Light);
    }
    QTemporaryDir folder;

  private:
    std::unique_ptr<QApplication> application;
};

/// A window at 1280x800 with the house font.
struct Window {
    Session session;
    MainWindow window{session};
    Window() {
        window.askAboutChanges = [](const auto& then) { then(QMessageBox::Discard); };
        window.resize(1280, 800);
        window.show();
        session.sounds.setCatalogue(scanFonts(FontFolders{shippedFile("house.sf2"), {}, {}}, houseFontId));
    }
    bool open(const QStringList& paths) {
        session.files.addPaths(paths);
        return settled([&] { return session.current.hasSong() && !session.files.isBusy(); });
    }
};

/// While it lives: the longest time for which the interface's thread worked without looking at its events, in
/// milliseconds of processor time.
class Holding {
  public:
    Holding() {
        QObject::connect(&m_timer, &QTimer::timeout, [this] { look(); });
        m_timer.start(1);
    }
    double longest() {
        look();
        return m_longest * 1e3;
    }

  private:
    void look() {
        const double now = threadSeconds();
        m_longest = std::max(m_longest, now - m_before);
        m_before = now;
    }
    QTimer m_timer;
    double m_before = threadSeconds(), m_longest = 0;
};

} // namespace bench
