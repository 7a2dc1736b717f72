#include "app/dialogs/keysdialog.h"

#include "app/session/settings.h"

#include <QAction>
#include <QHeaderView>
#include <QKeySequenceEdit>
#include <QLineEdit>
#include <QTreeWidget>

namespace cobbleway {
namespace {

constexpr int idRole = Qt::UserRole;

QString keysText(const QAction* action) {
    QStringList keys;
    for (const QKeySequence& sequence : action->shortcuts())
        keys << sequence.toString(QKeySequence::NativeText);
    return keys.join(QObject::tr(" or "));
}

/// Keys that views have of their own, which cannot be changed.
QList<std::pair<QString, QString>> viewKeys() {
    const auto tr = [](const char* text) { return QObject::tr(text); };
    return {
        {tr("Lists: from row to row; the first and last"), tr("Up, Down, Home, End")},
        {tr("Shelf: take the sound that is tried, or go back"), tr("Enter, Escape")},
        {tr("Drums: softer or harder; by ten; hear the note"), tr("Left, Right; with Shift; Enter")},
        {tr("Kit and keyboard: choose and play"), tr("Arrows, Enter")},
        {tr("Song strip: a bar back or on, start, end"), tr("Left, Right, Home, End")},
        {tr("Practice notes: a bar, a page, larger, smaller"), tr("Left, Right, Page Up, Page Down, +, −")},
        {tr("Events: delete; edit the value"), tr("Delete, F2")},
        {tr("Export: tick or not"), tr("Space")},
        {tr("Texts of the song: from line to line"), tr("Up, Down")}};
}

} // namespace

KeysDialog::KeysDialog(const QList<ActionRow>& rows, const QHash<QString, QAction*>& actions, QWidget* parent)
    : Form(tr("Keys"), parent), m_actions(actions), m_search(new QLineEdit), m_list(new QTreeWidget),
      m_keys(new QKeySequenceEdit), m_give(button(tr("&Give it these keys"))),
      m_restore(button(tr("As it &came"))), m_said(mutedLabel()) {
    setPreferredWidth(600);
    setHeading(tr("All keys"));
    m_search->setPlaceholderText(tr("Search by what it does, or by its keys"));
    m_search->setAccessibleName(tr("Search"));
    m_search->setObjectName(QStringLiteral("keySearch"));
    m_search->setClearButtonEnabled(true);
    m_list->setColumnCount(2);
    m_list->setHeaderLabels({tr("What it does"), tr("Keys")});
    m_list->setRootIsDecorated(false);
    m_list->setUniformRowHeights(true);
    m_list->setAccessibleName(tr("Keys"));
    m_list->setObjectName(QStringLiteral("keyList"));
    m_list->header()->setSectionResizeMode(0, QHeaderView::Stretch);
    m_list->setColumnWidth(1, 210);
    m_list->header()->setStretchLastSection(false);
    for (const ActionRow& row : rows) {
        if (!*row.id || !m_actions.contains(QLatin1String(row.id))) continue;
        QAction* action = m_actions[QLatin1String(row.id)];
        const QString menu = QString::fromLatin1(row.menu).replace(QLatin1Char('/'), QStringLiteral(" › "));
        auto* item = new QTreeWidgetItem(
            m_list, {tr("%1: %2").arg(menu, action->text().remove(QLatin1Char('&'))), keysText(action)});
        item->setData(0, idRole, QLatin1String(row.id));
    }
    for (const auto& [what, keys] : viewKeys()) new QTreeWidgetItem(m_list, {what, keys});
    for (int i = 0; i < m_list->topLevelItemCount(); ++i) {
        QTreeWidgetItem* item = m_list->topLevelItem(i);
        item->setData(0, Qt::AccessibleTextRole,
                      item->text(1).isEmpty() ? tr("%1, no keys").arg(item->text(0))
                                              : QStringLiteral("%1, %2").arg(item->text(0), item->text(1)));
    }
    column()->addWidget(m_search);
    column()->addWidget(m_list, 1);
    m_keys->setObjectName(QStringLiteral("newKeys"));
    auto* line = Form::row({labelled(tr("&New keys"), m_keys), m_give, m_restore});
    column()->addLayout(line);
    column()->addWidget(m_said);
    addButtons({}, tr("Close"));
    connect(m_search, &QLineEdit::textChanged, this, &KeysDialog::search);
    connect(m_list, &QTreeWidget::currentItemChanged, this, &KeysDialog::refreshChoice);
    connect(m_keys, &QKeySequenceEdit::keySequenceChanged, this, &KeysDialog::refreshChoice);
    connect(m_give, &QPushButton::clicked, this, &KeysDialog::give);
    connect(m_restore, &QPushButton::clicked, this, &KeysDialog::restore);
    m_list->setCurrentItem(m_list->topLevelItem(0));
    m_search->setFocus();
    refreshChoice();
}

void KeysDialog::search(const QString& text) {
    QTreeWidgetItem* first = nullptr;
    for (int i = 0; i < m_list->topLevelItemCount(); ++i) {
        QTreeWidgetItem* item = m_list->topLevelItem(i);
        const bool fits = item->text(0).contains(text, Qt::CaseInsensitive) ||
                          item->text(1).contains(text, Qt::CaseInsensitive);
        item->setHidden(!fits);
        if (fits && !first) first = item;
    }
    m_list->setCurrentItem(first);
}

QString KeysDialog::chosen() const {
    const QTreeWidgetItem* item = m_list->currentItem();
    return item ? item->data(0, idRole).toString() : QString();
}

void KeysDialog::refreshChoice() {
    const QString id = chosen();
    m_keys->setEnabled(!id.isEmpty());
    m_give->setEnabled(!id.isEmpty() && !m_keys->keySequence().isEmpty());
    m_restore->setEnabled(!id.isEmpty() && settings::changedKeys(id).has_value());
}

void KeysDialog::refreshRow(const QString& id) {
    for (int i = 0; i < m_list->topLevelItemCount(); ++i)
        if (QTreeWidgetItem* item = m_list->topLevelItem(i); item->data(0, idRole).toString() == id) {
            item->setText(1, keysText(m_actions[id]));
            item->setData(0, Qt::AccessibleTextRole,
                          QStringLiteral("%1, %2").arg(item->text(0), item->text(1)));
        }
    refreshChoice();
}

void KeysDialog::give() {
    const QString id = chosen();
    const QKeySequence keys = m_keys->keySequence();
    if (id.isEmpty() || keys.isEmpty()) return;
    for (auto other = m_actions.begin(); other != m_actions.end(); ++other)
        if (other.key() != id && other.value()->shortcuts().contains(keys)) {
            m_said->setText(tr("%1 is taken: %2. Give that other keys first.")
                                .arg(keys.toString(QKeySequence::NativeText),
                                     other.value()->text().remove(QLatin1Char('&'))));
            return announce(this, m_said->text());
        }
    settings::setChangedKeys(id, keys.toString(QKeySequence::PortableText));
    Q_EMIT changed(id);
    m_said->setText(
        tr("%1 now has %2.").arg(m_actions[id]->text().remove(QLatin1Char('&')), keysText(m_actions[id])));
    announce(this, m_said->text());
    refreshRow(id);
    m_keys->clear();
}

void KeysDialog::restore() {
    const QString id = chosen();
    settings::setChangedKeys(id, std::nullopt);
    Q_EMIT changed(id);
    const QString keys = keysText(m_actions[id]);
    m_said->setText(keys.isEmpty() ? tr("It has no keys, as it came.") : tr("It has %1 again.").arg(keys));
    announce(this, m_said->text());
    refreshRow(id);
}

} // namespace cobbleway
