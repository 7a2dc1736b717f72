#include "app/dialogs/namesdialog.h"
#include "app/look/sentence.h"
#include "app/widgets/rowlist.h"

#include "app/session/session.h"
#include "midi/gm.h"

#include <QCheckBox>
#include <QComboBox>
#include <QListWidget>

namespace cobbleway {

NamesDialog::NamesDialog(Uses<uses::Set, uses::Messages> session, PartId part, NameFile file, QWidget* parent)
    : Form(tr("Load drum names"), parent), m_session(session), m_part(part), m_file(std::move(file)),
      m_lists(new QComboBox), m_names(new QuietView<QListWidget>), m_repaired(new QuietView<QListWidget>),
      m_play(new QCheckBox(tr("&Play each note as its name means"))), m_about(mutedLabel()) {
    setPreferredWidth(620);
    setHeading(tr("Load drum names"));
    for (const NameList& list : m_file.lists) m_lists->addItem(QString::fromStdString(list.title));
    m_lists->setObjectName(QStringLiteral("lists"));
    QWidget* lists = labelled(tr("&List"), m_lists);
    lists->setVisible(m_file.lists.size() > 1);
    column()->addWidget(lists);
    column()->addWidget(m_about);
    m_names->setAccessibleName(tr("Names in the list"));
    m_names->setObjectName(QStringLiteral("names"));
    m_names->setSelectionMode(QAbstractItemView::NoSelection);
    column()->addWidget(m_names, 2);
    if (!m_file.repaired.empty()) {
        column()->addWidget(mutedLabel(tr("Fixed or ignored while reading")));
        m_repaired->setAccessibleName(tr("What was fixed or ignored"));
        m_repaired->setObjectName(QStringLiteral("repaired"));
        m_repaired->setSelectionMode(QAbstractItemView::NoSelection);
        m_repaired->setWordWrap(true);
        for (const RepairedLine& line : m_file.repaired)
            m_repaired->addItem(tr("Line %1: %2").arg(line.line).arg(sentence(line.what)));
        column()->addWidget(m_repaired, 1);
    } else {
        m_repaired->hide();
        m_repaired->setParent(this);
    }
    m_play->setObjectName(QStringLiteral("playByNames"));
    m_play->setToolTip(tr("For a part that is laid out for another kit"));
    column()->addWidget(m_play);
    addButtons(tr("Take the names"), tr("Cancel"));
    connect(m_lists, &QComboBox::currentIndexChanged, this, &NamesDialog::refresh);
    connect(this, &QDialog::accepted, this, &NamesDialog::take);
    refresh();
    m_names->setFocus();
}

const NameList& NamesDialog::chosen() const {
    return m_file.lists[static_cast<std::size_t>(std::max(0, m_lists->currentIndex()))];
}

void NamesDialog::refresh() {
    m_names->clear();
    int moved = 0, unsure = 0;
    for (const auto& [key, name] : chosen().names) {
        const auto meant = drumMeant(name);
        const bool moves = meant && meant->sure && meant->gm.value != key;
        moved += moves;
        unsure += meant && !meant->sure;
        QString text = QStringLiteral("%1 %2").arg(key).arg(QString::fromStdString(name));
        if (moves)
            text +=
                tr(" — means %1 %2").arg(meant->gm.value).arg(QString::fromUtf8(drumName(meant->gm).data()));
        m_names->addItem(text);
    }
    QString about = chosen().names.size() == 1 ? tr("One name.") : tr("%1 names.").arg(chosen().names.size());
    if (moved)
        about +=
            tr(" %1 of them mean another drum than the one that General MIDI has on the key.").arg(moved);
    if (unsure) about += tr(" %1 could mean several drums; those stay where they are.").arg(unsure);
    m_about->setText(about);
    m_play->setEnabled(moved > 0);
}

void NamesDialog::take() {
    const bool play = m_play->isChecked() && m_play->isEnabled();
    m_session.current.edit(tr("Load drum names"),
                           [part = m_part, names = chosen().names, play](const Song& song) {
                               Song named = edits::nameDrums(song, part, names);
                               return play ? edits::playByNames(std::move(named), part) : named;
                           });
    Q_EMIT m_session.messages.announced(tr("%1 names taken").arg(chosen().names.size()));
}

} // namespace cobbleway
