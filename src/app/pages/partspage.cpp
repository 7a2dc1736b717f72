#include "app/pages/partspage.h"

#include "app/look/theme.h"
#include "app/pages/eventsview.h"
#include "app/pages/fanpicture.h"
#include "app/pages/partrow.h"
#include "app/session/session.h"
#include "app/widgets/pagestack.h"
#include "app/widgets/rowlist.h"
#include "app/widgets/small.h"
#include "midi/gm.h"
#include "song/shape/edits.h"

#include <QAction>
#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QScrollBar>
#include <QVBoxLayout>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>

namespace cobbleway {
namespace {

QString countsText(const Song& song) {
    const auto tracks = song.source->midi.tracks.size();
    std::vector<bool> used(128 * 16);
    for (const Track& track : song.source->midi.tracks)
        for (const Event& event : track.events)
            if (event.isChannel()) used[(event.port & 127U) * 16U + event.channel().value] = true;
    const auto channels = std::count(used.begin(), used.end(), true);
    return QObject::tr("%1, %2").arg(
        tracks == 1 ? QObject::tr("1 track") : QObject::tr("%1 tracks").arg(tracks),
        channels == 1 ? QObject::tr("1 channel") : QObject::tr("%1 channels").arg(channels));
}

} // namespace

PartsPage::PartsPage(Uses<uses::Messages, uses::Set, uses::Findings> session, QWidget* parent)
    : QWidget(parent), m_session(session), m_model(new PartsModel(session, this)), m_rows(new RowList),
      m_zoom(new LaneZoom(session, this)), m_pictures(std::make_unique<LanePictures>()),
      m_events(new EventsView(session)), m_stack(new PageStack), m_scroll(new QScrollBar(Qt::Horizontal)) {
    m_rows->setModel(m_model);
    m_rows->setItemDelegate(new PartRow(session, m_zoom, *m_pictures, m_rows));
    m_rows->setAccessibleName(tr("Parts"));
    m_rows->setObjectName(QStringLiteral("partRows"));
    m_rows->setEditTriggers(QAbstractItemView::EditKeyPressed | QAbstractItemView::DoubleClicked);
    m_rows->setDragDropMode(QAbstractItemView::InternalMove);
    m_rows->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
    m_rows->setContextMenuPolicy(Qt::ActionsContextMenu);
    m_rows->viewport()->installEventFilter(this);
    m_fan = new FanPicture(session, m_rows, m_model);
    m_scroll->setAccessibleName(tr("Scroll the zoomed lanes"));
    QSizePolicy keepsRoom = m_scroll->sizePolicy(); // rows do not jump when it comes
    keepsRoom.setRetainSizeWhenHidden(true);
    m_scroll->setSizePolicy(keepsRoom);

    m_came = mutedLabel();
    m_came->setWordWrap(false);
    m_came->setFont(textFont(9));
    m_asParts = mutedLabel();
    m_above = new QHBoxLayout;
    m_above->setSpacing(8);
    auto* left = new QHBoxLayout;
    left->addWidget(titleLabel(tr("As it came")));
    left->addWidget(m_came, 1);
    auto* leftBox = new QWidget;
    leftBox->setLayout(left);
    left->setContentsMargins(0, 0, 0, 0);
    leftBox->setFixedSize(fanWidth - 8, 29);
    m_above->addWidget(leftBox);
    m_above->addWidget(titleLabel(tr("As parts")));
    m_above->addWidget(m_asParts, 1);
    auto* middle = new QHBoxLayout;
    middle->setSpacing(0);
    middle->addWidget(m_fan);
    auto* lanes = new QVBoxLayout;
    lanes->setSpacing(2);
    lanes->addWidget(m_rows, 1);
    lanes->addWidget(m_scroll);
    middle->addLayout(lanes, 1);

    auto* parts = new QWidget;
    auto* column = new QVBoxLayout(parts);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(8);
    column->addLayout(m_above);
    column->addLayout(middle, 1);
    column->addWidget(makeFacts());
    m_stack->addWidget(parts);
    m_stack->addWidget(m_events);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 12, 12, 12);
    layout->addWidget(m_stack);
    followSelection(m_rows, m_model, session);
    connect(m_events, &EventsView::closed, this, [this] { showEvents(false); });
    connect(m_zoom, &LaneZoom::changed, this, [this] {
        refreshScroll();
        if (!isVisible() || !m_session.current.hasSong()) return;
        const LaneRange shown = m_zoom->range();
        const TempoMap& tempo = *m_session.current.song().tempo;
        announce(this,
                 tr("bars %1 to %2").arg(tempo.position(shown.from).bar).arg(tempo.position(shown.to).bar));
    });
    connect(m_scroll, &QScrollBar::valueChanged, this, [this](int value) {
        const LaneRange shown = m_zoom->range();
        const double width = static_cast<double>(shown.to - shown.from);
        const double end = static_cast<double>(m_session.current.song().end);
        m_zoom->scroll((value / 10000.0 * end - static_cast<double>(shown.from)) / width);
    });
    follow(session.current, Side::Names | Side::Notes | Side::Sounds | Side::Time, this, &PartsPage::refresh);
    connect(&session.current, &CurrentSet::selectionChanged, this, &PartsPage::refresh);
    refresh();
    refreshScroll();
}

