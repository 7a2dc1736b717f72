#include "app/widgets/notespicture.h"

#include "app/look/theme.h"
#include "app/session/session.h"
#include "app/widgets/painting.h"
#include "midi/gm.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>
#include <utility>

namespace cobbleway {

NotesPicture::NotesPicture(Uses<uses::Set, uses::Findings, uses::Transport> session, QWidget* parent)
    : QWidget(parent), m_session(session) {
    setMinimumSize(240, 160);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Notes of the selected part"));
    connect(&session.current, &CurrentSet::songChanged, this, &NotesPicture::refresh);
    connect(&session.current, &CurrentSet::selectionChanged, this, &NotesPicture::refresh);
    connect(themeSignal(), &ThemeSignal::changed, this, &NotesPicture::refresh);
}

void NotesPicture::refresh() {
    m_moving = {};
    if (m_session.current.hasSong()) {
        const TempoMap& tempo = *m_session.current.song().tempo;
        m_span = std::max<Tick>(1, tempo.barStart(m_firstBar + m_bars) - tempo.barStart(m_firstBar));
        if (!m_session.transport.isPlaying()) m_start = tempo.barStart(m_firstBar);
    }
    update();
}

QRectF NotesPicture::area() const {
    return QRectF(rect()).adjusted((showsDrums() ? 70 : 34) * m_scale, 4, -6, -22 * m_scale);
}

bool NotesPicture::showsDrums() const {
    const Part* part = m_session.current.part();
    return part && part->source.drums;
}

int NotesPicture::heightOf(Key key) const {
    return showsDrums() ? pieceCount - 1 - rowOfPiece(pieceOf(key)) : key.value;
}

double NotesPicture::xOf(Tick tick) const {
    const double span = static_cast<double>(std::max<Tick>(1, endTick() - startTick()));
    return area().left() + static_cast<double>(tick - startTick()) / span * area().width();
}

void NotesPicture::setBarCount(int bars) {
    m_bars = std::clamp(bars, 2, 32);
    refresh();
    Q_EMIT pageTurned();
}

void NotesPicture::turnTo(int bar) {
    const int last = m_session.current.hasSong() ? m_session.current.song().bars() : 1;
    m_firstBar = std::clamp(bar, 1, std::max(1, last));
    refresh();
    if (m_session.current.hasSong()) m_start = m_session.current.song().tempo->barStart(m_firstBar);
    Q_EMIT pageTurned();
}

void NotesPicture::moveTo(Tick start) {
    m_start = start;
    const int bar = m_session.current.song().tempo->position(std::max<Tick>(0, start)).bar;
    update();
    if (std::exchange(m_firstBar, bar) != bar) Q_EMIT pageTurned();
}

/// Brings the notes nearer to where the playhead stands at a third of the picture; a jump of the place is
/// followed at once. True when another bar is the first.
bool NotesPicture::scroll(Tick place) {
    const int before = m_firstBar;
    const Tick last = std::max<Tick>(0, m_session.current.song().end - m_span);
    const Tick goal = std::clamp<Tick>(place - m_span / 3, 0, last);
    const Tick off = goal - m_start;
    // A tick of the timer at 240 BPM is far less than a twentieth of the picture.
    const bool near = std::abs(off) < m_span / 20;
    const bool far = place < startTick() || place >= endTick();
    moveTo(near || far ? goal : m_start + off / 8);
    return m_firstBar != before;
}

bool NotesPicture::follow() {
    if (!m_session.current.hasSong() || !isVisible()) return false;
    const Tick place = m_session.transport.evenPlace();
    if (m_session.transport.player().isPlaying()) return scroll(place);
    if (place < startTick() || place >= endTick()) {
        const int bar = m_session.current.song().tempo->position(place).bar;
        turnTo((bar - 1) / m_bars * m_bars + 1);
        return true;
    }
    if (std::abs(xOf(place) - m_paintedX) >= 0.5) update();
    return false;
}

QString NotesPicture::surfaceValue() const {
    if (!m_session.current.hasSong() || !m_session.current.part()) return {};
    return tr("bars %1 to %2: %3")
        .arg(m_firstBar)
        .arg(m_firstBar + m_bars - 1)
        .arg(notesBetween(startTick(), endTick(), 40));
}

QString NotesPicture::notesBetween(Tick from, Tick to, int most) const {
    QStringList names;
    const auto overview = m_session.findings.overview(m_session.current.selectedPart());
    for (const DrawnNote& note : overview->between(from, to, 0))
        if (note.start >= from && note.start < to && names.size() < most)
            names << (showsDrums() ? pieceText(pieceOf(note.key)).toLower()
                                   : QString::fromStdString(keyName(note.key)));
    return names.isEmpty() ? tr("rest") : names.join(QLatin1Char(' '));
}

std::vector<SurfaceRow> NotesPicture::surfaceRows() const {
    std::vector<SurfaceRow> rows;
    if (!m_session.current.hasSong() || !m_session.current.part()) return rows;
    const Song& song = m_session.current.song();
    for (int bar = m_firstBar; bar < m_firstBar + m_bars && bar <= song.bars(); ++bar) {
        const Tick from = song.tempo->barStart(bar), to = song.tempo->barStart(bar + 1);
        QString name = tr("bar %1").arg(bar);
        for (const Section& section : song.sections)
            if (from >= section.start && from < section.end)
                name += QStringLiteral(", ") + QString::fromStdString(section.name);
        const QRectF rect(xOf(from), area().top(), xOf(to) - xOf(from), area().height());
        const Tick place = m_session.transport.place();
        rows.push_back({name, notesBetween(from, to, 64), rect.toRect(), place >= from && place < to});
    }
    return rows;
}

std::pair<int, int> NotesPicture::keySpan() const {
    if (showsDrums()) return {0, pieceCount - 1};
    int lowest = 127, highest = 0;
    const Part* part = m_session.current.part();
    if (part)
        if (const auto overview = m_session.findings.overview(part->id); !overview->isEmpty()) {
            lowest = overview->lowest();
            highest = overview->highest();
        }
    if (lowest > highest) return {48, 72};
    const int missing = std::max(0, 14 - (highest - lowest));
    return {std::max(0, lowest - 2 - missing / 2), std::min(127, highest + 2 + missing / 2)};
}

void NotesPicture::paintKeys(QPainter& painter, std::pair<int, int> span) const {
    const QRectF a = area();
    if (showsDrums()) paintRowNames(painter, span);
    const double step = a.height() / (span.second - span.first + 1);
    const bool all = step * 2 > 15 * m_scale;
    for (int key = span.first; key <= span.second && !showsDrums(); ++key) {
        const int place = key % 12; // C always; with room G, then E and A too
        if (place != 0 && !(all && (place == 4 || place == 7 || place == 9)) &&
            !(!all && step * 6 > 15 * m_scale && place == 7))
            continue;
        const double y = a.bottom() - (key - span.first + 0.5) * step;
        QColor lineColour = theme().line;
        lineColour.setAlpha(key % 12 == 0 ? 255 : 110);
        painter.setPen(QPen(lineColour, 1));
        painter.drawLine(QPointF(a.left(), y), QPointF(a.right(), y));
        paintText(painter, QRectF(0, y - 8 * m_scale, 30 * m_scale, 16 * m_scale),
                  QString::fromStdString(keyName(Key{static_cast<std::uint8_t>(key)})), textFont(8 * m_scale),
                  theme().muted, Qt::AlignRight | Qt::AlignVCenter);
    }
}

void NotesPicture::paintBars(QPainter& painter, Tick from, Tick to) const {
    const QRectF a = area();
    const TempoMap& tempo = *m_session.current.song().tempo;
    for (int bar = tempo.position(std::max<Tick>(0, from)).bar; tempo.barStart(bar) <= to; ++bar) {
        const double x = xOf(tempo.barStart(bar));
        painter.setPen(QPen(theme().line, 1));
        painter.drawLine(QPointF(x, a.top()), QPointF(x, a.bottom()));
        paintText(painter, QRectF(x + 3, a.bottom() + 3, 50 * m_scale, 16 * m_scale), QString::number(bar),
                  textFont(8.5 * m_scale), theme().muted);
    }
}

void NotesPicture::paintRowNames(QPainter& painter, std::pair<int, int> span) const {
    const QRectF a = area();
    const double step = a.height() / (span.second - span.first + 1);
    for (int piece = 0; piece < pieceCount; ++piece) {
        const double y = a.top() + (rowOfPiece(static_cast<DrumPiece>(piece)) + 0.5) * step;
        painter.setPen(QPen(theme().line, 1));
        painter.drawLine(QPointF(a.left(), y), QPointF(a.right(), y));
        paintText(painter, QRectF(0, y - 8 * m_scale, 64 * m_scale, 16 * m_scale),
                  pieceText(static_cast<DrumPiece>(piece)), textFont(8.5 * m_scale), theme().muted,
                  Qt::AlignRight | Qt::AlignVCenter);
    }
}

void NotesPicture::paintNotes(QPainter& painter, const Part& part, std::pair<int, int> span, Layer layer,
                              Tick from, Tick to) const {
    const QRectF a = area();
    const bool back = layer == Layer::Back;
    const double step = a.height() / (span.second - span.first + 1);
    const double height =
        back ? std::clamp(step * 0.55, 3.0, 6.0) : std::clamp(step * 1.15, 6.0, 17.0 * m_scale);
    const Tick place = m_session.transport.evenPlace();
    QColor colour = back ? theme().muted : (layer == Layer::Lead ? partColour(part.colour) : theme().brick);
    if (back) colour.setAlpha(70);
    painter.setPen(Qt::NoPen);
    painter.setBrush(colour);
    const auto overview = m_session.findings.overview(part.id);
    for (const DrawnNote& note : overview->between(from, to, 0)) {
        const int at = heightOf(note.key);
        if (note.end < from || at < span.first || at > span.second) continue;
        if (layer == Layer::Sounding && (place < note.start || place >= std::max(note.end, note.start + 1)))
            continue;
        const double x = xOf(note.start), y = a.bottom() - (at - span.first + 0.5) * step;
        // A pebble's size tells how hard the drum is struck.
        const double tall = part.source.drums ? height * (0.4 + 0.6 * note.velocity.value / 127.0) : height;
        const double width = part.source.drums ? tall : std::max(back ? 3.0 : 5.0, xOf(note.end) - x - 1.5);
        const QRectF stone(x, y - tall / 2, width, tall);
        if (back && width < 5) { // too small to see how its ends are shaped
            painter.fillRect(stone, colour);
            continue;
        }
        const double round = std::min(tall, width) / 2;
        painter.drawRoundedRect(stone, round, round);
        if (m_named && layer == Layer::Lead && !part.source.drums) {
            paintText(painter, QRectF(x, y - tall / 2 - 15 * m_scale, 44 * m_scale, 15 * m_scale),
                      QString::fromStdString(keyName(
                          Key{static_cast<std::uint8_t>(std::clamp(note.key.value + m_written, 0, 127))})),
                      textFont(9 * m_scale, QFont::DemiBold), theme().ink);
            painter.setPen(Qt::NoPen);
            painter.setBrush(colour);
        }
    }
}

void NotesPicture::setLook(double scale, bool named, int written) {
    m_scale = scale;
    m_named = named;
    m_written = written;
    m_moving = {};
    update();
}

void NotesPicture::paintMoving(const Part& lead, std::pair<int, int> span) {
    const double ratio = devicePixelRatioF();
    m_movingFrom = m_start - m_span / 8;
    const Tick to = m_movingFrom + 2 * m_span;
    m_moving = QPixmap((QSizeF(2 * area().width(), height()) * ratio).toSize());
    m_moving.setDevicePixelRatio(ratio);
    m_moving.fill(Qt::transparent);
    QPainter painter(&m_moving);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.translate(-xOf(m_movingFrom), 0);
    paintBars(painter, m_movingFrom, to);
    for (const Part& other : m_session.current.song().parts)
        if (other.id != lead.id && !lead.source.drums && !other.source.drums && other.mix.role != Role::Off)
            paintNotes(painter, other, span, Layer::Back, m_movingFrom, to);
    paintNotes(painter, lead, span, Layer::Lead, m_movingFrom, to);
}

void NotesPicture::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Part* part = m_session.current.part();
    if (!part) {
        paintText(painter, rect(), tr("The selected part's notes appear here"), textFont(10), theme().muted,
                  Qt::AlignCenter);
        return;
    }
    const auto span = keySpan();
    const bool there =
        !m_moving.isNull() && m_moving.deviceIndependentSize().height() == height() &&
        m_moving.deviceIndependentSize().toSize() == QSizeF(2 * area().width(), height()).toSize() &&
        m_movingFrom <= m_start && m_start + m_span <= m_movingFrom + 2 * m_span;
    if (!there) paintMoving(*part, span);
    paintKeys(painter, span);
    painter.setClipRect(QRectF(area().left() - 2, 0, area().width() + 6, height()));
    painter.drawPixmap(QPointF(xOf(m_movingFrom), 0), m_moving);
    painter.setClipRect(area().adjusted(-2, -4, 4, 4));
    const Tick place = m_session.transport.evenPlace();
    paintNotes(painter, *part, span, Layer::Sounding, place, std::min(place + 1, endTick()));
    const double x = xOf(place);
    m_paintedX = x;
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme().brick);
    painter.drawRect(QRectF(x - 1, area().top(), 2, area().height()));
    if (!hasFocus()) return;
    painter.setClipping(false);
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme().action, 1.5));
    painter.drawRoundedRect(QRectF(rect()).adjusted(1, 1, -1, -1), 6, 6);
}

