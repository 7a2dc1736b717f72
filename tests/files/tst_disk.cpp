/// What a disk, another program and other people on the machine can do to files: every write that can fail
/// fails once, links are laid, files change under us.
#include "support/support.h"

#include "files/backup.h"
#include "files/earliersaves.h"
#include "files/endings.h"
#include "files/exports.h"
#include "files/filemark.h"
#include "files/folders.h"
#include "files/lyricstext.h"
#include "files/notenames.h"
#include "files/partsheet.h"
#include "files/soundfile.h"
#include "words/letters.h"

#include <QProcess>
#include <QTemporaryDir>
#include <atomic>
#include <csignal>
#include <dlfcn.h>
#include <fcntl.h>
#include <sys/resource.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

using namespace support;
namespace fs = std::filesystem;

namespace {

/// Calls of the system that are counted; the one with the number `fails` says that the disk is full, once.
struct Faults {
    std::atomic<int> calls{0};
    int fails = -1;
    std::atomic<bool> counts{false};
    std::atomic<int> stallsAtSync{0}; ///< milliseconds
    bool hits() { return counts && calls++ == fails; }
};
Faults faults;

template <class Call> Call realCall(const char* name) {
    return reinterpret_cast<Call>(dlsym(RTLD_NEXT, name));
}

} // namespace

extern "C" {

ssize_t write(int file, const void* bytes, size_t count) {
    static const auto real = realCall<ssize_t (*)(int, const void*, size_t)>("write");
    if (file > 2 && faults.hits()) return errno = ENOSPC, -1;
    return real(file, bytes, count);
}
ssize_t pwrite(int file, const void* bytes, size_t count, off_t at) {
    static const auto real = realCall<ssize_t (*)(int, const void*, size_t, off_t)>("pwrite");
    if (faults.hits()) return errno = ENOSPC, -1;
    return real(file, bytes, count, at);
}
int fsync(int file) {
    static const auto real = realCall<int (*)(int)>("fsync");
    if (faults.stallsAtSync > 0)
        std::this_thread::sleep_for(std::chrono::milliseconds(faults.stallsAtSync.load()));
    if (faults.hits()) return errno = EIO, -1;
    return real(file);
}

} // extern "C"

class TestDisk : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void init() { m_base = fs::path(m_folder.emplace().path().toStdString()); }
    void cleanup() { m_folder.reset(); }
    void aWriteThatFailsLeavesNothing_data();
    void aWriteThatFailsLeavesNothing();
    void aDiskThatFillsAtAnyByteIsTold_data();
    void aDiskThatFillsAtAnyByteIsTold();
    void theFaultsAreSeen();
    void nobodyReadsWhatIsBeingWritten();
    void aLaidLinkIsNotWrittenThrough();
    void whatIsOnesOwnIsPrivate();
    void foldersOfEarlierVersionsBecomePrivate();
    void aSetIsKeptBeforeItIsSavedOver();
    void aFileThatAnotherProgramChangedIsKnown();
    void aSourceThatChangedIsStillOne();
    void copiesOfWorkAreWrittenBesideAnything();
    void aForgottenCopyDoesNotComeBack();
    void textsKeepTheirLines_data();
    void textsKeepTheirLines();
    void playListsAreNotWrittenOver();
    void aFolderIsReadWholeInOrder();
    void namesOfManyPartsAreQuicklyTold();

  private:
    std::optional<QTemporaryDir> m_folder;
    fs::path m_base;
    [[nodiscard]] int filesThere() const {
        return static_cast<int>(QDir(m_folder->path()).entryList(QDir::Files | QDir::Hidden).size());
    }
};

