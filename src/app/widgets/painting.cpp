#include "app/widgets/painting.h"

#include "app/look/theme.h"

#include <QFontMetricsF>
#include <QPainterPath>
#include <algorithm>
#include <array>
#include <cmath>

namespace cobbleway {
namespace {

void paintPebbles(QPainter& painter, const QRectF& rect, const Line& line, double scale,
                  const QColor& colour) {
    std::array<int, 128> row{};
    row.fill(-1);
    std::vector<int> keys;
    for (const Note& note : line.notes) keys.push_back(note.key.value);
    std::sort(keys.begin(), keys.end());
    keys.erase(std::unique(keys.begin(), keys.end()), keys.end());
    for (std::size_t i = 0; i < keys.size(); ++i)
        row[static_cast<std::size_t>(keys[i]) & 127U] = static_cast<int>(i);
    const double step = rect.height() / std::max<std::size_t>(1, keys.size());
    const double largest = std::min(2.4, step * 0.5);
    painter.setBrush(colour);
    for (const Note& note : line.notes) {
        const double y = rect.bottom() - (row[note.key.value & 127U] + 0.5) * step;
        const double radius = std::max(0.7, largest * (0.45 + 0.55 * note.velocity.value / 127.0));
        painter.drawEllipse(QPointF(rect.left() + static_cast<double>(note.start) * scale, y), radius,
                            radius);
    }
}

void paintStones(QPainter& painter, const QRectF& rect, const Line& line, double scale,
                 const QColor& colour) {
    int lowest = 127, highest = 0;
    for (const Note& note : line.notes) {
        lowest = std::min<int>(lowest, note.key.value);
        highest = std::max<int>(highest, note.key.value);
    }
    const double keys =
        std::max(12, highest - lowest + 1); // an octave at least, so that a narrow part looks narrow
    const double height = std::clamp(rect.height() / keys * 1.3, 1.8, 4.0);
    const double middle = (lowest + highest) / 2.0;
    for (const Note& note : line.notes) {
        const double y = rect.center().y() - (note.key.value - middle) / keys * (rect.height() - height);
        const double x = rect.left() + static_cast<double>(note.start) * scale;
        const double width = std::max(1.8, static_cast<double>(note.end - note.start) * scale - 0.6);
        painter.setBrush(colour);
        painter.drawRoundedRect(QRectF(x, y - height / 2, width, height), height / 2, height / 2);
    }
}

struct PillColours {
    QColor ground, ink;
};

PillColours coloursOf(Tone tone) {
    const Theme& t = theme();
    switch (tone) {
    case Tone::Good: return {t.mossGround, t.mossInk};
    case Tone::Look: return {t.ochreGround, t.ochreInk};
    case Tone::Wrong: return {t.brickGround, t.brick};
    case Tone::Action: return {t.action, t.onAction};
    case Tone::Quiet: break;
    }
    return {t.stone, t.ink};
}

} // namespace

void paintLane(QPainter& painter, const QRectF& rect, const Line& line, Tick songEnd, bool drums,
               const QColor& colour) {
    if (songEnd <= 0 || line.notes.empty()) return;
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(Qt::NoPen);
    const double scale = rect.width() / static_cast<double>(songEnd);
    if (drums)
        paintPebbles(painter, rect, line, scale, colour);
    else
        paintStones(painter, rect, line, scale, colour);
    painter.restore();
}

QRectF paintPill(QPainter& painter, double right, double middle, const QString& text, Tone tone) {
    const QFont font = textFont(8.5, QFont::Medium);
    const double width = QFontMetricsF(font).horizontalAdvance(text) + 18;
    const QRectF rect(right - width, middle - 9, width, 18);
    const auto [ground, ink] = coloursOf(tone);
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(Qt::NoPen);
    painter.setBrush(ground);
    painter.drawRoundedRect(rect, 9, 9);
    painter.setPen(ink);
    painter.setFont(font);
    painter.drawText(rect, Qt::AlignCenter, text);
    painter.restore();
    return rect;
}

void paintCard(QPainter& painter, const QRectF& rect, bool selected, double radius) {
    const Theme& t = theme();
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(QPen(selected ? t.action : t.line, selected ? 1.6 : 1));
    painter.setBrush(selected ? t.selected : t.panel);
    painter.drawRoundedRect(rect.adjusted(0.8, 0.8, -0.8, -0.8), radius, radius);
    painter.restore();
}

void paintText(QPainter& painter, const QRectF& rect, const QString& text, const QFont& font,
               const QColor& colour, Qt::Alignment alignment) {
    painter.setFont(font);
    painter.setPen(colour);
    painter.drawText(rect, static_cast<int>(alignment),
                     QFontMetricsF(font).elidedText(text, Qt::ElideRight, rect.width()));
}

void paintMark(QPainter& painter, const QRectF& rect) {
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(Qt::NoPen);
    const Theme& t = theme();
    const double unit = rect.width() / 26, row = rect.height() / 20;
    const struct {
        double x, y, width;
        QColor colour;
    } stones[] = {{0, 0, 12, t.action}, {14, 0, 11, t.action}, {0, 7, 7, t.action}, {9, 7, 9, partColour(0)},
                  {20, 7, 6, t.action}, {3, 14, 10, t.action}, {15, 14, 9, t.ochre}};
    for (const auto& stone : stones) {
        painter.setBrush(stone.colour);
        painter.drawRoundedRect(
            QRectF(rect.left() + stone.x * unit, rect.top() + stone.y * row, stone.width * unit, 5.5 * row),
            2.6 * unit, 2.6 * row);
    }
    painter.restore();
}

QString timeText(double seconds) {
    const int whole = static_cast<int>(seconds);
    if (whole >= 3600)
        return QStringLiteral("%1:%2:%3")
            .arg(whole / 3600)
            .arg(whole / 60 % 60, 2, 10, QLatin1Char('0'))
            .arg(whole % 60, 2, 10, QLatin1Char('0'));
    return QStringLiteral("%1:%2").arg(whole / 60).arg(whole % 60, 2, 10, QLatin1Char('0'));
}

QString dbText(double db) {
    const double rounded = std::round(db * 10) / 10;
    if (rounded == 0) return QStringLiteral("0 dB");
    const QString number = QString::number(std::abs(rounded), 'f', rounded == std::round(rounded) ? 0 : 1);
    return (rounded < 0 ? QStringLiteral("−") : QStringLiteral("+")) + number + QStringLiteral(" dB");
}

} // namespace cobbleway
