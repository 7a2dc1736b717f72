#include "app/pages/eventsview.h"

#include "app/dialogs/forms.h"
#include "app/look/theme.h"
#include "app/session/session.h"
#include "app/widgets/keybox.h"
#include "app/widgets/rowlist.h"
#include "app/widgets/whenshown.h"
#include "midi/gm.h"
#include "song/heard/controllers.h"

#include <QComboBox>
#include <QHeaderView>
#include <QKeyEvent>
#include <QLineEdit>
#include <QSpinBox>
#include <QTableView>
#include <algorithm>
#include <cmath>

namespace cobbleway {
EventsModel::EventsModel(Uses<uses::Set> session, QObject* parent)
    : QAbstractTableModel(parent), m_session(session) {}

namespace {

/// The whole row as it is said: its first cell is what arrow keys go through.
QString sentence(const Position& at, const Event& event, const std::string& what) {
    QString named = QString::fromUtf8(eventKindName(kindOf(event)).data());
    if (!what.empty()) named += QLatin1Char(' ') + QString::fromStdString(what);
    QString said = EventsModel::tr("%1, bar %2, beat %3").arg(named).arg(at.bar).arg(at.beat);
    if (at.tick > 0) said += EventsModel::tr(" and %1 ticks").arg(at.tick);
    if (const auto value = eventValue(event)) said += EventsModel::tr(", value %1").arg(*value);
    return said;
}

} // namespace

void EventsModel::setFilter(const EventFilter& filter) {
    m_filter = filter;
    reload();
}

void EventsModel::reload() {
    const Part* part = m_session.current.part();
    std::vector<EventRef> rows;
    if (part)
        for (const std::uint32_t at : filterEvents(m_session.current.song(), *part, m_filter))
            rows.push_back((*part->source.events)[at]);
    const bool same = part && part->id == m_part && rows.size() == m_rows.size();
    m_all = part ? part->source.events->size() : 0;
    m_part = part ? part->id : 0;
    if (same) { // values may have changed; the selection stays
        m_rows = std::move(rows);
        if (!m_rows.empty()) Q_EMIT dataChanged(index(0, 0), index(rowCount() - 1, ColumnCount - 1));
        return;
    }
    beginResetModel();
    m_rows = std::move(rows);
    endResetModel();
}

EventRef EventsModel::refAt(int row) const { return m_rows[static_cast<std::size_t>(row)]; }
int EventsModel::rowCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(std::min<std::size_t>(m_rows.size(), 1U << 30U));
}
int EventsModel::columnCount(const QModelIndex& parent) const { return parent.isValid() ? 0 : ColumnCount; }

QVariant EventsModel::data(const QModelIndex& index, int role) const {
    const Part* part = m_session.current.hasSong() ? m_session.current.song().part(m_part) : nullptr;
    if (!index.isValid() || index.row() >= rowCount() || !part) return {};
    const bool wanted = role == Qt::DisplayRole || role == Qt::EditRole || role == Qt::AccessibleTextRole;
    if (!wanted) return {};
    const Song& song = m_session.current.song();
    const EventRef ref = refAt(index.row());
    if (ref.isMade() && ref.index >= song.made.size()) return {}; // an undo is on its way
    const Event& event = song.event(ref);
    const Tick tick = song.tickOf(ref);
    switch (index.column()) {
    case Place: {
        const Position at = song.tempo->position(tick);
        if (role == Qt::AccessibleTextRole)
            return sentence(at, event, eventText(song, ref, part->source.drums));
        return QStringLiteral("%1.%2.%3").arg(at.bar).arg(at.beat).arg(at.tick, 3, 10, QLatin1Char('0'));
    }
    case Time: {
        const auto thousandths = std::llround(song.tempo->seconds(tick) * 1000);
        return QStringLiteral("%1:%2")
            .arg(thousandths / 60000)
            .arg(static_cast<double>(thousandths % 60000) / 1000, 6, 'f', 3, QLatin1Char('0'));
    }
    case Kind: return QString::fromUtf8(eventKindName(kindOf(event)).data());
    case What: return QString::fromStdString(eventText(song, ref, part->source.drums));
    case Value: {
        const auto value = eventValue(event);
        return value ? QVariant(*value) : QVariant();
    }
    default: return {};
    }
}

QVariant EventsModel::headerData(int section, Qt::Orientation orientation, int role) const {
    if (role != Qt::DisplayRole || orientation != Qt::Horizontal) return {};
    return QStringList{tr("Place"), tr("Time"), tr("Kind"), tr("What"), tr("Value")}.value(section);
}

