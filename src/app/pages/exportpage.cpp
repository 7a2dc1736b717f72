#include "app/pages/exportpage.h"

#include "app/dialogs/ask.h"
#include "app/look/theme.h"
#include "app/session/jobs.h"
#include "app/session/session.h"
#include "app/session/settings.h"
#include "app/widgets/painting.h"
#include "app/widgets/rowlist.h"
#include "app/widgets/small.h"
#include "app/widgets/whenshown.h"
#include "song/out/tomidi.h"
#include "song/shape/edits.h"

#include <QCheckBox>
#include <QComboBox>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLineEdit>
#include <QListView>
#include <QMessageBox>
#include <QPainter>
#include <QProgressBar>
#include <QPushButton>
#include <QRegularExpression>
#include <QStyledItemDelegate>
#include <QVBoxLayout>
#include <algorithm>

namespace cobbleway {
namespace {

constexpr int rowHeight = 34, groupHeight = 32;

/// A row to tick: name, file, outcome. The first row of a group carries the group's name above it.
class ExportRow final : public QStyledItemDelegate {
  public:
    using QStyledItemDelegate::QStyledItemDelegate;
    [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex& index) const override {
        return {300, rowHeight + (startsGroup(index) ? groupHeight : 0)};
    }

    void paint(QPainter* painter, const QStyleOptionViewItem& option,
               const QModelIndex& index) const override {
        const Mirrored mirrored(*painter, option.rect, option.direction);
        painter->setRenderHint(QPainter::Antialiasing);
        QRectF row(option.rect);
        if (startsGroup(index)) {
            painter->fillRect(QRectF(row.left(), row.top(), row.width(), groupHeight), theme().raised);
            paintText(*painter, QRectF(row.left() + 14, row.top(), row.width() - 28, groupHeight),
                      index.data(ExportModel::GroupRole).toString(), textFont(9.5, QFont::DemiBold),
                      theme().ink);
            row.setTop(row.top() + groupHeight);
        }
        if (option.state & QStyle::State_Selected) painter->fillRect(row, theme().selected);
        painter->fillRect(QRectF(row.left(), row.bottom() - 1, row.width(), 1), theme().line);
        const bool ticked = index.data(Qt::CheckStateRole).toInt() == Qt::Checked;
        const QRectF box(row.left() + 14, row.center().y() - 8, 16, 16);
        painter->setPen(QPen(ticked ? theme().action : theme().muted, 1.2));
        painter->setBrush(ticked ? theme().action : theme().panel);
        painter->drawRoundedRect(box, 4, 4);
        if (ticked) {
            const Upright upright(*painter, box.adjusted(2, 2, -2, -2));
            icon(QStringLiteral("check"), theme().onAction).paint(painter, upright.rect().toRect());
        }
        const double nameWidth = row.width() * 0.36;
        paintText(*painter, QRectF(row.left() + 40, row.top(), nameWidth - 46, row.height()),
                  index.data().toString(), textFont(9.5, QFont::Medium), theme().ink);
        const int state = index.data(ExportModel::StateRole).toInt();
        const QString outcome = index.data(ExportModel::OutcomeRole).toString();
        const double outcomeWidth =
            outcome.isEmpty()
                ? 20
                : std::min(row.width() * 0.36, QFontMetricsF(textFont(9)).horizontalAdvance(outcome) + 60);
        paintText(*painter,
                  QRectF(row.left() + nameWidth, row.top(), row.width() - nameWidth - outcomeWidth - 12,
                         row.height()),
                  index.data(ExportModel::FileRole).toString(), textFont(9), theme().muted);
        if (state == ExportModel::Idle) return;
        const QString mark = state == ExportModel::Written
                                 ? QStringLiteral("✓")
                                 : (state == ExportModel::Failed ? QStringLiteral("!") : QStringLiteral("…"));
        const double left = paintPill(*painter, row.right() - 12, row.center().y(), mark,
                                      state == ExportModel::Written
                                          ? Tone::Good
                                          : (state == ExportModel::Failed ? Tone::Wrong : Tone::Quiet))
                                .left();
        paintText(*painter,
                  QRectF(row.right() - outcomeWidth - 10, row.top(), left - row.right() + outcomeWidth + 2,
                         row.height()),
                  outcome, textFont(9), state == ExportModel::Failed ? theme().brick : theme().muted,
                  Qt::AlignRight | Qt::AlignVCenter);
    }

