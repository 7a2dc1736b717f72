#include "app/widgets/rail.h"

#include "app/look/theme.h"
#include "app/session/session.h"
#include "app/steps.h"
#include "app/widgets/surface.h"

#include <QButtonGroup>
#include <QPainter>
#include <QVBoxLayout>
#include <algorithm>

namespace cobbleway {

RailStep::RailStep(int number, const QString& name, QWidget* parent)
    : QAbstractButton(parent), m_number(number) {
    tellAsChoice(this, QAccessible::PageTab);
    setText(name);
    setCheckable(true);
    setFocusPolicy(Qt::StrongFocus);
    setToolTip(tr("%1  Ctrl+%2").arg(name).arg(number));
    setFixedWidth(sizeHint().width());
    setMinimumHeight(minimumSizeHint().height());
    setMaximumHeight(sizeHint().height());
    setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Preferred);
    setAccessibleName(tr("Step %1, %2").arg(number).arg(name));
}

void RailStep::setSnags(int snags) {
    if (snags == m_snags) return;
    m_snags = snags;
    setAccessibleDescription(
        snags < 0 ? QString() : (snags == 0 ? tr("nothing left to decide") : tr("%1 to decide").arg(snags)));
    update();
}

void RailStep::paintEvent(QPaintEvent*) {
    const Theme& t = theme();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const QRectF card(8, 3, width() - 16, height() - 7);
    if (isChecked() || hasFocus() || underMouse()) {
        painter.setPen(hasFocus() ? QPen(isChecked() ? t.action : t.ochre, 3) : QPen(Qt::NoPen));
        painter.setBrush(isChecked() ? t.ground
                                     : (underMouse() ? QColor(255, 255, 255, 18) : Qt::transparent));
        painter.drawRoundedRect(card, 9, 9);
    }
    if (height() < 56) return paintLow(painter);
    painter.setPen(isChecked() ? t.ink : t.railInk);
    painter.setFont(textFont(12, QFont::DemiBold));
    painter.drawText(QRectF(card.left(), card.top() + 7, card.width(), 22), Qt::AlignCenter,
                     QString::number(m_number));
    painter.setFont(textFont(9, isChecked() ? QFont::Medium : QFont::Normal));
    painter.setPen(isChecked() ? t.ink : t.railMuted);
    painter.drawText(QRectF(card.left(), card.top() + 29, card.width(), 18), Qt::AlignCenter, text());
    if (m_snags < 0) return;
    const QRectF badge(card.center().x() + 10, card.top() + 6, m_snags > 9 ? 21 : 16, 16);
    painter.setPen(Qt::NoPen);
    painter.setBrush(m_snags ? QColor("#C9963B") : QColor("#4E7A51"));
    painter.drawRoundedRect(badge, 8, 8);
    if (m_snags == 0) {
        cobbleway::icon(QStringLiteral("check"), Qt::white)
            .paint(&painter, badge.adjusted(3, 3, -3, -3).toRect());
        return;
    }
    painter.setPen(QColor("#231B08"));
    painter.setFont(textFont(8, QFont::Bold));
    painter.drawText(badge, Qt::AlignCenter, QString::number(m_snags));
}

void RailStep::paintLow(QPainter& painter) {
    const Theme& t = theme();
    painter.setPen(isChecked() ? t.ink : t.railInk);
    painter.setFont(textFont(9, QFont::DemiBold));
    painter.drawText(QRectF(12, 0, 10, height()), Qt::AlignCenter, QString::number(m_number));
    painter.setFont(textFont(9, isChecked() ? QFont::Medium : QFont::Normal));
    painter.drawText(QRectF(25, 0, width() - 34, height()), Qt::AlignVCenter | Qt::AlignLeft, text());
    if (m_snags <= 0) return;
    painter.setPen(Qt::NoPen);
    painter.setBrush(QColor("#C9963B"));
    painter.drawEllipse(QRectF(width() - 15, height() / 2.0 - 3, 6, 6));
}

Rail::Rail(Uses<uses::Set, uses::Findings> session, QWidget* parent) : QWidget(parent), m_session(session) {
    tellAsTabList(this);
    setFixedWidth(84);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 6, 0, 6);
    layout->setSpacing(0);
    auto* group = new QButtonGroup(this);
    for (const StepText& text : stepTexts()) {
        auto* step = new RailStep(text.number(), text.name);
        group->addButton(step, static_cast<int>(text.step));
        layout->addWidget(step);
        m_steps.push_back(step);
    }
    layout->addStretch(1);
    // Toggled, not clicked: a screen reader toggles.
    connect(group, &QButtonGroup::idToggled, this, [this](int id, bool on) {
        if (on && !m_setting) Q_EMIT chosen(static_cast<Step>(id));
    });
    follow(session.current, Side::File, this, &Rail::refresh);
    connect(&session.findings, &Findings::snagsChanged, this, &Rail::refresh);
}

void Rail::setCurrent(Step step) {
    m_setting = true;
    m_steps[static_cast<std::size_t>(step)]->setChecked(true);
    m_setting = false;
}

void Rail::refresh() {
    for (std::size_t i = 0; i < m_steps.size(); ++i) {
        const auto count =
            std::count_if(m_session.findings.snags().begin(), m_session.findings.snags().end(),
                          [i](const Snag& s) { return s.asked && static_cast<std::size_t>(s.step) == i; });
        const bool decides = i <= static_cast<std::size_t>(Step::Drums);
        m_steps[i]->setSnags(m_session.current.hasSong() && decides ? static_cast<int>(count) : -1);
    }
}

void Rail::paintEvent(QPaintEvent*) { QPainter(this).fillRect(rect(), theme().rail); }

} // namespace cobbleway
