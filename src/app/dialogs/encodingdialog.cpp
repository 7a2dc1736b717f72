#include "app/dialogs/encodingdialog.h"
#include "app/widgets/rowlist.h"

#include "app/session/session.h"
#include "midi/text.h"
#include "song/shape/edits.h"

#include <QListWidget>

namespace cobbleway {
namespace {

/// Texts of the file that an encoding makes a difference to; all texts when none.
std::vector<std::string> textsOf(const MidiFile& midi) {
    constexpr std::size_t most = 200;
    std::vector<std::string> plain, telling;
    for (const Track& track : midi.tracks)
        for (const Event& event : track.events) {
            if (!event.isMeta() || event.data1 < meta::text || event.data1 > meta::deviceName) continue;
            const std::string text(midi.rawText(event));
            const bool tells = std::any_of(text.begin(), text.end(), [](char c) {
                return static_cast<unsigned char>(c) >= 0x80 || c == 0;
            });
            auto& list = tells ? telling : plain;
            if (list.size() < most && !text.empty()) list.push_back(text);
        }
    return telling.empty() ? plain : telling;
}

} // namespace

EncodingDialog::EncodingDialog(Uses<uses::Set> session, QWidget* parent)
    : Form(tr("Text encoding"), parent), m_session(session), m_encodings(new QuietView<QListWidget>),
      m_texts(new QuietView<QListWidget>) {
    setPreferredWidth(640);
    setHeading(tr("How the file’s names and words are read"));
    const QString found = QString::fromStdString(guessEncoding(session.current.song().source->midi));
    column()->addWidget(
        mutedLabel(tr("MIDI files do not say in which encoding their names and words are written. %1 fits "
                      "this file best. Choose another to see how its texts read then.")
                       .arg(QString::fromStdString(encodingText(found.toStdString())))));
    m_encodings->setAccessibleName(tr("Encodings"));
    m_encodings->setObjectName(QStringLiteral("encodings"));
    m_encodings->setFixedWidth(250);
    m_texts->setAccessibleName(tr("Texts of the file"));
    m_texts->setObjectName(QStringLiteral("texts"));
    m_texts->setSelectionMode(QAbstractItemView::NoSelection);
    QStringList names;
    for (const std::string& name : knownEncodings()) names << QString::fromStdString(name);
    const QString now = QString::fromStdString(session.current.song().encoding);
    for (const QString& extra : {now, found})
        if (!names.contains(extra)) names.prepend(extra);
    for (const QString& name : names) {
        auto* item =
            new QListWidgetItem(QString::fromStdString(encodingText(name.toStdString())), m_encodings);
        item->setData(Qt::UserRole, name);
    }
    auto* both = new QHBoxLayout;
    both->setSpacing(12);
    both->addWidget(m_encodings);
    both->addWidget(m_texts, 1);
    column()->addLayout(both, 1);
    addButtons(tr("Use this encoding"), tr("Cancel"));
    connect(m_encodings, &QListWidget::currentRowChanged, this, &EncodingDialog::preview);
    connect(this, &QDialog::accepted, this, [this] {
        m_session.current.edit(tr("Text encoding"),
                               [to = m_encodings->currentItem()->data(Qt::UserRole).toString().toStdString()](
                                   const Song& song) { return edits::setEncoding(song, to); });
    });
    m_encodings->setCurrentRow(static_cast<int>(names.indexOf(now)));
    m_encodings->setFocus();
}

void EncodingDialog::preview() {
    m_texts->clear();
    const std::string encoding = m_encodings->currentItem()->data(Qt::UserRole).toString().toStdString();
    for (const std::string& text : textsOf(m_session.current.song().source->midi))
        m_texts->addItem(QString::fromStdString(toUtf8(text, encoding)).simplified());
    if (m_texts->count() == 0) m_texts->addItem(tr("The file has no text."));
}

} // namespace cobbleway
