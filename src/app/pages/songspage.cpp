#include "app/pages/songspage.h"

#include "app/look/sentence.h"
#include "app/look/theme.h"
#include "app/session/session.h"
#include "app/widgets/focus.h"
#include "app/widgets/pagestack.h"
#include "app/widgets/painting.h"
#include "app/widgets/readable.h"
#include "app/widgets/rowlist.h"
#include "app/widgets/small.h"
#include "app/widgets/whenshown.h"
#include "midi/devicemessages.h"
#include "midi/gm.h"
#include "midi/text.h"
#include "song/heard/distinctnames.h"
#include "song/heard/lyrics.h"
#include "song/shape/tidy.h"
#include "song/shape/timeedits.h"
#include "song/snags/cards.h"

#include <QAction>
#include <QFileInfo>
#include <QGuiApplication>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QKeyEvent>
#include <QPainter>
#include <QStyledItemDelegate>
#include <QVBoxLayout>
#include <algorithm>
#include <array>
#include <map>
#include <utility>

namespace cobbleway {
namespace {

/// A cell of the songs table: the name over the file name, or a fact, or the count of snags.
class SongCell final : public QStyledItemDelegate {
  public:
    explicit SongCell(Uses<uses::Set, uses::Findings> session, QObject* parent)
        : QStyledItemDelegate(parent), m_session(session) {}
    [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
        return {60, 52};
    }
    void paint(QPainter* painter, const QStyleOptionViewItem& option,
               const QModelIndex& index) const override {
        const QRectF cell(option.rect);
        const bool shown = index.data(SongsModel::NumberRole).toInt() == m_session.current.songIndex();
        if (shown || option.state.testFlag(QStyle::State_Selected)) painter->fillRect(cell, theme().selected);
        if (shown)
            painter->fillRect(QRectF(cell.left(), cell.top(), index.column() == 0 ? 3 : 0, cell.height()),
                              theme().action);
        painter->fillRect(QRectF(cell.left(), cell.bottom(), cell.width(), 1), theme().line);
        const QRectF text = cell.adjusted(12, 0, -6, 0);
        if (index.column() == SongsModel::Name) {
            paintText(*painter, QRectF(text.left(), cell.top() + 8, text.width(), 18),
                      index.data().toString(), textFont(10, QFont::DemiBold), theme().ink);
            paintText(*painter, QRectF(text.left(), cell.top() + 26, text.width(), 16),
                      index.data(SongsModel::FileRole).toString(), textFont(9), theme().muted);
        } else if (index.column() == SongsModel::Snags) {
            const int count = index.data(SongsModel::CountRole).toInt();
            painter->save();
            const QFontMetricsF metrics(textFont(8.5, QFont::Medium));
            const QString label = index.data().toString();
            paintPill(*painter, text.left() + metrics.horizontalAdvance(label) + 18, cell.center().y(), label,
                      count == 0 ? Tone::Good : Tone::Look);
            painter->restore();
        } else {
            paintText(*painter, text, index.data().toString(), textFont(10), theme().ink);
        }
    }