    bool editorEvent(QEvent* event, QAbstractItemModel* model, const QStyleOptionViewItem&,
                     const QModelIndex& index) override {
        const bool click = event->type() == QEvent::MouseButtonRelease;
        const bool key =
            event->type() == QEvent::KeyPress && (static_cast<QKeyEvent*>(event)->key() == Qt::Key_Space ||
                                                  static_cast<QKeyEvent*>(event)->key() == Qt::Key_Select);
        if (!click && !key) return false;
        const bool ticked = index.data(Qt::CheckStateRole).toInt() == Qt::Checked;
        return model->setData(index, ticked ? Qt::Unchecked : Qt::Checked, Qt::CheckStateRole);
    }

  private:
    static bool startsGroup(const QModelIndex& index) {
        return index.row() == 0 || index.data(ExportModel::GroupRole) !=
                                       index.siblingAtRow(index.row() - 1).data(ExportModel::GroupRole);
    }
};

QString groupOf(const Uses<uses::Set>& session, const ExportItem& item) {
    if (item.isMidi()) return QObject::tr("MIDI file");
    const Part* part = session.current.hasSong() ? session.current.song().part(item.part) : nullptr;
    return part ? QObject::tr("Practice audio · %1").arg(QString::fromStdString(part->name))
                : QObject::tr("Sound file");
}

/// What came of writing.
struct ExportEnd {
    std::vector<ExportOutcome> outcomes;
    QStringList silent; ///< what is not heard in the sound files, and why
};

QString measuredText(const ExportItem& item, const ExportOutcome& outcome) {
    if (!outcome.written) return QString::fromStdString(outcome.message);
    if (item.isMidi()) return QObject::tr("written");
    const QString loudness = outcome.measured.lufs > -100
                                 ? QObject::tr(" · %1 LUFS").arg(outcome.measured.lufs, 0, 'f', 1)
                                 : QString();
    return QObject::tr("%1 · peak %2 dBFS%3")
        .arg(timeText(outcome.measured.seconds))
        .arg(outcome.measured.peakDb, 0, 'f', 1)
        .arg(loudness)
        .replace(QLatin1Char('-'), QStringLiteral("−"));
}

} // namespace

ExportModel::ExportModel(Uses<uses::Messages, uses::Set> session, QObject* parent)
    : QAbstractListModel(parent), m_session(session) {
    follow(session.current, Side::Names, this, &ExportModel::refresh);
    refresh();
}

void ExportModel::refresh() {
    const auto items =
        m_session.current.hasSong() ? exportItems(m_session.current.song()) : std::vector<ExportItem>{};
    const bool same = std::equal(items.begin(), items.end(), m_rows.begin(), m_rows.end(),
                                 [](const ExportItem& a, const Row& b) { return a == b.item; });
    if (same) return;
    beginResetModel();
    m_rows.clear();
    for (const ExportItem& item : items)
        m_rows.push_back({item,
                          item.kind == ExportItem::Kind::MidiTracks || item.kind == ExportItem::Kind::Full,
                          Idle,
                          {}});
    endResetModel();
    Q_EMIT ticksChanged();
}

int ExportModel::rowCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(m_rows.size());
}

