#include "app/widgets/kitpicture.h"

#include "app/look/theme.h"
#include "app/widgets/painting.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <array>

namespace cobbleway {
namespace {

/// A stone: the key it stands for (RP-003), its middle and half size in a field of 100 by 60, and what is
/// written on it.
struct Stone {
    std::uint8_t key;
    double x, y, w, h;
    const char* name;
};

constexpr std::array stones = {
    Stone{49, 15, 9, 12, 6, QT_TR_NOOP("crash")},   Stone{53, 40, 7, 7, 5, QT_TR_NOOP("bell")},
    Stone{51, 60, 9, 11, 6, QT_TR_NOOP("ride")},    Stone{57, 86, 9, 11, 6, QT_TR_NOOP("crash 2")},
    Stone{46, 12, 26, 10, 6, QT_TR_NOOP("open")},   Stone{50, 37, 22, 9, 6, QT_TR_NOOP("high")},
    Stone{47, 60, 23, 10, 7, QT_TR_NOOP("mid")},    Stone{56, 87, 25, 11, 5, QT_TR_NOOP("cowbell")},
    Stone{42, 12, 41, 11, 6, QT_TR_NOOP("closed")}, Stone{38, 35, 38, 12, 8, QT_TR_NOOP("snare")},
    Stone{43, 80, 39, 12, 8, QT_TR_NOOP("floor")},  Stone{44, 11, 54, 9, 5, QT_TR_NOOP("pedal")},
    Stone{37, 31, 54, 9, 5, QT_TR_NOOP("side")},    Stone{36, 56, 46, 13, 12, QT_TR_NOOP("kick")},
    Stone{54, 88, 54, 9, 5, QT_TR_NOOP("tamb.")}};

} // namespace

KitPicture::KitPicture(QWidget* parent) : QWidget(parent) {
    setMinimumSize(200, 118);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Kit: plays its drums"));
}

void KitPicture::setNotes(const std::vector<DrumNote>& notes, Key selected) {
    m_notes = notes;
    m_selected = selected;
    update();
}

const DrumNote* KitPicture::noteOf(std::size_t stone) const {
    const auto at = std::find_if(m_notes.begin(), m_notes.end(),
                                 [&](const DrumNote& n) { return n.key.value == stones[stone].key; });
    return at == m_notes.end() ? nullptr : &*at;
}

QString KitPicture::surfaceValue() const { return surfaceRows()[m_chosen].name; }

std::vector<SurfaceRow> KitPicture::surfaceRows() const {
    std::vector<SurfaceRow> rows;
    for (std::size_t i = 0; i < stones.size(); ++i) {
        const DrumNote* note = noteOf(i);
        const QString name = QString::fromStdString(
            note ? note->name
                 : std::string(drumName(percussionKit(Dialect::GM, Program{0}), Key{stones[i].key})));
        rows.push_back({QStringLiteral("%1 %2").arg(stones[i].key).arg(name),
                        note ? tr("%1 hits").arg(note->hits) : tr("not used"), stoneRect(i).toRect(),
                        stones[i].key == m_selected.value});
    }
    return rows;
}

void KitPicture::activateSurfaceRow(int row) {
    m_chosen = static_cast<std::size_t>(std::clamp(row, 0, static_cast<int>(stones.size()) - 1));
    update();
    Q_EMIT struck(stones[m_chosen].key);
}

QRectF KitPicture::stoneRect(std::size_t stone) const {
    const Stone& s = stones[stone];
    const double sx = width() / 100.0, sy = height() / 60.0;
    return {(s.x - s.w) * sx, (s.y - s.h) * sy, 2 * s.w * sx, 2 * s.h * sy};
}

void KitPicture::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    for (std::size_t i = 0; i < stones.size(); ++i) {
        const QRectF rect = stoneRect(i).adjusted(1.5, 1.5, -1.5, -1.5);
        const DrumNote* note = noteOf(i);
        const bool used = note && note->hits > 0 && !note->off, selected = stones[i].key == m_selected.value;
        const bool silent = note && note->silent > 0;
        painter.setBrush(selected ? theme().action : (used ? theme().stone : theme().ground));
        const bool chosen = hasFocus() && i == m_chosen;
        painter.setPen(silent   ? QPen(theme().brick, 1.6, Qt::DashLine)
                       : chosen ? QPen(theme().action, 2)
                                : QPen(theme().line, 1));
        const double round = std::min(rect.width(), rect.height()) * 0.48;
        painter.drawRoundedRect(rect, round, round);
        if (chosen && selected) {
            painter.setBrush(Qt::NoBrush);
            painter.setPen(QPen(theme().onAction, 1.2));
            painter.drawRoundedRect(rect.adjusted(2, 2, -2, -2), round, round);
        }
        paintText(painter, rect, tr(stones[i].name), textFont(8),
                  selected ? theme().onAction : (used ? theme().ink : theme().muted), Qt::AlignCenter);
    }
}

void KitPicture::mousePressEvent(QMouseEvent* event) {
    for (std::size_t i = 0; i < stones.size(); ++i)
        if (stoneRect(i).contains(event->position())) return activateSurfaceRow(static_cast<int>(i));
}

void KitPicture::keyPressEvent(QKeyEvent* event) {
    const auto goTo = [&](double dx, double dy) {
        const Stone& from = stones[m_chosen];
        double best = 1e9;
        std::size_t found = m_chosen;
        for (std::size_t i = 0; i < stones.size(); ++i) {
            const double along = (stones[i].x - from.x) * dx + (stones[i].y - from.y) * dy;
            const double aside =
                std::abs((stones[i].x - from.x) * dy) + std::abs((stones[i].y - from.y) * dx);
            if (along > 3 && along + 2 * aside < best) {
                best = along + 2 * aside;
                found = i;
            }
        }
        m_chosen = found;
        update();
        announce(this, surfaceValue());
    };
    switch (event->key()) {
    case Qt::Key_Left: return goTo(-1, 0);
    case Qt::Key_Right: return goTo(1, 0);
    case Qt::Key_Up: return goTo(0, -1);
    case Qt::Key_Down: return goTo(0, 1);
    case Qt::Key_Return:
    case Qt::Key_Enter:
        if (!event->isAutoRepeat()) activateSurfaceRow(static_cast<int>(m_chosen));
        return;
    default: QWidget::keyPressEvent(event);
    }
}

} // namespace cobbleway
