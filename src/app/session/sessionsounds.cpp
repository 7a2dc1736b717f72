/// The session's sounds: the catalogue and its scans, what is tried and compared, measuring.
#include "app/session/jobs.h"
#include "app/session/session.h"
#include "app/session/settings.h"
#include "files/pluginscan.h"
#include "files/shipped.h"
#include "song/edits.h"
#include "song/levels.h"
#include "sound/midisink.h"
#include "sound/otherfonts.h"

#include <QFileInfo>
#include <algorithm>
#include <utility>

namespace cobbleway {
namespace {

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

} // namespace

void Session::deriveCatalogue() {
    m_derivedOrder = set().fontOrder;
    m_derivedFonts = set().fonts;
    m_catalogue = m_found;
    for (const std::string& id : m_unplayable) m_catalogue = m_catalogue.without(id);
    std::vector<std::string> mine;
    for (const QString& id : m_mine) mine.push_back(id.toStdString());
    m_catalogue = m_catalogue.withMoved(set().fonts).withOrder(mine).withOrder(set().fontOrder);
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

/// A device may be unplugged, or its sound server end, at any time; the song goes on elsewhere.
void Session::checkOutput() {
    if (!m_player->outputIsGone()) return;
    (void)m_player->open("auto"); // at worst the silent output, which always opens
    Q_EMIT problem(
        tr("The sound output has gone"),
        (m_player->isSilent()
             ? tr("It was unplugged, or its sound server has ended. The song goes on without sound.")
             : tr("It was unplugged, or its sound server has ended. The song goes on through another "
                  "output.")) +
            QLatin1Char(' ') + tr("Choose one under Play, Sound output."));
}

void Session::checkPlugins() {
    if (!m_plan) return;
    for (const Error& error : spoiltPlugins(*m_plan)) {
        const QString text = QString::fromStdString(error.message());
        if (m_toldProblems.contains(text)) continue;
        m_toldProblems << text;
        Q_EMIT problem(tr("A plug-in gives no sound"), text);
    }
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
        [this](const Found& found) {
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

} // namespace cobbleway