QVariant ExportModel::data(const QModelIndex& index, int role) const {
    if (!index.isValid() || index.row() >= rowCount()) return {};
    const Row& row = m_rows[static_cast<std::size_t>(index.row())];
    switch (role) {
    case Qt::DisplayRole: return QString::fromStdString(row.item.label);
    case Qt::ToolTipRole:
        return row.outcome.isEmpty() ? QString::fromStdString(row.item.fileName) : row.outcome;
    case Qt::AccessibleTextRole:
        return QStringList(
                   {row.ticked ? tr("ticked") : tr("not ticked"), QString::fromStdString(row.item.label),
                    groupOf(m_session, row.item),
                    row.writtenAs.isEmpty() ? QString::fromStdString(row.item.fileName) : row.writtenAs,
                    row.outcome})
            .filter(QRegularExpression(QStringLiteral("\\S")))
            .join(QStringLiteral(", "));
    case Qt::CheckStateRole: return row.ticked ? Qt::Checked : Qt::Unchecked;
    case FileRole: return row.writtenAs.isEmpty() ? QString::fromStdString(row.item.fileName) : row.writtenAs;
    case OutcomeRole: return row.outcome;
    case StateRole: return row.state;
    case GroupRole: return groupOf(m_session, row.item);
    default: return {};
    }
}

bool ExportModel::setData(const QModelIndex& index, const QVariant& value, int role) {
    if (role != Qt::CheckStateRole || !index.isValid()) return false;
    const bool ticked = value.toInt() == Qt::Checked;
    m_rows[static_cast<std::size_t>(index.row())].ticked = ticked;
    Q_EMIT dataChanged(index, index);
    Q_EMIT m_session.messages.announced(ticked ? tr("ticked") : tr("not ticked"));
    Q_EMIT ticksChanged();
    return true;
}

Qt::ItemFlags ExportModel::flags(const QModelIndex& index) const {
    return index.isValid() ? Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsUserCheckable
                           : Qt::NoItemFlags;
}

std::vector<ExportItem> ExportModel::ticked() const {
    std::vector<ExportItem> items;
    for (const Row& row : m_rows)
        if (row.ticked) items.push_back(row.item);
    return items;
}

void ExportModel::tickOnly(const std::function<bool(const ExportItem&)>& wanted) {
    for (Row& row : m_rows) row.ticked = wanted(row.item);
    if (!m_rows.empty()) Q_EMIT dataChanged(index(0), index(rowCount() - 1));
    Q_EMIT ticksChanged();
}

void ExportModel::setWaiting() {
    for (Row& row : m_rows) {
        row.state = row.ticked ? Waiting : Idle;
        row.outcome.clear();
    }
    if (!m_rows.empty()) Q_EMIT dataChanged(index(0), index(rowCount() - 1));
}

void ExportModel::takeOutcomes(const std::vector<ExportItem>& items,
                               const std::vector<ExportOutcome>& outcomes) {
    for (const ExportOutcome& outcome : outcomes)
        for (Row& row : m_rows) {
            if (!(row.item == items[outcome.item])) continue;
            row.state = outcome.written ? Written : Failed;
            row.outcome = measuredText(row.item, outcome);
            row.writtenAs =
                outcome.written ? QString::fromStdString(outcome.path.filename().string()) : QString();
        }
    if (!m_rows.empty()) Q_EMIT dataChanged(index(0), index(rowCount() - 1));
}

