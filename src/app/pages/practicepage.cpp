#include "app/pages/practicepage.h"

#include "app/dialogs/clickdialog.h"
#include "app/look/theme.h"
#include "app/session/session.h"
#include "app/widgets/focus.h"
#include "app/widgets/gradually.h"
#include "app/widgets/gridkeys.h"
#include "app/widgets/notespicture.h"
#include "app/widgets/painting.h"
#include "app/widgets/small.h"
#include "app/widgets/whenshown.h"
#include "app/widgets/wordsstrip.h"
#include "song/heard/firstnote.h"
#include "song/match/transposing.h"
#include "song/shape/edits.h"
#include "song/shape/mixes.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QKeyEvent>
#include <QMenu>
#include <QPainter>
#include <QPushButton>
#include <QScrollArea>
#include <QSlider>
#include <QSpinBox>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace cobbleway {

/// One part with its role. A click on it, or focus in it, selects the part; left and right give it another
/// role.
class PracticePage::RoleRow final : public QWidget {
  public:
    RoleRow(Uses<uses::Set, uses::Transport, uses::Rounds, uses::Meters> session, const Part& part)
        : m_session(session), m_part(part.id) {
        setFixedHeight(41);
        m_segments = new Segments({tr("Lead"), tr("Back"), tr("Off")}, QString::fromStdString(part.name));
        auto* layout = new QHBoxLayout(this);
        layout->setContentsMargins(16, 0, 10, 0);
        layout->addStretch();
        layout->addWidget(m_segments);
        connect(m_segments, &Segments::chosen, this, [this](int role) {
            m_session.current.selectPart(m_part);
            m_session.current.edit(tr("Change role"), [id = m_part, role](const Song& song) {
                return edits::setRole(song, id, static_cast<Role>(role));
            });
        });
        connect(&session.current, &CurrentSet::selectionChanged, this, QOverload<>::of(&QWidget::update));
        m_segments->leaveFocusToOwner();
        setFocusPolicy(Qt::StrongFocus);
    }
    void refresh() {
        const Part* part = m_session.current.partWith(m_part);
        if (!part) return;
        m_segments->setCurrent(static_cast<int>(part->mix.role));
        static const QString roles[] = {tr("leads"), tr("backs"), tr("off")};
        setAccessibleName(QStringLiteral("%1, %2").arg(QString::fromStdString(part->name),
                                                       roles[static_cast<int>(part->mix.role)]));
        update();
    }

  private:
    void paintEvent(QPaintEvent*) override {
        const Part* part = m_session.current.partWith(m_part);
        if (!part) return;
        QPainter painter(this);
        const Mirrored mirrored(painter, rect(), layoutDirection());
        const QRect segments = QStyle::visualRect(layoutDirection(), rect(), m_segments->geometry());
        painter.setRenderHint(QPainter::Antialiasing);
        if (m_part == m_session.current.selectedPart()) painter.fillRect(rect(), theme().selected);
        painter.fillRect(QRect(0, height() - 1, width(), 1), theme().line);
        painter.setPen(Qt::NoPen);
        painter.setBrush(partColour(part->colour));
        painter.drawRoundedRect(QRectF(0, 4, 6, height() - 9), 2.5, 2.5);
        const bool off = part->mix.role == Role::Off;
        paintText(painter, QRectF(15, 0, segments.left() - 20, height()), QString::fromStdString(part->name),
                  textFont(9.5, QFont::DemiBold), off ? theme().muted : theme().ink);
        // How loud it is just now: a thin line under the name.
        const double level = m_session.transport.player().isPlaying()
                                 ? std::min(1.0, std::sqrt(m_session.meters.part(m_part)))
                                 : 0;
        m_level = std::max(level, m_level * 0.8);
        painter.setPen(Qt::NoPen);
        painter.setBrush(theme().moss);
        if (m_level > 0.02)
            painter.drawRoundedRect(QRectF(15, height() - 8, (segments.left() - 26) * m_level, 3), 1.5, 1.5);
        if (!hasFocus()) return;
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(theme().action, 1.5));
        painter.drawRoundedRect(QRectF(rect()).adjusted(1, 1, -1, -2), 4, 4);
    }
    void keyPressEvent(QKeyEvent* event) override {
        const int right = isRightToLeft() ? -1 : 1;
        const int by = event->key() == Qt::Key_Right ? right : (event->key() == Qt::Key_Left ? -right : 0);
        if (by == 0 || event->modifiers() != Qt::NoModifier) return QWidget::keyPressEvent(event);
        const int to = std::clamp(m_segments->current() + by, 0, 2);
        if (to != m_segments->current()) Q_EMIT m_segments->chosen(to);
    }
    void mousePressEvent(QMouseEvent*) override { m_session.current.selectPart(m_part); }
    void focusInEvent(QFocusEvent* event) override {
        m_session.current.selectPart(m_part);
        QWidget::focusInEvent(event);
    }
    Uses<uses::Set, uses::Transport, uses::Rounds, uses::Meters> m_session;
    PartId m_part;
    Segments* m_segments;
    double m_level = 0;
};

