#include "app/widgets/plots.h"

#include "app/look/theme.h"
#include "app/widgets/painting.h"
#include "midi/gm.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>

namespace cobbleway {
namespace {

QString nameOf(int key) { return QString::fromStdString(keyName(Key{static_cast<std::uint8_t>(key)})); }

} // namespace

PitchHistogram::PitchHistogram(QWidget* parent) : QWidget(parent) {
    setMinimumSize(360, 130);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Notes on each key, and where to cut"));
}

void PitchHistogram::setNotes(const std::array<int, 128>& notes) {
    m_notes = notes;
    update();
}

void PitchHistogram::setCut(int key) {
    key = std::clamp(key, 1, 127);
    if (key == m_cut) return;
    m_cut = key;
    update();
    surfaceNumberChanged(this);
    Q_EMIT cutChanged(key);
}

QString PitchHistogram::surfaceValue() const { return tr("cut below %1").arg(nameOf(m_cut)); }

std::optional<SurfaceNumber> PitchHistogram::surfaceNumber() const {
    return SurfaceNumber{double(m_cut), 1, 127, 1, true};
}

double PitchHistogram::xOf(int key) const {
    return 4 + (key - lowestShown) * (width() - 8.0) / (highestShown + 1 - lowestShown);
}

void PitchHistogram::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const double bottom = height() - 20.0;
    const int most = std::max(1, *std::max_element(m_notes.begin(), m_notes.end()));
    const double step = xOf(lowestShown + 1) - xOf(lowestShown);
    painter.setPen(Qt::NoPen);
    for (int key = 0; key < 128; ++key) {
        const int shown = std::clamp(key, lowestShown, highestShown);
        const int count = m_notes[static_cast<std::size_t>(key)];
        painter.setBrush(key >= m_cut ? partColour(0) : partColour(5));
        const double h = count ? std::max(3.0, (bottom - 8) * count / most) : 0;
        painter.drawRoundedRect(QRectF(xOf(shown) + 0.5, bottom - h, std::max(1.0, step - 1), h), 1.5, 1.5);
    }
    for (int key = 24; key <= highestShown - 12; key += 12)
        paintText(painter, QRectF(xOf(key), bottom + 2, 30, 16), nameOf(key), textFont(8), theme().muted);
    const double x = xOf(std::clamp(m_cut, lowestShown, highestShown + 1));
    painter.setPen(QPen(theme().brick, 2));
    painter.drawLine(QPointF(x, 0), QPointF(x, bottom));
    paintText(painter, QRectF(x > width() - 60 ? x - 50 : x + 5, 0, 46, 16), nameOf(m_cut),
              textFont(9, QFont::DemiBold), theme().brick);
    painter.setPen(QPen(hasFocus() ? theme().action : theme().line, hasFocus() ? 2 : 1));
    painter.setBrush(Qt::NoBrush);
    painter.drawRoundedRect(QRectF(rect()).adjusted(1, 1, -1, -1), 6, 6);
}

void PitchHistogram::mousePressEvent(QMouseEvent* event) {
    const double step = xOf(lowestShown + 1) - xOf(lowestShown);
    setCut(lowestShown + qRound((event->position().x() - xOf(lowestShown)) / step));
}

void PitchHistogram::mouseMoveEvent(QMouseEvent* event) {
    if (event->buttons() & Qt::LeftButton) mousePressEvent(event);
}

void PitchHistogram::keyPressEvent(QKeyEvent* event) {
    switch (event->key()) {
    case Qt::Key_Left: setCut(m_cut - 1); break;
    case Qt::Key_Right: setCut(m_cut + 1); break;
    case Qt::Key_Home: setCut(lowestShown + 1); break;
    case Qt::Key_End: setCut(highestShown); break;
    default: return QWidget::keyPressEvent(event);
    }
    announce(this, surfaceValue());
}

VelocityHistogram::VelocityHistogram(QWidget* parent) : QWidget(parent) {
    setMinimumSize(180, 76);
    setAccessibleName(tr("Velocities before and after"));
}

void VelocityHistogram::setHits(const std::array<int, 128>& before, const std::array<int, 128>& after) {
    m_before = before;
    m_after = after;
    update();
}

