#include "app/session/session.h"

#include "app/session/jobs.h"
#include "app/session/settings.h"
#include "files/pluginscan.h"
#include "files/shipped.h"
#include "files/songfile.h"
#include "song/edits.h"
#include "song/levels.h"
#include "sound/midisink.h"
#include "sound/otherfonts.h"

#include <QFileInfo>
#include <algorithm>
#include <utility>

namespace cobbleway {

struct Session::CachedSnags {
    Shared<Song> song;
    std::vector<Snag> snags;
};

struct Session::CachedLine {
    Part part;
    int keyShift = 0;
    std::shared_ptr<const SourceFile> source;
    std::vector<Tick> trackStarts;
    Tick end = 0;
    Shared<std::vector<MadeEvent>> made;
    Line line;
    std::optional<Digest> digest;
    std::uint64_t stamp = 0;
    [[nodiscard]] bool isOf(const Song& song, const Part& wanted) const {
        return source == song.source && keyShift == song.keyShift && end == song.end &&
               trackStarts == song.trackStarts && made == song.made && part == wanted;
    }
};

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

/// Damaged fonts are tried in a program of their own before this one loads them.
void setDamagedAside(Catalogue& catalogue, std::vector<FontProblem>& problems) {
    for (const FontPtr& font : std::vector<FontPtr>(catalogue.fonts())) {
        if (font->damage.empty() || font->id == houseFontId) continue;
        const auto tried = tryFont(pluginHelper(), font->path);
        if (tried) continue;
        problems.push_back({font->path, tried.error()});
        catalogue = catalogue.without(font->id);
    }
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
    m_matches = hasSong() ? matchSong(song(), m_catalogue) : std::vector<PartMatch>{};
    m_snags = hasSong() ? findSnags({song(), m_catalogue, m_matches}) : std::vector<Snag>{};
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
    const auto at = std::find_if(m_matches.begin(), m_matches.end(),
                                 [part](const PartMatch& m) { return m.part == part; });
    return at == m_matches.end() ? nullptr : &*at;
}

const std::vector<Snag>& Session::snagsOf(int index) const {
    if (index == m_song) return m_snags;
    const Shared<Song>& wanted = set().songs[static_cast<std::size_t>(index)];
    for (const auto& cached : m_setSnags)
        if (cached->song.sameAs(wanted)) return cached->snags;
    if (m_setSnags.size() > 2 * set().songs.size() + 8) m_setSnags.clear();
    m_setSnags.push_back(std::make_shared<CachedSnags>(
        CachedSnags{wanted, findSnags({*wanted, m_catalogue, matchSong(*wanted, m_catalogue)})}));
    return m_setSnags.back()->snags;
}

Session::CachedLine& Session::cached(const Part& part) const {
    const auto at =
        std::find_if(m_lines.begin(), m_lines.end(), [&](const auto& c) { return c->part.id == part.id; });
    if (at != m_lines.end() && (*at)->isOf(song(), part)) return **at;
    auto fresh = std::make_shared<CachedLine>(CachedLine{part,
                                                         song().keyShift,
                                                         song().source,
                                                         song().trackStarts,
                                                         song().end,
                                                         song().made,
                                                         realise(song(), part),
                                                         {},
                                                         ++m_stamp});
    if (at == m_lines.end()) return *m_lines.emplace_back(std::move(fresh));
    *at = std::move(fresh);
    return **at;
}

const Line& Session::line(PartId id) const {
    static const Line none;
    const Part* wanted = hasSong() ? song().part(id) : nullptr;
    return wanted ? cached(*wanted).line : none;
}

const Session::Digest& Session::digest(PartId id) const {
    static const Digest none;
    const Part* wanted = hasSong() ? song().part(id) : nullptr;
    if (!wanted) return none;
    CachedLine& kept = cached(*wanted);
    if (kept.digest) return *kept.digest;
    Digest digest{Overview(kept.line), {}, originsOf(song(), *wanted), kept.stamp};
    if (volumeMoves(song(), *wanted))
        for (const Event& event : kept.line.events)
            if (event.isController(cc::volume)) digest.volume.push_back({event.tick, event.data2});
    kept.digest = std::move(digest);
    return *kept.digest;
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

void Session::deriveCatalogue() {
    m_derivedOrder = set().fontOrder;
    m_derivedFonts = set().fonts;
    m_catalogue = m_found;
    for (const std::string& id : m_unplayable) m_catalogue = m_catalogue.without(id);
    std::vector<std::string> mine;
    for (const QString& id : m_mine) mine.push_back(id.toStdString());
    m_catalogue = m_catalogue.withMoved(set().fonts).withOrder(mine).withOrder(set().fontOrder);
    m_setSnags.clear();
}

void Session::setCatalogue(Catalogue catalogue) {
    m_found = std::move(catalogue);
    m_unplayable.clear();
    m_loadAhead = true;
    deriveCatalogue();
    refreshTrial();
    refresh();
    Q_EMIT catalogueChanged();
    Q_EMIT setChanged();
}

void Session::rescanFonts() {
    FontFolders where = defaultFontFolders();
    for (const QString& folder : m_fontFolders) where.folders.emplace_back(folder.toStdString());
    struct Found {
        Catalogue catalogue;
        std::vector<FontProblem> problems;
    };
    runJob(
        this, &m_reader,
        [where, scanner = m_fontScanner] {
            Found found;
            found.catalogue = scanner->scan(where, {}, &found.problems).withPorts(midiOutputs());
            setDamagedAside(found.catalogue, found.problems);
            return found;
        },
        [this](Found found) {
            watchFolders();
            setCatalogue(found.catalogue.withPlugins(m_found.plugins(), m_found.setAside()));
            QStringList news; // a font that cannot be read is told once
            for (const FontProblem& problem : found.problems) {
                const QString text = QString::fromStdString(problem.error.message());
                if (!m_toldProblems.contains(text)) news << text;
            }
            m_toldProblems << news;
            if (!news.isEmpty())
                Q_EMIT problem(tr("Some soundfonts cannot be used"), news.join(QStringLiteral("\n\n")));
        });
}

void Session::watchFolders() {
    QStringList folders = m_fontFolders;
    for (const auto& folder : defaultFontFolders().folders)
        folders << QString::fromStdString(folder.string());
    for (const QString& folder : folders)
        if (QFileInfo(folder).isDir() && !m_watcher.directories().contains(folder)) m_watcher.addPath(folder);
}

void Session::rescanPlugins() {
    m_scanStop.request_stop();
    m_scanStop = {};
    PluginScanOptions options;
    options.helper = pluginHelper();
    options.bundle = shippedPlugins();
    options.cache = pluginCache();
    options.stop = m_scanStop.get_token();
    QPointer<Session> self(this);
    options.trying = [self](const std::string& name) {
        QMetaObject::invokeMethod(qApp, [self, name] {
            if (!self) return;
            self->m_pluginTried = QString::fromStdString(name);
            Q_EMIT self->pluginsChanged();
        });
    };
    runJob(
        this, &m_scanner, [options] { return scanPlugins(options); },
        [this, stop = m_scanStop.get_token()](PluginScan scan) {
            m_pluginTried.clear();
            if (!stop.stop_requested())
                setCatalogue(m_found.withPlugins(std::move(scan.usable), std::move(scan.setAside)));
            Q_EMIT pluginsChanged();
        });
}

QStringList Session::fontOrder(Scope scope) const {
    QStringList ids;
    if (scope == Scope::Mine) return m_mine;
    if (scope == Scope::Song && !hasSong()) return ids;
    for (const std::string& id : scope == Scope::Set ? set().fontOrder : song().fontOrder)
        ids << QString::fromStdString(id);
    return ids;
}

void Session::setFontOrder(Scope scope, const QStringList& ids) {
    std::vector<std::string> order;
    for (const QString& id : ids) order.push_back(id.toStdString());
    if (scope == Scope::Song) {
        edit(tr("Order of fonts of the song"), [&](const Song& s) { return edits::setFontOrder(s, order); });
    } else if (scope == Scope::Set) {
        SongSet next = set();
        next.fontOrder = order;
        changeSet(tr("Order of fonts of the set"), std::move(next));
    } else {
        m_mine = ids;
        settings::setFontOrder(ids);
        deriveCatalogue();
        refresh();
        Q_EMIT catalogueChanged();
        Q_EMIT setChanged();
    }
    const SoundFont* font =
        hasSong() ? catalogueFor(song(), m_catalogue).defaultFont() : m_catalogue.defaultFont();
    if (font) Q_EMIT announced(tr("%1 serves first now").arg(QString::fromStdString(font->name)));
}

void Session::addFontFolder(const QString& folder) {
    if (m_fontFolders.contains(folder)) return;
    m_fontFolders << folder;
    settings::setFontFolders(m_fontFolders);
    rescanFonts();
}

void Session::removeFontFolder(const QString& folder) {
    if (!m_fontFolders.removeOne(folder)) return;
    settings::setFontFolders(m_fontFolders);
    m_watcher.removePath(folder);
    rescanFonts();
}

/// What is heard in place of the song: with the sound that is tried, with the font that is compared.
void Session::refreshTrial() {
    m_trial.reset();
    if (!hasSong() || (!m_tried && !m_comparing)) return;
    Song heard = song();
    if (const SoundFont* other = m_comparing ? compareFont() : nullptr) {
        std::vector<std::string> order = {other->id};
        for (const SoundFont* font : catalogueFor(heard, m_catalogue).order()) order.push_back(font->id);
        heard = edits::setFontOrder(std::move(heard), order);
    }
    if (m_tried) {
        heard = edits::chooseSound(std::move(heard), m_part, *m_tried);
        if (m_triesAlone) heard = edits::onlyPart(std::move(heard), m_part);
    }
    m_trial = std::move(heard);
}

void Session::trySound(const SoundRef& sound) {
    if (!part()) return;
    m_tried = sound;
    refreshTrial();
    updatePlan();
    Q_EMIT triedChanged();
}

void Session::keepTriedFor(const std::vector<PartId>& parts) {
    if (!m_tried || parts.empty()) return;
    const SoundRef sound = *m_tried;
    const Part* first = song().part(parts.front());
    const QString name =
        parts.size() > 1 || !first ? tr("%1 parts").arg(parts.size()) : QString::fromStdString(first->name);
    m_tried.reset();
    refreshTrial();
    edit(tr("Use %1 for %2").arg(QString::fromStdString(sound.name), name),
         [&](const Song& song) { return edits::chooseSounds(song, parts, sound); });
    updatePlan(); // also when nothing has changed: what was tried is heard no more
    Q_EMIT triedChanged();
    Q_EMIT announced(tr("%1 plays %2 now").arg(QString::fromStdString(sound.name), name));
}

void Session::dropTried() {
    if (!m_tried) return;
    m_tried.reset();
    refreshTrial();
    updatePlan();
    Q_EMIT triedChanged();
}

void Session::setTriesAlone(bool alone) {
    m_triesAlone = alone;
    refreshTrial();
    updatePlan();
    Q_EMIT triedChanged();
}

const SoundFont* Session::compareFont() const {
    const Catalogue catalogue = hasSong() ? catalogueFor(song(), m_catalogue) : m_catalogue;
    const auto order = catalogue.order();
    if (order.empty()) return nullptr;
    const SoundFont* wanted = catalogue.font(m_compareWith);
    if (wanted && wanted != order.front()) return wanted;
    if (order.size() > 1) return order[1];
    for (const FontPtr& font : catalogue.fonts())
        if (font.get() != order.front()) return font.get();
    return nullptr;
}

const SoundFont* Session::comparedFont() const { return m_comparing ? compareFont() : nullptr; }

void Session::toggleCompare() {
    if (!hasSong()) return;
    const SoundFont* other = compareFont();
    if (!other) {
        Q_EMIT problem(tr("There is one soundfont only"),
                       tr("Add a folder with another under Fonts and instruments, to compare the two."));
        return;
    }
    m_comparing = !m_comparing;
    refreshTrial();
    updatePlan();
    Q_EMIT comparedChanged();
    const SoundFont* heard = m_comparing ? other : catalogueFor(song(), m_catalogue).defaultFont();
    Q_EMIT announced(tr("Heard with %1").arg(QString::fromStdString(heard->name)));
}

void Session::askPreset(const QString& uri, const QString& preset, std::function<void(PluginSettings)> take) {
    runJob(
        this, &m_planner,
        [uri = uri.toStdString(), preset = preset.toStdString(), bank = m_bank] {
            PluginSettings wanted;
            wanted.preset = preset;
            const auto unit = bank->plugins().load(uri, wanted, liveRate, true);
            return unit ? unit.value()->settings() : PluginSettings{};
        },
        std::move(take));
}

void Session::askFace(const QString& uri, std::function<void(PluginFace)> take) {
    runJob(
        this, &m_planner,
        [uri = uri.toStdString(), bank = m_bank] {
            return PluginFace{bank->plugins().controls(uri), bank->plugins().presets(uri)};
        },
        std::move(take));
}

void Session::bringToLevel() {
    if (!hasSong() || m_measuring) return;
    m_measuring = true;
    m_measureStop = {};
    Q_EMIT measuringChanged();
    runJob(
        this, &m_scanner,
        [song = song(), catalogue = m_catalogue, stop = m_measureStop.get_token()] {
            return measureSong(song, catalogue, stop);
        },
        [this, stop = m_measureStop.get_token(),
         of = set().songs[static_cast<std::size_t>(m_song)]](const Measured& measured) {
            m_measuring = false;
            Q_EMIT measuringChanged();
            if (stop.stop_requested() || !hasSong() || song().source != of->source) return;
            m_measuredLoudness = measured;
            m_measuredSong = edits::setMasterLevel(*of, 0);
            const double gain = gainToLevel(measured);
            edit(tr("Bring to level"), [gain](const Song& s) { return edits::setMasterLevel(s, gain); });
            Q_EMIT announced(tr("The song measures %1 LUFS; the whole mix is set to %2 dB")
                                 .arg(measured.lufs, 0, 'f', 1)
                                 .arg(gain, 0, 'f', 1));
        });
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
        [heard, any, catalogue = m_catalogue, bank = m_bank, before = m_plan]() -> std::shared_ptr<Plan> {
            if (!any) return std::make_shared<Plan>(1, liveRate);
            return makePlan(heard, catalogue, matchSong(heard, catalogue), *bank, before.get());
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