PracticePage::PracticePage(
    Uses<uses::Set, uses::Findings, uses::Transport, uses::Rounds, uses::Meters> session, QWidget* parent)
    : QWidget(parent), m_session(session), m_area(new QScrollArea), m_rowMaker(new Gradually(this)),
      m_keys(new GridKeys(this)), m_notes(new NotesPicture(session)) {
    auto* top = new QHBoxLayout;
    top->addWidget(titleLabel(tr("Practice")));
    top->addWidget(mutedLabel(tr("Who leads, who backs, who rests")), 1);
    top->addStrut(29); // as high as the other pages' buttons

    m_area->setWidgetResizable(true);
    m_area->setFocusPolicy(Qt::NoFocus); // its rows have it
    m_area->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    m_back = new QDoubleSpinBox;
    m_back->setRange(-40, 0);
    m_back->setDecimals(1);
    m_back->setSuffix(tr(" dB"));
    m_back->setAccessibleName(tr("Backing level while a part leads"));
    m_back->setFixedWidth(84);
    m_room = new QSpinBox;
    m_room->setRange(0, 100);
    m_room->setSuffix(tr(" %"));
    m_room->setAccessibleName(tr("Room (reverb)"));
    m_room->setToolTip(tr("Room: the reverb that all parts share"));
    m_room->setFixedWidth(60);
    auto* levels = new QHBoxLayout;
    levels->setContentsMargins(12, 8, 10, 10);
    levels->setSpacing(8);
    levels->addWidget(new QLabel(tr("Backing level")));
    levels->addWidget(m_back);
    levels->addStretch();
    levels->addWidget(new QLabel(tr("Room")));
    levels->addWidget(m_room);
    auto* roles = new Card;
    roles->column()->setContentsMargins(1, 1, 1, 0);
    roles->column()->setSpacing(0);
    roles->column()->addWidget(m_area, 1);
    roles->column()->addLayout(levels);
    roles->column()->addLayout(makeClick());
    roles->setFixedWidth(322);

    m_name = titleLabel();
    m_bars = mutedLabel();
    m_bars->setWordWrap(false);
    m_bars->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred); // cut before the box beside it is
    auto* heading = new QHBoxLayout;
    heading->addWidget(m_name);
    heading->addWidget(m_bars, 1);
    m_written = new QCheckBox;
    m_written->setObjectName(QStringLiteral("written"));
    m_names = new QCheckBox(tr("Note names"));
    m_names->setObjectName(QStringLiteral("noteNames"));
    for (QCheckBox* box : {m_written, m_names}) {
        connect(box, &QCheckBox::toggled, this, &PracticePage::showTitle);
        heading->addWidget(box);
    }
    auto* picture = new Card;
    picture->column()->addLayout(heading);
    picture->column()->addWidget(m_notes, 1);
    m_words = new WordsStrip(14, 10.5);
    m_words->setObjectName(QStringLiteral("words"));
    picture->column()->addWidget(m_words);

    auto* right = new QVBoxLayout;
    right->setSpacing(12);
    right->addWidget(makeMixes());
    right->addWidget(makeLoop());
    right->addWidget(makePace());
    right->addStretch();
    auto* columns = new QHBoxLayout;
    columns->setSpacing(12);
    columns->addWidget(roles);
    columns->addWidget(picture, 1);
    columns->addLayout(right);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 12, 12, 12);
    layout->setSpacing(8);
    layout->addLayout(top);
    layout->addLayout(columns, 1);

    connect(m_back, &QDoubleSpinBox::valueChanged, this, [this](double db) {
        m_session.current.edit(
            tr("Set the backing level"), [db](const Song& song) { return edits::setBackLevel(song, db); },
            QStringLiteral("back"));
    });
    connect(m_room, &QSpinBox::valueChanged, this, [this](int room) {
        m_session.current.edit(
            tr("Set the room"), [room](const Song& song) { return edits::setRoom(song, room / 100.0); },
            QStringLiteral("room"));
    });
    m_shown = new WhenShown(this, [this] { refresh(); });
    follow(session.current, allSides, m_shown, &WhenShown::request);
    connect(&session.current, &CurrentSet::selectionChanged, this, &PracticePage::showTitle);
    connect(&session.transport, &Transport::loopChanged, this, &PracticePage::showLoop);
    connect(&session.transport, &Transport::paceChanged, this, [this] {
        const QSignalBlocker quiet(m_pace);
        m_pace->setValue(m_session.transport.pace());
        m_paceText->setText(tr("%1 %").arg(m_session.transport.pace()));
    });
    connect(m_notes, &NotesPicture::pageTurned, this, &PracticePage::showTitle);
    connect(&session.transport, &Transport::ticked, this, [this] {
        if (!isVisible()) return;
        m_notes->follow();
        m_words->follow(m_session.transport.evenPlace());
        showRest();
        if (m_session.transport.player().isPlaying())
            for (RoleRow* row : m_rows) row->update();
    });
    refresh();
}