  private:
    Uses<uses::Set, uses::Findings> m_session;
};

QWidget* pillLine(const QString& pill, Tone tone, const QString& text) {
    auto* line = new QWidget;
    auto* layout = new QHBoxLayout(line);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(9);
    auto* mark = new QLabel(pill);
    const bool good = tone == Tone::Good;
    mark->setStyleSheet(
        QStringLiteral("QLabel { background: %1; color: %2; border-radius: 9px; padding: 1px 7px; }")
            .arg((good ? theme().mossGround : theme().ochreGround).name(),
                 (good ? theme().mossInk : theme().ochreInk).name()));
    mark->setAlignment(Qt::AlignCenter);
    mark->setMinimumWidth(24);
    auto* words = new QLabel(text);
    words->setWordWrap(true);
    layout->addWidget(mark, 0, Qt::AlignTop);
    layout->addWidget(words, 1);
    return line;
}

/// The lowest and the highest key that sounds.
std::optional<std::pair<Key, Key>> heardRange(const HeardPart& part) {
    if (part.notes.empty()) return std::nullopt;
    const auto [low, high] =
        std::minmax_element(part.notes.begin(), part.notes.end(),
                            [](const Note& a, const Note& b) { return a.key.value < b.key.value; });
    return std::pair(low->key, high->key);
}

QString stepText(const std::vector<Snag>& snags) {
    int parts = 0, sounds = 0, drums = 0;
    for (const Snag& snag : snags) {
        parts += snag.step == Step::Parts;
        sounds += snag.step == Step::Sounds;
        drums += snag.step == Step::Drums;
    }
    QStringList text;
    if (parts) text << QObject::tr("%1 on the Parts page").arg(parts);
    if (sounds) text << QObject::tr("%1 on the Sounds page").arg(sounds);
    if (drums) text << QObject::tr("%1 on the Drums page").arg(drums);
    return text.join(QObject::tr(", "));
}

} // namespace

ChannelBars::ChannelBars(Uses<uses::Set, uses::Findings> session, QWidget* parent)
    : QWidget(parent), m_session(session) {
    setFixedHeight(92);
    setAccessibleName(tr("Notes on each channel"));
}

ChannelBars::Channels ChannelBars::channels() const {
    Channels found;
    for (const Part& part : m_session.current.song().parts) {
        found.notes[part.source.channel.value] += m_session.findings.heard(part.id)->notes.size();
        if (part.source.drums && !part.aside) found.drums[part.source.channel.value] = true;
    }
    return found;
}

std::vector<SurfaceRow> ChannelBars::surfaceRows() const {
    std::vector<SurfaceRow> rows;
    if (!m_session.current.hasSong()) return rows;
    const auto [notes, drums] = channels();
    for (int i = 0; i < 16; ++i)
        if (const auto count = notes[static_cast<std::size_t>(i)])
            rows.push_back({tr("channel %1").arg(i + 1),
                            drums[static_cast<std::size_t>(i)] ? tr("%1 notes, drums").arg(count)
                                                               : tr("%1 notes").arg(count),
                            QRect(i * width() / 16, 0, width() / 16, height())});
    return rows;
}

void ChannelBars::paintEvent(QPaintEvent*) {
    if (!m_session.current.hasSong()) return;
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const auto [counts, drums] = channels();
    const double most =
        static_cast<double>(std::max<std::size_t>(1, *std::max_element(counts.begin(), counts.end())));
    const double step = width() / 16.0, room = height() - 20.0;
    for (std::size_t i = 0; i < 16; ++i) {
        const double h =
            counts[i] ? std::max(4.0, room * std::sqrt(static_cast<double>(counts[i]) / most)) : 2;
        painter.setPen(Qt::NoPen);
        painter.setBrush(counts[i] == 0 ? theme().line : (drums[i] ? QColor("#71808A") : QColor("#4F7A94")));
        painter.drawRoundedRect(QRectF(static_cast<double>(i) * step + 2, room - h + 2, step - 5, h), 3, 3);
        if (step < 18 && i % 2 == 1) continue; // numbers of two digits would not fit
        const double middle = (static_cast<double>(i) + 0.5) * step - 0.5;
        paintText(painter, QRectF(middle - step, room + 4, 2 * step, 14), QString::number(i + 1), textFont(8),
                  theme().muted, Qt::AlignCenter);
    }
}

SongsPage::SongsPage(Uses<uses::Set, uses::Files, uses::Sounds, uses::Findings, uses::Transport> session,
                     QAction* addFiles, QAction* addFolder, QWidget* parent)
    : QWidget(parent), m_session(session), m_model(new SongsModel(session, this)),
      m_list(new SongsList(m_model, this)), m_table(new QuietView<QTreeView>), m_find(new QLineEdit),
      m_order(new QComboBox), m_card(new Readable<Card>) {
    m_card->setAccessibleName(tr("What the song is"));
    m_table->setModel(m_list);
    m_table->setItemDelegate(new SongCell(session, m_table));
    m_table->setRootIsDecorated(false);
    m_table->setUniformRowHeights(true);
    m_table->setSelectionMode(QAbstractItemView::ExtendedSelection);
    m_table->setDragDropMode(QAbstractItemView::DragDrop);
    m_table->setDefaultDropAction(Qt::MoveAction);
    m_table->setAccessibleName(tr("Songs of the set"));
    m_table->setObjectName(QStringLiteral("songTable"));
    m_table->installEventFilter(this);
    m_table->viewport()->installEventFilter(this);
    QHeaderView* header = m_table->header();
    header->setStretchLastSection(false);
    header->setSectionResizeMode(QHeaderView::Fixed);
    header->setSectionResizeMode(0, QHeaderView::Stretch);
    const int widths[] = {0, 60, 76, 74, 82, 72, 80, 72};
    for (int i = 1; i < SongsModel::ColumnCount; ++i) header->resizeSection(i, widths[i]);
    header->setSectionsClickable(true);
    header->setSortIndicatorShown(true);
    header->setSortIndicatorClearable(true);
    header->setSortIndicator(-1, Qt::AscendingOrder);
    connect(header, &QHeaderView::sortIndicatorChanged, this, &SongsPage::sortBy);

    m_find->setPlaceholderText(tr("Find songs: a word, “has a tenor”, “key D minor”, “tempo 90-110”"));
    m_find->setAccessibleName(tr("Find songs"));
    m_find->setToolTip(
        tr("Words of titles, files, lyrics, parts and instruments; “has a tenor”; “key D minor”; "
           "“tempo 90-110”, “faster than 100”; “length 2:00-3:30”, “shorter than 3:00”"));
    m_find->setClearButtonEnabled(true);
    m_find->setObjectName(QStringLiteral("findSongs"));
    connect(m_find, &QLineEdit::textChanged, this, [this](const QString& text) {
        m_list->setSearch(text);
        // The song that is shown stays shown; where it does not fit, no row is chosen until one is.
        if (!m_list->mapFromSource(m_model->index(m_session.current.songIndex(), 0)).isValid())
            m_table->selectionModel()->clear();
        m_shown->request();
    });
    m_find->installEventFilter(this);
    m_order->addItem(tr("In set order"), -1);
    for (int i = 0; i < SongsModel::ColumnCount; ++i)
        m_order->addItem(
            tr("By %1").arg(m_model->headerData(i, Qt::Horizontal, Qt::DisplayRole).toString().toLower()), i);
    m_order->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    m_order->setMinimumContentsLength(10);
    m_order->setAccessibleName(tr("Order of the songs"));
    connect(m_order, &QComboBox::activated, this, [this] {
        m_table->header()->setSortIndicator(m_order->currentData().toInt(), Qt::AscendingOrder);
    });

    m_setName = mutedLabel();
    m_empty = new QLabel(tr("Drop MIDI files or a whole folder here"));
    m_empty->setAlignment(Qt::AlignCenter);
    m_empty->setObjectName(QStringLiteral("dropHint"));
    m_empty->setMinimumHeight(44);
    m_none = mutedLabel(tr("No song fits. Take a word away, or press Esc for all songs."));
    m_none->hide();
    auto* add = button(addFiles->text().remove(QLatin1Char('&')));
    auto* folder = button(addFolder->text().remove(QLatin1Char('&')));
    connect(add, &QPushButton::clicked, addFiles, &QAction::trigger);
    connect(folder, &QPushButton::clicked, addFolder, &QAction::trigger);
    auto* top = new QHBoxLayout;
    top->addWidget(titleLabel(tr("Songs")));
    top->addWidget(m_setName, 1);
    top->addWidget(add);
    top->addWidget(folder);
    auto* list = new Card;
    list->column()->setContentsMargins(1, 10, 1, 14);
    auto* finding = new QHBoxLayout;
    finding->setContentsMargins(12, 0, 12, 0);
    finding->addWidget(m_find, 1);
    finding->addWidget(m_order);
    list->column()->addLayout(finding);
    list->column()->addWidget(m_table, 1);
    auto* hintBox = new QVBoxLayout;
    hintBox->setContentsMargins(14, 6, 14, 0);
    hintBox->addWidget(m_none);
    hintBox->addWidget(m_empty);
    list->column()->addLayout(hintBox);
    auto* scroll = new FocusScroll(m_card);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    auto* columns = new QHBoxLayout;
    columns->setSpacing(14);
    scroll->setMinimumWidth(250); // its longest words
    columns->addWidget(list, 5);
    columns->addWidget(scroll, 3);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 12, 12, 12);
    layout->setSpacing(8);
    layout->addLayout(top);
    layout->addLayout(columns, 1);
    connect(m_table->selectionModel(), &QItemSelectionModel::currentRowChanged, this,
            [this](const QModelIndex& current) {
                if (current.isValid() && !m_list->isFiltering())
                    m_session.current.showSong(m_list->mapToSource(current).row());
            });
    connect(m_table, &QTreeView::activated, this, &SongsPage::workOn);
    m_shown = new WhenShown(this, [this] { refresh(); });
    m_cardPause.setSingleShot(true);
    connect(&m_cardPause, &QTimer::timeout, this, [this] {
        if (std::exchange(m_cardWaits, false)) fillCardSoon();
    });
    connect(&session.current, &CurrentSet::songsChanged, this, &SongsPage::takeSongs);
    // Snags are found anew before the views are told of a change: the card is made once for both.
    connect(&session.findings, &Findings::snagsChanged, this, [this] { m_otherSnags = true; });
    connect(&session.current, &CurrentSet::songChanged, this, [this](Sides sides) {
        takeChange(sides.has(Side::Names | Side::Notes | Side::Time | Side::Writing));
    });
    connect(&session.sounds, &Sounds::catalogueChanged, this, [this] { takeChange(false); });
    connect(m_model, &SongsModel::summariesChanged, this, &SongsPage::takeSongs);
    follow(session.current, Side::File, this, &SongsPage::listen);
    connect(&session.transport, &Transport::playingChanged, this, [this] {
        const bool same = m_session.current.hasSong() && m_session.current.song().source == m_heard;
        if (same && !m_session.transport.isPlaying()) m_listening = false; // stopped by hand, or at its end
    });
    connect(&session.files, &SetFiles::busyChanged, this, &SongsPage::refreshTitle);
    refresh();
}

