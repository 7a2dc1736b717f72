#include "app/session/levelling.h"

#include "app/session/currentset.h"
#include "app/session/jobs.h"
#include "app/session/messages.h"
#include "app/session/output.h"
#include "app/session/settings.h"
#include "app/session/sounds.h"
#include "song/model/levels.h"
#include "song/shape/edits.h"

namespace cobbleway {

Levelling::Levelling(CurrentSet& current, Sounds& sounds, Output& output, Messages& messages)
    : m_current(current), m_sounds(sounds), m_output(output), m_messages(messages),
      m_even(settings::evenLoudness()) {
    m_measurer.setMaxThreadCount(1);
    m_measurer.setThreadPriority(QThread::LowPriority); // playing comes first
    m_evenPause.setSingleShot(true);
    constexpr int pause = 800; // milliseconds
    m_evenPause.setInterval(pause);
    connect(&m_evenPause, &QTimer::timeout, this, [this] {
        if (!m_output.player().isSilent()) measureForEvenness();
    });
    connect(&current, &CurrentSet::songChanged, this, [this](Sides sides) {
        if (sides.has(Side::File)) {
            m_evenStop.request_stop();
            m_evenPause.start();
        }
        sendGain();
    });
}

Levelling::~Levelling() {
    stop();
    m_measurer.waitForDone();
}

void Levelling::stop() {
    m_stop.request_stop();
    m_evenStop.request_stop();
}

bool Levelling::waitForDone(int milliseconds) { return m_measurer.waitForDone(milliseconds); }

void Levelling::setEven(bool even) {
    if (even == m_even) return;
    m_even = even;
    settings::setEvenLoudness(even);
    sendGain();
    if (even) m_evenPause.start();
    Q_EMIT evennessChanged();
}

double Levelling::evenGain() const {
    if (!m_even || !m_current.hasSong() || m_current.song().masterDb != 0) return 0;
    const auto known = m_current.notes().loudnessOf(m_current.song());
    return known ? gainToLevel(*known) : 0;
}

void Levelling::sendGain() { m_output.player().setGain(dbToGain(evenGain())); }

void Levelling::measureForEvenness() {
    if (!m_current.hasSong() || !m_even || m_evenRunning || m_current.song().masterDb != 0 ||
        m_current.notes().loudnessOf(m_current.song()))
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
            if (measured && !stop.stop_requested()) m_current.notes().keepLoudness(source, measured.value());
            if (stop.stop_requested()) m_evenPause.start(); // the one that is shown now
            sendGain();
            Q_EMIT evennessChanged();
        });
}

void Levelling::bringToLevel() {
    if (!m_current.hasSong() || m_measuring) return;
    m_measuring = true;
    m_stop = {};
    Q_EMIT measuringChanged();
    const auto measuredSong = m_current.set().songs[static_cast<std::size_t>(m_current.songIndex())];
    runJob(
        this, &m_measurer,
        [measuredSong, catalogue = m_sounds.catalogue(), stop = m_stop.get_token()] {
            return measureSong(*measuredSong, catalogue, stop);
        },
        [this, stop = m_stop.get_token(), measuredSong](const Result<Measured>& measured) {
            m_measuring = false;
            Q_EMIT measuringChanged();
            if (!measured || stop.stop_requested() || !m_current.hasSong() ||
                m_current.song().source != measuredSong->source)
                return;
            m_measured = measured.value();
            m_measuredSong = edits::setMasterLevel(*measuredSong, 0);
            const double gain = gainToLevel(measured.value());
            m_current.edit(tr("Match loudness"),
                           [gain](const Song& s) { return edits::setMasterLevel(s, gain); });
            Q_EMIT m_messages.announced(tr("The song measures %1 LUFS; the whole mix is set to %2 dB")
                                            .arg(m_measured.lufs, 0, 'f', 1)
                                            .arg(gain, 0, 'f', 1));
        });
}

std::optional<Measured> Levelling::measured() const {
    if (!m_current.hasSong() || !m_measuredSong.source) return std::nullopt;
    return edits::setMasterLevel(m_current.song(), 0) == m_measuredSong ? std::optional(m_measured)
                                                                        : std::nullopt;
}

} // namespace cobbleway