QLayout* PracticePage::makeClick() {
    auto* on = new QCheckBox(tr("Click"));
    on->setObjectName(QStringLiteral("click"));
    auto* countIn = new QSpinBox;
    countIn->setObjectName(QStringLiteral("countInBars"));
    countIn->setRange(0, 8);
    countIn->setSpecialValueText(tr("none"));
    countIn->setAccessibleName(tr("Bars counted before playing"));
    countIn->setFixedWidth(66);
    auto* more = button(tr("Sound…"));
    more->setAccessibleName(tr("How the click sounds"));
    auto* line = new QHBoxLayout;
    line->setContentsMargins(12, 0, 10, 10);
    line->setSpacing(8);
    line->addWidget(on);
    line->addWidget(more);
    line->addStretch();
    line->addWidget(new QLabel(tr("Count in")));
    line->addWidget(countIn);
    const auto show = [this, on, countIn] {
        const QSignalBlocker quietOn(on), quietCount(countIn);
        on->setChecked(m_session.transport.clicking().on);
        countIn->setValue(m_session.transport.clicking().countIn);
    };
    const auto set = [this, on, countIn] {
        settings::Clicking to = m_session.transport.clicking();
        to.on = on->isChecked();
        to.countIn = countIn->value();
        m_session.transport.setClicking(to);
    };
    connect(on, &QCheckBox::toggled, this, set);
    connect(countIn, &QSpinBox::valueChanged, this, set);
    connect(more, &QPushButton::clicked, this, [this] { (new ClickDialog(m_session, this))->open(); });
    connect(&m_session.transport, &Transport::clickingChanged, this, show);
    show();
    return line;
}