void SongsPage::refreshTitle() {
    const auto count = m_session.current.set().songs.size();
    QString text = count == 0 ? tr("none yet") : (count == 1 ? tr("1 song") : tr("%1 songs").arg(count));
    const QString project = QFileInfo(m_session.current.projectPath()).completeBaseName();
    if (!project.isEmpty()) text += tr(" · “%1” set").arg(project);
    if (!m_find->text().isEmpty()) text = tr("%1 of %2 songs").arg(m_list->rowCount()).arg(count);
    if (m_session.files.isBusy()) text += tr(" · reading…");
    m_setName->setText(text);
}

void SongsPage::refresh() {
    refreshList();
    fillCardSoon();
}

/// The first of a burst at once, then ten a second: a thousand songs that are gone through cost no thousand
/// cards.
void SongsPage::fillCardSoon() {
    constexpr int pause = 100; // milliseconds
    if (m_cardPause.isActive()) {
        m_cardWaits = true;
        return;
    }
    fillCard();
    m_cardPause.start(pause);
}

void SongsPage::takeChange(bool ofTheCard) {
    if (std::exchange(m_otherSnags, false) || ofTheCard) m_shown->request();
}

/// Other songs have come, or more is known of them. The card tells of them only which hold the same music.
void SongsPage::takeSongs() {
    refreshList();
    if (sameMusic() != m_sameMusic) m_shown->request();
}

