#include "app/session/sounds.h"

#include "app/session/currentset.h"
#include "app/session/jobs.h"
#include "app/session/messages.h"
#include "app/session/paths.h"
#include "app/session/settings.h"
#include "files/folders.h"
#include "files/fonttrial.h"
#include "files/pluginhost.h"
#include "files/pluginscan.h"
#include "files/samplecache.h"
#include "files/shipped.h"
#include "song/drums/drumedits.h"
#include "song/match/match.h"
#include "song/shape/edits.h"
#include "sound/audiooutput.h"
#include "sound/midisink.h"
#include "sound/otherfonts.h"

#include <QFileInfo>
#include <algorithm>
#include <utility>

namespace cobbleway {
namespace {

const QString fontsSubject = QStringLiteral("fonts"); // of what is noted

FontTrialOptions trialOptions(const std::stop_token& stop) {
    FontTrialOptions options;
    options.helper = pluginHelper();
    options.cache = fontCache();
    options.state = stateFolder();
    options.stop = stop;
    return options;
}

/// The bank for live playing, which notes what it loads.
BankOptions liveOptions() {
    BankOptions options{.slotStep = 16,
                        .live = true,
                        .pluginBundle = shippedPlugins(),
                        .samples = sampleCache(),
                        .makePlugins = pluginProcesses()};
    options.loading = [guard = FontGuard(stateFolder())](const std::filesystem::path& font) {
        font.empty() ? guard.end() : guard.begin(font);
    };
    return options;
}

} // namespace

Sounds::Sounds(CurrentSet& current, Messages& messages)
    : m_current(current), m_messages(messages),
      m_bank(std::make_shared<InstrumentBank>(liveRate, liveOptions())) {
    for (QThreadPool* pool : {&m_loader, &m_reader, &m_scanner}) pool->setMaxThreadCount(1);
    m_fontFolders = settings::fontFolders();
    m_mine = settings::fontOrder();
    m_fontScanner =
        std::make_shared<FontScanner>([stop = m_fontStop.get_token()](const std::filesystem::path& path) {
            return readTriedFont(path, trialOptions(stop));
        });
    m_watchTimer.setSingleShot(true);
    m_watchTimer.setInterval(400); // files are written in many steps
    connect(&m_watcher, &QFileSystemWatcher::directoryChanged, this, [this] { m_watchTimer.start(); });
    connect(&m_watchTimer, &QTimer::timeout, this, &Sounds::rescanFonts);
    connect(&current, &CurrentSet::historyChanged, this, &Sounds::takeSetChange);
    connect(&current, &CurrentSet::songChanged, this,
            [this](Sides sides) { takeSongChange(sides.has(Side::File)); });
    connect(&current, &CurrentSet::selectionChanged, this, &Sounds::dropTried);
}

Sounds::~Sounds() {
    stop();
    waitForDone(-1);
}

void Sounds::stop() {
    m_stop.request_stop();
    m_fontStop.request_stop();
}

bool Sounds::waitForDone(int milliseconds) {
    return m_scanner.waitForDone(milliseconds) && m_reader.waitForDone(milliseconds) &&
           m_loader.waitForDone(milliseconds);
}

void Sounds::derive() {
    m_setOrder = m_current.set().fontOrder;
    m_setFonts = m_current.set().fonts;
    m_catalogue = m_found;
    for (const std::string& id : m_leftOut) m_catalogue = m_catalogue.without(id);
    std::vector<std::string> mine;
    for (const QString& id : m_mine) mine.push_back(id.toStdString());
    m_catalogue = m_catalogue.withMoved(m_setFonts).withOrder(mine).withOrder(m_setOrder);
}

void Sounds::takeSetChange() {
    if (m_current.set().fontOrder == m_setOrder && m_current.set().fonts == m_setFonts) return;
    derive();
    Q_EMIT catalogueChanged();
}

/// What was tried was tried in the song as it was.
void Sounds::takeSongChange(bool another) {
    const bool tried = std::exchange(m_tried, std::nullopt).has_value();
    const bool compared = another && std::exchange(m_comparing, false);
    const bool only = another && !std::exchange(m_only, {}).empty();
    const bool edited = std::exchange(m_edited, nullptr) != nullptr;
    refreshTrial();
    if (edited) Q_EMIT editedChanged();
    if (only) Q_EMIT onlyChanged();
    if (tried) Q_EMIT triedChanged();
    if (compared) Q_EMIT comparedChanged();
}

void Sounds::setCatalogue(Catalogue catalogue) {
    m_found = std::move(catalogue);
    m_leftOut.clear();
    derive();
    refreshTrial();
    Q_EMIT catalogueChanged();
}

void Sounds::leaveOut(const std::vector<std::string>& fonts) {
    m_leftOut.insert(m_leftOut.end(), fonts.begin(), fonts.end());
    derive();
    refreshTrial();
    Q_EMIT catalogueChanged();
}

void Sounds::rescanFonts() {
    FontFolders where = defaultFontFolders();
    for (const QString& place : m_fontFolders)
        (QFileInfo(place).isFile() ? where.files : where.folders).push_back(pathOf(place));
    struct Found {
        Catalogue catalogue;
        std::vector<FontProblem> problems;
    };
    runJob(
        this, &m_reader,
        [where, scanner = m_fontScanner, stop = m_fontStop.get_token()] {
            Found found;
            found.catalogue = scanner->scan(where, {}, &found.problems).withPorts(midiOutputs());
            found.catalogue = withoutUnsafeFonts(found.catalogue, trialOptions(stop), found.problems);
            return found;
        },
        [this](Result<Found> read) {
            if (!read)
                return void(Q_EMIT m_messages.noted(
                    fontsSubject, tr("The soundfonts could not be looked for. %1")
                                      .arg(QString::fromStdString(read.error().message()))));
            const Found& found = read.value();
            watchFolders();
            m_fontProblems = found.problems;
            setCatalogue(found.catalogue.withPlugins(m_found.plugins(), m_found.setAside()));
            tellFontProblems();
            useAdded();
        });
}

/// Each font that cannot be used is told once, in a line; why stands in the list of fonts.
void Sounds::tellFontProblems() {
    QStringList news;
    for (const FontProblem& problem : m_fontProblems)
        if (const QString path = QString::fromStdString(problem.path.string());
            !m_toldProblems.contains(path)) {
            m_toldProblems << path;
            news << QFileInfo(path).fileName();
        }
    if (!news.isEmpty())
        Q_EMIT m_messages.noted(fontsSubject,
                                news.size() == 1 ? tr("The soundfont %1 cannot be used.").arg(news.front())
                                                 : tr("%1 soundfonts cannot be used.").arg(news.size()),
                                QStringLiteral("fonts"));
}

void Sounds::watchFolders() {
    QStringList folders = m_fontFolders;
    for (const auto& folder : defaultFontFolders().folders)
        folders << QString::fromStdString(folder.string());
    for (const QString& folder : folders)
        if (QFileInfo(folder).isDir() && !m_watcher.directories().contains(folder)) m_watcher.addPath(folder);
}

void Sounds::rescanPlugins() {
    m_stop.request_stop();
    m_stop = {};
    PluginScanOptions options;
    options.helper = pluginHelper();
    options.bundle = shippedPlugins();
    options.cache = pluginCache();
    options.stop = m_stop.get_token();
    QPointer<Sounds> self(this);
    options.trying = [self](const std::string& name) {
        QMetaObject::invokeMethod(qApp, [self, name] {
            if (!self) return;
            self->m_pluginTried = QString::fromStdString(name);
            Q_EMIT self->pluginsChanged();
        });
    };
    options.listed = [self, stop = m_stop.get_token()](PluginScan scan) {
        QMetaObject::invokeMethod(qApp, [self, stop, scan = std::move(scan)]() mutable {
            if (self && !stop.stop_requested()) self->takePlugins(std::move(scan));
        });
    };
    runJob(
        this, &m_scanner, [options] { return scanPlugins(options); },
        [this, stop = m_stop.get_token()](Result<PluginScan> scan) {
            m_pluginTried.clear();
            if (scan && !stop.stop_requested()) takePlugins(std::move(scan.value()));
            Q_EMIT pluginsChanged();
        });
}

void Sounds::takePlugins(PluginScan scan) {
    m_confined = scan.confined;
    if (m_found.plugins() != scan.usable || m_found.setAside() != scan.setAside)
        setCatalogue(m_found.withPlugins(std::move(scan.usable), std::move(scan.setAside)));
}

void Sounds::tryPluginAgain(const QString& uri) {
    forgetVerdict(pluginCache(), uri.toStdString());
    rescanPlugins();
}

void Sounds::tryFontAgain(const QString& path) {
    forgetFontVerdict(trialOptions({}), pathOf(path));
    m_toldProblems.removeAll(path);
    rescanFonts();
}

QStringList Sounds::fontOrder(Scope scope) const {
    QStringList ids;
    if (scope == Scope::Mine) return m_mine;
    if (scope == Scope::Song && !m_current.hasSong()) return ids;
    for (const std::string& id : scope == Scope::Set ? m_current.set().fontOrder : m_current.song().fontOrder)
        ids << QString::fromStdString(id);
    return ids;
}

void Sounds::setFontOrder(Scope scope, const QStringList& ids) {
    std::vector<std::string> order;
    for (const QString& id : ids) order.push_back(id.toStdString());
    if (scope == Scope::Song) {
        m_current.edit(tr("Order of fonts of the song"),
                       [&](const Song& s) { return edits::setFontOrder(s, order); });
    } else if (scope == Scope::Set) {
        SongSet next = m_current.set();
        next.fontOrder = order;
        m_current.changeSet(tr("Order of fonts of the set"), std::move(next));
    } else {
        const QStringList kept = settings::fontOrder();
        const bool others = std::exchange(m_mine, kept) != kept; // another window has changed it since
        if (!others) m_mine = ids;
        if (!others) settings::setFontOrder(ids);
        if (others)
            Q_EMIT m_messages.noted(
                QStringLiteral("font order"),
                tr("Another window has changed your order of soundfonts, which is shown now. "
                   "Make your change again if you still want it."));
        derive();
        refreshTrial();
        Q_EMIT catalogueChanged();
    }
    const SoundFont* font = m_current.hasSong() ? catalogueFor(m_current.song(), m_catalogue).defaultFont()
                                                : m_catalogue.defaultFont();
    if (font)
        Q_EMIT m_messages.announced(
            tr("%1 is now the first-choice soundfont").arg(QString::fromStdString(font->name)));
}

void Sounds::addFontFolder(const QString& folder) {
    if (m_fontFolders.contains(folder)) return;
    m_fontFolders << folder;
    settings::setFontFolders(m_fontFolders);
    rescanFonts();
}

namespace {

bool isSame(const std::filesystem::path& font, const QString& file) {
    std::error_code error;
    return std::filesystem::equivalent(font, pathOf(file), error);
}

} // namespace

void Sounds::addFonts(const QStringList& files, std::optional<Scope> scope) {
    const auto isKnown = [this](const QString& file) {
        const auto& fonts = m_found.fonts();
        return m_fontFolders.contains(file) ||
               std::any_of(fonts.begin(), fonts.end(),
                           [&](const FontPtr& font) { return isSame(font->path, file); });
    };
    for (const QString& file : files)
        if (!isKnown(file)) m_fontFolders << file;
    settings::setFontFolders(m_fontFolders);
    if (scope) m_toUse = {files, *scope};
    rescanFonts();
}

/// Puts fonts first that were added for that; what cannot be used has been told.
void Sounds::useAdded() {
    if (!m_toUse) return;
    const auto [files, scope] = *std::exchange(m_toUse, std::nullopt);
    QStringList ids;
    for (const QString& file : files)
        for (const FontPtr& font : m_found.fonts())
            if (isSame(font->path, file)) ids << QString::fromStdString(font->id);
    if (ids.isEmpty()) return;
    QStringList order = fontOrder(scope);
    if (order.isEmpty() && scope == Scope::Song) // it goes on where there was none of its own
        for (const SoundFont* font : catalogueFor(m_current.song(), m_catalogue).order())
            order << QString::fromStdString(font->id);
    for (const QString& id : ids) order.removeAll(id);
    setFontOrder(scope, ids + order);
}

void Sounds::removeFontFolder(const QString& folder) {
    if (!m_fontFolders.removeOne(folder)) return;
    settings::setFontFolders(m_fontFolders);
    m_watcher.removePath(folder);
    rescanFonts();
}

/// What is heard in place of the song: with the sound that is tried, with the font that is compared.
void Sounds::refreshTrial() {
    m_trial.reset();
    if (!m_current.hasSong() || (!m_tried && !m_comparing && m_only.empty() && !m_edited)) return;
    Song heard = m_edited ? m_edited(m_current.song()) : m_current.song();
    if (const SoundFont* other = m_comparing ? compareFont() : nullptr) {
        std::vector<std::string> order = {other->id};
        for (const SoundFont* font : catalogueFor(heard, m_catalogue).order()) order.push_back(font->id);
        heard = edits::setFontOrder(std::move(heard), order);
    }
    if (m_tried) {
        heard = edits::chooseSound(std::move(heard), m_current.selectedPart(), *m_tried);
        if (m_triesAlone) heard = edits::onlyPart(std::move(heard), m_current.selectedPart());
    }
    if (!m_only.empty()) {
        std::vector<Key> others;
        for (std::uint8_t key = 0; key < 128; ++key)
            if (std::find(m_only.begin(), m_only.end(), Key{key}) == m_only.end()) others.push_back(Key{key});
        heard = edits::setDrumOff(std::move(heard), m_current.selectedPart(), others, true);
        heard = edits::onlyPart(std::move(heard), m_current.selectedPart());
    }
    m_trial = std::move(heard);
}

void Sounds::hearEdited(std::function<Song(const Song&)> edit) {
    if (!edit && !m_edited) return;
    m_edited = m_current.hasSong() ? std::move(edit) : nullptr;
    refreshTrial();
    Q_EMIT heardChanged();
    Q_EMIT editedChanged();
}

void Sounds::hearOnly(const std::vector<Key>& keys) {
    if (keys == m_only) return;
    m_only = m_current.part() ? keys : std::vector<Key>{};
    refreshTrial();
    Q_EMIT heardChanged();
    Q_EMIT onlyChanged();
}

const Song& Sounds::heardSong() const { return m_trial ? *m_trial : m_current.song(); }

void Sounds::trySound(const SoundRef& sound) {
    if (!m_current.part()) return;
    m_tried = sound;
    refreshTrial();
    Q_EMIT heardChanged();
    Q_EMIT triedChanged();
}

void Sounds::keepTried() { keepTriedFor({m_current.selectedPart()}); }

void Sounds::keepTriedFor(const std::vector<PartId>& parts) {
    if (!m_tried || parts.empty()) return;
    const SoundRef sound = *m_tried;
    const Part* first = m_current.song().part(parts.front());
    const QString name =
        parts.size() > 1 || !first ? tr("%1 parts").arg(parts.size()) : QString::fromStdString(first->name);
    m_tried.reset();
    refreshTrial();
    m_current.edit(tr("Use %1 for %2").arg(QString::fromStdString(sound.name), name),
                   [&](const Song& song) { return edits::chooseSounds(song, parts, sound); });
    Q_EMIT heardChanged(); // also when nothing has changed: what was tried is heard no more
    Q_EMIT triedChanged();
    Q_EMIT m_messages.announced(tr("%1 plays %2 now").arg(QString::fromStdString(sound.name), name));
}

void Sounds::dropTried() {
    if (!m_tried) return;
    m_tried.reset();
    refreshTrial();
    Q_EMIT heardChanged();
    Q_EMIT triedChanged();
}

void Sounds::setTriesAlone(bool alone) {
    m_triesAlone = alone;
    refreshTrial();
    Q_EMIT heardChanged();
    Q_EMIT triedChanged();
}

const SoundFont* Sounds::compareFont() const {
    const Catalogue catalogue =
        m_current.hasSong() ? catalogueFor(m_current.song(), m_catalogue) : m_catalogue;
    const auto order = catalogue.order();
    if (order.empty()) return nullptr;
    const SoundFont* wanted = catalogue.font(m_compareWith);
    if (wanted && wanted != order.front()) return wanted;
    if (order.size() > 1) return order[1];
    for (const FontPtr& font : catalogue.fonts())
        if (font.get() != order.front()) return font.get();
    return nullptr;
}

const SoundFont* Sounds::comparedFont() const { return m_comparing ? compareFont() : nullptr; }

void Sounds::toggleCompare() {
    if (!m_current.hasSong()) return;
    const SoundFont* other = compareFont();
    if (!other) {
        Q_EMIT m_messages.problem(
            tr("Only one soundfont is installed"),
            tr("Add a folder with another under Fonts and instruments, to compare the two."));
        return;
    }
    m_comparing = !m_comparing;
    refreshTrial();
    Q_EMIT heardChanged();
    Q_EMIT comparedChanged();
    const SoundFont* heard = m_comparing ? other : catalogueFor(m_current.song(), m_catalogue).defaultFont();
    Q_EMIT m_messages.announced(tr("Heard with %1").arg(QString::fromStdString(heard->name)));
}

void Sounds::askPreset(const QString& uri, const QString& preset, std::function<void(PluginSettings)> take) {
    runJob(
        this, &m_loader,
        [uri = uri.toStdString(), preset = preset.toStdString(), bank = m_bank] {
            PluginSettings wanted;
            wanted.preset = preset;
            const auto unit = bank->maker().load(uri, wanted, liveRate, true);
            return unit ? unit.value()->settings() : PluginSettings{};
        },
        [take = std::move(take)](const Result<PluginSettings>& settings) {
            if (settings) take(settings.value());
        });
}

void Sounds::askFace(const QString& uri, std::function<void(PluginFace)> take) {
    runJob(
        this, &m_loader,
        [uri = uri.toStdString(), bank = m_bank] {
            const PluginWorld& plugins = bank->plugins();
            return PluginFace{plugins.controls(uri), plugins.presets(uri), plugins.window(uri).has_value()};
        },
        [take = std::move(take)](const Result<PluginFace>& face) {
            if (face) take(face.value());
        });
}

} // namespace cobbleway
