#include "app/widgets/notices.h"

#include "app/look/theme.h"
#include "app/widgets/small.h"

#include <QAction>
#include <QHBoxLayout>
#include <QToolButton>
#include <algorithm>

namespace cobbleway {

Notices::Notices(std::function<QAction*(const QString&)> actionOf, QWidget* parent)
    : QFrame(parent), m_actionOf(std::move(actionOf)), m_text(new QLabel), m_do(button({})),
      m_close(new QToolButton) {
    setObjectName(QStringLiteral("notices"));
    setAccessibleName(tr("Notice"));
    m_text->setWordWrap(true);
    m_text->setTextFormat(Qt::PlainText);
    m_do->setObjectName(QStringLiteral("noticeAction"));
    m_close->setProperty("look", "flat");
    m_close->setToolTip(tr("Put this notice away"));
    m_close->setAccessibleName(m_close->toolTip());
    m_close->setFocusPolicy(Qt::TabFocus);
    auto* line = new QHBoxLayout(this);
    line->setContentsMargins(16, 4, 8, 4);
    line->setSpacing(12);
    line->addWidget(m_text, 1);
    line->addWidget(m_do);
    line->addWidget(m_close);
    connect(m_close, &QToolButton::clicked, this, &Notices::putAway);
    connect(m_do, &QPushButton::clicked, this, [this] {
        QAction* action = m_list.isEmpty() ? nullptr : m_actionOf(m_list.last().action);
        putAway();
        if (action) action->trigger();
    });
    connect(themeSignal(), &ThemeSignal::changed, this, &Notices::refresh);
    refresh();
}

void Notices::note(const QString& subject, const QString& text, const QString& action) {
    const auto same = [&](const Notice& notice) { return notice.subject == subject; };
    const auto at = std::find_if(m_list.begin(), m_list.end(), same);
    if (at == m_list.end() ? text.isEmpty() : at->text == text && at->action == action) return;
    m_list.removeIf(same);
    if (!text.isEmpty()) m_list.append({subject, text, action});
    refresh();
}

void Notices::putAway() {
    if (!m_list.isEmpty()) m_list.removeLast();
    refresh();
}

void Notices::refresh() {
    setStyleSheet(QStringLiteral("#notices { background: %1; border-top: 1px solid %2; }")
                      .arg(theme().panel.name(), theme().line.name()));
    m_close->setIcon(icon(QStringLiteral("x")));
    const QAction* action = m_list.isEmpty() ? nullptr : m_actionOf(m_list.last().action);
    m_text->setText(shown());
    m_do->setVisible(action != nullptr);
    if (action) m_do->setText(action->iconText());
    setVisible(!m_list.isEmpty());
    Q_EMIT changed();
}

} // namespace cobbleway
