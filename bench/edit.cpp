/// What an edit costs, in the whole window: a fader step (aims: 2 ms in a song of 3 900 notes, 4 ms in one of
/// a million) and a part that is transposed among a million notes (aim: 40 ms until it is painted). Processor
/// time of the interface's thread, the middle of many; beside it one walk over all the notes, as a measure of
/// the machine.
#include "app/look/theme.h"
#include "app/mainwindow.h"
#include "app/session/session.h"
#include "files/shipped.h"
#include "midi/writer.h"
#include "song/shape/edits.h"

#include <QApplication>
#include <QElapsedTimer>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <algorithm>
#include <cstdio>
#include <ctime>

using namespace cobbleway;

namespace {

/// `notes` notes over 16 tracks and channels.
std::vector<std::uint8_t> bytesOf(int notes) {
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

double threadSeconds() {
    timespec now{};
    clock_gettime(CLOCK_THREAD_CPUTIME_ID, &now);
    return static_cast<double>(now.tv_sec) + 1e-9 * static_cast<double>(now.tv_nsec);
}

/// The middle of several measures of this thread's time, in milliseconds.
double middle(int runs, const std::function<void(int)>& work) {
    std::vector<double> times;
    for (int i = 0; i < runs; ++i) {
        const double before = threadSeconds();
        work(i);
        times.push_back((threadSeconds() - before) * 1e3);
    }
    std::nth_element(times.begin(), times.begin() + runs / 2, times.end());
    return times[static_cast<std::size_t>(runs / 2)];
}

bool settled(const std::function<bool()>& done) {
    QElapsedTimer clock;
    clock.start();
    while (!done() && clock.elapsed() < 120'000) QCoreApplication::processEvents(QEventLoop::AllEvents, 20);
    return done();
}

void measure(const char* what, const QString& path, double aimFader, double aimNotes) {
    Session session;
    MainWindow window(session);
    window.askAboutChanges = [] { return 0x00800000; }; // discard
    window.resize(1280, 800);
    window.show();
    session.sounds.setCatalogue(scanFonts(FontFolders{shippedFile("house.sf2"), {}, {}}, houseFontId));
    session.current.addPaths({path});
    if (!settled([&] { return session.current.hasSong() && session.playback.isPlanned(); })) return;
    window.showPage(Step::Sounds);
    const PartId part = session.current.song().parts[1].id;
    const auto edit = [&](const std::function<Song(const Song&)>& change) {
        session.current.edit(QStringLiteral("Bench"), change);
        QCoreApplication::processEvents(); // paints what has changed
    };
    for (int i = 0; i < 3; ++i) edit([&](const Song& s) { return edits::setLevel(s, part, -1.0 * i); });
    const double fader = middle(
        40, [&](int i) { edit([&](const Song& s) { return edits::setLevel(s, part, -0.25 * (i % 40)); }); });
    const double notes = middle(
        9, [&](int i) { edit([&](const Song& s) { return edits::setSemitones(s, part, 1 + i % 5); }); });
    std::size_t walked = 0;
    const double walk = middle(5, [&](int) {
        for (const Part& p : session.current.song().parts)
            for (const EventRef ref : *p.source.events)
                walked += session.current.song().event(ref).isNoteOn();
    });
    std::printf(
        "%s: a fader step %.2f ms until painted (aim %.0f), %.2f walks over all notes; a part transposed "
        "%.1f ms (aim %.0f), %.1f walks; a walk over %zu notes %.2f ms\n",
        what, fader, aimFader, fader / walk, notes, aimNotes, notes / walk, walked / 5, walk);
    settled([&] { return session.playback.isPlanned(); });
}

} // namespace

int main(int count, char** words) {
    qputenv("QT_QPA_PLATFORM", "offscreen");
    QStandardPaths::setTestModeEnabled(true);
    QTemporaryDir folder;
    for (const char* kind : {"XDG_CONFIG_HOME", "XDG_CACHE_HOME", "XDG_STATE_HOME"})
        qputenv(kind, folder.path().toUtf8());
    QApplication application(count, words);
    loadFonts();
    applyTheme(ThemeChoice::Light);
    measure("3 900 notes", QString::fromStdString((shippedFile("demo") / "lantern_quay.mid").string()), 2,
            40);
    const QString path = folder.filePath(QStringLiteral("million.mid"));
    if (!writeFile(path.toStdString(), bytesOf(1'000'000)).ok()) return 1;
    measure("1 000 000 notes", path, 4, 40);
    return 0;
}