QStringList SongsPage::sameMusic() const {
    constexpr qsizetype most = 5;
    QStringList lines;
    if (!m_session.current.hasSong()) return lines;
    for (const int other : m_model->sameMusic(m_session.current.songIndex())) {
        if (lines.size() == most) return lines << tr("… and as other songs in the set");
        lines
            << tr("The same music as %1").arg(m_model->index(other, 0).data(SongsModel::FileRole).toString());
    }
    return lines;
}

void SongsPage::refreshList() {
    refreshTitle();
    m_none->setVisible(m_list->rowCount() == 0 && !m_session.current.set().songs.empty());
    showHint();
    const QModelIndex current = m_list->mapFromSource(m_model->index(m_session.current.songIndex(), 0));
    if (current.isValid() && m_table->currentIndex().row() != current.row()) {
        const QSignalBlocker quiet(m_table->selectionModel());
        m_table->setCurrentIndex(current);
    }
    m_table->viewport()->update();
}

void SongsPage::sortBy(int column, Qt::SortOrder order) {
    m_list->sort(column, order);
    m_order->setCurrentIndex(m_order->findData(column));
}

void SongsPage::find() {
    m_find->setFocus(Qt::ShortcutFocusReason);
    m_find->selectAll();
}

std::vector<int> SongsPage::selected() const {
    std::vector<int> songs;
    for (const QModelIndex& index : m_table->selectionModel()->selectedRows())
        songs.push_back(m_list->mapToSource(index).row());
    if (songs.empty() && m_session.current.hasSong()) songs.push_back(m_session.current.songIndex());
    std::sort(songs.begin(), songs.end());
    return songs;
}

