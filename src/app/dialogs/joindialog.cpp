#include "app/dialogs/joindialog.h"
#include "app/look/sentence.h"
#include "app/widgets/rowlist.h"

#include "app/session/session.h"

#include <QCheckBox>
#include <QComboBox>
#include <QListWidget>

namespace cobbleway {

JoinDialog::JoinDialog(Uses<uses::Set> session, QWidget* parent)
    : Form(tr("Join parts"), parent), m_session(session), m_part(session.current.selectedPart()),
      m_parts(new TickView<QListWidget>), m_clashes(new QuietView<QListWidget>), m_unisons(new QComboBox),
      m_levels(new QCheckBox(tr("Keep each part's &loudness"))),
      m_pedal(new QCheckBox(tr("Write the &pedal into the notes"))) {
    setPreferredWidth(760);
    const Part& part = *session.current.part();
    setHeading(tr("Join parts to %1").arg(QString::fromStdString(part.name)));
    m_parts->setAccessibleName(tr("Parts to join"));
    m_parts->setObjectName(QStringLiteral("joinParts"));
    m_parts->setFixedWidth(230);
    for (const Part& other : session.current.song().parts) {
        if (other.aside || other.id == m_part) continue;
        auto* item = new QListWidgetItem(QString::fromStdString(other.name), m_parts);
        item->setData(Qt::UserRole, other.id);
        item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsUserCheckable);
        item->setCheckState(Qt::Unchecked);
    }
    m_clashes->setAccessibleName(tr("What clashes, and how it is resolved"));
    m_clashes->setObjectName(QStringLiteral("clashes"));
    m_clashes->setWordWrap(true);
    m_clashes->setSelectionMode(QAbstractItemView::NoSelection);
    m_unisons->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    m_unisons->setMinimumContentsLength(18);
    m_unisons->addItem(tr("keep one, the longer and louder"), int(Unisons::KeepOne));
    m_unisons->addItem(tr("keep one, and end it where its key is struck again"), int(Unisons::Cut));
    m_unisons->addItem(tr("keep both"), int(Unisons::KeepBoth));
    m_levels->setChecked(true);
    m_pedal->setChecked(true);
    auto* right = new QVBoxLayout;
    right->addWidget(mutedLabel(tr("What clashes, and how it is resolved")));
    right->addWidget(m_clashes, 1);
    right->addWidget(labelled(tr("Notes that &overlap on a key"), m_unisons), 0, Qt::AlignLeft);
    right->addWidget(m_levels);
    right->addWidget(m_pedal);
    auto* both = new QHBoxLayout;
    both->setSpacing(14);
    both->addWidget(m_parts);
    both->addLayout(right, 1);
    column()->addLayout(both, 1);
    m_take = addButtons(tr("Join"), tr("Cancel"));
    connect(this, &QDialog::accepted, this, &JoinDialog::take);
    tellTicks(m_parts);
    connect(m_parts, &QListWidget::itemChanged, this, &JoinDialog::refresh);
    connect(m_unisons, &QComboBox::currentIndexChanged, this, &JoinDialog::refresh);
    connect(m_levels, &QCheckBox::toggled, this, &JoinDialog::refresh);
    connect(m_pedal, &QCheckBox::toggled, this, &JoinDialog::refresh);
    connect(&session.current, &CurrentSet::songChanged, this, &QDialog::reject);
    m_parts->setCurrentRow(0); // or the first key would only go there
    m_parts->setFocus();
    refresh();
}

std::vector<PartId> JoinDialog::chosen() const {
    std::vector<PartId> ids = {m_part};
    for (int i = 0; i < m_parts->count(); ++i)
        if (m_parts->item(i)->checkState() == Qt::Checked)
            ids.push_back(m_parts->item(i)->data(Qt::UserRole).toInt());
    return ids;
}

JoinOptions JoinDialog::options() const {
    return {static_cast<Unisons>(m_unisons->currentData().toInt()), m_levels->isChecked(),
            m_pedal->isChecked()};
}

void JoinDialog::refresh() {
    const auto ids = chosen();
    m_clashes->clear();
    if (m_take) m_take->setEnabled(ids.size() > 1);
    if (ids.size() < 2) {
        m_clashes->addItem(tr("Tick the parts to join."));
        return;
    }
    const auto clashes = clashesOf(m_session.current.song(), ids, options());
    for (const Clash& clash : clashes)
        m_clashes->addItem(QStringLiteral("%1\n→ %2").arg(sentence(clash.what), sentence(clash.how)));
    if (clashes.empty()) m_clashes->addItem(tr("✓ Nothing clashes: every note sounds as it does now."));
}

void JoinDialog::take() {
    disconnect(&m_session.current, nullptr, this, nullptr);
    m_session.current.edit(tr("Join parts"), [ids = chosen(), options = options()](const Song& song) {
        return edits::join(song, ids, options);
    });
    m_session.current.selectPart(m_part);
}

} // namespace cobbleway
