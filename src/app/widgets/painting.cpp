#include "app/widgets/painting.h"

#include "app/look/theme.h"
#include "app/widgets/laidtext.h"

#include <QFontMetricsF>
#include <QImage>
#include <QPainterPath>
#include <QPixmapCache>
#include <QStyle>
#include <algorithm>
#include <array>
#include <cmath>

namespace cobbleway {
namespace {

/// Places of keys from bottom to top, and of ticks from left to right, within a lane.
class LaneGeometry {
  public:
    LaneGeometry(const QRectF& rect, const Overview& overview, LaneRange range, bool drums)
        : m_rect(rect), m_range(range),
          m_scale(rect.width() / static_cast<double>(std::max<Tick>(1, range.to - range.from))) {
        if (drums) {
            const double step = rect.height() / pieceCount;
            for (std::uint8_t key = 0; key < 128; ++key)
                m_y[key] = rect.top() + (rowOfPiece(pieceOf(Key{key})) + 0.5) * step;
            m_size = std::min(2.4, step * 0.5);
            return;
        }
        // An octave at least, so that a narrow part looks narrow.
        const double keys = std::max(12, overview.highest() - overview.lowest() + 1);
        m_size = std::clamp(rect.height() / keys * 1.3, 1.8, 4.0);
        const double middle = (overview.lowest() + overview.highest()) / 2.0;
        for (std::size_t key = 0; key < m_y.size(); ++key)
            m_y[key] =
                rect.center().y() - (static_cast<double>(key) - middle) / keys * (rect.height() - m_size);
    }
    [[nodiscard]] double x(Tick tick) const {
        return m_rect.left() + static_cast<double>(tick - m_range.from) * m_scale;
    }
    [[nodiscard]] double y(Key key) const { return m_y[key.value & 127U]; }
    [[nodiscard]] double size() const { return m_size; } ///< height of a stone, greatest radius of a pebble
    [[nodiscard]] double scale() const { return m_scale; }

  private:
    QRectF m_rect;
    LaneRange m_range;
    double m_scale, m_size = 1;
    std::array<double, 128> m_y{};
};

/// A picture of stones: lying rounded bars and round pebbles, with soft edges. A painter's own shapes would
/// take longer than a frame for the thousands that a page shows.
class StonePicture {
  public:
    StonePicture(const QSizeF& size, double ratio)
        : m_ratio(ratio), m_width(std::max(1, static_cast<int>(std::ceil(size.width() * ratio)))),
          m_height(std::max(1, static_cast<int>(std::ceil(size.height() * ratio)))),
          m_cover(static_cast<std::size_t>(m_width) * static_cast<std::size_t>(m_height), 0) {}

    /// A bar of height 2·radius from `left` to `right`, its ends round; a pebble when they are one radius
    /// from its middle.
    void add(double left, double right, double y, double radius) {
        left *= m_ratio;
        right *= m_ratio;
        y *= m_ratio;
        radius *= m_ratio;
        const double from = std::min(left + radius, (left + right) / 2), to = std::max(right - radius, from);
        const int x0 = std::max(0, static_cast<int>(std::floor(from - radius))),
                  x1 = std::min(m_width - 1, static_cast<int>(std::ceil(to + radius)));
        const int y0 = std::max(0, static_cast<int>(std::floor(y - radius))),
                  y1 = std::min(m_height - 1, static_cast<int>(std::ceil(y + radius)));
        for (int py = y0; py <= y1; ++py) {
            const double dy = py + 0.5 - y;
            std::uint8_t* row = &m_cover[static_cast<std::size_t>(py) * static_cast<std::size_t>(m_width)];
            const std::uint8_t middle = covered(radius - std::abs(dy));
            for (int px = x0; px <= x1; ++px) {
                const double x = px + 0.5, dx = x < from ? from - x : (x > to ? x - to : 0);
                const std::uint8_t cover = dx == 0 ? middle : covered(radius - std::sqrt(dx * dx + dy * dy));
                row[px] = std::max(row[px], cover);
            }
        }
    }

    [[nodiscard]] QImage image(const QColor& colour) const {
        std::array<QRgb, 256> shades{};
        for (int i = 1; i < 256; ++i)
            shades[static_cast<std::size_t>(i)] =
                qPremultiply(qRgba(colour.red(), colour.green(), colour.blue(), i));
        QImage picture(m_width, m_height, QImage::Format_ARGB32_Premultiplied);
        for (int y = 0; y < m_height; ++y) {
            auto* row = reinterpret_cast<QRgb*>(picture.scanLine(y));
            const std::uint8_t* cover =
                &m_cover[static_cast<std::size_t>(y) * static_cast<std::size_t>(m_width)];
            for (int x = 0; x < m_width; ++x) row[x] = shades[cover[x]];
        }
        picture.setDevicePixelRatio(m_ratio);
        return picture;
    }

