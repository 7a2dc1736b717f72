#include "app/dialogs/pitchdialog.h"

#include "app/session/session.h"
#include "song/match/songkeys.h"
#include "song/match/transposing.h"
#include "song/shape/edits.h"

#include <QComboBox>
#include <QSpinBox>
#include <algorithm>
#include <cmath>

namespace cobbleway {
namespace {

QString semitonesText(int semitones) {
    const int count = std::abs(semitones);
    const QString way = semitones < 0 ? QObject::tr("down") : QObject::tr("up");
    return count == 1 ? QObject::tr("1 semitone %1").arg(way)
                      : QObject::tr("%1 semitones %2").arg(count).arg(way);
}

} // namespace

PitchDialog::PitchDialog(Uses<uses::Set, uses::Findings> session, QWidget* parent)
    : Form(tr("Pitch and velocity"), parent), m_session(session), m_key(mutedLabel()), m_heard(mutedLabel()),
      m_semitones(new QSpinBox), m_scale(new QSpinBox), m_offset(new QSpinBox), m_compress(new QSpinBox),
      m_instrument(new QComboBox), m_toSounding(button({})), m_toWritten(button({})),
      m_unisons(new QComboBox), m_suggested(button({})) {
    setPreferredWidth(560);
    column()->addWidget(makeTransposition());
    column()->addWidget(makeVelocity());
    column()->addStretch();
    addButtons({}, tr("Close"));
    follow(session.current, Side::Notes | Side::Names | Side::Sounds, this, &PitchDialog::refresh);
    connect(&session.current, &CurrentSet::selectionChanged, this, &PitchDialog::refresh);
    refresh();
}

QWidget* PitchDialog::makeTransposition() {
    auto* card = new Card(tr("Transposition"));
    m_semitones->setRange(-60, 60);
    m_semitones->setSuffix(tr(" semitones"));
    m_semitones->setObjectName(QStringLiteral("semitones"));
    m_instrument->setObjectName(QStringLiteral("instrument"));
    m_instrument->addItem(tr("an instrument that sounds as written"), 0);
    for (const TransposingInstrument& instrument : transposingInstruments())
        m_instrument->addItem(tr("%1: sounds %2")
                                  .arg(QString::fromUtf8(instrument.name.data(),
                                                         static_cast<qsizetype>(instrument.name.size())),
                                       semitonesText(instrument.semitones)),
                              instrument.semitones);
    card->column()->addLayout(row({labelled(tr("&Move by"), m_semitones)}));
    card->column()->addLayout(row({labelled(tr("&Written for"), m_instrument)}));
    card->column()->addLayout(row({m_toSounding, m_toWritten}));
    m_toSounding->setToolTip(
        tr("The file has the notes as the player reads them: move them to where they sound"));
    m_toWritten->setToolTip(tr("The file has the notes as they sound: move them to what the player reads"));
    m_toSounding->setObjectName(QStringLiteral("toSounding"));
    m_toWritten->setObjectName(QStringLiteral("toWritten"));
    card->column()->addWidget(m_key);
    card->column()->addWidget(m_suggested, 0, Qt::AlignLeft);
    connect(m_semitones, &QSpinBox::valueChanged, this, [this](int value) {
        if (!m_filling) setSemitones(value);
    });
    connect(m_instrument, &QComboBox::currentIndexChanged, this, &PitchDialog::refreshWays);
    connect(m_toSounding, &QPushButton::clicked, this,
            [this] { moveBy(m_instrument->currentData().toInt()); });
    connect(m_toWritten, &QPushButton::clicked, this,
            [this] { moveBy(-m_instrument->currentData().toInt()); });
    connect(m_suggested, &QPushButton::clicked, this, [this] { moveBy(m_suggestion); });
    return card;
}

QWidget* PitchDialog::makeVelocity() {
    auto* card = new Card(tr("Velocity"));
    m_scale->setRange(10, 400);
    m_scale->setSuffix(tr(" %"));
    m_offset->setRange(-126, 126);
    m_compress->setRange(0, 100);
    m_compress->setSuffix(tr(" %"));
    m_scale->setObjectName(QStringLiteral("scale"));
    m_offset->setObjectName(QStringLiteral("offset"));
    m_compress->setObjectName(QStringLiteral("compress"));
    m_unisons->setObjectName(QStringLiteral("unisons"));
    m_unisons->addItem(tr("keep both"), int(Unisons::KeepBoth));
    m_unisons->addItem(tr("keep one, the longer and louder"), int(Unisons::KeepOne));
    m_unisons->addItem(tr("keep one, and end it where its key is struck again"), int(Unisons::Cut));
    card->column()->addLayout(row({labelled(tr("&Scale"), m_scale), labelled(tr("&Add"), m_offset),
                                   labelled(tr("&Even out"), m_compress)}));
    card->column()->addWidget(m_heard);
    card->column()->addLayout(row({labelled(tr("&Overlapping notes of one key"), m_unisons)}));
    for (QSpinBox* box : {m_scale, m_offset, m_compress})
        connect(box, &QSpinBox::valueChanged, this, [this] {
            if (!m_filling) applyVelocity();
        });
    connect(m_unisons, &QComboBox::activated, this, [this] {
        m_session.current.edit(
            tr("Overlapping notes"),
            [id = m_session.current.selectedPart(),
             to = static_cast<Unisons>(m_unisons->currentData().toInt())](const Song& song) {
                return edits::setUnisons(song, id, to);
            },
            QStringLiteral("unisons %1").arg(m_session.current.selectedPart()));
    });
    return card;
}

void PitchDialog::setSemitones(int semitones) {
    const PartId id = m_session.current.selectedPart();
    m_session.current.edit(
        tr("Transpose"), [=](const Song& song) { return edits::setSemitones(song, id, semitones); },
        QStringLiteral("semitones %1").arg(id));
}

void PitchDialog::moveBy(int semitones) {
    if (const Part* part = m_session.current.part()) setSemitones(part->recipe.semitones + semitones);
}

/// The instrument chosen is where the next step goes, so the buttons say what they will do.
void PitchDialog::refreshWays() {
    const int semitones = m_instrument->currentData().toInt();
    const bool moves = semitones != 0 && m_instrument->isEnabled();
    m_toSounding->setEnabled(moves);
    m_toWritten->setEnabled(moves);
    m_toSounding->setText(moves ? tr("From written to sounding: %1").arg(semitonesText(semitones))
                                : tr("From written to sounding"));
    m_toWritten->setText(moves ? tr("From sounding to written: %1").arg(semitonesText(-semitones))
                               : tr("From sounding to written"));
}

/// The instrument that the part's name tells, chosen anew when another part is looked at.
void PitchDialog::offerInstrument(const Part& part) {
    if (m_offered == std::pair(part.id, part.name)) return;
    m_offered = {part.id, part.name};
    const auto named = transposingInstrument(part.name);
    int row = 0;
    for (std::size_t i = 0; named && i < transposingInstruments().size(); ++i)
        if (transposingInstruments()[i].name == named->name) row = static_cast<int>(i) + 1;
    m_instrument->setCurrentIndex(row);
}

/// "C major; D major from bar 65".
QString PitchDialog::keysText() const {
    QStringList keys;
    const Song& song = m_session.current.song();
    const auto melodyOf = [&](const Part& part) { return m_session.findings.derived()->melody(song, part); };
    for (const KeyStretch& stretch : keysBySection(song, melodyOf)) {
        const QString key = QString::fromStdString(keyText(stretch.key));
        const int bar = song.tempo->position(stretch.start).bar;
        keys << (keys.isEmpty() ? key : tr("%1 from bar %2").arg(key).arg(bar));
    }
    return keys.join(tr("; "));
}

void PitchDialog::applyVelocity() {
    const PartId id = m_session.current.selectedPart();
    const VelocityShape shape{m_scale->value() / 100.0, m_offset->value(), m_compress->value() / 100.0};
    m_session.current.edit(
        tr("Shape velocities"), [=](const Song& song) { return edits::setVelocity(song, id, shape); },
        QStringLiteral("velocity %1").arg(id));
}

void PitchDialog::refresh() {
    const Part* part = m_session.current.part();
    setEnabled(part != nullptr);
    if (!part) return;
    m_filling = true;
    setHeading(tr("Pitch and velocity of %1").arg(QString::fromStdString(part->name)));
    m_semitones->setValue(part->recipe.semitones);
    m_semitones->setEnabled(!part->source.drums);
    m_instrument->setEnabled(!part->source.drums);
    offerInstrument(*part);
    refreshWays();
    m_scale->setValue(qRound(part->recipe.velocity.scale * 100));
    m_offset->setValue(part->recipe.velocity.offset);
    m_compress->setValue(qRound(part->recipe.velocity.compress * 100));
    m_unisons->setCurrentIndex(m_unisons->findData(int(part->recipe.unisons)));
    m_filling = false;
    const Song& song = m_session.current.song();
    const auto melodyOf = [&](const Part& one) { return m_session.findings.derived()->melody(song, one); };
    m_suggestion = KeyCheck(song, melodyOf).suggestion(*part).value_or(0);
    const QString key = QString::fromStdString(keyText(keyOf(melodyOf(*part).classes)));
    QStringList told;
    if (part->source.drums)
        told << tr("Drums are not transposed.");
    else if (m_suggestion != 0)
        told << tr("As it is now it seems to be in %1, unlike the other parts.").arg(key);
    else
        told << tr("As it is now it seems to be in %1, and it does not clash with the other parts.").arg(key);
    if (const QString keys = keysText(); !keys.isEmpty()) told << tr("The song: %1.").arg(keys);
    m_key->setText(told.join(QChar(u' ')));
    m_suggested->setVisible(m_suggestion != 0);
    m_suggested->setText(tr("Move it %1 to fit").arg(semitonesText(m_suggestion)));
    int lowest = 127, highest = 0;
    const auto heard = m_session.findings.heard(part->id);
    for (const Note& note : heard->notes) {
        lowest = std::min<int>(lowest, note.velocity.value);
        highest = std::max<int>(highest, note.velocity.value);
    }
    m_heard->setText(highest == 0 ? tr("No notes.")
                                  : tr("Its velocities range from %1 to %2.").arg(lowest).arg(highest));
}

} // namespace cobbleway
