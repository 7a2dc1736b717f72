#include "app/dialogs/sectionsdialog.h"

#include "app/session/session.h"
#include "app/widgets/painting.h"
#include "song/shape/timeedits.h"

#include <QHeaderView>
#include <QLineEdit>
#include <QSpinBox>
#include <QTreeWidget>

namespace cobbleway {

SectionsDialog::SectionsDialog(Uses<uses::Set, uses::Transport> session, QWidget* parent)
    : Form(tr("Sections"), parent), m_session(session), m_list(new QTreeWidget), m_name(new QLineEdit),
      m_bar(new QSpinBox), m_rename(button(tr("Rename"))), m_move(button(tr("Move to the bar"))),
      m_remove(button(tr("Remove"))) {
    setPreferredWidth(520);
    setHeading(tr("Sections of the song"));
    m_list->setHeaderLabels({tr("Section"), tr("From bar"), tr("Time"), tr("Bars")});
    m_list->setRootIsDecorated(false);
    m_list->setAccessibleName(tr("Sections"));
    m_list->setObjectName(QStringLiteral("sections"));
    const int widths[] = {200, 84, 74, 60};
    for (int i = 0; i < 4; ++i) m_list->header()->resizeSection(i, widths[i]);
    m_name->setObjectName(QStringLiteral("sectionName"));
    m_bar->setObjectName(QStringLiteral("sectionBar"));
    auto* add = button(tr("Add"), true);
    add->setObjectName(QStringLiteral("addSection"));
    m_rename->setObjectName(QStringLiteral("renameSection"));
    m_move->setObjectName(QStringLiteral("moveSection"));
    m_remove->setObjectName(QStringLiteral("removeSection"));
    column()->addWidget(m_list, 1);
    column()->addLayout(row({labelled(tr("&Name"), m_name), labelled(tr("From &bar"), m_bar)}));
    column()->addLayout(row({add, m_rename, m_move, m_remove}));
    addButtons({}, tr("Close"));
    m_bar->setRange(1, session.current.song().bars());
    m_bar->setValue(session.current.song().tempo->position(session.transport.place()).bar);
    connect(m_list, &QTreeWidget::currentItemChanged, this, [this](QTreeWidgetItem* item) {
        for (QPushButton* b : {m_rename, m_move, m_remove}) b->setEnabled(item != nullptr);
        if (!item) return;
        m_name->setText(item->text(0));
        m_bar->setValue(m_session.current.song().tempo->position(selected()).bar);
    });
    connect(add, &QPushButton::clicked, this, [this] {
        const Tick tick = m_session.current.song().tempo->barStart(m_bar->value());
        const QString name = m_name->text().trimmed().isEmpty() ? tr("Section") : m_name->text().trimmed();
        m_wanted = tick;
        m_session.current.edit(tr("Add a section"), [tick, text = name.toStdString()](const Song& s) {
            return edits::addSection(s, tick, text);
        });
    });
    connect(m_rename, &QPushButton::clicked, this, [this] {
        m_wanted = selected();
        m_session.current.edit(tr("Rename a section"),
                               [start = selected(), text = m_name->text().trimmed().toStdString()](
                                   const Song& s) { return edits::renameSection(s, start, text); });
    });
    connect(m_move, &QPushButton::clicked, this, [this] {
        const Tick to = m_session.current.song().tempo->barStart(m_bar->value());
        const Tick start = selected();
        m_wanted = to;
        m_session.current.edit(tr("Move a section"),
                               [start, to](const Song& s) { return edits::moveSection(s, start, to); });
    });
    connect(m_remove, &QPushButton::clicked, this, [this] {
        m_session.current.edit(tr("Remove a section"), [start = selected()](const Song& s) {
            return edits::removeSection(s, start);
        });
    });
    follow(session.current, Side::Time, this, &SectionsDialog::refresh);
    refresh();
}

qlonglong SectionsDialog::selected() const {
    return m_list->currentItem() ? m_list->currentItem()->data(0, Qt::UserRole).toLongLong() : -1;
}

void SectionsDialog::refresh() {
    if (!m_session.current.hasSong()) return reject();
    const Song& song = m_session.current.song();
    m_list->clear();
    for (QPushButton* b : {m_rename, m_move, m_remove}) b->setEnabled(false);
    m_bar->setRange(1, song.bars());
    for (const Section& section : song.sections) {
        const int bar = song.tempo->position(section.start).bar;
        auto* item = new QTreeWidgetItem(
            m_list, {QString::fromStdString(section.name), QString::number(bar),
                     timeText(song.tempo->seconds(section.start)),
                     QString::number(song.tempo->position(section.end - 1).bar - bar + 1)});
        item->setData(0, Qt::UserRole, QVariant::fromValue<qlonglong>(section.start));
        if (section.start == m_wanted) m_list->setCurrentItem(item);
    }
}

} // namespace cobbleway