QString VelocityHistogram::surfaceValue() const {
    const auto range = [](const std::array<int, 128>& hits) {
        const auto used = [](int count) { return count > 0; };
        const auto first = std::find_if(hits.begin(), hits.end(), used);
        if (first == hits.end()) return tr("no hits");
        const auto last = std::find_if(hits.rbegin(), hits.rend(), used);
        return tr("velocities range from %1 to %2")
            .arg(first - hits.begin())
            .arg(127 - (last - hits.rbegin()));
    };
    const QString before = range(m_before), after = range(m_after);
    return before == after ? before : tr("before, %1; after, %2").arg(before, after);
}

void VelocityHistogram::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    constexpr int perBar = 4; // velocities
    std::array<int, 32> before{}, after{};
    for (std::size_t v = 1; v < 128; ++v) {
        before[v / perBar] += m_before[v];
        after[v / perBar] += m_after[v];
    }
    const int most = std::max(
        {1, *std::max_element(before.begin(), before.end()), *std::max_element(after.begin(), after.end())});
    const double floor = height() - 16.0, step = width() / 32.0;
    const auto bars = [&](const std::array<int, 32>& hits, QColor colour) {
        colour.setAlpha(170);
        painter.setPen(Qt::NoPen);
        painter.setBrush(colour);
        for (std::size_t i = 0; i < hits.size(); ++i) {
            if (!hits[i]) continue;
            const double h = std::max(2.0, (floor - 4) * hits[i] / most);
            painter.drawRoundedRect(QRectF(static_cast<double>(i) * step + 0.7, floor - h, step - 1.4, h),
                                    1.5, 1.5);
        }
    };
    if (m_before != m_after) bars(before, theme().ochre);
    bars(after, theme().moss);
    painter.setPen(QPen(theme().line, 1));
    painter.drawLine(QPointF(0, floor), QPointF(width(), floor));
    paintText(painter, QRectF(0, floor + 1, 30, 15), QStringLiteral("1"), textFont(8), theme().muted);
    paintText(painter, QRectF(width() - 30, floor + 1, 30, 15), QStringLiteral("127"), textFont(8),
              theme().muted, Qt::AlignRight | Qt::AlignVCenter);
}

StepsPicture::StepsPicture(const QString& name, QWidget* parent) : QWidget(parent) {
    setMinimumSize(260, 84);
    setAccessibleName(name);
}

void StepsPicture::setPoints(std::vector<Point> before, std::vector<Point> after, double end, double lowest,
                             double highest) {
    m_before = std::move(before);
    m_after = std::move(after);
    m_end = std::max(1e-9, end);
    m_lowest = lowest;
    m_highest = std::max(highest, lowest + 1e-9);
    update();
}

void StepsPicture::setSummary(const QString& text) {
    m_summary = text;
    setToolTip(text);
}

void StepsPicture::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const QRectF area = QRectF(rect()).adjusted(6, 8, -6, -8);
    painter.setPen(QPen(theme().line, 1));
    painter.setBrush(theme().panel);
    painter.drawRoundedRect(QRectF(rect()).adjusted(1, 1, -1, -1), 6, 6);
    const auto draw = [&](const std::vector<Point>& points, const QColor& colour, double width) {
        if (points.empty()) return;
        const auto y = [&](double v) {
            return area.bottom() -
                   (std::clamp(v, m_lowest, m_highest) - m_lowest) / (m_highest - m_lowest) * area.height();
        };
        QPainterPath path;
        double lastX = area.left(), lastY = y(points.front().value);
        path.moveTo(lastX, lastY);
        for (const Point& point : points) {
            const double x = area.left() + std::clamp(point.at / m_end, 0.0, 1.0) * area.width();
            const double next = y(point.value);
            if (x - lastX >= 0.5 || next != lastY) {
                path.lineTo(x, lastY);
                path.lineTo(x, next);
                lastX = x;
            }
            lastY = next;
        }
        path.lineTo(area.right(), lastY);
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(colour, width));
        painter.drawPath(path);
    };
    draw(m_before, m_after.empty() ? partColour(5) : theme().muted, m_after.empty() ? 1.8 : 1);
    draw(m_after, theme().brick, 1.8);
}

} // namespace cobbleway