PartsPage::~PartsPage() = default;

QWidget* PartsPage::makeFacts() {
    auto* facts = new Card;
    auto* line = new QHBoxLayout;
    m_name = titleLabel();
    m_facts = mutedLabel();
    auto* rename = button(tr("Rename"));
    auto* colour = button(tr("Colour"));
    auto* up = button(tr("Move up"));
    auto* down = button(tr("Move down"));
    line->addWidget(m_name);
    line->addWidget(m_facts, 1);
    m_changes = {rename, colour, up, down};
    for (QPushButton* change : m_changes) line->addWidget(change);
    facts->column()->addLayout(line);
    auto* second = new QHBoxLayout;
    m_splitLine = new QHBoxLayout;
    m_shapeLine = new QHBoxLayout;
    for (QHBoxLayout* group : {m_splitLine, m_shapeLine}) group->setSpacing(6);
    m_splitLine->addWidget(new QLabel(tr("Split by")));
    second->addLayout(m_splitLine);
    second->addStretch();
    second->addLayout(m_shapeLine);
    facts->column()->addLayout(second);
    connect(rename, &QPushButton::clicked, this, &PartsPage::renameSelected);
    const auto move = [this](int by) {
        const int row = m_model->indexOf(m_session.current.selectedPart()).row();
        m_session.current.edit(tr("Move part"),
                               [id = m_session.current.selectedPart(), to = row + by](const Song& song) {
                                   return to < 0 ? song : edits::moveTo(song, id, to);
                               });
    };
    connect(up, &QPushButton::clicked, this, [move] { move(-1); });
    connect(down, &QPushButton::clicked, this, [move] { move(1); });
    auto* menu = new QMenu(colour);
    for (int i = 0; i < 12; ++i) {
        QPixmap stone(16, 16);
        stone.fill(partColour(i));
        menu->addAction(QIcon(stone), partColourName(i), this, [this, i] {
            m_session.current.edit(tr("Change colour"),
                                   [id = m_session.current.selectedPart(), i](const Song& song) {
                                       return edits::setColour(song, id, i);
                                   });
        });
    }
    colour->setMenu(menu);
    return facts;
}

void PartsPage::addActions(const QList<QAction*>& above, const QList<QAction*>& split,
                           const QList<QAction*>& shape) {
    const auto add = [](QHBoxLayout* to, const QList<QAction*>& actions, int points) {
        for (QAction* action : actions) to->addWidget(actionButton(action, points));
    };
    add(m_above, above, 0);
    add(m_splitLine, split, 9);
    add(m_shapeLine, shape, 9);
}

void PartsPage::renameSelected() {
    showEvents(false);
    const QModelIndex index = m_model->indexOf(m_session.current.selectedPart());
    if (index.isValid()) m_rows->edit(index);
}

void PartsPage::showEvents(bool show) {
    m_stack->setCurrentIndex(show ? 1 : 0);
    if (!show && isVisible()) m_rows->setFocus();
}

bool PartsPage::editsAValue() { return showsEvents() && m_events->editValue(); }

bool PartsPage::showsEvents() const { return m_stack->currentIndex() == 1; }