ExportPage::ExportPage(Uses<uses::Messages, uses::Set, uses::Sounds> session, QWidget* parent)
    : QWidget(parent), m_session(session), m_model(new ExportModel(session, this)),
      m_list(new TickView<QListView>) {
    m_list->setModel(m_model);
    m_list->setItemDelegate(new ExportRow(m_list));
    m_list->setAccessibleName(tr("What can be written"));
    m_list->setObjectName(QStringLiteral("exportList"));
    m_list->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
    m_count = mutedLabel();
    auto* all = button(tr("Tick all"));
    auto* parts = button(tr("Selected part"));
    parts->setToolTip(tr("Tick the three practice files of the selected part"));
    auto* none = button(tr("Tick none"));
    m_write = button(tr("Write files"), true);
    m_write->setObjectName(QStringLiteral("writeFiles"));
    auto* top = new QHBoxLayout;
    top->addWidget(titleLabel(tr("Export")));
    top->addWidget(m_count, 1);
    for (QPushButton* b : {parts, all, none, m_write}) top->addWidget(b);
    auto* card = new Card;
    card->column()->setContentsMargins(1, 1, 1, 1);
    card->column()->addWidget(m_list);
    auto* columns = new QHBoxLayout;
    columns->setSpacing(14);
    columns->addWidget(card, 1);
    columns->addWidget(makeOptions(), 0, Qt::AlignTop);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 12, 12, 12);
    layout->setSpacing(8);
    layout->addLayout(top);
    layout->addLayout(columns, 1);
    connect(all, &QPushButton::clicked, this,
            [this] { m_model->tickOnly([](const ExportItem&) { return true; }); });
    connect(none, &QPushButton::clicked, this,
            [this] { m_model->tickOnly([](const ExportItem&) { return false; }); });
    connect(parts, &QPushButton::clicked, this, [this] {
        m_model->tickOnly(
            [id = m_session.current.selectedPart()](const ExportItem& item) { return item.part == id; });
    });
    connect(m_write, &QPushButton::clicked, this, &ExportPage::write);
    connect(m_stop, &QPushButton::clicked, this, &ExportPage::stop);
    connect(m_model, &ExportModel::ticksChanged, this, &ExportPage::refresh);
    askAboutExisting = [this](const auto& there, const auto& then) { askWhatBecomesOf(there, then); };
    refresh();
    refreshMidi();
}

ExportPage::~ExportPage() { m_stopSource.request_stop(); }

QWidget* ExportPage::makeOptions() {
    auto* card = new Card(tr("Sound files"));
    card->setFixedWidth(300);
    m_rate = new QComboBox;
    m_rate->addItem(tr("48 kHz"), 48000);
    m_rate->addItem(tr("44.1 kHz"), 44100);
    m_rate->setAccessibleName(tr("Sample rate"));
    m_pace = new QComboBox;
    for (const int pace : {100, 95, 90, 80, 70, 60, 50})
        m_pace->addItem(pace == 100 ? tr("Own tempo") : tr("%1 %").arg(pace), pace);
    m_pace->setAccessibleName(tr("Pace of the sound files"));
    const auto row = [&](const QString& name, QWidget* control) {
        auto* line = new QHBoxLayout;
        QLabel* label = mutedLabel(name);
        label->setBuddy(control);
        label->setFixedWidth(74);
        line->addWidget(label);
        line->addWidget(control, 1);
        card->column()->addLayout(line);
    };
    row(tr("Format"), new QLabel(tr("WAV, 24 bit, stereo")));
    row(tr("Rate"), m_rate);
    row(tr("Pace"), m_pace);
    card->column()->addSpacing(6);
    addMidiOptions(card);
    card->column()->addSpacing(6);
    card->column()->addWidget(titleLabel(tr("Where")));
    m_folder = new QLineEdit(settings::exportFolder());
    m_folder->setAccessibleName(tr("Folder"));
    auto* choose = button(tr("Choose folder…"));
    connect(choose, &QPushButton::clicked, this, [this] {
        ask::forFolder(this, tr("Folder for the files"), m_folder->text(),
                       [this](const QString& folder) { setFolder(folder); });
    });
    card->column()->addWidget(m_folder);
    card->column()->addWidget(choose);
    card->column()->addSpacing(6);
    m_status = mutedLabel();
    m_status->setObjectName(QStringLiteral("exportStatus"));
    m_progress = new QProgressBar;
    m_progress->setRange(0, 1000);
    m_progress->setTextVisible(false);
    m_progress->setAccessibleName(tr("Progress"));
    m_stop = button(tr("Stop"));
    card->column()->addWidget(m_status);
    card->column()->addWidget(m_progress);
    card->column()->addWidget(m_stop, 0, Qt::AlignRight);
    return card;
}