Qt::ItemFlags EventsModel::flags(const QModelIndex& index) const {
    if (!index.isValid()) return Qt::NoItemFlags;
    const bool edits = index.column() == Value && data(index, Qt::DisplayRole).isValid();
    return Qt::ItemIsEnabled | Qt::ItemIsSelectable | (edits ? Qt::ItemIsEditable : Qt::NoItemFlags);
}

bool EventsModel::setData(const QModelIndex& index, const QVariant& value, int role) {
    bool number = false;
    const int wanted = value.toInt(&number);
    if (role != Qt::EditRole || index.column() != Value || !number) return false;
    m_session.current.edit(tr("Change a value"),
                           [id = m_part, ref = refAt(index.row()), wanted](const Song& song) {
                               return edits::setEventValue(song, id, ref, wanted);
                           });
    return true;
}

EventsView::EventsView(Uses<uses::Messages, uses::Set> session, QWidget* parent)
    : QWidget(parent), m_session(session), m_model(new EventsModel(session, this)),
      m_table(new QuietView<QTableView>), m_kind(new QComboBox), m_controller(new QComboBox),
      m_lowKey(new KeyBox), m_highKey(new KeyBox), m_fromBar(new QSpinBox), m_toBar(new QSpinBox),
      m_lowValue(new QSpinBox), m_highValue(new QSpinBox), m_title(titleLabel()), m_count(mutedLabel()),
      m_delete(button(tr("Delete"))), m_move(button(tr("Move there"))), m_target(new QComboBox) {
    m_table->setModel(m_model);
    m_table->setObjectName(QStringLiteral("eventTable"));
    m_table->setAccessibleName(tr("Events"));
    m_table->setSelectionBehavior(QAbstractItemView::SelectRows);
    m_table->setSelectionMode(QAbstractItemView::ExtendedSelection);
    m_table->setEditTriggers(QAbstractItemView::DoubleClicked | QAbstractItemView::EditKeyPressed);
    m_table->setTabKeyNavigation(false); // Tab leaves it
    m_table->setShowGrid(false);
    m_table->setWordWrap(false);
    m_table->verticalHeader()->hide();
    m_table->verticalHeader()->setSectionResizeMode(QHeaderView::Fixed);
    m_table->verticalHeader()->setDefaultSectionSize(24);
    const int widths[] = {110, 100, 130, 360, 90};
    for (int i = 0; i < EventsModel::ColumnCount; ++i) m_table->setColumnWidth(i, widths[i]);
    m_table->horizontalHeader()->setSectionResizeMode(EventsModel::What, QHeaderView::Stretch);
    m_table->horizontalHeader()->setHighlightSections(false);
    m_table->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    m_count->setWordWrap(false);
    m_target->setEditable(true);
    m_target->setInsertPolicy(QComboBox::NoInsert);
    m_target->lineEdit()->setPlaceholderText(tr("a part, or a new name"));
    m_target->setAccessibleName(tr("Part that the events go to: one of the song, or a new name"));
    m_target->setToolTip(tr("Choose a part of the song, or type a name for a new one."));
    m_target->setObjectName(QStringLiteral("moveTarget"));
    m_target->lineEdit()->setObjectName(QStringLiteral("newPartName"));
    m_delete->setObjectName(QStringLiteral("deleteEvents"));
    m_move->setObjectName(QStringLiteral("moveEvents"));
    auto* back = button(tr("Back to the parts"));
    auto* top = new QHBoxLayout;
    top->addWidget(m_title);
    top->addWidget(m_count, 1);
    top->addWidget(back);
    auto* bottom = new QHBoxLayout;
    bottom->addWidget(
        mutedLabel(tr("Select rows; Enter or F2 on a value changes it. Notes go with their ends.")), 1);
    bottom->addWidget(m_delete);
    bottom->addWidget(m_target);
    bottom->addWidget(m_move);
    m_target->setFixedWidth(190);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(8);
    layout->addLayout(top);
    layout->addWidget(makeFilter());
    layout->addWidget(m_table, 1);
    layout->addLayout(bottom);
    connect(back, &QPushButton::clicked, this, &EventsView::closed);
    connect(m_table, &QTableView::activated, this, [this] { editValue(); });
    connect(m_delete, &QPushButton::clicked, this, &EventsView::remove);
    connect(m_move, &QPushButton::clicked, this, &EventsView::move);
    connect(m_table->selectionModel(), &QItemSelectionModel::selectionChanged, this,
            &EventsView::refreshCount);
    m_shown = new WhenShown(this, [this] { refresh(); });
    follow(session.current, Side::Notes | Side::Time | Side::Names, m_shown, &WhenShown::request);
    connect(&session.current, &CurrentSet::selectionChanged, m_shown, &WhenShown::request);
}