namespace {

/// A second of a tone; what came of it.
bool writeTone(const fs::path& path, SoundFormat format) {
    SoundSpec spec{format, format == SoundFormat::Opus ? 48000 : 44100};
    auto writer = SoundWriter::open(path, spec);
    if (!writer) return false;
    std::vector<float> samples(std::size_t{2} * 4410);
    for (int i = 0; i < 10; ++i) {
        for (std::size_t s = 0; s < samples.size(); ++s)
            samples[s] = 0.3F * std::sin(0.05F * static_cast<float>(s / 2) + static_cast<float>(i));
        if (!writer.value()->write(samples)) return false;
    }
    return writer.value()->finish().ok();
}

void addFormats() {
    QTest::addColumn<int>("format");
    for (const SoundFormat format : soundFormats())
        QTest::newRow(std::string(formatId(format)).c_str()) << static_cast<int>(format);
    QTest::newRow("text") << -1;
}

bool writeAs(const fs::path& path, int format) {
    if (format >= 0) return writeTone(path, static_cast<SoundFormat>(format));
    return writeFile(path, std::string(3000, 'x')).ok();
}

} // namespace

void TestDisk::aWriteThatFailsLeavesNothing_data() { addFormats(); }

/// Each call that writes or flushes fails once, for a moment: what came after went well.
void TestDisk::aWriteThatFailsLeavesNothing() {
    QFETCH(int, format);
    const fs::path path = m_base / "a";
    faults.fails = -1;
    faults.calls = 0;
    faults.counts = true;
    QVERIFY(writeAs(path, format));
    const int calls = faults.calls;
    QVERIFY(calls >= 2);
    faults.counts = false;
    fs::remove(path);
    int silent = 0, left = 0;
    for (int fails = 0; fails < calls; ++fails) {
        faults.calls = 0;
        faults.fails = fails;
        faults.counts = true;
        const bool written = writeAs(path, format);
        const bool reached = faults.calls > fails;
        faults.counts = false;
        if (!reached) continue; // fewer calls than before
        // The last is the folder's flush, after which the file is there whole.
        if (written && fails + 1 < calls) ++silent;
        if (!written && filesThere() > 0) ++left;
        fs::remove(path);
    }
    QCOMPARE(silent, 0);
    QCOMPARE(left, 0);
}

void TestDisk::aDiskThatFillsAtAnyByteIsTold_data() { addFormats(); }

/// No file may be longer than so many bytes (RLIMIT_FSIZE): as a disk that is full.
void TestDisk::aDiskThatFillsAtAnyByteIsTold() {
    QFETCH(int, format);
    const fs::path path = m_base / "a";
    QVERIFY(writeAs(path, format));
    const auto size = static_cast<rlim_t>(fs::file_size(path));
    fs::remove(path);
    std::signal(SIGXFSZ, SIG_IGN);
    rlimit before{};
    QCOMPARE(getrlimit(RLIMIT_FSIZE, &before), 0);
    const rlim_t step = std::max<rlim_t>(1, size / 150);
    int silent = 0, left = 0, tried = 0;
    for (rlim_t most = 0; most<size; most += most + 2 * step> size && most + 1 < size ? 1 : step) {
        const rlimit limit{most, before.rlim_max};
        setrlimit(RLIMIT_FSIZE, &limit);
        const bool written = writeAs(path, format);
        setrlimit(RLIMIT_FSIZE, &before);
        ++tried;
        silent += written;
        left += filesThere() > 0;
        fs::remove(path);
        if (tried > 400) break;
    }
    QVERIFY(tried > 100);
    QCOMPARE(silent, 0);
    QCOMPARE(left, 0);
}

/// The faults themselves: a write that is not ours to watch fails as it is told to.
void TestDisk::theFaultsAreSeen() {
    faults.calls = 0;
    faults.fails = 0;
    faults.counts = true;
    const bool written = writeFile(m_base / "x", std::string("x")).ok();
    faults.counts = false;
    QVERIFY(!written);
    faults.calls = 0;
    faults.fails = 1000;
    faults.counts = true;
    const bool whole = writeFile(m_base / "x", std::string("x")).ok();
    faults.counts = false;
    QVERIFY(whole && faults.calls == 3); // the bytes, their flush, the folder's
}

