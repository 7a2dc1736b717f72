#include "app/widgets/meter.h"

#include "app/look/theme.h"
#include "app/widgets/painting.h"
#include "song/model/levels.h"

#include <QKeyEvent>
#include <QPainter>
#include <algorithm>

namespace cobbleway {
namespace {

constexpr double lowestDb = -48;

double shareOf(double peak) { return std::clamp(1 - gainToDb(peak) / lowestDb, 0.0, 1.0); }

} // namespace

Meter::Meter(const QString& name, QWidget* parent) : QWidget(parent) {
    setAccessibleName(name);
    setFocusPolicy(Qt::TabFocus);
    setMinimumSize(60, 12);
    setToolTip(tr("The stone at the end lights when it was too loud; a click turns it off"));
}

void Meter::setPeak(double peak) {
    const double shown = std::max(peak, m_peak * 0.86);
    m_most = std::max(m_most, peak);
    const bool clips = m_clipped || peak > 1;
    if (shown < 1e-4 && m_peak < 1e-4 && clips == m_clipped) return;
    m_peak = shown;
    m_clipped = clips;
    update();
}

QString Meter::surfaceValue() const {
    if (m_clipped) return tr("too loud, by %1").arg(dbText(gainToDb(m_most)));
    return m_most > 0 ? tr("loudest %1").arg(dbText(gainToDb(m_most))) : tr("silent");
}

std::optional<SurfaceNumber> Meter::surfaceNumber() const {
    return SurfaceNumber{std::clamp(gainToDb(m_most), lowestDb, 24.0), lowestDb, 24, 0.1, false};
}

void Meter::clear() {
    m_clipped = false;
    m_most = 0;
    update();
}

void Meter::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(Qt::NoPen);
    const double y = height() / 2.0 - 3, wide = width() - 18.0;
    painter.setBrush(theme().stone);
    painter.drawRoundedRect(QRectF(0, y, wide, 6), 3, 3);
    painter.setBrush(theme().moss);
    if (const double share = shareOf(m_peak); share > 0.01)
        painter.drawRoundedRect(QRectF(0, y, wide * share, 6), 3, 3);
    const QRectF light(wide + 5, y - 1, 11, 8);
    painter.setBrush(m_clipped ? theme().brick : theme().stone);
    painter.drawRoundedRect(light, 4, 4);
    if (m_clipped) { // a mark: not colour alone
        painter.setBrush(theme().panel);
        painter.drawRect(QRectF(light.center().x() - 1, light.top() + 1.5, 2, 5));
    }
    if (!hasFocus()) return;
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme().action, 1.5));
    painter.drawRoundedRect(QRectF(rect()).adjusted(0.75, 0.75, -0.75, -0.75), 4, 4);
}

void Meter::mousePressEvent(QMouseEvent*) { clear(); }

bool Meter::event(QEvent* event) {
    // The space bar plays, but while the light is on it puts it out.
    if (event->type() == QEvent::ShortcutOverride && m_clipped &&
        static_cast<QKeyEvent*>(event)->key() == Qt::Key_Space) {
        event->accept();
        return true;
    }
    return QWidget::event(event);
}

void Meter::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Space)
        clear();
    else
        QWidget::keyPressEvent(event);
}

} // namespace cobbleway
