#include "app/dialogs/beatdialog.h"
#include "app/widgets/rowlist.h"

#include "app/session/session.h"
#include "song/drums/beat.h"

#include <QCheckBox>
#include <QListWidget>

namespace cobbleway {

BeatDialog::BeatDialog(Uses<uses::Set> session, QWidget* parent)
    : Form(tr("Add a beat"), parent), m_session(session), m_styles(new QuietView<QListWidget>),
      m_fills(new QCheckBox(tr("With &fills at the ends of sections"))) {
    setPreferredWidth(430);
    setHeading(tr("Add a beat to the song"));
    column()->addWidget(
        mutedLabel(tr("Adds a drum part that keeps time through every change of tempo and metre. You can "
                      "remove it, change its kit, or leave it out of what you write.")));
    const QStringList names = {
        tr("Straight: kick and snare, hats in eighths"),  tr("Swing: ride and pedal hat"),
        tr("Waltz: kick on one, snare on two and three"), tr("March: kick on the beat, snare after it"),
        tr("Bossa: side stick over kick and hats"),       tr("Click: wood blocks, the first beat high")};
    m_styles->addItems(names);
    m_styles->setAccessibleName(tr("Style"));
    m_styles->setObjectName(QStringLiteral("styles"));
    m_styles->setCurrentRow(static_cast<int>(beatStyleFor(session.current.song())));
    column()->addWidget(m_styles, 1);
    m_fills->setObjectName(QStringLiteral("fills"));
    m_fills->setEnabled(session.current.song().sections.size() > 1);
    column()->addWidget(m_fills);
    addButtons(tr("Add the beat"), tr("Cancel"));
    connect(this, &QDialog::accepted, this, &BeatDialog::take);
    connect(m_styles, &QListWidget::itemActivated, this, &QDialog::accept);
    m_styles->setFocus();
}

void BeatDialog::take() {
    const BeatStyle style = beatStyles()[static_cast<std::size_t>(std::max(0, m_styles->currentRow()))];
    const bool fills = m_fills->isChecked() && m_fills->isEnabled();
    m_session.current.edit(tr("Add a beat"),
                           [style, fills](const Song& song) { return edits::addBeat(song, style, fills); });
    PartId beat = 0; // the newest
    for (const Part& part : m_session.current.song().parts)
        if (part.source.drums) beat = std::max(beat, part.id);
    m_session.current.selectPart(beat);
}

} // namespace cobbleway