void TestDisk::nobodyReadsWhatIsBeingWritten() {
    const auto modeOf = [](const fs::path& path) {
        struct stat there {};
        return lstat(path.c_str(), &there) == 0 ? there.st_mode & 0777 : 0U;
    };
    const mode_t before = umask(022);
    auto file = AtomicFile::open(m_base / "open.txt");
    auto other = AtomicFile::open(m_base / "open.txt");
    QVERIFY(file.ok() && other.ok());
    QCOMPARE(modeOf(file.value()->temporaryPath()), 0600U);
    QVERIFY(file.value()->temporaryPath() != other.value()->temporaryPath());
    QVERIFY(file.value()->write(Bytes{'x'}) && file.value()->commit().ok());
    QCOMPARE(modeOf(m_base / "open.txt"), 0644U);
    umask(027);
    QVERIFY(writeFile(m_base / "less.txt", std::string("x")).ok());
    QCOMPARE(modeOf(m_base / "less.txt"), 0640U);
    umask(before);
    fs::permissions(m_base / "open.txt", fs::perms(0600));
    QVERIFY(writeFile(m_base / "open.txt", std::string("secret")).ok()); // what is private stays so
    QCOMPARE(modeOf(m_base / "open.txt"), 0600U);
    fs::permissions(m_base / "open.txt", fs::perms(0664));
    QVERIFY(writeFile(m_base / "open.txt", std::string("shared")).ok());
    QCOMPARE(modeOf(m_base / "open.txt"), 0664U);
    QVERIFY(writeFile(m_base / "open.txt", std::string("mine"), Readers::Owner).ok());
    QCOMPARE(modeOf(m_base / "open.txt"), 0600U);
}

void TestDisk::aLaidLinkIsNotWrittenThrough() {
    QVERIFY(writeFile(m_base / "precious", std::string("kept")).ok());
    fs::create_directory(m_base / "shared");
    fs::permissions(m_base / "shared", fs::perms(01777));
    fs::create_symlink("../precious", m_base / "shared" / "song.wav");
    QVERIFY(writeFile(m_base / "shared" / "song.wav", std::string("new")).ok());
    QCOMPARE(readFile(m_base / "precious").value().size(), std::size_t{4});
    QVERIFY(!fs::is_symlink(m_base / "shared" / "song.wav"));
    QCOMPARE(readFile(m_base / "shared" / "song.wav").value().size(), std::size_t{3});
    // The name under which it is written cannot be guessed: a link under each that an earlier version used.
    std::array<char, 64> host{};
    gethostname(host.data(), host.size() - 1);
    for (int number = 0; number < 200; ++number)
        fs::create_symlink("../precious",
                           m_base / "shared" /
                               (".cobbleway-" + std::string(host.data()).substr(0, 32) + "-" +
                                std::to_string(getpid()) + "-" + std::to_string(number) + ".part"));
    QVERIFY(writeFile(m_base / "shared" / "other.wav", std::string("new")).ok());
    QCOMPARE(readFile(m_base / "precious").value().size(), std::size_t{4});
}

void TestDisk::whatIsOnesOwnIsPrivate() {
    QVERIFY(writePrivately(m_base / "state" / "note", "x").ok());
    QCOMPARE(fs::status(m_base / "state").permissions(), fs::perms(0700));
    QCOMPARE(fs::status(m_base / "state" / "note").permissions(), fs::perms(0600));
    fs::permissions(m_base / "state", fs::perms(0755));
    QVERIFY(makePrivateFolder(m_base / "state").ok());
    QCOMPARE(fs::status(m_base / "state").permissions(), fs::perms(0700));
    QVERIFY(!makePrivateFolder(m_base / "state" / "note").ok()); // it is a file
}

