#include "app/session/currentset.h"

#include "app/session/jobs.h"
#include "app/session/messages.h"
#include "app/session/paths.h"
#include "app/session/settings.h"
#include "files/earliersaves.h"
#include "files/folders.h"
#include "files/songfile.h"
#include "song/shape/tidy.h"

#include <QCoreApplication>
#include <QElapsedTimer>
#include <QPointer>
#include <algorithm>
#include <stop_token>
#include <utility>

namespace cobbleway {

/// What reading files gave, beside the songs that were sent on the way.
struct ReadResult {
    std::vector<Error> errors;
    std::optional<SongSet> project;
    QString projectPath;
    FileMark projectMark;
    int songs = 0;                      ///< that were sent
    std::vector<Shared<Song>> heldBack; ///< those that came with a project: they go into it
};

namespace {

constexpr int shownAtOnce = 16; // rows of songs that a window shows, about

void prepareFirst(const SongSet& set, const std::function<void(const Song&)>& prepare) {
    for (std::size_t i = 0; i < std::min<std::size_t>(shownAtOnce, set.songs.size()); ++i)
        prepare(*set.songs[i]);
}

/// Reads files and folders, and sends songs on as they come: the first at once, others a quarter of a second
/// apart.
class PathReader {
  public:
    using Send = std::function<void(std::vector<Shared<Song>>, int before)>;
    using Prepare = std::function<void(const Song&)>;
    PathReader(Send send, Prepare prepare, std::stop_token stop)
        : m_send(std::move(send)), m_prepare(std::move(prepare)), m_stop(std::move(stop)) {}

    ReadResult read(const QStringList& paths) {
        m_holdsBack = std::any_of(paths.begin(), paths.end(),
                                  [](const QString& path) { return isProject(pathOf(path)); });
        for (const QString& path : paths) readPath(path);
        if (m_result.project)
            m_result.heldBack = std::move(m_read);
        else
            send();
        return std::move(m_result);
    }

  private:
    void readPath(const QString& text) {
        const std::filesystem::path path = pathOf(text);
        std::error_code error;
        if (std::filesystem::is_directory(path, error)) return readFolder(path);
        if (!isProject(path)) return readOne(path);
        m_result.projectMark = markOf(path);
        auto set = openProject(path);
        if (!set) return m_result.errors.push_back(set.error());
        prepareFirst(set.value(), m_prepare);
        m_result.project = std::move(set.value());
        m_result.projectPath = text;
    }

    void readFolder(const std::filesystem::path& folder) {
        const auto files = midiFilesIn(folder, &m_result.errors);
        if (files.empty())
            m_result.errors.push_back({{"error.no-midi-files"}, folder.string(), {"now.midi-endings"}});
        for (const auto& file : files)
            if (!m_stop.stop_requested()) readOne(file);
    }

    void readOne(const std::filesystem::path& path) {
        auto song = openSong(path);
        if (!song) return m_result.errors.push_back(song.error());
        m_read.emplace_back(m_tidies ? edits::tidy(std::move(song.value())) : std::move(song.value()));
        if (m_result.songs + static_cast<int>(m_read.size()) <= shownAtOnce) m_prepare(*m_read.back());
        constexpr qint64 pause = 250; // milliseconds
        if (m_holdsBack) return;
        if (m_result.songs == 0 || m_sent.elapsed() > pause) send();
    }

    void send() {
        if (m_read.empty()) return;
        const int before = m_result.songs;
        m_result.songs += static_cast<int>(m_read.size());
        m_send(std::exchange(m_read, {}), before);
        m_sent.start();
    }