QWidget* PracticePage::makeMixes() {
    auto* card = new Card(tr("Mix of the selected part"));
    card->setFixedWidth(196);
    const struct {
        QString name;
        std::function<Song(const Song&, PartId)> change;
    } mixes[] = {{tr("In front"), [](const Song& s, PartId p) { return edits::putInFront(s, p); }},
                 {tr("Alone"), [](const Song& s, PartId p) { return edits::onlyPart(s, p); }},
                 {tr("Without"), [](const Song& s, PartId p) { return edits::allBut(s, p); }},
                 {tr("Full band"), [](const Song& s, PartId) { return edits::everyone(s); }}};
    auto* grid = new QGridLayout;
    grid->setSpacing(6);
    int at = 0;
    for (const auto& mix : mixes) {
        auto* b = button(mix.name);
        connect(b, &QPushButton::clicked, this, [this, mix] {
            m_session.current.edit(mix.name, [change = mix.change, id = m_session.current.selectedPart()](
                                                 const Song& song) { return change(song, id); });
        });
        grid->addWidget(b, at / 2, at % 2);
        ++at;
    }
    card->column()->addLayout(grid);
    addKept(card->column());
    return card;
}

/// Mixes under names, with the song.
void PracticePage::addKept(QVBoxLayout* column) {
    m_kept = new QComboBox;
    m_kept->setObjectName(QStringLiteral("keptMixes"));
    m_kept->setAccessibleName(tr("Kept mixes"));
    m_kept->setMinimumWidth(60);
    m_kept->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    m_keep = button(tr("Keep this…"));
    m_keep->setToolTip(tr("Keep roles and levels under a name, with the song"));
    m_more = button(tr("More…"));
    column->addWidget(mutedLabel(tr("Kept mixes")));
    column->addWidget(m_kept);
    auto* line = new QHBoxLayout;
    line->addWidget(m_keep);
    line->addWidget(m_more);
    column->addLayout(line);
    connect(m_kept, &QComboBox::activated, this, [this] {
        const std::string name = m_kept->currentData().toString().toStdString();
        m_session.current.edit(tr("Use a kept mix"),
                               [name](const Song& song) { return edits::useMix(song, name); });
        showKept();
    });
    connect(m_keep, &QPushButton::clicked, this, [this] {
        askForName(tr("Keep this mix"), {}, [this](const QString& name) {
            m_session.current.edit(tr("Keep a mix"), [to = name.toStdString()](const Song& song) {
                return edits::keepMix(song, to);
            });
        });
    });
    connect(m_more, &QPushButton::clicked, this, [this] {
        auto* menu = new QMenu(this);
        menu->setAttribute(Qt::WA_DeleteOnClose);
        menu->addAction(tr("One for every part"), this, [this] {
            m_session.current.edit(tr("Keep mixes of every part"),
                                   [](const Song& song) { return edits::keepMixOfEveryPart(song); });
        });
        const QString now = m_kept->currentData().toString();
        menu->addAction(tr("Rename this mix…"), this,
                        [this, now] {
                            askForName(tr("Rename this mix"), now, [this, now](const QString& name) {
                                m_session.current.edit(
                                    tr("Rename a mix"),
                                    [from = now.toStdString(), to = name.toStdString()](const Song& song) {
                                        return edits::renameMix(song, from, to);
                                    });
                            });
                        })
            ->setEnabled(!now.isEmpty());
        menu->addAction(tr("Remove this mix"), this,
                        [this, now] {
                            m_session.current.edit(tr("Remove a mix"),
                                                   [name = now.toStdString()](const Song& song) {
                                                       return edits::removeMix(song, name);
                                                   });
                        })
            ->setEnabled(!now.isEmpty());
        menu->popup(m_more->mapToGlobal(QPoint(0, m_more->height())));
    });
}

