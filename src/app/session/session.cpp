#include "app/session/session.h"

#include "app/session/jobs.h"
#include "app/session/settings.h"
#include "files/shipped.h"
#include "files/songfile.h"
#include "song/edits.h"
#include "song/levels.h"
#include "sound/otherfonts.h"

#include <QFileInfo>
#include <algorithm>
#include <utility>

namespace cobbleway {

/// What reading files gave.
struct ReadResult {
    std::vector<Shared<Song>> songs;
    std::vector<Error> errors;
    std::optional<SongSet> project;
    QString projectPath;
};

namespace {

ReadResult readPaths(const QStringList& paths) {
    ReadResult result;
    const auto readOne = [&](const std::filesystem::path& path) {
        auto song = openSong(path);
        if (song)
            result.songs.emplace_back(std::move(song.value()));
        else
            result.errors.push_back(song.error());
    };
    for (const QString& text : paths) {
        const std::filesystem::path path(text.toStdString());
        std::error_code error;
        if (std::filesystem::is_directory(path, error)) {
            const auto files = midiFilesIn(path);
            if (files.empty())
                result.errors.push_back({"There is no MIDI file in this folder.", path.string(),
                                         "Files end in .mid, .midi, .kar or .rmi."});
            for (const auto& file : files) readOne(file);
        } else if (path.extension() == projectEnding) {
            auto set = openProject(path);
            if (set) {
                result.project = std::move(set.value());
                result.projectPath = text;
            } else {
                result.errors.push_back(set.error());
            }
        } else {
            readOne(path);
        }
    }
    return result;
}

QString listOf(const std::vector<Error>& errors) {
    QStringList lines;
    for (const Error& error : errors)
        if (lines.size() < 12) lines << QString::fromStdString(error.message());
    if (errors.size() > 12) lines << QObject::tr("… and %1 more.").arg(errors.size() - 12);
    return lines.join(QStringLiteral("\n\n"));
}

} // namespace

Session::Session(QObject* parent)
    : QObject(parent), m_player(std::make_unique<Player>()),
      m_bank(std::make_shared<InstrumentBank>(
          liveRate, BankOptions{.slotStep = 16, .live = true, .pluginBundle = shippedPlugins()})) {
    m_planner.setMaxThreadCount(1);
    m_reader.setMaxThreadCount(1);
    m_scanner.setMaxThreadCount(1);
    m_fontFolders = settings::fontFolders();
    m_mine = settings::fontOrder();
    m_fontScanner = std::make_shared<FontScanner>(readOtherFont);
    m_watchTimer.setSingleShot(true);
    m_watchTimer.setInterval(400); // files are written in many steps
    connect(&m_watcher, &QFileSystemWatcher::directoryChanged, this, [this] { m_watchTimer.start(); });
    connect(&m_watchTimer, &QTimer::timeout, this, &Session::rescanFonts);
    connect(&m_outputTimer, &QTimer::timeout, this, &Session::checkOutput);
    connect(&m_outputTimer, &QTimer::timeout, this, &Session::checkPlugins);
    m_outputTimer.start(500);
}

Session::~Session() {
    m_scanStop.request_stop();
    m_measureStop.request_stop();
    m_scanner.waitForDone();
    m_planner.waitForDone();
    m_reader.waitForDone();
    m_player.reset(); // before the plan and its instruments go
}

const Song& Session::song() const { return *set().songs[static_cast<std::size_t>(m_song)]; }
const Song& Session::heardSong() const { return m_trial ? *m_trial : song(); }
const Part* Session::part() const { return hasSong() ? song().part(m_part) : nullptr; }
QString Session::undoName() const {
    return canUndo() ? QString::fromStdString(m_history.undoName()) : QString();
}
QString Session::redoName() const {
    return canRedo() ? QString::fromStdString(m_history.redoName()) : QString();
}

void Session::openSong(int index) {
    if (index < 0 || index >= static_cast<int>(set().songs.size()) || index == m_song) return;
    if (isPlaying()) togglePlay();
    m_song = index;
    m_part = 0;
    m_trial.reset();
    m_tried.reset();
    m_comparing = false;
    m_planSong = -1; // its plan is to come
    m_player->seek(0);
    setLoop({});
    refresh();
    Q_EMIT setChanged();
}

void Session::addPaths(const QStringList& paths) {
    if (paths.isEmpty()) return;
    ++m_reading;
    Q_EMIT busyChanged();
    runJob(
        this, &m_reader, [paths] { return readPaths(paths); },
        [this](ReadResult result) { takeRead(std::move(result)); });
}

void Session::takeRead(ReadResult result) {
    --m_reading;
    Q_EMIT busyChanged();
    if (result.project) {
        m_history = History<SongSet>(std::move(*result.project));
        m_projectPath = result.projectPath;
        settings::addRecent(m_projectPath);
        m_song = -1;
        afterChange();
    }
    if (!result.songs.empty()) {
        const bool first = set().songs.empty();
        SongSet next = set();
        const auto count = result.songs.size();
        std::move(result.songs.begin(), result.songs.end(), std::back_inserter(next.songs));
        const int opened = static_cast<int>(next.songs.size() - count);
        changeSet(count == 1 ? tr("Add a song") : tr("Add %1 songs").arg(count), std::move(next));
        if (!first) openSong(opened);
        Q_EMIT announced(count == 1 ? tr("One song added") : tr("%1 songs added").arg(count));
    }
    if (!result.errors.empty()) Q_EMIT problem(tr("Some files gave nothing"), listOf(result.errors));
}

void Session::removeSong(int index) {
    if (index < 0 || index >= static_cast<int>(set().songs.size())) return;
    SongSet next = set();
    next.songs.erase(next.songs.begin() + index);
    if (index < m_song) --m_song;
    changeSet(tr("Remove a song"), std::move(next));
}

void Session::edit(const QString& name, const std::function<Song(const Song&)>& change,
                   const QString& gesture) {
    if (!hasSong()) return;
    SongSet next = set();
    next.songs[static_cast<std::size_t>(m_song)] = Shared(change(song()));
    changeSet(name, std::move(next), gesture);
}

void Session::changeSet(const QString& name, SongSet next, const QString& gesture) {
    if (next == set()) return;
    m_history.push(std::move(next), name.toStdString(), gesture.toStdString());
    afterChange();
}

void Session::undo() {
    if (!canUndo()) return;
    const QString name = undoName();
    m_history.undo();
    afterChange();
    Q_EMIT announced(tr("Undone: %1").arg(name));
}

void Session::redo() {
    if (!canRedo()) return;
    m_history.redo();
    afterChange();
    Q_EMIT announced(tr("Redone: %1").arg(undoName()));
}

void Session::afterChange() {
    m_tried.reset();
    const bool otherFonts = set().fontOrder != m_derivedOrder || set().fonts != m_derivedFonts;
    if (otherFonts) deriveCatalogue();
    const int count = static_cast<int>(set().songs.size());
    const int before = m_song;
    if (m_song < 0 && count > 0) m_song = 0;
    m_song = std::min(m_song, count - 1);
    if (m_song != before) m_planSong = -1;
    refreshTrial();
    refresh();
    if (otherFonts) Q_EMIT catalogueChanged();
    Q_EMIT setChanged();
}

void Session::refresh() {
    m_matches = hasSong() ? m_derived->matches(song(), m_catalogue)
                          : std::make_shared<const std::vector<PartMatch>>();
    m_snags = hasSong() ? m_derived->snags(song(), m_catalogue) : std::make_shared<const std::vector<Snag>>();
    if (hasSong() && !song().part(m_part)) m_part = song().parts.empty() ? 0 : song().parts.front().id;
    updatePlan();
    Q_EMIT songChanged();
    Q_EMIT selectionChanged();
}

bool Session::save(const QString& path) {
    const auto saved = saveProject(rememberFonts(set(), m_catalogue), path.toStdString());
    if (!saved) {
        Q_EMIT problem(tr("The set was not saved"), QString::fromStdString(saved.error().message()));
        return false;
    }
    m_projectPath = path;
    m_history.markClean();
    settings::addRecent(path);
    Q_EMIT setChanged();
    return true;
}

bool Session::open(const QString& path) {
    const auto read = openProject(path.toStdString());
    if (!read) {
        Q_EMIT problem(tr("The set was not opened"), QString::fromStdString(read.error().message()));
        return false;
    }
    ReadResult result;
    result.project = read.value();
    result.projectPath = path;
    ++m_reading;
    takeRead(std::move(result));
    return true;
}

void Session::newSet() {
    if (isPlaying()) togglePlay();
    m_history = History<SongSet>();
    m_projectPath.clear();
    m_song = -1;
    m_part = 0;
    afterChange();
}

void Session::selectPart(PartId part) {
    if (part == m_part || !hasSong() || !song().part(part)) return;
    if (m_tried) dropTried();
    m_part = part;
    m_player->setLivePart(part);
    Q_EMIT selectionChanged();
}

const PartMatch* Session::matchOf(PartId part) const {
    const auto at = std::find_if(m_matches->begin(), m_matches->end(),
                                 [part](const PartMatch& m) { return m.part == part; });
    return at == m_matches->end() ? nullptr : &*at;
}

Derived::Kept<std::vector<Snag>> Session::snagsOf(int index) const {
    return m_derived->snags(*set().songs[static_cast<std::size_t>(index)], m_catalogue);
}

namespace {

/// What `find` gives for a part of a song, or nothing.
template <class T, class Find> Derived::Kept<T> ofPart(const Session& session, PartId id, Find find) {
    const Part* part = session.hasSong() ? session.song().part(id) : nullptr;
    return part ? find(session.song(), *part) : std::make_shared<const T>();
}

} // namespace

Derived::Kept<HeardPart> Session::heard(PartId id) const {
    return ofPart<HeardPart>(*this, id, [&](const Song& s, const Part& p) { return m_derived->heard(s, p); });
}

Derived::Kept<Overview> Session::overview(PartId id) const {
    return ofPart<Overview>(*this, id,
                            [&](const Song& s, const Part& p) { return m_derived->overview(s, p); });
}

Derived::Kept<std::vector<ControlPoint>> Session::volume(PartId id) const {
    return ofPart<std::vector<ControlPoint>>(
        *this, id, [&](const Song& s, const Part& p) { return m_derived->volume(s, p); });
}

Derived::Kept<std::vector<OriginCount>> Session::origins(PartId id) const {
    return ofPart<std::vector<OriginCount>>(
        *this, id, [&](const Song& s, const Part& p) { return m_derived->origins(s, p); });
}

void Session::split(const QString& name, const std::function<Split(const Song&, const Part&)>& way) {
    const Part* whole = part();
    if (!whole) return;
    const Split split = way(song(), *whole);
    const QString called = QString::fromStdString(whole->name);
    if (split.used() < 2) {
        Q_EMIT problem(tr("Nothing to split"), tr("All notes of %1 belong together that way.").arg(called));
        return;
    }
    edit(name, [id = whole->id, &split](const Song& s) { return edits::split(s, id, split); });
    Q_EMIT announced(tr("%1 is now %2 parts").arg(called).arg(split.used()));
}

void Session::tracksToSongs() {
    if (!hasSong()) return;
    auto songs = songsOfTracks(song());
    if (songs.empty()) {
        Q_EMIT problem(tr("One song it is"), tr("Only the tracks of a type 2 file are pieces of their own."));
        return;
    }
    SongSet next = set();
    const auto at = next.songs.erase(next.songs.begin() + m_song);
    const auto count = songs.size();
    std::vector<Shared<Song>> shared;
    shared.reserve(songs.size());
    for (Song& one : songs) shared.emplace_back(std::move(one));
    next.songs.insert(at, shared.begin(), shared.end());
    changeSet(tr("Each track a song"), std::move(next));
    Q_EMIT announced(tr("%1 songs").arg(count));
}

void Session::mendAllSafe() {
    edit(tr("Mend all that are safe"),
         [this](const Song& song) { return cobbleway::mendAllSafe(song, m_catalogue); });
    Q_EMIT announced(tr("Mended all that are safe"));
}

std::optional<Measured> Session::measured() const {
    if (!hasSong() || !m_measuredSong.source) return std::nullopt;
    return edits::setMasterLevel(song(), 0) == m_measuredSong ? std::optional(m_measuredLoudness)
                                                              : std::nullopt;
}

void Session::updatePlan() {
    if (m_plan && hasSong()) applyMix(*m_plan, heardSong()); // levels are heard at once
    m_planWanted = true;
    startPlanJob();
}

void Session::startPlanJob() {
    if (m_planRunning || !m_planWanted) return;
    m_planWanted = false;
    m_planRunning = true;
    const Song heard = hasSong() ? heardSong() : Song{};
    const bool any = hasSong();
    runJob(
        this, &m_planner,
        [heard, any, catalogue = m_catalogue, bank = m_bank, before = m_plan,
         derived = m_derived]() -> std::shared_ptr<Plan> {
            if (!any) return std::make_shared<Plan>(1, liveRate);
            return makePlan(heard, catalogue, *derived->matches(heard, catalogue), *bank, before.get(),
                            derived.get());
        },
        [this, forSong = m_song](std::shared_ptr<Plan> plan) { takePlan(std::move(plan), forSong); });
}

void Session::takePlan(std::shared_ptr<Plan> plan, int forSong) {
    m_planRunning = false;
    m_plan = plan;
    m_planSong = forSong;
    if (hasSong()) applyMix(*plan, heardSong());
    const auto problems = plan->problems;
    const auto unplayable = plan->unplayable;
    m_player->setPlan(std::move(plan));
    if (m_playPending && m_planSong == m_song) {
        m_playPending = false;
        m_player->play();
        Q_EMIT playingChanged();
    }
    QStringList news;
    for (const Error& error : problems)
        if (const QString text = QString::fromStdString(error.message()); !m_toldProblems.contains(text))
            news << text;
    m_toldProblems << news;
    if (!unplayable.empty()) { // all its parts get a stand-in
        m_unplayable.insert(m_unplayable.end(), unplayable.begin(), unplayable.end());
        deriveCatalogue();
        refresh();
        Q_EMIT catalogueChanged();
    }
    if (std::exchange(m_loadAhead, m_loadAhead && !hasSong()) && hasSong()) loadFontsAhead();
    if (m_planWanted)
        startPlanJob();
    else
        Q_EMIT planReady();
    if (!news.isEmpty()) Q_EMIT problem(tr("Not everything can sound"), news.join(QStringLiteral("\n\n")));
}

void Session::loadFontsAhead() {
    // A sound from any font is then heard at once when it is tried. The most that is held is bounded.
    constexpr std::uint64_t mostBytes = 600'000'000;
    std::uint64_t bytes = 0;
    const int slots = hasSong() ? static_cast<int>(song().parts.size()) : 1;
    for (const FontPtr& font : m_catalogue.fonts()) {
        bytes += font->size;
        if (bytes > mostBytes) break;
        m_planner.start([font, slots, bank = m_bank] { (void)bank->instrument(*font, slots); });
    }
}

void Session::togglePlay() {
    if (isPlaying()) {
        m_playPending = false;
        m_player->stop();
    } else if (hasSong()) {
        if (m_planSong == m_song)
            m_player->play();
        else
            m_playPending = true;
    }
    Q_EMIT playingChanged();
    Q_EMIT announced(isPlaying() ? tr("Playing") : tr("Stopped"));
}

void Session::seek(Tick tick) {
    if (hasSong()) m_player->seek(song().tempo->seconds(std::clamp<Tick>(tick, 0, song().end)));
}

void Session::seekSection(int by) {
    if (!hasSong()) return;
    const Tick now = place(),
               grace = song().tempo->quarter(); // just after a start, "previous" means the one before
    Tick to = by > 0 ? song().end : 0;
    for (const Section& section : song().sections) {
        if (by > 0 && section.start > now) to = std::min(to, section.start);
        if (by < 0 && section.start < now - grace) to = std::max(to, section.start);
    }
    seek(to);
}

Tick Session::place() const { return hasSong() ? song().tempo->tickAt(m_player->seconds()) : 0; }

void Session::setLoop(Loop loop) {
    if (loop.end < loop.start) std::swap(loop.start, loop.end);
    if (loop.start == loop.end) loop.on = false;
    if (loop == m_loop) return;
    m_loop = loop;
    if (hasSong() && loop.on)
        m_player->setLoop(song().tempo->seconds(loop.start), song().tempo->seconds(loop.end));
    else
        m_player->setLoop(0, 0);
    Q_EMIT loopChanged();
}

void Session::setPace(int percent) {
    percent = std::clamp(percent, 25, 200);
    if (percent == m_pace) return;
    m_pace = percent;
    m_player->setPace(percent);
    Q_EMIT paceChanged();
}

} // namespace cobbleway
