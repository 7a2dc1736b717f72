/// The Parts page with a million notes: the longest frame while it scrolls and zooms, painted offscreen. Aim:
/// 16 ms.
#include "measure.h"

#include "app/look/theme.h"
#include "app/mainwindow.h"
#include "app/pages/eventsview.h"
#include "app/pages/partspage.h"
#include "app/session/session.h"
#include "midi/writer.h"

#include <QApplication>
#include <QElapsedTimer>
#include <QMessageBox>
#include <QScrollBar>
#include <QStandardPaths>
#include <QTableView>
#include <QTemporaryDir>
#include <cstdio>

using namespace cobbleway;

namespace {

std::vector<std::uint8_t> millionNotes() {
    MidiFile file;
    file.type = 1;
    file.tracks.resize(24);
    unsigned random = 1;
    for (int i = 0; i < 1000000; ++i) {
        random = random * 1664525 + 1013904223;
        const auto track = static_cast<std::size_t>(i % 24);
        const Tick tick = Tick{i / 24} * 60;
        const auto key = static_cast<std::uint8_t>(40 + (random >> 16) % 48),
                   channel = static_cast<std::uint8_t>(track % 16);
        file.addChannel(track, tick, static_cast<std::uint8_t>(0x90 | channel), key,
                        static_cast<std::uint8_t>(30 + (random >> 24) % 90));
        file.addChannel(track, tick + 40 + random % 200, static_cast<std::uint8_t>(0x80 | channel), key, 64);
    }
    file.sortTracks();
    return writeMidi(file);
}

double milliseconds(const std::function<void()>& work) {
    QElapsedTimer clock;
    clock.start();
    work();
    return static_cast<double>(clock.nsecsElapsed()) / 1e6;
}

} // namespace

int main(int count, char** words) {
    qputenv("QT_QPA_PLATFORM", "offscreen");
    QStandardPaths::setTestModeEnabled(true);
    QApplication application(count, words);
    QTemporaryDir folder;
    const QString path = folder.filePath(QStringLiteral("million.mid"));
    const auto bytes = millionNotes();
    QFile file(path);
    if (!file.open(QIODevice::WriteOnly)) return 1;
    file.write(reinterpret_cast<const char*>(bytes.data()), static_cast<qint64>(bytes.size()));
    file.close();
    loadFonts();
    applyTheme(ThemeChoice::Light);
    Session session;
    MainWindow window(session);
    window.askAboutChanges = [](const auto& then) { then(QMessageBox::Discard); };
    window.resize(1280, 800);
    window.showPage(Step::Parts);
    window.show();
    session.files.addPaths({path});
    while (session.files.isBusy() || !session.current.hasSong())
        QCoreApplication::processEvents(QEventLoop::WaitForMoreEvents, 20);
    PartsPage* page = window.partsPage();
    const double first = milliseconds([&] { window.grab(); });
    // A frame of what changes while one scrolls and zooms: the page, all of it.
    std::vector<double> frames;
    const auto frame = [&](const std::function<void()>& change) {
        frames.push_back(milliseconds([&] {
            change();
            page->rows()->viewport()->grab();
        }));
    };
    for (int i = 0; i < 60; ++i) frame([&] { page->rows()->verticalScrollBar()->setValue(i * 12); });
    for (int i = 0; i < 24; ++i) frame([&] { page->zoom()->zoom(1.25, 0.3); });
    for (int i = 0; i < 60; ++i) frame([&] { page->zoom()->scroll(0.1); });
    for (int i = 0; i < 24; ++i) frame([&] { page->zoom()->zoom(1 / 1.25, 0.6); });
    std::sort(frames.begin(), frames.end());
    page->showEvents(true);
    const double events = milliseconds([&] { page->grab(); });
    QTableView* table = page->events()->table();
    std::vector<double> pages;
    for (int i = 0; i < 40; ++i)
        pages.push_back(milliseconds([&] {
            table->verticalScrollBar()->setValue(i * table->verticalScrollBar()->maximum() / 40);
            table->viewport()->grab();
        }));
    std::sort(pages.begin(), pages.end());
    std::printf("the event list of %d rows: opened in %.0f ms, a page of it in %.1f ms at most\n",
                page->events()->model()->rowCount(), events, pages.back());
    std::printf("a million notes on the Parts page: first paint %.0f ms; of %zu frames the longest %.1f ms, "
                "the middle %.1f ms\n",
                first, frames.size(), frames.back(), frames[frames.size() / 2]);
    return 0;
}