void TestDisk::foldersOfEarlierVersionsBecomePrivate() {
    const QByteArray before = qgetenv("XDG_STATE_HOME");
    qputenv("XDG_STATE_HOME", QByteArray::fromStdString(m_base.string()));
    fs::create_directories(m_base / "cobbleway" / "recovery");
    fs::permissions(m_base / "cobbleway" / "recovery", fs::perms(0755));
    QVERIFY(writeFile(m_base / "cobbleway" / "recovery" / "1-1.cobbleway", std::string("{}")).ok());
    fs::permissions(m_base / "cobbleway" / "recovery" / "1-1.cobbleway", fs::perms(0644));
    QVERIFY(writeFile(m_base / "outside", std::string("x")).ok());
    fs::permissions(m_base / "outside", fs::perms(0644));
    fs::create_symlink(m_base / "outside", m_base / "cobbleway" / "link");
    keepToOwner();
    qputenv("XDG_STATE_HOME", before);
    QCOMPARE(fs::status(m_base / "cobbleway" / "recovery").permissions(), fs::perms(0700));
    QCOMPARE(fs::status(m_base / "cobbleway" / "recovery" / "1-1.cobbleway").permissions(), fs::perms(0600));
    QCOMPARE(fs::status(m_base / "outside").permissions(), fs::perms(0644)); // behind a link
}

void TestDisk::aSetIsKeptBeforeItIsSavedOver() {
    const fs::path path = m_base / "set.cobbleway", state = m_base / "state";
    SongSet set;
    for (int i = 1; i <= 6; ++i) {
        set.name = "save " + std::to_string(i);
        QVERIFY(saveKeepingEarlier(set, path, state).ok());
        QVERIFY(saveKeepingEarlier(set, path, state).ok()); // the same again is no other save
    }
    const auto saves = earlierSaves(path, state);
    QCOMPARE(saves.size(), std::size_t{3});
    for (int i = 0; i < 3; ++i)
        QCOMPARE(openProject(saves[static_cast<std::size_t>(i)].file).value().name,
                 "save " + std::to_string(5 - i));
    QCOMPARE(fs::status(saves[0].file).permissions(), fs::perms(0600));
    QVERIFY(earlierSaves(m_base / "other.cobbleway", state).empty());
    // One that cannot be kept does not keep the set from being saved.
    QVERIFY(writeFile(m_base / "no folder", std::string("x")).ok());
    set.name = "last";
    QVERIFY(saveKeepingEarlier(set, path, m_base / "no folder").ok());
    QCOMPARE(openProject(path).value().name, std::string("last"));
}

void TestDisk::aFileThatAnotherProgramChangedIsKnown() {
    const fs::path path = m_base / "a";
    QVERIFY(writeFile(path, std::string("one")).ok());
    const FileMark mark = markOf(path);
    QVERIFY(!hasChanged(path, mark));
    fs::last_write_time(path, fs::file_time_type::clock::now() + std::chrono::hours(1));
    QVERIFY(!hasChanged(path, mark)); // it was only touched
    QVERIFY(writeFile(path, std::string("two")).ok());
    QVERIFY(hasChanged(path, mark));
    QVERIFY(!hasChanged(path, FileMark{}));
    fs::remove(path);
    QVERIFY(!hasChanged(path, mark)); // to save brings it back
    QCOMPARE(markOf(path), FileMark{});
}

