#include "app/session/pluginwindows.h"

#include "app/session/currentset.h"
#include "app/session/jobs.h"
#include "app/session/messages.h"
#include "app/session/planner.h"

#include <algorithm>
#include <optional>

namespace cobbleway {
namespace {

QString gestureOf(const PluginPlace& place, const std::string& what) {
    return QStringLiteral("window %1 %2 %3 %4")
        .arg(place.part)
        .arg(place.layer)
        .arg(place.effect)
        .arg(QString::fromStdString(what));
}

} // namespace

PluginWindows::PluginWindows(CurrentSet& current, Planner& planner, Messages& messages)
    : m_current(current), m_planner(planner), m_messages(messages) {
    m_pool.setMaxThreadCount(1);
    constexpr int lookEvery = 50; // milliseconds
    m_timer.setInterval(lookEvery);
    connect(&m_timer, &QTimer::timeout, this, &PluginWindows::look);
}

PluginWindows::~PluginWindows() { m_pool.waitForDone(); }

void PluginWindows::open(const PluginPlace& place, const QString& title) {
    auto unit = m_planner.pluginAt(place);
    if (!unit) {
        Q_EMIT m_messages.announced(tr("The plug-in does not play yet. Try again in a moment."));
        return;
    }
    if (std::none_of(m_opened.begin(), m_opened.end(),
                     [&](const Opened& opened) { return opened.unit == unit; }))
        m_opened.push_back({place, unit, m_current.song().source, true, true, false, false, {}});
    m_timer.start();
    runJob(
        this, &m_pool,
        [unit, title = title.toStdString()]() -> std::optional<Error> {
            const auto shown = unit->showWindow(title);
            return shown ? std::nullopt : std::optional(shown.error());
        },
        [this, unit](const Result<std::optional<Error>>& shown) {
            for (Opened& opened : m_opened)
                if (opened.unit == unit) opened.isOpening = false;
            if (shown && !shown.value()) return;
            std::erase_if(m_opened, [&](const Opened& opened) { return opened.unit == unit; });
            const Error why = shown ? *shown.value() : shown.error();
            Q_EMIT m_messages.problem(tr("Its own window cannot be opened"),
                                      QString::fromStdString(why.message()));
        });
}

bool PluginWindows::isGone(const Opened& opened) const {
    return !m_current.hasSong() || m_current.song().source != opened.song ||
           m_planner.pluginAt(opened.place) != opened.unit;
}

void PluginWindows::look() {
    for (Opened& opened : m_opened)
        if (!opened.isOpening) lookAt(opened);
    std::erase_if(m_opened, [this](Opened& opened) {
        if (opened.isOpening || opened.isAsking || opened.hasChanged) return false;
        const bool gone = isGone(opened);
        if (gone) // it may be playing somewhere still
            m_pool.start([unit = opened.unit] { unit->closeWindow(); });
        return gone || !opened.isOpen;
    });
    if (m_opened.empty()) m_timer.stop();
}

void PluginWindows::lookAt(Opened& opened) {
    const WindowNews news = opened.unit->windowNews(); // told once, so asked for here alone
    opened.isOpen = news.open;
    for (const WindowKey key : news.keys) Q_EMIT pressed(key);
    if (isGone(opened)) {
        opened.hasChanged = false;
        return;
    }
    if (!news.turned.empty()) turn(opened.place, news.turned);
    if (news.changed) {
        opened.hasChanged = true;
        opened.still.start();
    }
    // Not in the middle of a movement: to ask takes the plug-in a moment, in which it does not play.
    constexpr int pause = 400; // milliseconds
    if (opened.hasChanged && !opened.isAsking && (opened.still.elapsed() > pause || !news.open)) keep(opened);
}

void PluginWindows::turn(const PluginPlace& place, const std::vector<std::pair<std::string, float>>& turned) {
    const PluginSettings* now = settingsAt(m_current.song(), place);
    if (!now) return;
    PluginSettings settings = *now;
    for (const auto& [symbol, value] : turned) settings.controls[symbol] = value;
    m_current.edit(
        tr("Turn a control in its own window"),
        [&](const Song& song) { return edits::setSettingsAt(song, place, settings); },
        gestureOf(place, turned.front().first));
}

void PluginWindows::keep(Opened& opened) {
    opened.hasChanged = false;
    opened.isAsking = true;
    runJob(
        this, &m_pool, [unit = opened.unit] { return unit->settings(); },
        [this, unit = opened.unit](const Result<PluginSettings>& settings) {
            if (settings) take(unit, settings.value());
            for (Opened& each : m_opened)
                if (each.unit == unit) each.isAsking = false;
        });
}

void PluginWindows::take(const std::shared_ptr<PluginUnit>& unit, const PluginSettings& settings) {
    const auto at = std::find_if(m_opened.begin(), m_opened.end(),
                                 [&](const Opened& opened) { return opened.unit == unit; });
    if (at == m_opened.end() || isGone(*at)) return;
    const PluginSettings* now = settingsAt(m_current.song(), at->place);
    if (!now || *now == settings) return;
    unit->setKept(settings); // or it would be loaded anew
    m_current.edit(
        tr("Change something in its own window"),
        [&](const Song& song) { return edits::setSettingsAt(song, at->place, settings); },
        gestureOf(at->place, {}));
}

} // namespace cobbleway