void ExportPage::addMidiOptions(Card* card) {
    card->column()->addWidget(titleLabel(tr("MIDI files")));
    m_writtenIn = new QCheckBox(tr("Write changes in"));
    m_running = new QCheckBox(tr("Leave repeated status out"));
    m_folded = new QCheckBox(tr("Fold onto 16 channels"));
    m_writtenIn->setToolTip(tr("Off: the file's own events, in the parts' tracks"));
    m_running->setToolTip(tr("Smaller files; a few old devices want it off"));
    m_folded->setToolTip(tr("Off: more than 16 channels are written with several ports"));
    m_writtenIn->setObjectName(QStringLiteral("writtenIn"));
    m_running->setObjectName(QStringLiteral("runningStatus"));
    m_folded->setObjectName(QStringLiteral("folded"));
    m_lost = mutedLabel();
    m_lost->setObjectName(QStringLiteral("notCarriedOver"));
    for (QCheckBox* box : {m_writtenIn, m_running, m_folded}) {
        card->column()->addWidget(box);
        connect(box, &QCheckBox::toggled, this, [this] {
            const MidiShape shape{m_writtenIn->isChecked(), m_running->isChecked(), m_folded->isChecked()};
            m_session.current.edit(tr("MIDI options"),
                                   [shape](const Song& song) { return edits::setMidiShape(song, shape); });
        });
    }
    card->column()->addWidget(m_lost);
    m_shown = new WhenShown(this, [this] {
        refresh();
        refreshMidi();
    });
    follow(m_session.current, allSides, m_shown, &WhenShown::request);
}

void ExportPage::refreshMidi() {
    const bool any = m_session.current.hasSong();
    for (QCheckBox* box : {m_writtenIn, m_running, m_folded}) box->setEnabled(any);
    m_lost->hide();
    if (!any) return;
    const Song& song = m_session.current.song();
    const QSignalBlocker quietWritten(m_writtenIn), quietRunning(m_running), quietFolded(m_folded);
    m_writtenIn->setChecked(song.midi.writtenIn);
    m_running->setChecked(song.midi.runningStatus);
    m_folded->setChecked(song.midi.folded);
    const auto lost = notCarriedOver(song);
    if (lost.empty()) return;
    QStringList said;
    for (std::size_t i = 0; i < std::min<std::size_t>(lost.size(), 3); ++i)
        said << QString::fromStdString(lost[i]);
    if (lost.size() > 3) said << tr("… and %1 more.").arg(lost.size() - 3);
    m_lost->setText(tr("Not carried over: %1").arg(said.join(QLatin1Char(' '))));
    QStringList all;
    for (const std::string& sentence : lost) all << QString::fromStdString(sentence);
    m_lost->setToolTip(all.join(QLatin1Char('\n')));
    m_lost->show();
}

void ExportPage::setFolder(const QString& folder) {
    m_folder->setText(folder);
    settings::setExportFolder(folder);
}

void ExportPage::refresh() {
    const auto ticked = m_model->ticked();
    const auto sounds =
        std::count_if(ticked.begin(), ticked.end(), [](const ExportItem& item) { return !item.isMidi(); });
    QString text = ticked.size() == 1 ? tr("1 file ticked") : tr("%1 files ticked").arg(ticked.size());
    if (!m_session.current.hasSong())
        text = tr("Add a song, and what can be written of it stands here");
    else if (sounds)
        text += tr(" · about %1 MB")
                    .arg(std::max<int>(1, static_cast<int>(m_session.current.song().seconds() * 100.0 /
                                                           m_pace->currentData().toInt() *
                                                           m_rate->currentData().toInt() * 6 / 1e6 *
                                                           static_cast<double>(sounds))));
    m_count->setText(text);
    m_write->setEnabled(!ticked.empty() && !m_writing);
    m_progress->setVisible(m_writing);
    m_stop->setVisible(m_writing);
}