void TestDisk::aSourceThatChangedIsStillOne() {
    const fs::path path = m_base / "song.mid";
    QVERIFY(writeFile(path, specificationFormat1()).ok());
    const auto song = openSong(path);
    QVERIFY(song.ok());
    QCOMPARE(stateOnDisk(*song.value().source), OnDisk::Same);
    QVERIFY(isSourceOf(song.value(), path));
    Bytes changed = specificationFormat1();
    changed[80] ^= 1;
    QVERIFY(writeFile(path, changed).ok());
    QCOMPARE(stateOnDisk(*song.value().source), OnDisk::Changed);
    QVERIFY(isSourceOf(song.value(), path));
    fs::create_hard_link(path, m_base / "same.mid");
    QVERIFY(isSourceOf(song.value(), m_base / "same.mid"));
    QVERIFY(!isSourceOf(song.value(), m_base / "other.mid"));
    // A set remembers it, also when both are moved together.
    SongSet set;
    set.songs.emplace_back(song.value());
    fs::create_directory(m_base / "first");
    fs::rename(path, m_base / "first" / "song.mid");
    auto moved = *song.value().source;
    moved.path = (m_base / "first" / "song.mid").string();
    set.songs[0] = Shared(makeSong(std::make_shared<const SourceFile>(moved)));
    QVERIFY(saveProject(set, m_base / "first" / "set.cobbleway").ok());
    fs::rename(m_base / "first", m_base / "second");
    const auto opened = openProject(m_base / "second" / "set.cobbleway");
    QVERIFY(opened.ok());
    QCOMPARE(opened.value().songs[0]->source->path, (m_base / "second" / "song.mid").string());
    QVERIFY(isSourceOf(*opened.value().songs[0], m_base / "second" / "song.mid"));
    QCOMPARE(stateOnDisk(*opened.value().songs[0]->source), OnDisk::Changed);
    fs::remove(m_base / "second" / "song.mid");
    QCOMPARE(stateOnDisk(*opened.value().songs[0]->source), OnDisk::Gone);
    QCOMPARE(stateOnDisk(SourceFile{}), OnDisk::Unknown);
}

void TestDisk::copiesOfWorkAreWrittenBesideAnything() {
    const fs::path path = m_base / "copy.cobbleway";
    std::vector<std::string> told;
    BackupWriter writer(path, std::chrono::milliseconds(20),
                        [&](const Error& error) { told.push_back(error.message()); });
    for (int i = 0; i < 50; ++i) {
        SongSet set;
        set.name = std::to_string(i);
        writer.take({[set] { return set; }, "{}"});
    }
    // Nothing but this thread's sleep: no event loop has to run.
    for (int i = 0; i < 1000 && !fs::exists(path.string() + ".json"); ++i)
        std::this_thread::sleep_for(std::chrono::milliseconds(10));
    QCOMPARE(openProject(path).value().name, std::string("49"));
    QCOMPARE(fs::status(path).permissions(), fs::perms(0600));
    QVERIFY(told.empty());
    writer.take({[]() -> SongSet { throw std::bad_alloc(); }, "{}"});
    std::atomic<bool> written{false};
    writer.whenWritten([&] { written = true; });
    for (int i = 0; i < 1000 && !written; ++i) std::this_thread::sleep_for(std::chrono::milliseconds(10));
    QVERIFY(written);
    QCOMPARE(told.size(), std::size_t{1});
    QCOMPARE(openProject(path).value().name, std::string("49")); // the last that could be written
}

void TestDisk::aForgottenCopyDoesNotComeBack() {
    const fs::path path = m_base / "copy.cobbleway";
    {
        BackupWriter writer(path, std::chrono::milliseconds(0), [](const Error&) {});
        faults.stallsAtSync = 2000; // a slow disk
        writer.take({[] { return SongSet(); }, "{}"});
        std::this_thread::sleep_for(std::chrono::milliseconds(100)); // it is being written
        QElapsedTimer clock;
        clock.start();
        (void)writer.forget(std::chrono::milliseconds(10));
        QVERIFY(clock.elapsed() < 1500); // the caller does not wait for the disk
    }
    faults.stallsAtSync = 0;
    QCOMPARE(filesThere(), 0);
    // What is given at last is written at the end, unless it is forgotten.
    {
        BackupWriter writer(path, std::chrono::hours(1), [](const Error&) {});
        writer.take({[] { return SongSet(); }, "{}"});
    }
    QVERIFY(fs::exists(path));
    {
        BackupWriter writer(path, std::chrono::hours(1), [](const Error&) {});
        writer.take({[] { return SongSet(); }, "{}"});
        QVERIFY(writer.forget());
    }
    QCOMPARE(filesThere(), 0);
}

