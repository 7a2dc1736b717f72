#include "app/session/planner.h"

#include "app/session/currentset.h"
#include "app/session/findings.h"
#include "app/session/jobs.h"
#include "app/session/messages.h"
#include "app/session/output.h"
#include "app/session/sounds.h"

#include <algorithm>
#include <utility>

namespace cobbleway {
namespace {

const QString pluginSubject = QStringLiteral("plug-in"); // of what is noted

bool isEnded(const Error& fault) { return fault.what.id == "error.plugin-ended"; }

} // namespace

Planner::Planner(CurrentSet& current, Sounds& sounds, Findings& findings, Output& output, Messages& messages)
    : m_current(current), m_sounds(sounds), m_findings(findings), m_output(output), m_messages(messages) {
    connect(&current, &CurrentSet::songChanged, this, [this](Sides sides) {
        if (sides.has(Side::File)) m_planned.reset(); // its plan is to come
        update();
    });
    connect(&sounds, &Sounds::heardChanged, this, &Planner::update);
    connect(&sounds, &Sounds::catalogueChanged, this, [this] {
        m_stale = true; // what plays may be another file now, or be there at last
        update();
    });
    connect(&m_watch, &QTimer::timeout, this, &Planner::checkPlugins);
    constexpr int watchEvery = 500; // milliseconds
    m_watch.start(watchEvery);
}

Planner::~Planner() { m_sounds.loader().waitForDone(); }

bool Planner::isPlanned() const {
    return m_current.hasSong() && m_planned && m_planned == m_current.song().source;
}

void Planner::update() {
    if (m_plan && isPlanned()) applyMix(*m_plan, m_sounds.heardSong()); // levels are heard at once
    m_wanted = true;
    startJob();
}

void Planner::startJob() {
    if (m_running || !m_wanted) return;
    m_wanted = false;
    m_running = true;
    const bool any = m_current.hasSong();
    const bool startsAgain = std::exchange(m_startsAgain, false);
    const bool mayStay = isPlanned() && !std::exchange(m_stale, false);
    runJob(
        this, &m_sounds.loader(),
        [heard = any ? m_sounds.heardSong() : Song{}, any, catalogue = m_sounds.catalogue(),
         bank = m_sounds.bank(), before = m_plan, derived = m_findings.derived(), mayStay,
         startsAgain]() -> std::shared_ptr<Plan> {
            if (startsAgain) bank->startEndedAgain();
            if (!any) return std::make_shared<Plan>(1, liveRate);
            const auto matches = derived->matches(heard, catalogue);
            if (mayStay && before && playsAsPlanned(*before, heard, *matches)) return before;
            return makePlan(heard, catalogue, *matches, *bank, before.get(), derived.get());
        },
        [this, source = any ? m_current.song().source : nullptr](const Result<std::shared_ptr<Plan>>& made) {
            take(made, source);
        });
}

void Planner::take(const Result<std::shared_ptr<Plan>>& made,
                   const std::shared_ptr<const SourceFile>& source) {
    m_running = false;
    if (!made) {
        Q_EMIT m_messages.problem(tr("The song cannot be played"),
                                  QString::fromStdString(made.error().message()));
        if (m_wanted) startJob();
        return;
    }
    const bool isNew = m_plan != made.value();
    m_plan = made.value();
    m_planned = source;
    if (isPlanned()) applyMix(*m_plan, m_sounds.heardSong());
    const auto problems = m_plan->problems;
    const auto unplayable = m_plan->unplayable;
    if (isNew) m_output.player().setPlan(m_plan);
    if (isPlanned()) Q_EMIT playable();
    const QStringList news = newProblems(problems);
    if (!unplayable.empty()) m_sounds.leaveOut(unplayable); // all its parts get a stand-in
    if (m_wanted)
        startJob();
    else
        Q_EMIT planReady();
    if (!news.isEmpty())
        Q_EMIT m_messages.noted(QStringLiteral("sounds"),
                                tr("Not all sounds as it was chosen: %1").arg(news.join(QLatin1Char(' '))),
                                QStringLiteral("fonts"));
}

/// Those of which nothing was told yet; each is told once.
QStringList Planner::newProblems(const std::vector<Error>& problems) {
    QStringList news;
    for (const Error& error : problems)
        if (const QString text = QString::fromStdString(error.message()); !m_toldProblems.contains(text))
            news << text;
    m_toldProblems << news;
    return news;
}

void Planner::checkPlugins() {
    if (!m_plan) return;
    const Song& song = m_current.hasSong() ? m_current.song() : m_plan->song;
    const auto faults = pluginFaults(*m_plan, song);
    const bool ended = std::any_of(faults.begin(), faults.end(), isEnded);
    if (std::exchange(m_anyEnded, ended) != ended) Q_EMIT endedPluginsChanged();
    for (const QString& text : newProblems(faults))
        Q_EMIT m_messages.noted(pluginSubject, text, ended ? QStringLiteral("startPlugins") : QString());
}

std::shared_ptr<PluginUnit> Planner::pluginAt(const PluginPlace& place) const {
    return m_plan && isPlanned() ? cobbleway::pluginAt(*m_plan, m_current.song(), place) : nullptr;
}

void Planner::startPluginsAgain() {
    if (!m_plan) return;
    const Song& song = m_current.hasSong() ? m_current.song() : m_plan->song;
    for (const Error& fault : pluginFaults(*m_plan, song)) // when it ends again, that is news
        m_toldProblems.removeAll(QString::fromStdString(fault.message()));
    Q_EMIT m_messages.noted(pluginSubject, {});
    m_stale = m_startsAgain = true;
    update();
}

} // namespace cobbleway