bool EventsView::editValue() {
    if (!m_table->hasFocus() || !m_table->currentIndex().isValid()) return false;
    const QModelIndex value = m_table->currentIndex().siblingAtColumn(EventsModel::Value);
    if (value.flags() & Qt::ItemIsEditable) m_table->edit(value);
    return true;
}

QWidget* EventsView::makeFilter() {
    auto* card = new Card;
    m_kind->addItem(tr("all kinds"), -1);
    for (int i = 0; i < eventKindCount; ++i)
        m_kind->addItem(QString::fromUtf8(eventKindName(static_cast<EventKind>(i)).data()), i);
    m_kind->setObjectName(QStringLiteral("eventKind"));
    m_controller->setObjectName(QStringLiteral("eventController"));
    m_lowKey->setObjectName(QStringLiteral("lowKey"));
    m_highKey->setObjectName(QStringLiteral("highKey"));
    m_lowValue->setObjectName(QStringLiteral("lowValue"));
    m_highValue->setObjectName(QStringLiteral("highValue"));
    m_fromBar->setObjectName(QStringLiteral("fromBar"));
    m_toBar->setObjectName(QStringLiteral("toBar"));
    m_highKey->setValue(127);
    m_lowValue->setRange(-8192, 16383);
    m_highValue->setRange(-8192, 16383);
    m_lowValue->setValue(0);
    m_highValue->setValue(16383);
    auto* reset = button(tr("Show all"));
    reset->setObjectName(QStringLiteral("showAll"));
    auto* flow = new FlowLayout(9);
    for (QWidget* control :
         {Form::labelled(tr("&Kind"), m_kind), Form::labelled(tr("&Controller"), m_controller),
          Form::labelled(tr("Keys from"), m_lowKey), Form::labelled(tr("to"), m_highKey),
          Form::labelled(tr("Bars from"), m_fromBar), Form::labelled(tr("to"), m_toBar),
          Form::labelled(tr("Values from"), m_lowValue), Form::labelled(tr("to"), m_highValue),
          static_cast<QWidget*>(reset)})
        flow->addWidget(control);
    m_highKey->setAccessibleName(tr("Keys up to"));
    m_toBar->setAccessibleName(tr("Bars up to"));
    m_highValue->setAccessibleName(tr("Values up to"));
    card->column()->addLayout(flow);
    connect(m_kind, &QComboBox::currentIndexChanged, this, &EventsView::applyFilter);
    connect(m_controller, &QComboBox::currentIndexChanged, this, &EventsView::applyFilter);
    for (QSpinBox* box : {m_lowKey, m_highKey, m_fromBar, m_toBar, m_lowValue, m_highValue})
        connect(box, &QSpinBox::valueChanged, this, &EventsView::applyFilter);
    connect(reset, &QPushButton::clicked, this, [this] {
        m_filling = true;
        m_kind->setCurrentIndex(0);
        m_controller->setCurrentIndex(0);
        m_lowKey->setValue(0);
        m_highKey->setValue(127);
        m_fromBar->setValue(1);
        m_toBar->setValue(m_toBar->maximum());
        m_lowValue->setValue(0);
        m_highValue->setValue(16383);
        m_filling = false;
        applyFilter();
    });
    return card;
}

void EventsView::applyFilter() {
    if (m_filling || !m_session.current.hasSong()) return;
    EventFilter filter;
    if (const int kind = m_kind->currentData().toInt(); kind >= 0) filter.kind = static_cast<EventKind>(kind);
    if (const int controller = m_controller->currentData().toInt(); controller >= 0)
        filter.controller = controller;
    filter.lowestKey = m_lowKey->value();
    filter.highestKey = m_highKey->value();
    const TempoMap& tempo = *m_session.current.song().tempo;
    if (m_fromBar->value() > 1) filter.from = tempo.barStart(m_fromBar->value());
    if (m_toBar->value() < m_toBar->maximum()) filter.to = tempo.barStart(m_toBar->value() + 1);
    filter.lowestValue = m_lowValue->value();
    filter.highestValue = m_highValue->value();
    m_model->setFilter(filter);
    refreshCount();
}