void SongsPage::moveSelected(int by) {
    const auto songs = selected();
    if (songs.empty()) return;
    const int to = by < 0 ? songs.front() - 1 : songs.back() + 2;
    if (to < 0 || to > m_model->rowCount()) return;
    m_session.current.moveSongs(songs, to);
    const int first = by < 0 ? to : to - static_cast<int>(songs.size());
    auto* selection = m_table->selectionModel();
    selection->clearSelection();
    for (int i = 0; i < static_cast<int>(songs.size()); ++i)
        selection->select(m_list->mapFromSource(m_model->index(first + i, 0)),
                          QItemSelectionModel::Select | QItemSelectionModel::Rows);
}

void SongsPage::firstListen() {
    m_listening = !m_listening || !m_session.transport.isPlaying();
    if (m_listening)
        listen();
    else if (m_session.transport.isPlaying())
        m_session.transport.togglePlay();
}

/// From the first note, since many files begin with silence.
void SongsPage::listen() {
    if (!m_listening || !m_session.current.hasSong()) return;
    m_heard = m_session.current.song().source;
    m_session.transport.seek(leadingSilence(m_session.current.song()));
    if (!m_session.transport.isPlaying()) m_session.transport.togglePlay();
}

void SongsPage::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    showHint();
}

bool SongsPage::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::KeyPress) {
        const int key = static_cast<QKeyEvent*>(event)->key();
        if (watched == m_table && (key == Qt::Key_Delete || key == Qt::Key_Backspace)) {
            Q_EMIT removeSelected();
            return true;
        }
        if (watched == m_find && key == Qt::Key_Escape && !m_find->text().isEmpty()) {
            m_find->clear();
            return true;
        }
        if (watched == m_find && (key == Qt::Key_Down || key == Qt::Key_Return || key == Qt::Key_Enter)) {
            m_table->setFocus(Qt::TabFocusReason);
            if (!m_table->currentIndex().isValid()) m_table->setCurrentIndex(m_list->index(0, 0));
            return true;
        }
    }
    if (watched == m_table->viewport() && event->type() == QEvent::Resize)
        showHeaderFor(m_table->viewport()->width());
    return QWidget::eventFilter(watched, event);
}

/// Where there is little room the songs have it; files can be dropped anywhere.
void SongsPage::showHint() {
    constexpr int roomForBoth = 420;
    m_empty->setVisible(m_model->rowCount() == 0 || height() >= roomForBoth);
}

/// In a narrow window the name keeps its room; what the card says too goes first.
void SongsPage::showHeaderFor(int width) {
    const std::pair<int, int> needs[] = {{SongsModel::Type, 640},  {SongsModel::Kind, 560},
                                         {SongsModel::Key, 500},   {SongsModel::Tempo, 440},
                                         {SongsModel::Parts, 360}, {SongsModel::Length, 300}};
    for (const auto& [column, least] : needs) m_table->setColumnHidden(column, width < least);
}

void SongsPage::addDevices(QVBoxLayout* column) const {
    constexpr std::size_t most = 5;
    const auto kinds = deviceMessageKinds(m_session.current.song().source->midi);
    if (kinds.empty()) return;
    column->addWidget(titleLabel(tr("Messages for the device")));
    for (std::size_t i = 0; i < std::min(most, kinds.size()); ++i) {
        const auto& [message, count] = kinds[i];
        QString text = sentence(message.what);
        if (count > 1) text += tr(" (%1 times)").arg(count);
        if (!message.followed) text += tr(" — ignored");
        column->addWidget(pillLine(message.followed ? QStringLiteral("✓") : QStringLiteral("–"),
                                   message.followed ? Tone::Good : Tone::Look, text));
    }
    if (kinds.size() > most)
        column->addWidget(mutedLabel(tr("… and %1 more kinds").arg(kinds.size() - most)));
}