void TestDisk::textsKeepTheirLines_data() {
    QTest::addColumn<QString>("name");
    QTest::newRow("line feed") << QStringLiteral("a\nb");
    QTest::newRow("carriage return") << QStringLiteral("a\rb");
    QTest::newRow("next line") << QStringLiteral("a\u0085b");
    QTest::newRow("line separator") << QStringLiteral("a\u2028b");
    QTest::newRow("paragraph separator") << QStringLiteral("a\u2029b");
    QTest::newRow("vertical tab") << QStringLiteral("a\vb");
    QTest::newRow("delete") << QStringLiteral("a\u007Fb");
}

void TestDisk::textsKeepTheirLines() {
    QFETCH(QString, name);
    const std::string bad = name.toStdString();
    const auto lines = [&](const std::string& text) {
        const QString all = QString::fromStdString(text);
        for (const QChar c : all)
            if (c == QChar(0x85) || c == QChar(0x2028) || c == QChar(0x2029) || c == QChar('\v') ||
                c == QChar(0x7F))
                return qsizetype(-1);
        return all.count(QLatin1Char('\n')) + all.count(QLatin1Char('\r'));
    };
    QCOMPARE(oneLine(bad), std::string("a b"));
    QCOMPARE(fileNameFrom(bad), std::string("a b"));
    const DrumNames names = {{36, bad}, {38, "Snare"}};
    QCOMPARE(lines(namesText(names, NameFormat::Text, bad)), 2);
    QCOMPARE(lines(namesText(names, NameFormat::Csv, bad)), 2 * 3);
    const DrumNames plain = {{36, "a b"}, {38, "Snare"}};
    QCOMPARE(namesText(names, NameFormat::Midnam, bad), namesText(plain, NameFormat::Midnam, "a b"));
    Song song = Builder(1, 2).note(0, 0, 1, 60, 100, 1).song();
    Song same = song;
    song.title = song.parts.front().name = bad;
    same.title = same.parts.front().name = "a b";
    QCOMPARE(lines(timedLyrics(song)), 1);
    const Catalogue none;
    QCOMPARE(lines(partSheet(song, none)), lines(partSheet(same, none)));
}

void TestDisk::playListsAreNotWrittenOver() {
    Song song = Builder().note(0, 0, 0.2, 60).song();
    song.title = "Two\nlines";
    SetExportOptions options;
    options.each.folder = m_base;
    options.playlists = true;
    const auto items = [&] {
        std::vector<ExportItem> chosen;
        for (const ExportItem& item : exportItems(song))
            if (item.kind == ExportItem::Kind::Full) chosen.push_back(item);
        return chosen;
    }();
    const std::vector<SongExport> songs = {{song, items, 1}};
    QVERIFY(writeFile(m_base / "Play list.m3u8", std::string("mine\n")).ok());
    QCOMPARE(playlistsThere(songs, m_base), (std::vector<fs::path>{m_base / "Play list.m3u8"}));
    QVERIFY(playlistsThere(songs, m_base / "elsewhere").empty());
    const auto textOf = [&](const char* name) {
        const auto bytes = readFile(m_base / name);
        return bytes ? std::string(bytes.value().begin(), bytes.value().end()) : std::string();
    };
    for (const Existing existing : {Existing::Number, Existing::Leave}) {
        options.each.existing = existing;
        const auto made = writeSet(songs, testFont(), options);
        QCOMPARE(made.playlists.size(), std::size_t(existing == Existing::Number));
        QCOMPARE(textOf("Play list.m3u8"), std::string("mine\n"));
    }
    const QString list = QString::fromStdString(textOf("Play list 2.m3u8"));
    QVERIFY2(list.startsWith(QStringLiteral("#EXTM3U\n#EXTINF:")) &&
                 list.endsWith(QStringLiteral(",Two lines\nTwo lines - full.wav\n")) &&
                 list.count(QLatin1Char('\n')) == 3,
             qPrintable(list));
    options.each.existing = Existing::Replace; // asked for
    (void)writeSet(songs, testFont(), options);
    QVERIFY(textOf("Play list.m3u8").starts_with("#EXTM3U\n"));
    options.each.existing = Existing::Leave;
    QVERIFY(writeFile(m_base / "Play list.m3u8", std::string("mine\n")).ok());
    fs::remove(m_base / "Two lines - full.wav");
    const auto left = writeSet(songs, testFont(), options);
    QCOMPARE(left.playlists.size(), std::size_t{1});
    QVERIFY(!left.playlists[0].written && left.playlists[0].error.what.id == "error.left");
    QCOMPARE(textOf("Play list.m3u8"), std::string("mine\n"));
}