    Send m_send;
    Prepare m_prepare;
    std::stop_token m_stop;
    ReadResult m_result;
    std::vector<Shared<Song>> m_read; ///< not sent yet
    QElapsedTimer m_sent;
    bool m_holdsBack = false;
    bool m_tidies = settings::tidiesOnOpening();
};

QString listOf(const std::vector<Error>& errors) {
    QStringList lines;
    for (const Error& error : errors)
        if (lines.size() < 12) lines << QString::fromStdString(error.message());
    if (errors.size() > 12) lines << QObject::tr("… and %1 more.").arg(errors.size() - 12);
    return lines.join(QStringLiteral("\n\n"));
}

/// The song of `set` that is the same file as `song`, 0-based; −1 for none.
int indexOf(const SongSet& set, const Song& song) {
    for (std::size_t i = 0; i < set.songs.size(); ++i)
        if (set.songs[i]->source == song.source) return static_cast<int>(i);
    return -1;
}

/// The one song in which two sets differ; −1 when it is not one alone.
int onlyChanged(const SongSet& before, const SongSet& after) {
    if (before.songs.size() != after.songs.size()) return -1;
    int changed = -1;
    for (std::size_t i = 0; i < after.songs.size(); ++i) {
        if (before.songs[i].sameAs(after.songs[i]) || before.songs[i] == after.songs[i]) continue;
        if (changed >= 0) return -1;
        changed = static_cast<int>(i);
    }
    return changed;
}

bool sameTitles(const SongSet& before, const SongSet& after) {
    return std::equal(before.songs.begin(), before.songs.end(), after.songs.begin(), after.songs.end(),
                      [](const Shared<Song>& a, const Shared<Song>& b) {
                          return a.sameAs(b) || (a->source == b->source && a->title == b->title);
                      });
}

} // namespace

CurrentSet::CurrentSet(Messages& messages) : m_messages(messages) {
    m_files.setMaxThreadCount(1);
    m_gesturePause.setSingleShot(true);
    m_gesturePause.setInterval(1500);
    connect(&m_gesturePause, &QTimer::timeout, this, &CurrentSet::endGesture);
}

CurrentSet::~CurrentSet() {
    stop();
    m_files.waitForDone();
}

void CurrentSet::stop() { m_stop.request_stop(); }
bool CurrentSet::waitForDone(int milliseconds) { return m_files.waitForDone(milliseconds); }

const Song& CurrentSet::song() const { return *set().songs[static_cast<std::size_t>(m_song)]; }
const Part* CurrentSet::part() const { return hasSong() ? song().part(m_part) : nullptr; }

QString CurrentSet::undoName() const {
    return canUndo() ? QString::fromStdString(m_history.undoName()) : QString();
}
QString CurrentSet::redoName() const {
    return canRedo() ? QString::fromStdString(m_history.redoName()) : QString();
}

void CurrentSet::showSong(int index) {
    if (index < 0 || index >= static_cast<int>(set().songs.size()) || index == m_song) return;
    show(index, allSides);
    Q_EMIT songsChanged();
}

void CurrentSet::setWorking(int by) {
    m_working += by;
    Q_EMIT busyChanged();
}

void CurrentSet::addPaths(const QStringList& paths) {
    if (paths.isEmpty()) return;
    setWorking(1);
    const QString gesture = QStringLiteral("reading %1").arg(++m_readings);
    const auto send = [guard = QPointer(this), gesture](std::vector<Shared<Song>> songs, int before) {
        QMetaObject::invokeMethod(qApp, [guard, gesture, before, songs = std::move(songs)]() mutable {
            if (guard) guard->takeSongs(std::move(songs), before, gesture);
        });
    };
    runJob(
        this, &m_files,
        [paths, send, prepare = preparing(), stop = m_stop.get_token()] {
            return PathReader(send, prepare, stop).read(paths);
        },
        [this](Result<ReadResult> read) {
            setWorking(-1);
            endGesture();
            if (read)
                takeRead(std::move(read.value()));
            else
                Q_EMIT m_messages.problem(tr("Some files could not be opened"),
                                          QString::fromStdString(read.error().message()));
        });
}

/// Songs of one reading; `before` came earlier.
void CurrentSet::takeSongs(std::vector<Shared<Song>> songs, int before, const QString& gesture) {
    SongSet next = set();
    const int first = static_cast<int>(next.songs.size()), count = before + static_cast<int>(songs.size());
    std::move(songs.begin(), songs.end(), std::back_inserter(next.songs));
    changeSet(count == 1 ? tr("Add a song") : tr("Add %1 songs").arg(count), std::move(next), gesture);
    if (before == 0) showSong(first);
}

void CurrentSet::takeRead(ReadResult result) {
    if (!result.errors.empty())
        Q_EMIT m_messages.problem(tr("Some files could not be opened"), listOf(result.errors));
    if (result.project) {
        auto set = std::make_shared<SongSet>(std::move(*std::exchange(result.project, std::nullopt)));
        mayReplace([this, set, path = result.projectPath, mark = result.projectMark,
                    songs = std::move(result.heldBack)] {
            replaceSet(History(*set), path, mark);
            if (!songs.empty()) takeSongs(songs, 0, {});
        });
    }
    if (result.songs > 0)
        Q_EMIT m_messages.announced(result.songs == 1 ? tr("One song added")
                                                      : tr("%1 songs added").arg(result.songs));
}

namespace {

/// Indexes of songs that are there, ascending, each once.
std::vector<int> thereOf(std::vector<int> songs, std::size_t count) {
    std::sort(songs.begin(), songs.end());
    songs.erase(std::unique(songs.begin(), songs.end()), songs.end());
    std::erase_if(songs, [&](int i) { return i < 0 || i >= static_cast<int>(count); });
    return songs;
}

} // namespace

void CurrentSet::removeSongs(std::vector<int> songs) {
    songs = thereOf(std::move(songs), set().songs.size());
    if (songs.empty()) return;
    SongSet next = set();
    for (auto at = songs.rbegin(); at != songs.rend(); ++at) next.songs.erase(next.songs.begin() + *at);
    changeSet(songs.size() == 1 ? tr("Remove a song") : tr("Remove %1 songs").arg(songs.size()),
              std::move(next));
}

void CurrentSet::moveSongs(std::vector<int> songs, int before) {
    songs = thereOf(std::move(songs), set().songs.size());
    if (songs.empty()) return;
    SongSet next = set();
    std::vector<Shared<Song>> moved, rest;
    std::size_t place = 0; // among the rest
    for (int i = 0; i < static_cast<int>(set().songs.size()); ++i) {
        const bool moves = std::binary_search(songs.begin(), songs.end(), i);
        if (!moves && i < before) ++place;
        (moves ? moved : rest).push_back(set().songs[static_cast<std::size_t>(i)]);
    }
    rest.insert(rest.begin() + static_cast<std::ptrdiff_t>(place), moved.begin(), moved.end());
    next.songs = std::move(rest);
    changeSet(songs.size() == 1 ? tr("Move a song") : tr("Move %1 songs").arg(songs.size()), std::move(next));
}

void CurrentSet::edit(const QString& name, const std::function<Song(const Song&)>& change,
                      const QString& gesture) {
    if (!hasSong()) return;
    SongSet next = set();
    next.songs[static_cast<std::size_t>(m_song)] = Shared(change(song()));
    changeSet(name, std::move(next), gesture);
}

void CurrentSet::changeSet(const QString& name, SongSet next, const QString& gesture) {
    if (next == set()) return;
    const SongSet before = set();
    m_history.push(std::move(next), name.toStdString(), gesture.toStdString());
    if (!gesture.isEmpty()) m_gesturePause.start();
    afterChange(before, false);
}

void CurrentSet::endGesture() {
    if (isBusy()) return; // what is read is one step
    m_gesturePause.stop();
    m_history.endGesture();
}

void CurrentSet::undo() {
    if (!canUndo()) return;
    const QString name = undoName();
    const SongSet before = set();
    m_history.undo();
    afterChange(before, true);
    Q_EMIT m_messages.announced(tr("Undone: %1").arg(name));
}

void CurrentSet::redo() {
    if (!canRedo()) return;
    const SongSet before = set();
    m_history.redo();
    afterChange(before, true);
    Q_EMIT m_messages.announced(tr("Redone: %1").arg(undoName()));
}

/// Keeps the song that was shown, or shows the one that changed; tells what is another now.
void CurrentSet::afterChange(const SongSet& before, bool showChanged) {
    const bool had = m_song >= 0;
    const Shared<Song> was = had ? before.songs[static_cast<std::size_t>(m_song)] : Shared<Song>();
    const int count = static_cast<int>(set().songs.size());
    int index = had ? indexOf(set(), *was) : -1;
    if (const int changed = showChanged ? onlyChanged(before, set()) : -1; changed >= 0) index = changed;
    if (index < 0) index = std::min(std::max(m_song, 0), count - 1);
    const bool same =
        had && index >= 0 && set().songs[static_cast<std::size_t>(index)]->source == was->source;
    const bool otherIndex = std::exchange(m_song, index) != index;
    const Sides sides = same ? differenceOf(*was, song()) : (had || index >= 0 ? allSides : Sides());
    Q_EMIT historyChanged();
    if (sides.any()) show(m_song, sides);
    if (otherIndex || !sameTitles(before, set())) Q_EMIT songsChanged();
}

void CurrentSet::show(int index, Sides sides) {
    m_song = index;
    const PartId wanted = sides != allSides && part()
                              ? m_part
                              : (hasSong() && !song().parts.empty() ? song().parts.front().id : 0);
    const bool other = std::exchange(m_part, wanted) != wanted;
    Q_EMIT songChanged(sides);
    if (other) Q_EMIT selectionChanged();
}

void CurrentSet::setPart(PartId part) {
    if (std::exchange(m_part, part) != part) Q_EMIT selectionChanged();
}

void CurrentSet::selectPart(PartId part) {
    if (hasSong() && song().part(part)) setPart(part);
}

std::uint64_t CurrentSet::digestOf(const std::shared_ptr<const SourceFile>& file) const {
    if (m_digested.first != file) m_digested = {file, fileDigest(*file)};
    return m_digested.second;
}

std::optional<Measured> CurrentSet::loudnessOf(const Song& song) const {
    if (m_loudness.empty()) return std::nullopt;
    const auto at = m_loudness.find(digestOf(song.source));
    return at == m_loudness.end() ? std::nullopt : std::optional(at->second);
}

void CurrentSet::keepLoudness(const std::shared_ptr<const SourceFile>& file, const Measured& measured) {
    m_loudness[digestOf(file)] = measured;
}

std::optional<std::set<std::string>> CurrentSet::ticksOf(const Song& song) const {
    if (m_ticks.empty()) return std::nullopt;
    const auto at = m_ticks.find(digestOf(song.source));
    return at == m_ticks.end() ? std::nullopt : std::optional(at->second);
}

void CurrentSet::keepTicks(const Song& song, std::set<std::string> ticked) {
    m_ticks[digestOf(song.source)] = std::move(ticked);
}

CurrentSet::Remember CurrentSet::remembering() const {
    return [known = m_loudness, ticks = m_ticks, sounds = rememberSounds()](SongSet set) {
        set.loudness.clear();
        set.ticks.clear();
        for (const auto& song : set.songs) {
            if (known.empty() && ticks.empty()) break;
            const std::uint64_t file = fileDigest(*song->source);
            if (const auto at = known.find(file); at != known.end())
                set.loudness.push_back({file, at->second.lufs, at->second.peakDb});
            if (const auto at = ticks.find(file); at != ticks.end()) set.ticks.push_back({file, at->second});
        }
        return sounds(std::move(set));
    };
}

void CurrentSet::save(const QString& path, std::function<void(bool)> then, Saving saving) {
    setWorking(1);
    const SongSet saved = set();
    struct End {
        bool changed = false; ///< by another program; nothing was written
        FileMark mark;
    };
    const FileMark before = saving == Saving::Asking && path == m_projectPath ? m_projectMark : FileMark{};
    runJob(
        this, &m_files,
        [saved, remember = remembering(), path = pathOf(path), before]() -> Result<End> {
            if (hasChanged(path, before)) return End{true, {}};
            if (auto done = saveKeepingEarlier(remember(saved), path, stateFolder()); !done)
                return done.error();
            return End{false, markOf(path)};
        },
        [this, saved, path, then = std::move(then)](const Result<End>& end) {
            setWorking(-1);
            if (end && end.value().changed) return askAboutChanged(path, then);
            if (end) {
                m_projectPath = path;
                m_projectMark = end.value().mark;
                m_history.markClean(saved);
                settings::addRecent(path);
                Q_EMIT historyChanged();
                Q_EMIT m_messages.announced(tr("Saved"));
            } else {
                Q_EMIT m_messages.problem(tr("The set was not saved"),
                                          QString::fromStdString(end.error().message()));
            }
            if (then) then(end.ok());
        });
}

/// Reads a set's file beside the interface; `then` gets it, unless it could not be read.
void CurrentSet::readSet(const QString& file, std::function<void(SongSet, const FileMark&)> then) {
    setWorking(1);
    struct Read {
        SongSet set;
        FileMark mark;
    };
    runJob(
        this, &m_files,
        [path = pathOf(file), prepare = preparing()]() -> Result<Read> {
            const FileMark mark = markOf(path);
            auto set = openProject(path);
            if (!set) return set.error();
            prepareFirst(set.value(), prepare);
            return Read{std::move(set.value()), mark};
        },
        [this, then = std::move(then)](Result<Read> read) {
            setWorking(-1);
            if (read) return then(std::move(read.value().set), read.value().mark);
            Q_EMIT m_messages.problem(tr("The set was not opened"),
                                      QString::fromStdString(read.error().message()));
        });
}

void CurrentSet::open(const QString& path) {
    readSet(path, [this, path](SongSet set, const FileMark& mark) {
        mayReplace([this, set = std::move(set), path, mark] { replaceSet(History(set), path, mark); });
    });
}

void CurrentSet::reload() {
    if (m_projectPath.isEmpty()) return;
    readSet(m_projectPath, [this, path = m_projectPath](const SongSet& set, const FileMark& mark) {
        if (path != m_projectPath) return; // another set was opened meanwhile
        changeSet(tr("Reload the set"), set);
        m_history.markClean(set);
        m_projectMark = mark;
        Q_EMIT historyChanged();
        Q_EMIT m_messages.announced(tr("The set was read anew"));
    });
}

void CurrentSet::openEarlier(const QString& file, const QString& path) {
    readSet(file, [this, path](SongSet set, const FileMark&) {
        mayReplace([this, set = std::move(set), path] { takeRecovered(set, path, markOf(pathOf(path))); });
    });
}

void CurrentSet::newSet() {
    mayReplace([this] { replaceSet(History<SongSet>(), {}, {}); });
}

void CurrentSet::takeRecovered(SongSet set, const QString& path, const FileMark& mark) {
    History<SongSet> history(std::move(set));
    history.markUnsaved();
    replaceSet(std::move(history), path, mark);
}

QStringList CurrentSet::unsavedChanges(int most) const {
    QStringList names;
    for (const std::string& name : m_history.namesSinceClean(static_cast<std::size_t>(most)))
        names << QString::fromStdString(name);
    return names;
}

void CurrentSet::replaceSet(History<SongSet> history, const QString& path, const FileMark& mark) {
    m_history = std::move(history);
    m_projectPath = path;
    m_projectMark = mark;
    if (!path.isEmpty()) settings::addRecent(path);
    m_song = set().songs.empty() ? -1 : 0; // before anybody looks
    m_loudness.clear();
    m_ticks.clear();
    for (const SongTicks& song : set().ticks) m_ticks[song.file] = song.ticked;
    Q_EMIT setReplaced();
    for (const SongLoudness& song : set().loudness) m_loudness[song.file] = {0, song.peakDb, song.lufs};
    Q_EMIT historyChanged();
    show(m_song, allSides);
    Q_EMIT songsChanged();
}

void CurrentSet::split(const QString& name, const std::function<Split(const Song&, const Part&)>& way) {
    const Part* whole = part();
    if (!whole) return;
    const Split split = way(song(), *whole);
    const QString called = QString::fromStdString(whole->name);
    if (split.used() < 2) {
        Q_EMIT m_messages.problem(
            tr("Nothing to split"),
            tr("Splitting %1 this way would leave everything in one part.").arg(called));
        return;
    }
    edit(name, [id = whole->id, &split](const Song& s) { return edits::split(s, id, split); });
    Q_EMIT m_messages.announced(tr("%1 is now %2 parts").arg(called).arg(split.used()));
}

void CurrentSet::tracksToSongs() {
    if (!hasSong()) return;
    auto songs = songsOfTracks(song());
    if (songs.empty()) {
        Q_EMIT m_messages.problem(tr("Nothing to separate"),
                                  tr("Only type 2 MIDI files hold a separate song on each track."));
        return;
    }
    SongSet next = set();
    const auto at = next.songs.erase(next.songs.begin() + m_song);
    const auto count = songs.size();
    std::vector<Shared<Song>> shared;
    shared.reserve(songs.size());
    for (Song& song : songs) shared.emplace_back(std::move(song));
    next.songs.insert(at, shared.begin(), shared.end());
    changeSet(tr("Each track a song"), std::move(next));
    Q_EMIT m_messages.announced(tr("%1 songs").arg(count));
}

} // namespace cobbleway