/// What was done when the song was opened, each with a way back.
void SongsPage::addDone(QVBoxLayout* column) {
    const Song& song = m_session.current.song();
    if (song.tidied.empty()) return;
    auto* top = new QHBoxLayout;
    top->addWidget(titleLabel(tr("Done for you")), 1);
    auto* all = button(tr("Put all back"));
    all->setObjectName(QStringLiteral("putAllBack"));
    all->setFont(textFont(9));
    connect(all, &QPushButton::clicked, this, [this] {
        m_session.current.edit(tr("Put all back"), [](const Song& s) { return edits::putAllBack(s); });
    });
    top->addWidget(all);
    column->addLayout(top);
    const std::pair<std::uint8_t, QString> kinds[] = {
        {cc::volume, tr("Volumes that never move are the parts' levels now:")},
        {cc::expression, tr("Expressions that never move are in the parts' levels now:")}};
    constexpr std::size_t most = 40;
    std::size_t shown = 0;
    for (const auto& [controller, said] : kinds) {
        bool headed = false;
        for (std::size_t i = 0; i < song.tidied.size() && shown < most; ++i) {
            const Part* part = song.part(song.tidied[i].part);
            if (song.tidied[i].controller != controller || !part) continue;
            if (!std::exchange(headed, true)) column->addWidget(mutedLabel(said));
            ++shown;
            auto* line = new QHBoxLayout;
            line->addWidget(
                pillLine(QStringLiteral("✓"), Tone::Good,
                         tr("%1, %2").arg(QString::fromStdString(part->name)).arg(song.tidied[i].value)),
                1);
            auto* back = button(tr("Put back"));
            back->setFont(textFont(9));
            back->setAccessibleName(tr("Put back: %1").arg(sentence(tidyingText(song, song.tidied[i]))));
            connect(back, &QPushButton::clicked, this, [this, i] {
                m_session.current.edit(tr("Put back"), [i](const Song& s) { return edits::putBack(s, i); });
            });
            line->addWidget(back);
            column->addLayout(line);
        }
    }
    if (song.tidied.size() > most)
        column->addWidget(mutedLabel(tr("… and %1 more").arg(song.tidied.size() - most)));
}

void SongsPage::addFacts(QVBoxLayout* column) const {
    const Song& song = m_session.current.song();
    std::size_t notes = 0;
    for (const Part& part : song.parts) notes += m_session.findings.heard(part.id)->notes.size();
    const Division& division = song.source->midi.division;
    const QString ticks = division.isSmpte() ? tr("%1 frames a second").arg(division.framesPerSecond)
                                             : tr("%1 ticks to a quarter").arg(division.ticksPerQuarter);
    column->addWidget(
        mutedLabel(QStringLiteral("%1 · %2 · %3 · %4 · %5")
                       .arg(QString::fromStdString(song.source->name),
                            tr("%1 kB").arg((song.source->midi.pool.size() + 999) / 1000),
                            tr("type %1").arg(song.source->midi.type), ticks, tr("%1 notes").arg(notes))));
    const auto summary = m_session.findings.derived()->summary(song);
    QStringList music;
    if (!summary->key.empty()) music << QString::fromStdString(summary->key);
    music << tr("%1 BPM").arg(std::lround(summary->bpm)) << timeText(summary->seconds);
    column->addWidget(new QLabel(music.join(QStringLiteral(" · "))));
    column->addWidget(new ChannelBars(m_session));
    column->addWidget(mutedLabel(tr("notes on each channel · grey: drums")));
}

void SongsPage::addParts(QVBoxLayout* column) const {
    const Song& song = m_session.current.song();
    column->addWidget(titleLabel(tr("Parts and their ranges")));
    constexpr std::size_t most = 24;
    const auto facts = [&](const Part& part) { return *m_session.findings.derived()->facts(song, part); };
    const auto names = distinctNames(song, facts);
    QStringList lines;
    for (std::size_t i = 0; i < song.parts.size(); ++i) {
        const Part& part = song.parts[i];
        if (part.aside) continue;
        const auto found = heardRange(*m_session.findings.heard(part.id));
        if (static_cast<std::size_t>(lines.size()) < most)
            lines << (part.source.drums || !found
                          ? sentence(names[i])
                          : tr("%1: %2 to %3")
                                .arg(sentence(names[i]), QString::fromStdString(keyName(found->first)),
                                     QString::fromStdString(keyName(found->second))));
    }
    const auto parts =
        std::count_if(song.parts.begin(), song.parts.end(), [](const Part& p) { return !p.aside; });
    if (static_cast<std::size_t>(parts) > most)
        lines << tr("… and %1 more").arg(parts - static_cast<std::ptrdiff_t>(most));
    column->addWidget(mutedLabel(lines.join(QLatin1Char('\n'))));
}

