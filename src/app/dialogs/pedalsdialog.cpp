#include "app/dialogs/pedalsdialog.h"

#include <QHeaderView>
#include <QTreeWidget>

namespace cobbleway {

PedalsDialog::PedalsDialog(Pedals& pedals, const std::function<QString(const QString&)>& textOf,
                           const QString& keyboard, QWidget* parent)
    : Form(tr("Pedals and pads"), parent), m_pedals(pedals), m_list(new QTreeWidget),
      m_teach(button(tr("Teach"), true)), m_forget(button(tr("Forget"))), m_say(new QLabel),
      m_keyboard(keyboard) {
    setPreferredWidth(460);
    setHeading(tr("Teach a pedal or pad what it does"));
    m_list->setObjectName(QStringLiteral("pedals"));
    m_list->setHeaderLabels({tr("What it does"), tr("Pedal or pad")});
    m_list->setRootIsDecorated(false);
    m_list->setAccessibleName(tr("What pedals and pads do"));
    m_list->header()->resizeSection(0, 240);
    m_teach->setObjectName(QStringLiteral("teach"));
    m_forget->setObjectName(QStringLiteral("forget"));
    m_say->setObjectName(QStringLiteral("say"));
    m_say->setWordWrap(true);
    for (const QString& action : Pedals::actions()) {
        auto* item = new QTreeWidgetItem(m_list, {textOf(action), QString()});
        item->setData(0, Qt::UserRole, action);
    }
    m_list->setCurrentItem(m_list->topLevelItem(0));
    column()->addWidget(m_list, 1);
    column()->addWidget(m_say);
    column()->addLayout(row({m_teach, m_forget}));
    addButtons({}, tr("Close"));
    connect(m_teach, &QPushButton::clicked, this,
            [this] { m_pedals.teach(m_pedals.teaching().isEmpty() ? selected() : QString()); });
    connect(m_forget, &QPushButton::clicked, this, [this] { m_pedals.forget(selected()); });
    connect(m_list, &QTreeWidget::currentItemChanged, this, &PedalsDialog::refresh);
    connect(&pedals, &Pedals::taughtChanged, this, &PedalsDialog::refresh);
    refresh();
}

PedalsDialog::~PedalsDialog() {
    if (!m_pedals.teaching().isEmpty()) m_pedals.teach({});
}

QString PedalsDialog::selected() const {
    const QTreeWidgetItem* item = m_list->currentItem();
    return item ? item->data(0, Qt::UserRole).toString() : QString();
}

void PedalsDialog::refresh() {
    for (int i = 0; i < m_list->topLevelItemCount(); ++i) {
        QTreeWidgetItem* item = m_list->topLevelItem(i);
        const QString message = m_pedals.messageOf(item->data(0, Qt::UserRole).toString());
        item->setText(1, message.isEmpty() ? tr("nothing yet") : message);
    }
    const bool teaching = !m_pedals.teaching().isEmpty();
    m_teach->setText(teaching ? tr("Do not teach it") : tr("Teach"));
    m_teach->setEnabled(!m_keyboard.isEmpty() && !selected().isEmpty());
    m_forget->setEnabled(!m_pedals.messageOf(selected()).isEmpty());
    m_say->setText(m_keyboard.isEmpty() ? tr("Choose a MIDI keyboard under Play > Keyboard first.")
                   : teaching           ? tr("Press the pedal or pad now.")
                              : tr("Choose what it is to do, then Teach, then press the pedal or pad."));
}

} // namespace cobbleway
