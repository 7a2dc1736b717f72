/// What the window takes for much: a set of 500 songs, a folder of 3 000 files, many parts, a shelf of 20
/// fonts, the practice picture among a million notes. Each line gives its aim.
/// Usage: bench-window [shelf | practice | parts | tracks | set | folder]; with no word all of these.
#include "windowbench.h"

#include "app/pages/shelf.h"
#include "app/widgets/notespicture.h"

#include <QDir>
#include <QFile>
#include <QLineEdit>
#include <malloc.h>

using namespace bench;

namespace {

double seconds(const QElapsedTimer& clock) { return static_cast<double>(clock.nsecsElapsed()) / 1e9; }

/// The memory in use, in bytes.
std::size_t held() {
    const auto info = mallinfo2();
    return info.uordblks + info.hblkhd;
}

/// `count` copies of the demo songs in a folder.
QString manyFiles(const QDir& folder, const char* name, int count) {
    const QDir made(folder.filePath(QLatin1String(name)));
    (void)folder.mkdir(QLatin1String(name));
    const QDir demo(QString::fromStdString(shippedFile("demo").string()));
    const QStringList songs = demo.entryList(QDir::Files);
    for (int i = 0; i < count; ++i)
        QFile::copy(demo.filePath(songs[i % songs.size()]),
                    made.filePath(QStringLiteral("song %1.mid").arg(i, 4, 10, QLatin1Char('0'))));
    return made.path();
}

void largeSet(const QDir& folder) {
    const QString path = folder.filePath(QStringLiteral("large.cobbleway"));
    double save = 0, saveHeld = 0;
    {
        Window w;
        if (!w.open({manyFiles(folder, "500", 500)})) return;
        Holding holding;
        QElapsedTimer clock;
        clock.start();
        bool saved = false, done = false;
        w.session.files.save(path, [&](bool ok) {
            saved = ok;
            done = true;
        });
        if (!settled([&] { return done; }) || !saved) return;
        save = seconds(clock);
        saveHeld = holding.longest();
    }
    Window w;
    Holding holding;
    QElapsedTimer clock;
    clock.start();
    w.session.files.addPaths({path});
    if (!settled([&] { return w.session.current.set().songs.size() == 500 && !w.session.files.isBusy(); }))
        return;
    std::printf("a set of 500 songs: opened in %.2f s (aim 2), the window held for %.0f ms at most (aim 50); "
                "saved in %.2f s (aim 1), held for %.0f ms\n",
                seconds(clock), holding.longest(), save, saveHeld);
}

void largeFolder(const QDir& folder) {
    const QString path = manyFiles(folder, "3000", 3000);
    Window w;
    Holding holding;
    QElapsedTimer clock;
    clock.start();
    w.session.files.addPaths({path});
    if (!settled([&] { return w.session.current.hasSong(); })) return;
    const double first = seconds(clock);
    if (!settled([&] { return !w.session.files.isBusy(); })) return;
    std::printf("a folder of 3 000 files: first rows after %.2f s (aim 0.3), all after %.2f s (aim 6), the "
                "window held "
                "for %.0f ms at most (aim 50)\n",
                first, seconds(clock), holding.longest());
}

/// `ports` tracks, each with a port of its own and `channels` channels.
std::vector<std::uint8_t> manyParts(int tracks, int channels, bool ports) {
    MidiFile file;
    file.type = 1;
    file.tracks.resize(static_cast<std::size_t>(tracks));
    for (int t = 0; t < tracks; ++t) {
        const auto track = static_cast<std::size_t>(t);
        const auto port = static_cast<std::uint8_t>(ports ? t & 0x7F : 0);
        if (ports) file.addMeta(track, 0, meta::port, {&port, 1});
        for (int c = 0; c < channels; ++c) {
            const auto channel = static_cast<std::uint8_t>((t + c) % 16);
            const auto key = static_cast<std::uint8_t>(48 + (t + c) % 24);
            file.addChannel(track, Tick{c} * 120, static_cast<std::uint8_t>(0x90 | channel), key, 90);
            file.addChannel(track, Tick{c} * 120 + 100, static_cast<std::uint8_t>(0x80 | channel), key, 64);
        }
    }
    file.sortTracks();
    return writeMidi(file);
}

void parts(const QDir& folder, const char* what, const std::vector<std::uint8_t>& bytes, double aim) {
    const QString path = folder.filePath(QStringLiteral("parts.mid"));
    if (!writeFile(path.toStdString(), bytes).ok()) return;
    Window w;
    QElapsedTimer clock;
    clock.start();
    if (!w.open({path})) return;
    w.window.grab();
    const double opened = seconds(clock);
    std::printf("%s: opened in %.1f s (aim %.0f)", what, opened, aim);
    for (const auto& [step, name] :
         std::initializer_list<std::pair<Step, const char*>>{{Step::Parts, "Parts"},
                                                             {Step::Sounds, "Sounds"},
                                                             {Step::Practice, "Practice"},
                                                             {Step::Export, "Export"}}) {
        QElapsedTimer turn;
        turn.start();
        w.window.showPage(step);
        w.window.grab();
        QCoreApplication::processEvents();
        std::printf(", %s after %.2f s", name, seconds(turn));
    }
    std::printf("\n");
    std::fflush(stdout);
}

void shelf() {
    Window w;
    const SoundFont house = *w.session.sounds.catalogue().fonts().front();
    std::vector<FontPtr> fonts;
    for (int i = 0; i < 20; ++i) {
        SoundFont font = house;
        font.id = i == 0 ? house.id : "font " + std::to_string(i);
        font.name = "Font " + std::to_string(i);
        fonts.push_back(std::make_shared<const SoundFont>(std::move(font)));
    }
    w.session.sounds.setCatalogue(Catalogue(fonts, houseFontId));
    w.open({QString::fromStdString((shippedFile("demo") / "lantern_quay.mid").string())});
    w.window.showPage(Step::Sounds);
    QCoreApplication::processEvents();
    auto* search = w.window.findChild<Shelf*>()->search();
    const QString word = QStringLiteral("strings");
    const double letter = middle(28, [&](int i) {
        search->setText(word.left(1 + i % 7));
        QCoreApplication::processEvents();
    });
    std::printf("a letter typed on a shelf of 20 fonts with %zu sounds: %.1f ms until painted (aim 5)\n",
                w.session.sounds.catalogue().soundCount(), letter);
}

/// What a song adds to the memory in use: after opening, and with all that every page needs.
struct Memory {
    double size = 0, opened = 0, all = 0; ///< bytes; the first of its file
};

Memory memoryOf(Window& w, const QDir& folder, int notes) {
    Memory memory;
    const QString path = folder.filePath(QStringLiteral("%1.mid").arg(notes));
    {
        const auto bytes = bytesOf(notes);
        memory.size = static_cast<double>(bytes.size());
        if (!writeFile(path.toStdString(), bytes).ok()) return {};
    }
    const auto before = static_cast<double>(held());
    if (!w.open({path}) || !settled([&] { return w.session.planner.isPlanned(); })) return {};
    memory.opened = static_cast<double>(held()) - before;
    for (const Step step : {Step::Parts, Step::Sounds, Step::Drums, Step::Export, Step::Practice}) {
        w.window.showPage(step);
        w.window.grab();
        (void)settled([&] { return w.session.planner.isPlanned(); });
    }
    memory.all = static_cast<double>(held()) - before;
    return memory;
}

void practice(const QDir& folder) {
    Memory small; // its sounds and the pictures of its pages are as large as those of a long one
    for (int turn = 0; turn < 2; ++turn) { // the first makes what stays for all
        Window w;
        small = memoryOf(w, folder, 1000);
    }
    Window w;
    const Memory large = memoryOf(w, folder, 1'000'000);
    const double more = large.size - small.size;
    std::printf(
        "a million notes: what they add to a song of a thousand is %.1f times the file's size after opening, "
        "%.1f times with all that every page needs (aim 10); sounds and pictures take %.0f MB\n",
        (large.opened - small.opened) / more, (large.all - small.all) / more, small.all / 1e6);
    auto* picture = w.window.findChild<NotesPicture*>();
    const Tick end = w.session.current.song().end;
    const double frame = middle(40, [&](int i) {
        w.session.transport.seek(end * (i % 40) / 40);
        picture->repaint();
    });
    std::printf("a frame of the practice picture among a million notes: %.1f ms (aim 4)\n", frame);
}

} // namespace

int main(int count, char** words) {
    const Stage stage(count, words);
    const QDir folder(stage.folder.path());
    const std::string_view one = count > 1 ? words[1] : "";
    const auto wants = [&](std::string_view what) { return one.empty() || one == what; };
    if (wants("shelf")) shelf();
    if (wants("practice")) practice(folder);
    if (wants("parts")) parts(folder, "2 048 parts", manyParts(128, 16, true), 2);
    if (wants("tracks")) parts(folder, "20 000 tracks", manyParts(20'000, 1, false), 8);
    if (wants("set")) largeSet(folder);
    if (wants("folder")) largeFolder(folder);
    return 0;
}
