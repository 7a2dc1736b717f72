#include "app/dialogs/tempodialog.h"

#include "app/session/session.h"
#include "app/widgets/painting.h"
#include "app/widgets/plots.h"
#include "song/shape/timeedits.h"

#include <QDoubleSpinBox>
#include <QHeaderView>
#include <QTreeWidget>
#include <algorithm>

namespace cobbleway {

TempoDialog::TempoDialog(Uses<uses::Set, uses::Transport> session, QWidget* parent)
    : Form(tr("Tempo and bars"), parent), m_session(session),
      m_picture(new StepsPicture(tr("Tempo along the song"))), m_changes(new QTreeWidget),
      m_bpm(new QDoubleSpinBox), m_bar(new QSpinBox), m_percent(new QSpinBox), m_tolerance(new QSpinBox),
      m_beats(new QSpinBox), m_unit(new QSpinBox), m_metreBar(new QSpinBox), m_pickUp(new QSpinBox),
      m_flat(mutedLabel()), m_silence(mutedLabel()), m_flatten(button(tr("Flatten"))),
      m_remove(button(tr("Remove the change"))), m_trim(button(tr("Remove it"))) {
    setPreferredWidth(760);
    setHeading(tr("Tempo and bars of the song"));
    column()->addWidget(makeTempo(), 1);
    column()->addWidget(makeBars());
    addButtons({}, tr("Close"));
    follow(session.current, Side::Time | Side::Notes, this, &TempoDialog::refresh);
    refresh();
}

QWidget* TempoDialog::makeTempo() {
    auto* card = new Card(tr("Tempo"));
    m_changes->setHeaderLabels({tr("From bar"), tr("Time"), tr("BPM")});
    m_changes->setRootIsDecorated(false);
    m_changes->setUniformRowHeights(true);
    m_changes->setAccessibleName(tr("Tempo changes"));
    m_changes->setObjectName(QStringLiteral("tempoChanges"));
    m_bpm->setRange(4, 1000);
    m_bpm->setDecimals(1);
    m_bpm->setObjectName(QStringLiteral("bpm"));
    m_bar->setObjectName(QStringLiteral("tempoBar"));
    m_percent->setRange(10, 1000);
    m_percent->setValue(100);
    m_percent->setSuffix(tr(" %"));
    m_percent->setObjectName(QStringLiteral("tempoPercent"));
    m_tolerance->setRange(0, 500);
    m_tolerance->setValue(20);
    m_tolerance->setSuffix(tr(" ms"));
    m_tolerance->setObjectName(QStringLiteral("tempoTolerance"));
    auto* set = button(tr("Set"));
    auto* steady = button(tr("One tempo throughout"));
    auto* scale = button(tr("Scale"));
    set->setObjectName(QStringLiteral("setTempo"));
    steady->setObjectName(QStringLiteral("steadyTempo"));
    scale->setObjectName(QStringLiteral("scaleTempo"));
    m_flatten->setObjectName(QStringLiteral("flattenTempo"));
    card->column()->addWidget(m_picture);
    card->column()->addWidget(m_changes, 1);
    card->column()->addLayout(
        row({labelled(tr("From &bar"), m_bar), labelled(tr("BP&M"), m_bpm), set, m_remove}));
    card->column()->addLayout(row({labelled(tr("All tempos &times"), m_percent), scale, steady}));
    card->column()->addLayout(
        row({labelled(tr("Fewer tempos, no note moved by more than"), m_tolerance), m_flatten}));
    card->column()->addWidget(m_flat);
    const auto edit = [this](const QString& name, auto change) { m_session.current.edit(name, change); };
    connect(m_changes, &QTreeWidget::currentItemChanged, this, [this](QTreeWidgetItem* item) {
        if (!item) return;
        const Tick tick = item->data(0, Qt::UserRole).toLongLong();
        m_bar->setValue(m_session.current.song().tempo->position(tick).bar);
        m_bpm->setValue(m_session.current.song().tempo->bpm(tick));
        m_remove->setEnabled(tick > 0);
    });
    connect(set, &QPushButton::clicked, this, [this, edit] {
        // The change that is selected, or the start of the bar.
        const auto* item = m_changes->currentItem();
        const Tick selected = item ? item->data(0, Qt::UserRole).toLongLong() : -1;
        const bool same =
            selected >= 0 && m_session.current.song().tempo->position(selected).bar == m_bar->value();
        const Tick tick = same ? selected : m_session.current.song().tempo->barStart(m_bar->value());
        edit(tr("Set tempo"),
             [tick, bpm = m_bpm->value()](const Song& s) { return edits::setTempo(s, tick, bpm); });
    });
    connect(m_remove, &QPushButton::clicked, this, [this, edit] {
        if (const auto* item = m_changes->currentItem())
            edit(tr("Remove a tempo change"), [tick = item->data(0, Qt::UserRole).toLongLong()](
                                                  const Song& s) { return edits::removeTempo(s, tick); });
    });
    connect(scale, &QPushButton::clicked, this, [this, edit] {
        edit(tr("Scale tempo"),
             [by = m_percent->value() / 100.0](const Song& s) { return edits::scaleTempo(s, by); });
        m_percent->setValue(100);
    });
    connect(steady, &QPushButton::clicked, this, [edit] {
        edit(tr("One tempo throughout"), [](const Song& s) { return edits::steadyTempo(s, steadyBpm(s)); });
    });
    connect(m_tolerance, &QSpinBox::valueChanged, this, &TempoDialog::refreshFlat);
    connect(m_flatten, &QPushButton::clicked, this, [this, edit] {
        edit(tr("Flatten tempo"),
             [by = m_tolerance->value() / 1000.0](const Song& s) { return edits::flattenTempo(s, by); });
    });
    return card;
}

QWidget* TempoDialog::makeBars() {
    auto* card = new Card(tr("Bars"));
    m_beats->setRange(1, 32);
    m_beats->setObjectName(QStringLiteral("beats"));
    m_metreBar->setObjectName(QStringLiteral("metreBar"));
    m_pickUp->setObjectName(QStringLiteral("pickUp"));
    auto* metre = button(tr("Set metre"));
    auto* pickUp = button(tr("Set pick-up"));
    metre->setObjectName(QStringLiteral("setMetre"));
    pickUp->setObjectName(QStringLiteral("setPickUp"));
    m_trim->setObjectName(QStringLiteral("trim"));
    m_unit->setPrefix(tr("1/"));
    m_unit->setRange(1, 64);
    m_unit->setValue(4);
    card->column()->addLayout(row({labelled(tr("From ba&r"), m_metreBar), labelled(tr("b&eats"), m_beats),
                                   labelled(tr("of a &note"), m_unit), metre}));
    card->column()->addLayout(row({labelled(tr("First bar is a &pick-up of"), m_pickUp), pickUp}));
    card->column()->addLayout(row({m_silence, m_trim}));
    m_silence->setWordWrap(false);
    m_pickUp->setSuffix(tr(" beats"));
    connect(metre, &QPushButton::clicked, this, [this] {
        const Tick tick = m_session.current.song().tempo->barStart(m_metreBar->value());
        m_session.current.edit(tr("Set metre"),
                               [tick, beats = m_beats->value(), unit = m_unit->value()](const Song& s) {
                                   return edits::setMetre(s, tick, beats, unit);
                               });
    });
    connect(pickUp, &QPushButton::clicked, this, [this] {
        const Song& song = m_session.current.song();
        const Tick beat = song.tempo->quarter() * 4 / song.tempo->metres().front().denominator;
        m_session.current.edit(tr("Set pick-up"), [ticks = m_pickUp->value() * beat](const Song& s) {
            return edits::setPickUp(s, ticks);
        });
    });
    connect(m_trim, &QPushButton::clicked, this, [this] {
        m_session.current.edit(tr("Remove the silence at the start"), [](const Song& s) {
            // Whole bars go, so that bar lines stay where they are between the notes; within a bar, all.
            const Tick silence = leadingSilence(s);
            const Tick bars = s.tempo->barStart(s.tempo->position(silence).bar);
            return edits::removeLeadingSilence(s, bars > 0 ? bars : silence);
        });
    });
    return card;
}

void TempoDialog::refresh() {
    if (!m_session.current.hasSong()) return reject();
    const Song& song = m_session.current.song();
    const auto& tempos = song.tempo->tempos();
    const Tick selected =
        m_changes->currentItem() ? m_changes->currentItem()->data(0, Qt::UserRole).toLongLong() : 0;
    {
        const QSignalBlocker quiet(m_changes);
        m_changes->clear();
        QList<QTreeWidgetItem*> items;
        constexpr std::size_t most = 5000;
        for (std::size_t i = 0; i < std::min(tempos.size(), most); ++i) {
            const Position at = song.tempo->position(tempos[i].tick);
            auto* item = new QTreeWidgetItem(
                {QStringLiteral("%1.%2.%3").arg(at.bar).arg(at.beat).arg(at.tick, 3, 10, QLatin1Char('0')),
                 timeText(song.tempo->seconds(tempos[i].tick)),
                 QString::number(60e6 / tempos[i].microsecondsPerQuarter, 'f', 1)});
            item->setData(0, Qt::UserRole, QVariant::fromValue<qlonglong>(tempos[i].tick));
            items << item;
        }
        m_changes->addTopLevelItems(items);
    }
    for (int i = 0; i < m_changes->topLevelItemCount(); ++i)
        if (m_changes->topLevelItem(i)->data(0, Qt::UserRole).toLongLong() == selected)
            m_changes->setCurrentItem(m_changes->topLevelItem(i));
    m_bar->setRange(1, song.bars());
    m_metreBar->setRange(1, song.bars());
    if (!m_metreShown) {
        const MetreChange& now = song.tempo->metre(m_session.transport.place());
        m_metreBar->setValue(song.tempo->position(m_session.transport.place()).bar);
        m_beats->setValue(now.numerator);
        m_unit->setValue(now.denominator);
        m_metreShown = true;
    }
    const MetreChange& metre = song.tempo->metres().front();
    m_pickUp->setRange(0, metre.numerator - 1);
    std::vector<StepsPicture::Point> points;
    points.reserve(tempos.size());
    for (const TempoChange& tempo : tempos)
        points.push_back({song.tempo->seconds(tempo.tick), 60e6 / tempo.microsecondsPerQuarter});
    const double low = song.tempo->lowestBpm(), high = song.tempo->highestBpm();
    m_picture->setPoints(std::move(points), {}, song.seconds(), low * 0.9, high * 1.1);
    m_picture->setSummary(
        tr("%1 changes, %2 to %3 BPM").arg(tempos.size()).arg(low, 0, 'f', 1).arg(high, 0, 'f', 1));
    const double silence = song.tempo->seconds(leadingSilence(song));
    m_silence->setText(silence < 0.01 ? tr("The first note comes at once.")
                                      : tr("The first note comes after %1 s.").arg(silence, 0, 'f', 1));
    m_trim->setEnabled(silence >= 0.01);
    refreshFlat();
}

void TempoDialog::refreshFlat() {
    const Song& song = m_session.current.song();
    const auto flat = flattened(song, m_tolerance->value() / 1000.0);
    const auto before = song.tempo->tempos().size();
    m_flat->setText(tr("%1 changes now; with %2, no place moves by more than %3 ms.")
                        .arg(before)
                        .arg(flat.tempos.size())
                        .arg(flat.mostMoved * 1000, 0, 'f', 1));
    m_flatten->setEnabled(flat.tempos.size() < before);
}

} // namespace cobbleway