void PartsPage::refreshScroll() {
    const LaneRange shown = m_zoom->range();
    const double end = m_session.current.hasSong()
                           ? static_cast<double>(std::max<Tick>(1, m_session.current.song().end))
                           : 1;
    const QSignalBlocker quiet(m_scroll);
    const int page = static_cast<int>(10000 * static_cast<double>(shown.to - shown.from) / end);
    m_scroll->setRange(0, std::max(0, 10000 - page));
    m_scroll->setPageStep(page);
    m_scroll->setSingleStep(std::max(1, page / 10));
    m_scroll->setValue(static_cast<int>(10000 * static_cast<double>(shown.from) / end));
    m_scroll->setVisible(m_zoom->isZoomed());
    m_rows->viewport()->update();
    refreshHeading();
}

bool PartsPage::eventFilter(QObject* watched, QEvent* event) {
    if (watched != m_rows->viewport() || event->type() != QEvent::Wheel)
        return QWidget::eventFilter(watched, event);
    auto* wheel = static_cast<QWheelEvent*>(event);
    const double lanes = m_rows->viewport()->width() - partNameWidth - 190.0;
    const double turn = wheel->angleDelta().y() / 120.0;
    if (wheel->modifiers() & Qt::ControlModifier) {
        m_zoom->zoom(std::pow(1.25, turn),
                     std::clamp((wheel->position().x() - partNameWidth) / lanes, 0.0, 1.0));
        return true;
    }
    const bool sideways = (wheel->modifiers() & Qt::ShiftModifier) != 0;
    if (!sideways && wheel->angleDelta().x() == 0) return QWidget::eventFilter(watched, event);
    m_zoom->scroll(-(sideways ? turn : wheel->angleDelta().x() / 120.0) / 8);
    return true;
}

void PartsPage::refreshHeading() {
    if (!m_session.current.hasSong()) {
        m_counted = nullptr;
        m_came->clear();
        m_asParts->clear();
        return;
    }
    const Song& song = m_session.current.song();
    const auto aside =
        std::count_if(song.parts.begin(), song.parts.end(), [](const Part& p) { return p.aside; });
    if (m_counted != song.source) m_came->setText(countsText(song));
    m_counted = song.source;
    QString parts = (m_model->rowCount() == 1 ? tr("one part") : tr("%1 parts").arg(m_model->rowCount())) +
                    (aside ? tr(" · %1 empty, set aside").arg(aside) : QString());
    if (m_zoom->isZoomed()) {
        const LaneRange shown = m_zoom->range();
        parts += tr(" · bars %1 to %2")
                     .arg(song.tempo->position(shown.from).bar)
                     .arg(song.tempo->position(shown.to).bar);
    }
    m_asParts->setText(parts);
}

void PartsPage::refresh() {
    refreshHeading();
    const Part* part = m_session.current.part();
    for (QPushButton* change : m_changes) change->setEnabled(part != nullptr);
    if (!part) {
        m_name->clear();
        m_facts->setText(tr("Add a song, and its parts appear here."));
        return;
    }
    const Song& song = m_session.current.song();
    const auto kept = m_session.findings.derived()->facts(song, *part);
    const PartFacts& facts = *kept;
    const auto programs = programsOf(asksOf(song, *part)).size();
    m_name->setText(QString::fromStdString(part->name));
    QStringList said = {facts.notes == 1 ? tr("one note") : tr("%1 notes").arg(facts.notes)};
    if (facts.notes)
        said << QStringLiteral("%1–%2").arg(QString::fromStdString(keyName(facts.lowest)),
                                            QString::fromStdString(keyName(facts.highest)));
    said << (part->source.port
                 ? tr("port %1 channel %2").arg(part->source.port + 1).arg(part->source.channel.value + 1)
                 : tr("channel %1").arg(part->source.channel.value + 1));
    said << (programs == 1 ? tr("1 program") : tr("%1 programs").arg(programs));
    said << (facts.controllers.size() == 1 ? tr("1 controller")
                                           : tr("%1 controllers").arg(facts.controllers.size()));
    if (part->source.drums) said << tr("drums");
    if (part->recipe.semitones) said << tr("moved by %1").arg(part->recipe.semitones);
    if (!part->sound.followsPrograms && !part->sound.chosen) said << tr("sound fixed");
    m_facts->setText(said.join(QStringLiteral(" · ")));
}

} // namespace cobbleway
