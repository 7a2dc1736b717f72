#include "app/dialogs/clickdialog.h"

#include "app/session/rounds.h"
#include "app/session/transport.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QSpinBox>

namespace cobbleway {

ClickDialog::ClickDialog(Uses<uses::Transport, uses::Rounds> session, QWidget* parent)
    : Form(tr("Click and count-in"), parent), m_session(session),
      m_on(new QCheckBox(tr("C&lick on each beat"))),
      m_accent(new QCheckBox(tr("&First beat of a bar louder and higher"))), m_sound(new QComboBox),
      m_parts(new QComboBox), m_level(new QDoubleSpinBox), m_countIn(new QSpinBox) {
    m_on->setObjectName(QStringLiteral("clickOn"));
    m_sound->setObjectName(QStringLiteral("clickSound"));
    m_countIn->setObjectName(QStringLiteral("countIn"));
    m_sound->addItems({tr("tone"), tr("wood"), tr("stick")});
    m_parts->addItems(
        {tr("beats"), tr("halves of a beat"), tr("thirds of a beat"), tr("quarters of a beat")});
    m_level->setRange(-24, 6);
    m_level->setDecimals(1);
    m_level->setSuffix(tr(" dB"));
    m_countIn->setRange(0, 8);
    m_countIn->setSpecialValueText(tr("none"));
    column()->addWidget(m_on);
    column()->addLayout(row({labelled(tr("&Sound"), m_sound), labelled(tr("L&evel"), m_level)}));
    column()->addLayout(row({labelled(tr("Click on &all"), m_parts)}));
    column()->addWidget(m_accent);
    column()->addLayout(row({labelled(tr("Count &bars before playing"), m_countIn)}));
    auto* note = mutedLabel(tr("Files with a click have this sound and level, too."));
    column()->addWidget(note);
    addButtons({}, tr("Close"));
    refresh();
    for (QCheckBox* box : {m_on, m_accent}) connect(box, &QCheckBox::toggled, this, &ClickDialog::set);
    for (QComboBox* box : {m_sound, m_parts})
        connect(box, &QComboBox::currentIndexChanged, this, &ClickDialog::set);
    connect(m_level, &QDoubleSpinBox::valueChanged, this, &ClickDialog::set);
    connect(m_countIn, &QSpinBox::valueChanged, this, &ClickDialog::set);
    connect(&session.transport, &Transport::clickingChanged, this, &ClickDialog::refresh);
}

void ClickDialog::set() {
    m_session.transport.setClicking({m_on->isChecked(),
                                     {static_cast<ClickSound>(m_sound->currentIndex()), m_level->value(),
                                      m_parts->currentIndex() + 1, m_accent->isChecked()},
                                     m_countIn->value()});
}

void ClickDialog::refresh() {
    const QSignalBlocker quiet[] = {QSignalBlocker(m_on),    QSignalBlocker(m_accent),
                                    QSignalBlocker(m_sound), QSignalBlocker(m_parts),
                                    QSignalBlocker(m_level), QSignalBlocker(m_countIn)};
    const settings::Clicking& clicking = m_session.transport.clicking();
    m_on->setChecked(clicking.on);
    m_accent->setChecked(clicking.shape.accent);
    m_sound->setCurrentIndex(static_cast<int>(clicking.shape.sound));
    m_parts->setCurrentIndex(clicking.shape.parts - 1);
    m_level->setValue(clicking.shape.levelDb);
    m_countIn->setValue(clicking.countIn);
}

WorkDialog::WorkDialog(Uses<uses::Transport, uses::Rounds> session, QWidget* parent)
    : Form(tr("Work through"), parent) {
    const WorkWish wish = session.rounds.workWish();
    auto* rounds = new QSpinBox;
    rounds->setObjectName(QStringLiteral("rounds"));
    rounds->setRange(1, 12);
    rounds->setValue(wish.rounds);
    const auto paceBox = [](int value) {
        auto* box = new QSpinBox;
        box->setRange(25, 200);
        box->setSuffix(tr(" %"));
        box->setValue(value);
        return box;
    };
    auto* from = paceBox(wish.from);
    auto* to = paceBox(wish.to);
    from->setObjectName(QStringLiteral("workFrom"));
    to->setObjectName(QStringLiteral("workTo"));
    auto* say = new QLabel(tr("Each section is played for some rounds, from slow to fast, and then together "
                              "with the one before it. It begins with the section at the playhead."));
    say->setWordWrap(true);
    say->setMinimumWidth(380);
    column()->addWidget(say);
    column()->addLayout(row({labelled(tr("&Rounds of each section"), rounds)}));
    column()->addLayout(row({labelled(tr("First &pace"), from), labelled(tr("&Last pace"), to)}));
    QPushButton* start = addButtons(tr("Start"), tr("Cancel"));
    connect(start, &QPushButton::clicked, this, [this, &playing = session.rounds, rounds, from, to] {
        accept();
        playing.startWork({rounds->value(), from->value(), to->value()});
    });
}

} // namespace cobbleway
