#include "app/dialogs/splitdialog.h"
#include "app/widgets/rowlist.h"

#include "app/session/session.h"
#include "app/widgets/plots.h"

#include <QListWidget>
#include <QSpinBox>
#include <QStackedWidget>
#include <map>

namespace cobbleway {
namespace {

QString ruleOf(SplitDialog::Way way) {
    switch (way) {
    case SplitDialog::ByChannel:
        return QObject::tr("A part for each channel of the file that it was joined from.");
    case SplitDialog::ByProgram:
        return QObject::tr("A part for each sound that the file changes to on the way.");
    case SplitDialog::ByPitch:
        return QObject::tr(
            "Notes at the cut and above become one part, those below another. Move the cut with the "
            "arrow keys or the mouse.");
    case SplitDialog::IntoLines:
        return QObject::tr(
            "Chords give their highest note to the top line and their lowest to the bottom one; single "
            "notes and overlaps follow the nearest line.");
    case SplitDialog::MelodyAndBass:
        return QObject::tr(
            "Of each chord the highest note is melody, the lowest bass, the rest middle; single "
            "notes follow the nearest of the three.");
    case SplitDialog::ByPiece:
        return QObject::tr("Kick, snare, hats, toms, cymbals and the rest, each a part.");
    case SplitDialog::BySection:
        return QObject::tr("A part for each section; sections of one name stay together.");
    case SplitDialog::AtPlace: break;
    }
    return QObject::tr("Notes that begin before the bar stay; the others become a new part.");
}

} // namespace

SplitDialog::SplitDialog(Uses<uses::Set, uses::Transport> session, Way way, QWidget* parent)
    : Form(tr("Split a part"), parent), m_session(session), m_part(session.current.selectedPart()),
      m_ways(new QuietView<QListWidget>), m_result(new QuietView<QListWidget>), m_options(new QStackedWidget),
      m_histogram(new PitchHistogram), m_lines(new QSpinBox), m_bar(new QSpinBox), m_rule(mutedLabel()) {
    setPreferredWidth(680);
    const Part& part = *session.current.part();
    const Song& song = session.current.song();
    setHeading(tr("Split %1").arg(QString::fromStdString(part.name)));
    m_ways->setAccessibleName(tr("Split by"));
    m_ways->setObjectName(QStringLiteral("ways"));
    m_ways->setFixedWidth(190);
    m_ways->addItems({tr("Channel"), tr("Instrument change"), tr("Pitch"), tr("Lines, top to bottom"),
                      tr("Melody, middle, bass"), tr("Piece of the kit"), tr("Section"),
                      tr("Place in the song")});
    m_result->setAccessibleName(tr("Parts it gives"));
    m_result->setObjectName(QStringLiteral("result"));
    m_result->setSelectionMode(QAbstractItemView::NoSelection);

    std::array<int, 128> keys{};
    for (const PartNote& note : notesOf(song, part.source)) ++keys[note.key.value & 0x7FU];
    m_histogram->setNotes(keys);
    m_histogram->setCut(suggestedSplitKey(song, part).value);
    m_lines->setRange(2, 8);
    m_bar->setRange(1, song.bars());
    m_bar->setValue(song.tempo->position(session.transport.place()).bar);
    m_options->addWidget(new QWidget);
    m_options->addWidget(m_histogram);
    for (QWidget* control : {Form::labelled(tr("&Lines"), m_lines), Form::labelled(tr("From &bar"), m_bar)}) {
        auto* page = new QWidget;
        auto* line = new QHBoxLayout(page);
        line->setContentsMargins(0, 0, 0, 0);
        line->addWidget(control, 0, Qt::AlignLeft | Qt::AlignTop);
        line->addStretch();
        m_options->addWidget(page);
    }
    auto* right = new QVBoxLayout;
    right->addWidget(m_rule);
    right->addWidget(m_options);
    right->addWidget(mutedLabel(tr("It gives")));
    right->addWidget(m_result, 1);
    auto* both = new QHBoxLayout;
    both->setSpacing(14);
    both->addWidget(m_ways);
    both->addLayout(right, 1);
    column()->addLayout(both, 1);
    m_take = addButtons(tr("Split"), tr("Cancel"));
    connect(this, &QDialog::accepted, this, &SplitDialog::take);
    connect(m_ways, &QListWidget::currentRowChanged, this, &SplitDialog::refresh);
    connect(m_histogram, &PitchHistogram::cutChanged, this, &SplitDialog::refresh);
    connect(m_lines, &QSpinBox::valueChanged, this, &SplitDialog::refresh);
    connect(m_bar, &QSpinBox::valueChanged, this, &SplitDialog::refresh);
    connect(&session.current, &CurrentSet::songChanged, this,
            &QDialog::reject); // it was made of the song as it was
    m_ways->setCurrentRow(way);
    m_ways->setFocus();
}

Split SplitDialog::splitNow() const {
    const Song& song = m_session.current.song();
    const Part* part = song.part(m_part);
    if (!part) return {};
    switch (static_cast<Way>(m_ways->currentRow())) {
    case ByChannel: return splitByChannel(song, *part);
    case ByProgram: return splitByProgram(song, *part);
    case ByPitch: return splitByPitch(song, *part, Key{static_cast<std::uint8_t>(m_histogram->cut())});
    case IntoLines: return splitIntoLines(song, *part, m_lines->value());
    case MelodyAndBass: return splitIntoMelodyAndBass(song, *part);
    case ByPiece: return splitByPiece(song, *part);
    case BySection: return splitBySection(song, *part);
    case AtPlace: break;
    }
    return splitAtTime(song, *part, song.tempo->barStart(m_bar->value()));
}

void SplitDialog::refresh() {
    const auto way = static_cast<Way>(m_ways->currentRow());
    m_rule->setText(ruleOf(way));
    m_options->setCurrentIndex(way == ByPitch ? 1 : way == IntoLines ? 2 : way == AtPlace ? 3 : 0);
    m_options->setVisible(m_options->currentIndex() != 0);
    const Split split = splitNow();
    std::map<int, int> counts;
    for (const int group : split.groupOf) ++counts[group];
    m_result->clear();
    for (const auto& [group, count] : counts)
        m_result->addItem(QStringLiteral("%1 — %2").arg(
            QString::fromStdString(split.names[static_cast<std::size_t>(group)]),
            count == 1 ? tr("one note") : tr("%1 notes").arg(count)));
    const bool splits = split.used() > 1;
    if (!splits) m_result->addItem(tr("All its notes belong together that way."));
    if (m_take) m_take->setEnabled(splits);
}

void SplitDialog::take() {
    disconnect(&m_session.current, nullptr, this, nullptr);
    m_session.current.selectPart(m_part);
    m_session.current.split(tr("Split by %1").arg(m_ways->currentItem()->text().toLower()),
                            [split = splitNow()](const Song&, const Part&) { return split; });
}

} // namespace cobbleway
