#include "app/session/output.h"

#include "app/session/jobs.h"
#include "app/session/messages.h"
#include "app/session/settings.h"

#include <utility>

namespace cobbleway {
namespace {

const QString outputSubject = QStringLiteral("output"); // of what is noted

constexpr int tickEvery = 33, restEvery = 250, watchEvery = 500; ///< milliseconds

std::optional<HeldBlocks> heldFor(SoundDelay delay) {
    switch (delay) {
    case SoundDelay::AsUsed: break;
    case SoundDelay::Short: return HeldBlocks::PlayingAlong;
    case SoundDelay::Long: return HeldBlocks::Busy;
    }
    return std::nullopt;
}

} // namespace

Output::Output(Messages& messages)
    : m_messages(messages), m_delay(static_cast<SoundDelay>(settings::soundDelay())),
      m_lister(new QThreadPool) {
    m_player.setHeld(heldFor(m_delay));
    connect(&m_timer, &QTimer::timeout, this, &Output::tick); // polls the place; the clock is the audio's
    m_timer.start(tickEvery);
    connect(&m_watch, &QTimer::timeout, this, &Output::checkGone);
    m_watch.start(watchEvery);
}

Output::~Output() {
    constexpr int patience = 200; // milliseconds
    if (m_lister->waitForDone(patience)) delete m_lister;
}

bool Output::waitForDone(int milliseconds) { return m_player.close(milliseconds / 1000.0); }

void Output::lookOften() { m_timer.start(tickEvery); }

void Output::tick() {
    // Nothing moves while it rests; what begins to play is looked at from then on (lookOften()).
    const int wanted = m_player.isResting() ? restEvery : tickEvery;
    if (m_timer.interval() != wanted) m_timer.start(wanted);
    takeNews(m_player.tend());
    m_player.collect();
    Q_EMIT ticked();
}

void Output::choose(const QString& id) {
    m_keeps = true;
    open(id, false);
}

void Output::restore() { open(settings::soundOutput(), true); }

void Output::open(const QString& id, bool awaited) {
    m_wanted = id;
    m_player.beginOpening(id.toStdString(), awaited);
}

void Output::look() {
    if (std::exchange(m_looking, true)) return;
    runJob(this, m_lister, audioDevices, [this](Result<std::vector<OutputInfo>> outputs) {
        m_looking = false;
        if (outputs) m_known = std::move(outputs.value());
        Q_EMIT listed();
    });
}

QString Output::said() const {
    const int milliseconds = qRound(1000 * m_player.ahead());
    if (m_player.isSilent()) return tr("Nothing is heard: the silent output plays");
    const QString name = QString::fromStdString(m_player.outputName());
    return tr("%1 plays; what is played is heard after %2 ms").arg(name).arg(milliseconds);
}

void Output::setDelay(SoundDelay delay) {
    m_delay = delay;
    settings::setSoundDelay(static_cast<int>(delay));
    m_player.setHeld(heldFor(delay));
    Q_EMIT changed();
}

void Output::checkGone() {
    if (!m_player.outputIsGone()) return;
    m_player.replaceOutput();
    m_gone = true;
    Q_EMIT m_messages.noted(
        outputSubject, tr("The sound output has gone: it was unplugged, or its sound server has ended."));
}

void Output::takeNews(OutputNews news) {
    if (news == OutputNews::None) return;
    const auto note = [this](const QString& text) { Q_EMIT m_messages.noted(outputSubject, text); };
    switch (news) {
    case OutputNews::None: break;
    case OutputNews::Opened:
        if (std::exchange(m_gone, false)) {
            note(m_player.isSilent()
                     ? tr("The sound output has gone. The song goes on without sound until it is "
                          "back; another can be chosen under Play > Sound output.")
                     : tr("The sound output has gone. The song goes on through another; choose "
                          "one under Play > Sound output."));
            break;
        }
        if (std::exchange(m_keeps, false)) {
            settings::setSoundOutput(m_wanted);
            const QString name = QString::fromStdString(m_player.outputName());
            Q_EMIT m_messages.announced(tr("Sound output: %1").arg(name.isEmpty() ? m_wanted : name));
        }
        note({});
        break;
    case OutputNews::Failed:
        m_keeps = false;
        note(tr("The sound output did not open. %1")
                 .arg(QString::fromStdString(m_player.outputProblem().message())));
        break;
    case OutputNews::Hung:
        note(tr("The sound output does not answer. The song goes on without sound until it does."));
        break;
    case OutputNews::Back:
        m_gone = false;
        note({});
        Q_EMIT m_messages.announced(tr("The sound output is back"));
        break;
    }
    Q_EMIT changed();
}

} // namespace cobbleway
