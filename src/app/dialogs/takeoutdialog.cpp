#include "app/dialogs/takeoutdialog.h"
#include "app/widgets/rowlist.h"

#include "app/session/session.h"
#include "song/drums/drumedits.h"

#include <QListWidget>

namespace cobbleway {

TakeOutDialog::TakeOutDialog(Uses<uses::Set, uses::Findings> session, PartId part, QWidget* parent)
    : Form(tr("Give joined tracks their parts again"), parent), m_session(session), m_part(part),
      m_origins(new TickView<QListWidget>) {
    setPreferredWidth(460);
    column()->addWidget(mutedLabel(tr("This kit was joined from several tracks. Those that you tick become "
                                      "parts again, as they are in the file.")));
    m_origins->setAccessibleName(tr("Tracks of the kit"));
    m_origins->setObjectName(QStringLiteral("origins"));
    for (const OriginCount& from : *session.findings.origins(part)) {
        auto* item = new QListWidgetItem(tr("Track %1, channel %2: %3 hits")
                                             .arg(from.origin.track + 1)
                                             .arg(from.origin.channel.value + 1)
                                             .arg(from.notes),
                                         m_origins);
        item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsUserCheckable);
        item->setCheckState(Qt::Unchecked);
    }
    column()->addWidget(m_origins, 1);
    m_take = addButtons(tr("Make them parts"), tr("Cancel"));
    tellTicks(m_origins);
    connect(m_origins, &QListWidget::itemChanged, this, &TakeOutDialog::refresh);
    connect(this, &QDialog::accepted, this, &TakeOutDialog::take);
    connect(&session.current, &CurrentSet::songChanged, this,
            &QDialog::reject); // it was made of the song as it was
    m_origins->setFocus();
    refresh();
}

std::vector<std::size_t> TakeOutDialog::chosen() const {
    std::vector<std::size_t> origins;
    for (int row = 0; row < m_origins->count(); ++row)
        if (m_origins->item(row)->checkState() == Qt::Checked)
            origins.push_back(static_cast<std::size_t>(row));
    return origins;
}

void TakeOutDialog::refresh() { m_take->setEnabled(!chosen().empty()); }

void TakeOutDialog::take() {
    disconnect(&m_session.current, nullptr, this, nullptr);
    m_session.current.edit(tr("Give tracks their parts"),
                           [part = m_part, origins = chosen()](const Song& song) {
                               return edits::takeOut(song, part, origins);
                           });
}

} // namespace cobbleway
