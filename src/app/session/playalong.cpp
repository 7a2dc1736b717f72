#include "app/session/playalong.h"

#include "app/session/currentset.h"
#include "app/session/findings.h"
#include "app/session/messages.h"
#include "app/session/settings.h"
#include "app/session/transport.h"
#include "song/match/evidence.h"
#include "song/match/songkeys.h"

#include <QAbstractSpinBox>
#include <QApplication>
#include <QComboBox>
#include <QKeyEvent>
#include <QLineEdit>

namespace cobbleway {
namespace {

constexpr int columns = 10;
constexpr int velocity = 92;

/// Row and column of a letter as row * columns + column; −1 for other keys. By the place of the key where the
/// system tells it (X11 and Wayland key codes), so that it is the same on every keyboard.
int placeOf(const QKeyEvent& event) {
    static constexpr std::array<quint32, 3> firstCodes = {24, 38, 52};
    const quint32 code = event.nativeScanCode();
    for (std::size_t row = 0; code > 0 && row < firstCodes.size(); ++row)
        if (code >= firstCodes[row] && code < firstCodes[row] + columns)
            return static_cast<int>(row) * columns + static_cast<int>(code - firstCodes[row]);
    if (code > 0) return -1;
    static const QString letters = QStringLiteral("QWERTYUIOPASDFGHJKL;ZXCVBNM,./");
    return event.key() > 0 && event.key() < 128 ? static_cast<int>(letters.indexOf(QChar(event.key()))) : -1;
}

bool takesText(const QObject* object) {
    return qobject_cast<const QLineEdit*>(object) || qobject_cast<const QAbstractSpinBox*>(object) ||
           qobject_cast<const QComboBox*>(object);
}

} // namespace

PlayAlong::PlayAlong(CurrentSet& current, Findings& findings, Transport& transport, Messages& messages)
    : m_current(current), m_findings(findings), m_transport(transport), m_messages(messages),
      m_keyboards([this](std::span<const std::uint8_t> message) { take(message); }) {
    connect(&current, &CurrentSet::selectionChanged, this, [this] {
        m_transport.player().setLivePart(m_current.selectedPart());
        tuneLetters();
    });
    follow(current, Side::Notes, this, &PlayAlong::tuneLetters);
    followKeyboards();
}

void PlayAlong::followKeyboards() {
    static const QString subject = QStringLiteral("keyboard");
    connect(&m_keyboards, &Keyboards::opened, this, [this](const QString& id) {
        Q_EMIT m_messages.noted(subject, {});
        Q_EMIT m_messages.announced(tr("%1 plays the selected part").arg(id));
        tellChanged();
    });
    connect(&m_keyboards, &Keyboards::failed, this, [this](const QString&, const QString& problem) {
        Q_EMIT m_messages.noted(subject, tr("The keyboard cannot be used: %1").arg(problem));
        tellChanged();
    });
    connect(&m_keyboards, &Keyboards::gone, this, [this](const QString& id) {
        Q_EMIT m_messages.noted(subject, tr("%1 is not connected. It plays again when it is.").arg(id));
        tellChanged();
    });
}

void PlayAlong::setInput(const QString& id) {
    settings::setMidiInput(id);
    Q_EMIT m_messages.noted(QStringLiteral("keyboard"), {});
    m_keyboards.want(id);
    tellChanged();
}

void PlayAlong::take(std::span<const std::uint8_t> message) {
    if (!m_pedals.take(message)) m_transport.player().takeLive(message);
}

void PlayAlong::restoreInput() { m_keyboards.waitFor(settings::midiInput()); }

void PlayAlong::tellChanged() {
    m_transport.player().setPlayingAlong(!m_keyboards.playing().isEmpty() || m_lettersPlay);
    Q_EMIT changed();
}

void PlayAlong::setLettersPlay(bool play) {
    if (play == m_lettersPlay) return;
    m_lettersPlay = play;
    releaseAll();
    if (play) {
        tuneLetters();
        qApp->installEventFilter(this);
    } else {
        qApp->removeEventFilter(this);
    }
    tellChanged();
    Q_EMIT m_messages.announced(play ? tr("Letters play the selected part")
                                     : tr("Letter keys no longer play notes"));
}

/// The scale is that of the song as it is heard; it lies where the part lies.
void PlayAlong::tuneLetters() {
    if (!m_lettersPlay || !m_current.part()) return;
    const MusicalKey key = keyOfSong(m_current.song());
    const PartTraits traits = *m_findings.derived()->traits(m_current.song(), *m_current.part());
    m_letters = {key.tonic, key.minor, traits.notes > 0 ? traits.middle : 60};
}

void PlayAlong::strike(std::size_t letter, int key) {
    m_held[letter] = {m_current.selectedPart(), key};
    m_transport.player().audition(m_held[letter].part, Key{static_cast<std::uint8_t>(key)},
                                  Velocity{static_cast<std::uint8_t>(velocity)});
}

void PlayAlong::release(std::size_t letter) {
    const Held held = std::exchange(m_held[letter], Held{});
    if (held.key >= 0)
        m_transport.player().audition(held.part, Key{static_cast<std::uint8_t>(held.key)}, Velocity{0});
}

void PlayAlong::releaseAll() {
    for (std::size_t letter = 0; letter < m_held.size(); ++letter) release(letter);
}

bool PlayAlong::takeKey(const QKeyEvent& event, bool down) {
    const int place = placeOf(event);
    const bool plain = !(event.modifiers() & (Qt::ControlModifier | Qt::AltModifier | Qt::MetaModifier));
    if (place < 0 || (down && !plain) || !m_current.part()) return false;
    if (event.isAutoRepeat()) return true;
    const auto letter = static_cast<std::size_t>(place);
    release(letter);
    if (down)
        strike(letter,
               m_letters.key(place / columns, place % columns, event.modifiers() & Qt::ShiftModifier).value);
    return true;
}

bool PlayAlong::eventFilter(QObject* watched, QEvent* event) {
    const auto type = event->type();
    if (type == QEvent::ApplicationDeactivate) releaseAll();
    const bool key =
        type == QEvent::KeyPress || type == QEvent::KeyRelease || type == QEvent::ShortcutOverride;
    if (!key || !watched->isWidgetType() || takesText(watched)) return QObject::eventFilter(watched, event);
    const auto& pressed = *static_cast<QKeyEvent*>(event);
    if (type == QEvent::ShortcutOverride) {
        if (placeOf(pressed) < 0 || pressed.modifiers() & ~Qt::KeyboardModifiers(Qt::ShiftModifier))
            return false;
        event->accept(); // letters are no shortcuts while they play
        return true;
    }
    return takeKey(pressed, type == QEvent::KeyPress) || QObject::eventFilter(watched, event);
}

} // namespace cobbleway