/// Lists what is there already, and asks what is to become of it.
void ExportPage::askWhatBecomesOf(const std::vector<std::filesystem::path>& there,
                                  const std::function<void(Existing)>& then) {
    QStringList names;
    for (const auto& path : there)
        if (names.size() < 12) names << QString::fromStdString(path.filename().string());
    if (there.size() > 12) names << tr("… and %1 more").arg(there.size() - 12);
    auto* box = new QMessageBox(
        QMessageBox::NoIcon, tr("Files that are there already"),
        there.size() == 1 ? tr("A file of this name is in the folder already.")
                          : tr("%1 files of these names are in the folder already.").arg(there.size()),
        QMessageBox::Cancel, this);
    box->setInformativeText(names.join(QLatin1Char('\n')));
    QPushButton* number = box->addButton(tr("Keep both"), QMessageBox::AcceptRole);
    QPushButton* replace = box->addButton(tr("Replace"), QMessageBox::DestructiveRole);
    QPushButton* leave =
        box->addButton(there.size() == 1 ? tr("Leave it") : tr("Leave those"), QMessageBox::AcceptRole);
    number->setToolTip(tr("The new files get a number after their name"));
    leave->setToolTip(tr("Only the others are written"));
    box->setDefaultButton(number);
    ask::withButtons(box, [=](const QPushButton* pressed) {
        if (pressed == replace) then(Existing::Replace);
        if (pressed == leave) then(Existing::Leave);
        if (pressed == number) then(Existing::Number);
    });
}

void ExportPage::write() {
    const auto items = m_model->ticked();
    if (items.empty() || m_writing || !m_session.current.hasSong()) return;
    const auto there = alreadyThere(items, m_folder->text().toStdString());
    if (there.empty()) return writeItems(items, Existing::Number);
    askAboutExisting(there, [this, items](Existing existing) { writeItems(items, existing); });
}

void ExportPage::writeItems(const std::vector<ExportItem>& items, Existing existing) {
    if (m_writing || !m_session.current.hasSong()) return;
    m_writing = true;
    m_stopSource = std::stop_source();
    m_model->setWaiting();
    m_status->setText(
        tr("Writing %1…").arg(items.size() == 1 ? tr("one file") : tr("%1 files").arg(items.size())));
    showProgress(0);
    refresh();
    ExportOptions options{m_folder->text().toStdString(),
                          m_rate->currentData().toInt(),
                          m_pace->currentData().toDouble(),
                          m_stopSource.get_token(),
                          {},
                          {},
                          existing};
    QPointer<ExportPage> self(this);
    options.progress = [self](double share) {
        QMetaObject::invokeMethod(qApp, [self, share] {
            if (self) self->showProgress(share);
        });
    };
    runJob(
        this, QThreadPool::globalInstance(),
        [song = m_session.current.song(), catalogue = m_session.sounds.catalogue(), items,
         options]() mutable {
            ExportEnd end;
            options.silent = [&](const Error& error) {
                end.silent << QString::fromStdString(error.message());
            };
            end.outcomes = writeExports(song, catalogue, items, options);
            return end;
        },
        [this, items](const Result<ExportEnd>& ended) {
            ExportEnd end;
            if (ended)
                end = ended.value();
            else
                for (std::size_t i = 0; i < items.size(); ++i)
                    end.outcomes.push_back({i, false, {}, {}, ended.error().message()});
            const auto& outcomes = end.outcomes;
            m_writing = false;
            m_model->takeOutcomes(items, outcomes);
            const auto written = std::count_if(outcomes.begin(), outcomes.end(),
                                               [](const ExportOutcome& o) { return o.written; });
            m_status->setText(tr("%1 of %2 written").arg(written).arg(outcomes.size()));
            refresh();
            Q_EMIT m_session.messages.announced(m_status->text());
            if (!end.silent.isEmpty())
                Q_EMIT m_session.messages.problem(tr("Not all is heard in the sound files"),
                                                  end.silent.join(QStringLiteral("\n\n")));
            Q_EMIT finished();
        });
}

void ExportPage::stop() { m_stopSource.request_stop(); }

void ExportPage::showProgress(double share) { m_progress->setValue(static_cast<int>(share * 1000)); }

} // namespace cobbleway