void PracticePage::askForName(const QString& title, const QString& before,
                              const std::function<void(const QString&)>& then) {
    auto* dialog = new QInputDialog(this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->setWindowTitle(title);
    dialog->setLabelText(tr("Name of the mix"));
    dialog->setTextValue(before);
    connect(dialog, &QInputDialog::textValueSelected, this, [then](const QString& name) {
        if (!name.trimmed().isEmpty()) then(name.trimmed());
    });
    dialog->open();
}

void PracticePage::showKept() {
    const QSignalBlocker quiet(m_kept);
    m_kept->clear();
    const bool any = m_session.current.hasSong();
    for (QWidget* widget :
         {static_cast<QWidget*>(m_kept), static_cast<QWidget*>(m_keep), static_cast<QWidget*>(m_more)})
        widget->setEnabled(any);
    if (!any) return;
    const Song& song = m_session.current.song();
    const QString now = QString::fromStdString(mixInUse(song));
    if (now.isEmpty()) m_kept->addItem(song.mixes.empty() ? tr("none yet") : tr("none of them"), QString());
    for (const KeptMix& mix : song.mixes)
        m_kept->addItem(QString::fromStdString(mix.name), QString::fromStdString(mix.name));
    m_kept->setCurrentIndex(std::max(0, m_kept->findData(now)));
}

QWidget* PracticePage::makeLoop() {
    auto* card = new Card(tr("Loop"));
    card->setFixedWidth(196);
    m_loopOn = new QCheckBox(tr("Repeat"));
    m_loopName = mutedLabel();
    m_from = new QSpinBox;
    m_to = new QSpinBox;
    m_from->setAccessibleName(tr("Loop from bar"));
    m_to->setAccessibleName(tr("Loop to bar, included"));
    m_from->setObjectName(QStringLiteral("loopFrom"));
    m_to->setObjectName(QStringLiteral("loopTo"));
    for (QSpinBox* box : {m_from, m_to}) {
        box->setFixedWidth(60);
        box->setRange(1, 99999);
        box->setKeyboardTracking(false);
    }
    auto* line = new QHBoxLayout;
    line->addWidget(new QLabel(tr("bars")));
    line->addWidget(m_from);
    line->addWidget(new QLabel(tr("to")));
    line->addWidget(m_to);
    line->addStretch();
    card->column()->addLayout(line);
    m_work = button(tr("Work through…"));
    m_work->setObjectName(QStringLiteral("work"));
    m_work->setToolTip(tr("Each section some rounds, from slow to fast, then together with the one before"));
    connect(m_work, &QPushButton::clicked, this, [this] {
        if (m_session.rounds.isWorking())
            m_session.rounds.stopWork();
        else
            (new WorkDialog(m_session, this))->open();
    });
    connect(&m_session.rounds, &Rounds::workChanged, this, &PracticePage::showLoop);
    card->column()->addWidget(m_loopOn);
    card->column()->addWidget(m_loopName);
    card->column()->addWidget(m_work);
    const auto set = [this] {
        if (!m_session.current.hasSong()) return;
        const TempoMap& tempo = *m_session.current.song().tempo;
        const Tick start = std::min(tempo.barStart(m_from->value()), m_session.current.song().end);
        const Tick end = std::min(tempo.barStart(std::max(m_from->value(), m_to->value()) + 1),
                                  m_session.current.song().end);
        m_session.transport.setLoop({start, end, m_loopOn->isChecked()});
    };
    connect(m_from, &QSpinBox::valueChanged, this, set);
    connect(m_to, &QSpinBox::valueChanged, this, set);
    connect(m_loopOn, &QCheckBox::toggled, this, set);
    return card;
}

QWidget* PracticePage::makePace() {
    auto* card = new Card(tr("Pace"));
    card->setFixedWidth(196);
    m_paceText = new QLabel(tr("%1 %").arg(m_session.transport.pace()));
    m_paceText->setFont(textFont(15, QFont::DemiBold));
    m_pace = new QSlider(Qt::Horizontal);
    m_pace->setRange(25, 200);
    m_pace->setPageStep(10);
    m_pace->setValue(m_session.transport.pace());
    m_pace->setAccessibleName(tr("Pace in percent"));
    auto* own = button(tr("Own tempo"));
    connect(m_pace, &QSlider::valueChanged, &m_session.transport, &Transport::setPace);
    connect(own, &QPushButton::clicked, this, [this] { m_session.transport.setPace(100); });
    auto* first = new QHBoxLayout;
    first->setSpacing(4);
    first->addWidget(m_paceText, 1);
    first->addWidget(own);
    card->column()->addLayout(first);
    card->column()->addWidget(m_pace);
    m_grow = new QCheckBox(tr("Grow each round"));
    m_grow->setToolTip(tr("Each round of the loop is faster than the last"));
    m_grow->setObjectName(QStringLiteral("grow"));
    m_growBy = new QSpinBox;
    m_growBy->setRange(1, 25);
    m_growBy->setAccessibleName(tr("Faster each round, percent"));
    m_growTo = new QSpinBox;
    m_growTo->setRange(25, 200);
    m_growTo->setAccessibleName(tr("Up to a pace of, percent"));
    auto* line = new QHBoxLayout;
    line->addWidget(new QLabel(tr("by")));
    line->addWidget(m_growBy);
    line->addWidget(new QLabel(tr("to")));
    line->addWidget(m_growTo);
    line->addWidget(new QLabel(tr("%")));
    line->addStretch();
    card->column()->addWidget(m_grow);
    card->column()->addLayout(line);
    showGrowth();
    const auto set = [this] {
        m_session.rounds.setGrowth({m_grow->isChecked(), m_growBy->value(), m_growTo->value()});
    };
    connect(m_grow, &QCheckBox::toggled, this, set);
    connect(m_growBy, &QSpinBox::valueChanged, this, set);
    connect(m_growTo, &QSpinBox::valueChanged, this, set);
    connect(&m_session.rounds, &Rounds::growthChanged, this, &PracticePage::showGrowth);
    return card;
}

void PracticePage::showGrowth() {
    const QSignalBlocker quiet(m_grow), quietBy(m_growBy), quietTo(m_growTo);
    const Growth& growth = m_session.rounds.growth();
    m_grow->setChecked(growth.on);
    m_growBy->setValue(growth.step);
    m_growTo->setValue(growth.target);
}

void PracticePage::rebuildRows(std::vector<PartId> parts) {
    m_parts = std::move(parts);
    auto* list = new QWidget;
    auto* column = new QVBoxLayout(list);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    m_rows.clear();
    m_keys->clear();
    if (m_parts.empty()) {
        auto* hint = mutedLabel(tr("Add a song, and its parts appear here, each with a role."));
        hint->setContentsMargins(14, 12, 14, 12);
        column->addWidget(hint);
    }
    column->addStretch();
    m_rowMaker->start(m_parts.size(), [this, column](std::size_t i) {
        const Part* part = m_session.current.hasSong() ? m_session.current.song().part(m_parts[i]) : nullptr;
        if (!part) return; // a new list is on its way
        m_rows.push_back(new RoleRow(m_session, *part));
        column->insertWidget(column->count() - 1, m_rows.back());
        m_rows.back()->refresh();
        m_keys->addRow({m_rows.back()});
    });
    exchangeContent(m_area, list); // rows that come later show themselves
}

void PracticePage::refresh() {
    m_words->setLines(m_session.current.hasSong()
                          ? *m_session.findings.derived()->lyrics(m_session.current.song())
                          : std::vector<LyricLine>{});
    std::vector<PartId> wanted;
    if (m_session.current.hasSong())
        for (const Part& part : m_session.current.song().parts)
            if (!part.aside) wanted.push_back(part.id);
    if (wanted != m_parts || wanted.empty()) rebuildRows(std::move(wanted));
    for (RoleRow* row : m_rows) row->refresh();
    const QSignalBlocker quietBack(m_back), quietRoom(m_room);
    m_back->setEnabled(m_session.current.hasSong());
    m_room->setEnabled(m_session.current.hasSong());
    if (m_session.current.hasSong()) {
        m_back->setValue(m_session.current.song().backDb);
        m_room->setValue(static_cast<int>(std::lround(m_session.current.song().room * 100)));
    }
    showLoop();
    showTitle();
    showKept();
}

void PracticePage::showTitle() {
    const Part* part = m_session.current.part();
    const auto instrument = part ? transposingInstrument(part->name) : std::nullopt;
    m_written->setVisible(instrument.has_value());
    if (instrument)
        m_written->setText(tr("As written for %1")
                               .arg(QString::fromUtf8(instrument->name.data(),
                                                      static_cast<qsizetype>(instrument->name.size()))));
    const bool written = instrument && m_written->isChecked();
    m_notes->setLook(1, m_names->isChecked() || written, written ? -instrument->semitones : 0);
    m_name->setText(part ? QString::fromStdString(part->name) : tr("No part"));
    QString bars =
        tr("bars %1–%2").arg(m_notes->firstBar()).arg(m_notes->firstBar() + m_notes->barCount() - 1);
    if (m_session.current.hasSong())
        for (const Section& section : m_session.current.song().sections) {
            const TempoMap& tempo = *m_session.current.song().tempo;
            const Tick first = tempo.barStart(m_notes->firstBar()), place = m_session.transport.place();
            const bool shown =
                place >= first && place < tempo.barStart(m_notes->firstBar() + m_notes->barCount());
            const Tick at = shown ? place : first;
            if (at >= section.start && at < section.end)
                bars += QStringLiteral(" · ") + QString::fromStdString(section.name);
        }
    m_barsText = m_session.current.hasSong() ? bars : QString();
    showRest();
}

/// How long the part rests, after the bars that are shown.
void PracticePage::showRest() {
    const Part* part = m_session.current.part();
    const int rest = part ? barsOfRest(m_session.current.song(), *m_session.findings.heard(part->id),
                                       m_session.transport.place())
                          : 0;
    QString text = m_barsText;
    if (rest > 0)
        text += QStringLiteral(" · ") + (rest == 1 ? tr("1 bar rest") : tr("%1 bars rest").arg(rest));
    if (m_bars->text() != text) m_bars->setText(text);
}

void PracticePage::showLoop() {
    const auto& loop = m_session.transport.loop();
    const bool any = m_session.current.hasSong();
    const QSignalBlocker quietFrom(m_from), quietTo(m_to), quietOn(m_loopOn);
    for (QWidget* w : std::initializer_list<QWidget*>{m_from, m_to, m_loopOn}) w->setEnabled(any);
    m_loopOn->setChecked(loop.on);
    m_work->setEnabled(any);
    const bool works = m_session.rounds.isWorking();
    m_work->setText(works ? tr("Stop working through") : tr("Work through…"));
    m_loopName->setText(tr("Drag in the strip below, or give bars."));
    if (!any || loop.end <= loop.start) return;
    const TempoMap& tempo = *m_session.current.song().tempo;
    m_from->setValue(tempo.position(loop.start).bar);
    m_to->setValue(tempo.position(loop.end - 1).bar);
    if (works) {
        const WorkRound& round = m_session.rounds.workRound();
        m_loopName->setText(tr("%1, round %2 of %3")
                                .arg(QString::fromStdString(round.name))
                                .arg(round.round)
                                .arg(round.rounds));
        return;
    }
    for (const Section& section : m_session.current.song().sections)
        if (loop.start >= section.start && loop.start < section.end)
            m_loopName->setText(QString::fromStdString(section.name));
}

} // namespace cobbleway