void SongsPage::addAsked(QVBoxLayout* column) const {
    column->addWidget(titleLabel(tr("Asked of you")));
    auto snags = m_session.findings.snags();
    std::erase_if(snags, [](const Snag& snag) { return !snag.asked; });
    if (snags.empty()) column->addWidget(pillLine(QStringLiteral("✓"), Tone::Good, tr("nothing")));
    for (const SnagCard& card : cardsOf(snags))
        column->addWidget(pillLine(QString::number(card.rows.size()), Tone::Look, sentence(card.heading)));
    const QString where = stepText(snags);
    if (!where.isEmpty()) column->addWidget(mutedLabel(where));
}

void SongsPage::addKnown(QVBoxLayout* column) const {
    const Song& song = m_session.current.song();
    column->addWidget(titleLabel(tr("Good to know")));
    const auto harmful = std::count_if(song.source->damage.begin(), song.source->damage.end(),
                                       [](const Damage& damage) { return !damage.harmless; });
    if (harmful == 0)
        column->addWidget(pillLine(QStringLiteral("✓"), Tone::Good, tr("The file is not damaged.")));
    std::size_t shown = 0;
    for (const Damage& damage : song.source->damage)
        if (shown++ < 6)
            column->addWidget(
                pillLine(QString::number(shown), damage.harmless ? Tone::Good : Tone::Look,
                         damage.track ? tr("%1 (track %2, byte %3)")
                                            .arg(sentence(damage.what))
                                            .arg(damage.track)
                                            .arg(damage.offset)
                                      : tr("%1 (byte %2)").arg(sentence(damage.what)).arg(damage.offset)));
    if (shown > 6) column->addWidget(mutedLabel(tr("… and %1 more places").arg(shown - 6)));
    for (const QString& line : m_sameMusic)
        column->addWidget(pillLine(QStringLiteral("="), Tone::Look, line));
    for (const SnagCard& card : cardsOf(m_session.findings.snags())) {
        const bool told = card.first().kind == "reading-damage" || card.first().kind == "device-messages";
        if (!card.first().asked && !told)
            column->addWidget(
                pillLine(QString::number(card.rows.size()), Tone::Good, sentence(card.heading)));
    }
    column->addWidget(
        pillLine(QStringLiteral("✓"), Tone::Good,
                 tr("names read as %1").arg(QString::fromStdString(encodingText(song.encoding)))));
    if (const auto words = m_session.findings.derived()->lyrics(song); !words->empty()) {
        QStringList lines;
        for (const LyricLine& line : *words)
            if (lines.size() < 4) lines << QString::fromStdString(line.text).trimmed();
        column->addWidget(pillLine(QStringLiteral("✓"), Tone::Good,
                                   tr("words to sing: “%1 …”").arg(lines.join(QStringLiteral(" / ")))));
    }
    addDevices(column);
}

void SongsPage::fillCard() {
    m_sameMusic = sameMusic();
    letGo(m_cardBody);
    m_cardBody = new QWidget;
    auto* column = new QVBoxLayout(m_cardBody);
    column->setContentsMargins(2, 2, 2, 2);
    column->setSpacing(7);
    if (!m_session.current.hasSong()) {
        column->addWidget(titleLabel(tr("No song yet")));
        column->addWidget(
            mutedLabel(tr("Add MIDI files (.mid, .kar, .rmi) with the buttons above, or drop them anywhere "
                          "in the window. This card shows what each file holds, and what is odd about it.")));
    } else {
        const Song& song = m_session.current.song();
        auto* top = new QHBoxLayout;
        auto* name = titleLabel(QString::fromStdString(song.title));
        name->setFont(textFont(12, QFont::Bold));
        name->setWordWrap(true);
        auto* go = button(tr("Open"), true);
        go->setToolTip(tr("Go on with this song's parts"));
        connect(go, &QPushButton::clicked, this, &SongsPage::workOn);
        top->addWidget(name, 1);
        top->addWidget(go);
        column->addLayout(top);
        addFacts(column);
        addAsked(column);
        addDone(column);
        addParts(column);
        addKnown(column);
    }
    column->addStretch();
    m_card->column()->addWidget(m_cardBody);
}

} // namespace cobbleway