  private:
    static std::uint8_t covered(double depth) {
        return static_cast<std::uint8_t>(std::clamp(depth + 0.5, 0.0, 1.0) * 255);
    }
    double m_ratio;
    int m_width, m_height;
    std::vector<std::uint8_t> m_cover;
};

void addPebbles(StonePicture& picture, const QPointF& origin, const LaneGeometry& at,
                std::span<const DrawnNote> notes) {
    for (const DrawnNote& note : notes) {
        const double radius = std::max(0.7, at.size() * (0.45 + 0.55 * note.velocity.value / 127.0));
        const double x = at.x(note.start) - origin.x();
        // A hit's length says nothing; only hits that run together make a line.
        const double last = std::max(x, at.x(note.end) - origin.x() - 4 * radius);
        picture.add(x - radius, (last - x < 6 ? x : last) + radius, at.y(note.key) - origin.y(), radius);
    }
}

void addStones(StonePicture& picture, const QPointF& origin, const LaneGeometry& at,
               std::span<const DrawnNote> notes) {
    for (const DrawnNote& note : notes) {
        const double x = at.x(note.start) - origin.x();
        const double width = std::max(1.8, static_cast<double>(note.end - note.start) * at.scale() - 0.6);
        picture.add(x, x + width, at.y(note.key) - origin.y(), at.size() / 2);
    }
}

/// Many thousands of notes, too thick for stones: as dots.
void paintTexture(QPainter& painter, const QRectF& rect, const LaneGeometry& at,
                  std::span<const DrawnNote> notes, const QColor& colour) {
    const int width = static_cast<int>(rect.width()), height = static_cast<int>(rect.height());
    if (width <= 0 || height <= 0) return;
    QImage image(width, height, QImage::Format_ARGB32_Premultiplied);
    image.fill(Qt::transparent);
    const QRgb dot = colour.rgba();
    std::array<QRgb*, 128> rows;
    for (int key = 0; key < 128; ++key) {
        const int y = static_cast<int>(at.y(Key{static_cast<std::uint8_t>(key)}) - rect.top());
        rows[static_cast<std::size_t>(key)] =
            reinterpret_cast<QRgb*>(image.scanLine(std::clamp(y, 0, height - 1)));
    }
    const double scale = at.scale(), shift = at.x(0) - rect.left();
    for (const DrawnNote& note : notes) {
        const int left = std::max(0, static_cast<int>(static_cast<double>(note.start) * scale + shift));
        const int right =
            std::min(width - 1, static_cast<int>(static_cast<double>(note.end) * scale + shift));
        QRgb* row = rows[note.key.value & 127U];
        for (int x = left; x <= right; ++x) row[x] = dot;
    }
    painter.drawImage(rect.topLeft(), image);
}

void paintCurve(QPainter& painter, const QRectF& rect, const LaneGeometry& at,
                const std::vector<ControlPoint>& points, LaneRange range) {
    if (points.empty()) return;
    const auto y = [&](int value) { return rect.bottom() - 1 - value / 127.0 * (rect.height() - 2); };
    QPainterPath path;
    bool begun = false;
    double lastX = -1;
    int value = points.front().value;
    for (const ControlPoint& point : points) {
        if (point.tick > range.to) break;
        const double x = std::max(rect.left(), at.x(point.tick));
        if (begun && x - lastX < 1) { // within one dot the last counts
            value = point.value;
            continue;
        }
        if (!begun) path.moveTo(std::max(rect.left(), std::min(x, at.x(range.from))), y(point.value));
        if (begun) path.lineTo(x, y(value));
        path.lineTo(x, y(point.value));
        begun = true;
        lastX = x;
        value = point.value;
    }
    if (begun) path.lineTo(rect.right(), y(value));
    QColor ink = theme().ink;
    ink.setAlpha(150);
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(ink, 1.2));
    painter.drawPath(path);
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

int rowOfPiece(DrumPiece piece) {
    switch (piece) {
    case DrumPiece::Cymbals: return 0;
    case DrumPiece::Hats: return 1;
    case DrumPiece::Percussion: return 2;
    case DrumPiece::Toms: return 3;
    case DrumPiece::Snare: return 4;
    case DrumPiece::Kick: return 5;
    case DrumPiece::Other: break;
    }
    return 6;
}

QString pieceText(DrumPiece piece) {
    switch (piece) {
    case DrumPiece::Kick: return QObject::tr("Kick");
    case DrumPiece::Snare: return QObject::tr("Snare");
    case DrumPiece::Hats: return QObject::tr("Hats");
    case DrumPiece::Toms: return QObject::tr("Toms");
    case DrumPiece::Cymbals: return QObject::tr("Cymbals");
    case DrumPiece::Percussion: return QObject::tr("Percussion");
    case DrumPiece::Other: break;
    }
    return QObject::tr("Other");
}

void paintLane(QPainter& painter, const QRectF& rect, const Overview& overview,
               const std::vector<ControlPoint>& volume, LaneRange range, bool drums, const QColor& colour) {
    if (range.to <= range.from || overview.isEmpty()) return;
    constexpr std::size_t thick = 1600;
    painter.save();
    painter.setClipRect(rect.adjusted(-3, -1, 3, 1));
    painter.setRenderHint(QPainter::Antialiasing);
    const LaneGeometry geometry(rect, overview, range, drums);
    const auto notes = overview.between(range.from, range.to, static_cast<Tick>(1.2 / geometry.scale()));
    const QRectF around = rect.adjusted(-3, -1, 3, 1);
    if (notes.size() > thick) {
        paintTexture(painter, rect, geometry, notes, colour);
    } else {
        StonePicture picture(around.size(), painter.device()->devicePixelRatioF());
        if (drums)
            addPebbles(picture, around.topLeft(), geometry, notes);
        else
            addStones(picture, around.topLeft(), geometry, notes);
        painter.drawImage(around.topLeft(), picture.image(colour));
    }
    paintCurve(painter, rect, geometry, volume, range);
    painter.restore();
}

Mirrored::Mirrored(QPainter& painter, const QRectF& within, Qt::LayoutDirection direction)
    : m_painter(painter) {
    painter.save();
    if (direction != Qt::RightToLeft) return;
    painter.translate(within.left() + within.right(), 0);
    painter.scale(-1, 1);
}

Upright::Upright(QPainter& painter, const QRectF& part)
    : m_painter(painter), m_rect(part), m_turned(painter.worldTransform().m11() < 0) {
    if (!m_turned) return;
    painter.save();
    painter.translate(part.left() + part.right(), 0); // about its own middle
    painter.scale(-1, 1);
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
    paintText(painter, rect.adjusted(-9, 0, 9, 0), text, font, ink, Qt::AlignCenter);
    painter.restore();
    return rect;
}

void paintCard(QPainter& painter, const QRectF& rect, bool selected, double radius) {
    // Rounded lines take long to draw; a page has a card a row, all of one size.
    const Theme& t = theme();
    const double ratio = painter.device()->devicePixelRatioF();
    const QString key = QStringLiteral("card %1 %2 %3 %4 %5 %6")
                            .arg(rect.width())
                            .arg(rect.height())
                            .arg(selected)
                            .arg(radius)
                            .arg(ratio)
                            .arg(t.revision);
    QPixmap card;
    if (!QPixmapCache::find(key, &card)) {
        card = QPixmap((rect.size() * ratio).toSize());
        card.setDevicePixelRatio(ratio);
        card.fill(Qt::transparent);
        QPainter to(&card);
        to.setRenderHint(QPainter::Antialiasing);
        to.setPen(QPen(selected ? t.action : t.line, selected ? 1.6 : 1));
        to.setBrush(selected ? t.selected : t.panel);
        to.drawRoundedRect(QRectF(QPointF(), rect.size()).adjusted(0.8, 0.8, -0.8, -0.8), radius, radius);
        to.end();
        QPixmapCache::insert(key, card);
    }
    painter.drawPixmap(rect.topLeft(), card);
}

void paintText(QPainter& painter, const QRectF& rect, const QString& text, const QFont& font,
               const QColor& colour, Qt::Alignment alignment) {
    const Upright upright(painter, rect);
    if (text.isEmpty()) return;
    painter.setFont(font);
    painter.setPen(colour);
    const QStaticText& laid = laidText(painter, text, font, rect.width());
    const QSizeF room = upright.rect().size() - laid.size();
    const Qt::Alignment sides = QStyle::visualAlignment(painter.layoutDirection(), alignment);
    const double x = sides & Qt::AlignRight ? 1 : (sides & Qt::AlignHCenter ? 0.5 : 0);
    const double y = sides & Qt::AlignBottom ? 1 : (sides & Qt::AlignVCenter ? 0.5 : 0);
    painter.drawStaticText(upright.rect().topLeft() + QPointF(room.width() * x, room.height() * y), laid);
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
