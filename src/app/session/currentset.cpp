#include "app/session/currentset.h"

#include "app/session/messages.h"
#include "app/session/settings.h"

#include <algorithm>
#include <utility>

namespace cobbleway {

namespace {

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
    m_gesturePause.setSingleShot(true);
    m_gesturePause.setInterval(1500);
    connect(&m_gesturePause, &QTimer::timeout, this, &CurrentSet::endGesture);
}

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

/// Songs of one reading; `before` came earlier.
void CurrentSet::addSongs(std::vector<Shared<Song>> songs, int before, const QString& gesture) {
    SongSet next = set();
    const int first = static_cast<int>(next.songs.size()), count = before + static_cast<int>(songs.size());
    std::move(songs.begin(), songs.end(), std::back_inserter(next.songs));
    changeSet(count == 1 ? tr("Add a song") : tr("Add %1 songs").arg(count), std::move(next), gesture);
    if (before == 0) showSong(first);
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
    if (m_held > 0) return;
    m_gesturePause.stop();
    m_history.endGesture();
}

void CurrentSet::holdStep(bool held) {
    m_held += held ? 1 : -1;
    if (m_held == 0) endGesture();
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

void CurrentSet::markSaved(const SongSet& saved, const QString& path, const FileMark& mark) {
    m_projectPath = path;
    m_projectMark = mark;
    m_history.markClean(saved);
    settings::addRecent(path);
    Q_EMIT historyChanged();
}

void CurrentSet::takeRecovered(SongSet set, const QString& path, const FileMark& mark) {
    History<SongSet> history(std::move(set));
    history.markUnsaved();
    replace(std::move(history), path, mark);
}

QStringList CurrentSet::unsavedChanges(int most) const {
    QStringList names;
    for (const std::string& name : m_history.namesSinceClean(static_cast<std::size_t>(most)))
        names << QString::fromStdString(name);
    return names;
}

void CurrentSet::replace(History<SongSet> history, const QString& path, const FileMark& mark) {
    m_history = std::move(history);
    m_projectPath = path;
    m_projectMark = mark;
    if (!path.isEmpty()) settings::addRecent(path);
    m_song = set().songs.empty() ? -1 : 0; // before anybody looks
    m_notes = SongNotes(set());
    Q_EMIT setReplaced();
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