void TestDisk::aFolderIsReadWholeInOrder() {
    for (const char* folder : {"Zebra", "album 10", "album 2", "album 2/deeper"})
        fs::create_directory(m_base / folder);
    for (const char* name : {"song 10.mid", "Song 2.MID", "écho.mid", "early.mid", "zoo.kar", "no.txt",
                             "album 10/1.mid", "album 2/b.mid", "album 2/deeper/c.mid", "Zebra/a.mid"})
        QVERIFY(writeFile(m_base / name, std::string("x")).ok());
    fs::create_directory_symlink(m_base, m_base / "album 2" / "round");
    std::vector<std::string> found;
    for (const auto& path : midiFilesIn(m_base)) found.push_back(path.lexically_relative(m_base).string());
    QCOMPARE(found, (std::vector<std::string>{"album 2/deeper/c.mid", "album 2/b.mid", "album 10/1.mid",
                                              "Zebra/a.mid", "early.mid", "écho.mid", "Song 2.MID",
                                              "song 10.mid", "zoo.kar"}));
    fs::create_directory(m_base / "many");
    for (int i = 0; i < 12'000; ++i) {
        const int file =
            open((m_base / "many" / (std::to_string(i) + ".mid")).c_str(), O_CREAT | O_WRONLY, 0600);
        QVERIFY(file >= 0);
        close(file);
    }
    const auto many = midiFilesIn(m_base / "many");
    QCOMPARE(many.size(), std::size_t{12'000});
    for (std::size_t i = 0; i < many.size(); ++i) QCOMPARE(many[i].stem().string(), std::to_string(i));
    std::vector<Error> unread;
    QVERIFY(midiFilesIn(m_base / "nowhere", &unread).empty());
    QCOMPARE(unread.size(), std::size_t{1});
}

/// Of 5 000 parts with one name the file names are found about as quickly as of 5 000 with names of their
/// own.
void TestDisk::namesOfManyPartsAreQuicklyTold() {
    const auto songOfParts = [](bool alike) {
        Song song = Builder().note(0, 0, 1, 60).song();
        const Part part = song.parts.front();
        song.parts.clear();
        for (int i = 1; i <= 5000; ++i) {
            song.parts.push_back(part);
            song.parts.back().id = i;
            song.parts.back().name = alike ? "Flute" : "Part " + std::to_string(i);
        }
        return song;
    };
    const auto secondsFor = [](const Song& song) {
        QElapsedTimer clock;
        clock.start();
        const auto items = exportItems(song);
        std::set<std::string> names;
        for (const ExportItem& item : items) names.insert(item.fileName);
        return names.size() == items.size() ? static_cast<double>(clock.nsecsElapsed()) * 1e-9 : 1e9;
    };
    const double unlike = secondsFor(songOfParts(false)), alike = secondsFor(songOfParts(true));
    QVERIFY2(alike < 10 * unlike + 0.2, qPrintable(QString::number(alike) + " " + QString::number(unlike)));
}

QTEST_GUILESS_MAIN(TestDisk)
#include "tst_disk.moc"
