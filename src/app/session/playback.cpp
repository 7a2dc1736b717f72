#include "app/session/playback.h"

#include "app/session/currentset.h"
#include "app/session/findings.h"
#include "app/session/jobs.h"
#include "app/session/messages.h"
#include "app/session/sounds.h"
#include "midi/gm.h"
#include "song/heard/firstnote.h"
#include "song/model/levels.h"
#include "song/shape/edits.h"

#include <algorithm>
#include <utility>

namespace cobbleway {
namespace {

const QString outputSubject = QStringLiteral("output"); // of what is noted

constexpr int tickEvery = 33, restEvery = 250; ///< milliseconds

} // namespace

Playback::Playback(CurrentSet& current, Sounds& sounds, Findings& findings, Messages& messages)
    : m_current(current), m_sounds(sounds), m_findings(findings), m_messages(messages),
      m_player(std::make_unique<Player>()) {
    m_measurer.setMaxThreadCount(1);
    m_measurer.setThreadPriority(QThread::LowPriority); // playing comes first
    m_clicking = settings::clicking();
    m_even = settings::evenLoudness();
    sendClick();
    m_evenPause.setSingleShot(true);
    m_evenPause.setInterval(800);
    connect(&m_evenPause, &QTimer::timeout, this, [this] {
        if (!m_player->isSilent()) measureForEvenness();
    });
    connect(&current, &CurrentSet::songChanged, this, &Playback::takeSongChange);
    connect(&current, &CurrentSet::selectionChanged, this,
            [this] { m_player->setLivePart(m_current.selectedPart()); });
    connect(&sounds, &Sounds::heardChanged, this, &Playback::updatePlan);
    connect(&sounds, &Sounds::catalogueChanged, this, [this] {
        m_planStale = true; // what plays may be another file now, or be there at last
        updatePlan();
    });
    connect(&m_timer, &QTimer::timeout, this, &Playback::tick); // polls the place; the clock is the audio's
    m_timer.start(tickEvery);
    connect(&m_watch, &QTimer::timeout, this, &Playback::checkOutput);
    connect(&m_watch, &QTimer::timeout, this, &Playback::checkHang);
    connect(&m_watch, &QTimer::timeout, this, &Playback::checkPlugins);
    m_watch.start(500);
}

Playback::~Playback() {
    stop();
    m_measurer.waitForDone();
    m_sounds.loader().waitForDone();
    m_player.reset(); // before the plan and its instruments go
}

void Playback::stop() {
    m_measureStop.request_stop();
    m_evenStop.request_stop();
}
bool Playback::waitForDone(int milliseconds) {
    return m_measurer.waitForDone(milliseconds) && m_player->close(milliseconds / 1000.0);
}

/// Another song begins anew; of the same one the loop and the place keep to the notes.
void Playback::takeSongChange(Sides sides) {
    const auto before = std::exchange(
        m_before, m_current.hasSong() ? std::make_shared<const Song>(m_current.song()) : nullptr);
    if (sides.has(Side::File)) {
        if (isPlaying()) togglePlay();
        m_planned.reset(); // its plan is to come
        m_player->seek(0);
        stopWork();
        setLoop({});
        m_evenStop.request_stop();
        m_evenPause.start();
    } else if (before && sides.has(Side::Time)) {
        stopWork(); // its stretches are at other places now
        const Song& song = m_current.song();
        const Tick shift = shiftOf(*before, song);
        const Tick place = before->tempo->tickAt(m_player->seconds()) + shift;
        if (!m_player->isPlaying() || shift != 0) seek(place);
        Loop loop = m_loop;
        loop.start = std::clamp<Tick>(loop.start + shift, 0, song.end);
        loop.end = std::clamp<Tick>(loop.end + shift, 0, song.end);
        if (loop == m_loop)
            sendLoop(); // the same ticks are at other seconds now
        else
            setLoop(loop);
    }
    sendGain();
    updatePlan();
}

void Playback::updatePlan() {
    if (m_plan && isPlanned()) applyMix(*m_plan, m_sounds.heardSong()); // levels are heard at once
    m_planWanted = true;
    startPlanJob();
}

void Playback::startPlanJob() {
    if (m_planRunning || !m_planWanted) return;
    m_planWanted = false;
    m_planRunning = true;
    const bool any = m_current.hasSong();
    const bool mayStay = isPlanned() && !std::exchange(m_planStale, false);
    runJob(
        this, &m_sounds.loader(),
        [heard = any ? m_sounds.heardSong() : Song{}, any, catalogue = m_sounds.catalogue(),
         bank = m_sounds.bank(), before = m_plan, derived = m_findings.derived(),
         mayStay]() -> std::shared_ptr<Plan> {
            if (!any) return std::make_shared<Plan>(1, liveRate);
            const auto matches = derived->matches(heard, catalogue);
            if (mayStay && before && playsAsPlanned(*before, heard, *matches)) return before;
            return makePlan(heard, catalogue, *matches, *bank, before.get(), derived.get());
        },
        [this, source = any ? m_current.song().source : nullptr](const Result<std::shared_ptr<Plan>>& made) {
            takePlan(made, source);
        });
}

bool Playback::isPlanned() const {
    return m_current.hasSong() && m_planned && m_planned == m_current.song().source;
}

void Playback::takePlan(const Result<std::shared_ptr<Plan>>& made,
                        const std::shared_ptr<const SourceFile>& source) {
    m_planRunning = false;
    if (!made) {
        Q_EMIT m_messages.problem(tr("The song cannot be played"),
                                  QString::fromStdString(made.error().message()));
        if (m_planWanted) startPlanJob();
        return;
    }
    const bool isNew = m_plan != made.value();
    m_plan = made.value();
    m_planned = source;
    if (isPlanned()) applyMix(*m_plan, m_sounds.heardSong());
    const auto problems = m_plan->problems;
    const auto unplayable = m_plan->unplayable;
    if (isNew) m_player->setPlan(m_plan);
    if (m_playPending && isPlanned()) {
        m_playPending = false;
        startPlayer();
    }
    QStringList news;
    for (const Error& error : problems)
        if (const QString text = QString::fromStdString(error.message()); !m_toldProblems.contains(text))
            news << text;
    m_toldProblems << news;
    if (!unplayable.empty()) m_sounds.leaveOut(unplayable); // all its parts get a stand-in
    if (m_planWanted)
        startPlanJob();
    else
        Q_EMIT planReady();
    if (!news.isEmpty())
        Q_EMIT m_messages.problem(tr("Some sounds could not be loaded"), news.join(QStringLiteral("\n\n")));
}

void Playback::tick() {
    // Nothing moves while it rests; what begins to play is looked at from then on (startPlayer()).
    const int wanted = m_player->isResting() ? restEvery : tickEvery;
    if (m_timer.interval() != wanted) m_timer.start(wanted);
    takeOutputNews(m_player->tend());
    m_player->collect();
    for (int side = 0; side < 2; ++side)
        m_outputPeaks[static_cast<std::size_t>(side)] = m_player->outputPeak(side);
    m_partPeaks.clear();
    if (m_current.hasSong())
        for (const Part& part : m_current.song().parts)
            if (const double peak = m_player->partPeak(part.id); peak > 0) m_partPeaks[part.id] = peak;
    if (std::exchange(m_wasPlaying, isPlaying()) != isPlaying())
        Q_EMIT playingChanged(); // the song has ended
    glideOn();
    isWorking() ? workOn() : growAfterRound();
    Q_EMIT ticked();
}

/// A round has ended when the place has jumped back and nobody moved it.
void Playback::growAfterRound() {
    const Tick now = place();
    const bool round = m_loop.on && m_player->isPlaying() && now < std::exchange(m_lastPlace, now);
    if (round && m_growth.on && m_pace < m_growth.target)
        setPace(std::min(m_growth.target, m_pace + m_growth.step));
}

void Playback::setClicking(const settings::Clicking& clicking) {
    if (clicking == m_clicking) return;
    m_clicking = clicking;
    settings::setClicking(clicking);
    sendClick();
    Q_EMIT clickingChanged();
}

void Playback::sendClick() { m_player->setClick(m_clicking.on, m_clicking.shape); }

void Playback::startWork(const WorkWish& wish) {
    if (!m_current.hasSong()) return;
    auto rounds = workThrough(m_current.song(), place(), wish);
    if (rounds.empty()) return;
    stopWork();
    m_workWish = wish;
    m_loopBefore = m_loop;
    m_paceBefore = m_pace;
    m_work = std::move(rounds);
    m_round = 0;
    m_loop = {workRound().start, workRound().end, true};
    sendLoop();
    setPace(workRound().pace);
    seek(workRound().start);
    if (!isPlaying()) togglePlay();
    Q_EMIT loopChanged();
    Q_EMIT workChanged();
}

void Playback::stopWork() {
    if (m_work.empty()) return;
    m_work.clear();
    m_round = 0;
    m_loop = {};
    setPace(m_paceBefore);
    setLoop(m_loopBefore);
    sendLoop();
    Q_EMIT loopChanged();
    Q_EMIT workChanged();
}

/// The player jumps from the end of a round to the start of the next; then the next is set.
void Playback::workOn() {
    const bool last = m_round + 1 == m_work.size();
    if (last && (place() >= workRound().end || !isPlaying())) {
        if (isPlaying()) togglePlay();
        stopWork();
        Q_EMIT m_messages.announced(tr("Worked through"));
        return;
    }
    if (last || m_player->loopRounds() == 0) return;
    ++m_round;
    const WorkRound& round = workRound();
    m_loop = {round.start, round.end, true};
    sendLoop();
    setPace(round.pace);
    Q_EMIT loopChanged();
    Q_EMIT workChanged();
    Q_EMIT m_messages.announced(
        tr("%1, round %2 of %3").arg(QString::fromStdString(round.name)).arg(round.round).arg(round.rounds));
}

void Playback::setEven(bool even) {
    if (even == m_even) return;
    m_even = even;
    settings::setEvenLoudness(even);
    sendGain();
    if (even) m_evenPause.start();
    Q_EMIT evennessChanged();
}

double Playback::evenGain() const {
    if (!m_even || !m_current.hasSong() || m_current.song().masterDb != 0) return 0;
    const auto known = m_current.loudnessOf(m_current.song());
    return known ? gainToLevel(*known) : 0;
}

void Playback::sendGain() { m_player->setGain(dbToGain(evenGain())); }

void Playback::measureForEvenness() {
    if (!m_current.hasSong() || !m_even || m_evenRunning || m_current.song().masterDb != 0 ||
        m_current.loudnessOf(m_current.song()))
        return;
    m_evenRunning = true;
    m_evenStop = {};
    const auto song = m_current.set().songs[static_cast<std::size_t>(m_current.songIndex())];
    runJob(
        this, &m_measurer,
        [song, catalogue = m_sounds.catalogue(), stop = m_evenStop.get_token()] {
            return measureSong(edits::everyone(*song), catalogue, stop);
        },
        [this, stop = m_evenStop.get_token(), source = song->source](const Result<Measured>& measured) {
            m_evenRunning = false;
            if (measured && !stop.stop_requested()) m_current.keepLoudness(source, measured.value());
            if (stop.stop_requested()) m_evenPause.start(); // the one that is shown now
            sendGain();
            Q_EMIT evennessChanged();
        });
}

void Playback::setGrowth(Growth growth) {
    growth.step = std::clamp(growth.step, 1, 25);
    growth.target = std::clamp(growth.target, 25, 200);
    if (growth == m_growth) return;
    if (growth.on && !m_growth.on) m_firstPace = m_pace;
    m_growth = growth;
    Q_EMIT growthChanged();
}

void Playback::fallBack() {
    if (m_growth.on) setPace(m_firstPace);
}

void Playback::playFirstNote() {
    if (!m_current.hasSong()) return;
    const Song& song = m_current.song();
    const auto leads = std::find_if(song.parts.begin(), song.parts.end(),
                                    [](const Part& p) { return !p.aside && p.mix.role == Role::Lead; });
    const PartId lead = leads != song.parts.end() ? leads->id : m_current.selectedPart();
    const auto first = firstNoteAfter(
        song, lead, place(), [&](const Part& part) { return m_findings.derived()->heard(song, part); });
    if (!first) {
        Q_EMIT m_messages.announced(tr("No note begins after this place"));
        return;
    }
    std::vector<std::pair<PartId, Key>> sounding = first->harmony;
    for (const auto& [part, key] : sounding) m_player->audition(part, key, Velocity{45});
    sounding.emplace_back(lead, first->key);
    m_player->audition(lead, first->key, Velocity{100});
    QTimer::singleShot(1500, this, [this, sounding] {
        for (const auto& [part, key] : sounding) m_player->audition(part, key, Velocity{0});
    });
    Q_EMIT m_messages.announced(tr("%1, in bar %2")
                                    .arg(QString::fromStdString(keyName(first->key)))
                                    .arg(song.tempo->position(first->tick).bar));
}

double Playback::partPeak(PartId part) const {
    const auto at = m_partPeaks.find(part);
    return at == m_partPeaks.end() ? 0 : at->second;
}

/// A device may be unplugged, or its sound server end, at any time; the song goes on elsewhere.
void Playback::checkOutput() {
    if (!m_player->outputIsGone()) return;
    m_player->replaceOutput();
    m_outputGone = true;
    Q_EMIT m_messages.noted(
        outputSubject, tr("The sound output has gone: it was unplugged, or its sound server has ended."));
}

void Playback::openOutput(const QString& id, bool kept) {
    m_wantedOutput = id;
    m_keepsOutput = kept;
    m_player->beginOpening(id.toStdString());
}

void Playback::takeOutputNews(OutputNews news) {
    switch (news) {
    case OutputNews::None: return;
    case OutputNews::Opened:
        if (std::exchange(m_outputGone, false)) {
            Q_EMIT m_messages.noted(
                outputSubject,
                m_player->isSilent()
                    ? tr("The sound output has gone. The song goes on without sound until it is "
                         "back; another can be chosen under Play > Sound output.")
                    : tr("The sound output has gone. The song goes on through another; choose "
                         "one under Play > Sound output."));
            return;
        }
        if (std::exchange(m_keepsOutput, false)) {
            settings::setSoundOutput(m_wantedOutput);
            Q_EMIT m_messages.announced(tr("Sound output: %1").arg(m_wantedOutput));
        }
        Q_EMIT m_messages.noted(outputSubject, {});
        return;
    case OutputNews::Failed:
        Q_EMIT m_messages.noted(outputSubject,
                                tr("The sound output did not open. %1")
                                    .arg(QString::fromStdString(m_player->outputProblem().message())));
        return;
    case OutputNews::Hung:
        Q_EMIT m_messages.noted(outputSubject,
                                tr("The sound output does not answer. The song goes on without "
                                   "sound until it does."));
        return;
    case OutputNews::Back:
        m_outputGone = false;
        Q_EMIT m_messages.noted(outputSubject, {});
        Q_EMIT m_messages.announced(tr("The sound output is back"));
        return;
    }
}

/// Foreign code that does not come back takes the sound with it, but not the work.
void Playback::checkHang() {
    if (m_toldHang || !m_player->isStuckFor(2)) return;
    m_toldHang = true;
    QStringList names;
    for (const std::string& uri : m_sounds.pluginsRunning())
        if (const PluginInfo* plugin = m_sounds.catalogue().plugin(uri))
            names << QString::fromStdString(plugin->name);
    Q_EMIT m_messages.noted(
        QStringLiteral("hang"),
        tr("%1 hangs, so that nothing can be heard. Save the set and start Cobbleway again, which will then "
           "leave it out.")
            .arg(names.isEmpty() ? tr("A plug-in") : names.join(QStringLiteral(", "))));
}

void Playback::checkPlugins() {
    if (!m_plan) return;
    for (const Error& error : pluginFaults(*m_plan, m_current.hasSong() ? m_current.song() : m_plan->song)) {
        const QString text = QString::fromStdString(error.message());
        if (m_toldProblems.contains(text)) continue;
        m_toldProblems << text;
        Q_EMIT m_messages.problem(tr("A plug-in has a fault"), text);
    }
}

/// Counts first, where that is wished.
void Playback::startPlayer() {
    m_timer.start(tickEvery);
    if (m_clicking.countIn == 0) return m_player->play();
    const Song& song = m_current.song();
    const Tick from = place() >= song.end ? 0 : place();
    m_player->play(countInBefore(*song.tempo, from, m_clicking.countIn, m_pace / 100.0));
}

void Playback::togglePlay() {
    if (isPlaying()) {
        m_playPending = false;
        m_player->stop();
    } else if (m_current.hasSong()) {
        if (isPlanned())
            startPlayer();
        else
            m_playPending = true;
    }
    m_wasPlaying = isPlaying();
    Q_EMIT playingChanged();
    Q_EMIT m_messages.announced(isPlaying() ? tr("Playing") : tr("Stopped"));
}

void Playback::seek(Tick tick) {
    m_lastPlace = 0; // no round of the loop
    if (!m_current.hasSong()) return;
    const Song& song = m_current.song();
    m_player->seek(song.tempo->seconds(std::clamp<Tick>(tick, 0, song.end)));
    Q_EMIT sought();
}

void Playback::seekSection(int by) {
    if (!m_current.hasSong()) return;
    const Song& song = m_current.song();
    const Tick now = place(),
               grace = song.tempo->quarter(); // just after a start, "previous" means the one before
    Tick to = by > 0 ? song.end : 0;
    for (const Section& section : song.sections) {
        if (by > 0 && section.start > now) to = std::min(to, section.start);
        if (by < 0 && section.start < now - grace) to = std::max(to, section.start);
    }
    seek(to);
}

Tick Playback::place() const {
    return m_current.hasSong() ? m_current.song().tempo->tickAt(m_player->seconds()) : 0;
}

Tick Playback::evenPlace() const {
    return m_current.hasSong() && m_player->isPlaying()
               ? m_current.song().tempo->tickAt(m_evenPlace.seconds())
               : place();
}

void Playback::glideOn() {
    const double passed = m_sinceEven.isValid() ? static_cast<double>(m_sinceEven.nsecsElapsed()) * 1e-9 : 0;
    m_sinceEven.start();
    m_evenPlace.look(m_player->seconds(), m_player->isPlaying(), passed * m_pace / 100);
}

void Playback::setLoop(Loop loop) {
    if (loop.end < loop.start) std::swap(loop.start, loop.end);
    if (loop.start == loop.end) loop.on = false;
    if (loop == m_loop) return;
    m_loop = loop;
    sendLoop();
    Q_EMIT loopChanged();
}

void Playback::sendLoop() {
    const bool last = isWorking() && m_round + 1 == m_work.size(); // it is over at its end
    if (m_current.hasSong() && m_loop.on && !last)
        m_player->setLoop(
            m_current.song().tempo->seconds(isWorking() ? m_work[m_round + 1].start : m_loop.start),
            m_current.song().tempo->seconds(m_loop.end));
    else
        m_player->setLoop(0, 0);
}

void Playback::setPace(int percent) {
    percent = std::clamp(percent, 25, 200);
    if (percent == m_pace) return;
    m_pace = percent;
    m_player->setPace(percent);
    Q_EMIT paceChanged();
}

void Playback::bringToLevel() {
    if (!m_current.hasSong() || m_measuring) return;
    m_measuring = true;
    m_measureStop = {};
    Q_EMIT measuringChanged();
    const auto measuredSong = m_current.set().songs[static_cast<std::size_t>(m_current.songIndex())];
    runJob(
        this, &m_measurer,
        [measuredSong, catalogue = m_sounds.catalogue(), stop = m_measureStop.get_token()] {
            return measureSong(*measuredSong, catalogue, stop);
        },
        [this, stop = m_measureStop.get_token(), measuredSong](const Result<Measured>& measured) {
            m_measuring = false;
            Q_EMIT measuringChanged();
            if (!measured || stop.stop_requested() || !m_current.hasSong() ||
                m_current.song().source != measuredSong->source)
                return;
            m_measuredLoudness = measured.value();
            m_measuredSong = edits::setMasterLevel(*measuredSong, 0);
            const double gain = gainToLevel(measured.value());
            m_current.edit(tr("Match loudness"),
                           [gain](const Song& s) { return edits::setMasterLevel(s, gain); });
            Q_EMIT m_messages.announced(tr("The song measures %1 LUFS; the whole mix is set to %2 dB")
                                            .arg(m_measuredLoudness.lufs, 0, 'f', 1)
                                            .arg(gain, 0, 'f', 1));
        });
}

std::optional<Measured> Playback::measured() const {
    if (!m_current.hasSong() || !m_measuredSong.source) return std::nullopt;
    return edits::setMasterLevel(m_current.song(), 0) == m_measuredSong ? std::optional(m_measuredLoudness)
                                                                        : std::nullopt;
}

} // namespace cobbleway