void EventsView::refresh() {
    if (!isVisible() || !m_session.current.hasSong()) return;
    const Part* part = m_session.current.part();
    m_filling = true;
    const QVariant controller = m_controller->currentData();
    m_controller->clear();
    m_controller->addItem(tr("any"), -1);
    if (part)
        for (const ControllerUse& use : controllersOf(m_session.current.song(), part->source, part->recipe))
            if (use.controller < 128)
                m_controller->addItem(QString::fromStdString(controllerName(use.controller)), use.controller);
    m_controller->setCurrentIndex(std::max(0, m_controller->findData(controller)));
    const int bars = m_session.current.song().bars();
    const bool toEnd = m_toBar->value() == m_toBar->maximum() || m_toBar->minimum() == 0; // or not set yet
    m_fromBar->setRange(1, bars);
    m_toBar->setRange(1, bars);
    if (toEnd) m_toBar->setValue(bars);
    m_filling = false;
    m_title->setText(part ? tr("Events of %1").arg(QString::fromStdString(part->name)) : tr("Events"));
    listTargets();
    applyFilter();
}

void EventsView::refreshCount() {
    std::int64_t rows = 0;
    for (const QItemSelectionRange& range : m_table->selectionModel()->selection()) rows += range.height();
    const QString shown = tr("%L1 of %L2 events").arg(m_model->rowCount()).arg(m_model->all());
    const QString text = rows ? tr("%1 · %L2 selected").arg(shown).arg(rows) : shown;
    // A single row speaks for itself.
    if (isVisible() && text != m_count->text() && rows != 1) Q_EMIT m_session.messages.announced(text);
    m_count->setText(text);
    m_delete->setEnabled(rows > 0);
    m_move->setEnabled(rows > 0);
}

std::vector<EventRef> EventsView::selected() const {
    std::vector<EventRef> refs;
    for (const QItemSelectionRange& range : m_table->selectionModel()->selection())
        for (int row = range.top(); row <= range.bottom(); ++row) refs.push_back(m_model->refAt(row));
    return refs;
}

void EventsView::remove() {
    const auto refs = selected();
    if (refs.empty()) return;
    m_session.current.edit(refs.size() == 1 ? tr("Delete an event") : tr("Delete %1 events").arg(refs.size()),
                           [id = m_session.current.selectedPart(), refs](const Song& song) {
                               return edits::deleteEvents(song, id, refs);
                           });
}

void EventsView::move() {
    const auto refs = selected();
    if (refs.empty()) return;
    const Part* part = m_session.current.part();
    const QString typed = m_target->currentText().trimmed();
    const auto& parts = m_session.current.song().parts;
    const auto named = std::find_if(parts.begin(), parts.end(), [&](const Part& other) {
        return other.id != part->id && QString::fromStdString(other.name) == typed;
    });
    if (named != parts.end()) {
        m_session.current.edit(tr("Move events to %1").arg(typed),
                               [id = part->id, refs, to = named->id](const Song& song) {
                                   return edits::moveEventsTo(song, id, refs, to);
                               });
        Q_EMIT m_session.messages.announced(tr("Moved to %1").arg(typed));
        return; // more may go to the same part
    }
    const QString name = typed.isEmpty() ? tr("%1 cut").arg(QString::fromStdString(part->name)) : typed;
    m_session.current.edit(tr("Move events to a new part"),
                           [id = part->id, refs, text = name.toStdString()](const Song& song) {
                               return edits::moveEvents(song, id, refs, text);
                           });
    m_target->clearEditText();
    Q_EMIT m_session.messages.announced(tr("%1 is a part now").arg(name));
}

void EventsView::listTargets() {
    const QString typed = m_target->currentText();
    QStringList names;
    for (const Part& part : m_session.current.song().parts)
        if (!part.aside && part.id != m_session.current.selectedPart())
            names << QString::fromStdString(part.name);
    QStringList listed;
    for (int i = 0; i < m_target->count(); ++i) listed << m_target->itemText(i);
    if (names == listed) return;
    m_target->clear();
    m_target->addItems(names);
    m_target->setCurrentIndex(-1);
    m_target->setEditText(typed);
}

void EventsView::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Delete)
        remove();
    else if (event->key() == Qt::Key_Escape)
        Q_EMIT closed();
    else if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) // from the filter
        m_table->setFocus();
    else
        QWidget::keyPressEvent(event);
}

void EventsView::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    refresh();
    m_table->setFocus();
}

} // namespace cobbleway