void NotesPicture::mousePressEvent(QMouseEvent* event) {
    if (!m_session.current.hasSong()) return;
    const double share = (event->position().x() - area().left()) / area().width();
    m_session.transport.seek(startTick() + static_cast<Tick>(std::clamp(share, 0.0, 1.0) *
                                                             static_cast<double>(endTick() - startTick())));
}

void NotesPicture::wheelEvent(QWheelEvent* event) {
    const int direction = event->angleDelta().y() > 0 ? -1 : 1;
    if (event->modifiers() & Qt::ControlModifier)
        setBarCount(direction < 0 ? m_bars / 2 : m_bars * 2);
    else
        turnTo(m_firstBar + direction * std::max(1, m_bars / 4));
    event->accept();
}

void NotesPicture::keyPressEvent(QKeyEvent* event) {
    switch (event->key()) {
    case Qt::Key_Left: turnTo(m_firstBar - 1); break;
    case Qt::Key_Right: turnTo(m_firstBar + 1); break;
    case Qt::Key_PageUp: turnTo(m_firstBar - m_bars); break;
    case Qt::Key_PageDown: turnTo(m_firstBar + m_bars); break;
    case Qt::Key_Plus: setBarCount(m_bars / 2); break;
    case Qt::Key_Minus: setBarCount(m_bars * 2); break;
    default: return QWidget::keyPressEvent(event);
    }
    announce(this, surfaceValue());
}

} // namespace cobbleway
