#include "app/pages/songspage.h"
#include "app/look/sentence.h"

#include "app/look/theme.h"
#include "app/session/session.h"
#include "app/widgets/pagestack.h"
#include "app/widgets/painting.h"
#include "app/widgets/readable.h"
#include "app/widgets/rowlist.h"
#include "app/widgets/small.h"
#include "app/widgets/whenshown.h"
#include "midi/devicemessages.h"
#include "midi/text.h"
#include "song/heard/lyrics.h"
#include "song/shape/tidy.h"

#include <QAction>
#include <QFileInfo>
#include <QGuiApplication>
#include <QHBoxLayout>
#include <QHeaderView>
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
        if (index.row() == m_session.current.songIndex()) painter->fillRect(cell, theme().selected);
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

SongsModel::SongsModel(Uses<uses::Set, uses::Sounds, uses::Findings> session, QObject* parent)
    : QAbstractTableModel(parent), m_session(session) {
    connect(&session.current, &CurrentSet::songsChanged, this, &SongsModel::refresh);
    connect(&session.findings, &Findings::snagsChanged, this, &SongsModel::refresh);
    connect(&session.sounds, &Sounds::catalogueChanged, this, &SongsModel::refresh);
    refresh();
}

void SongsModel::refresh() {
    const int count = static_cast<int>(m_session.current.set().songs.size());
    if (m_count > 0 && count >= m_count)
        Q_EMIT dataChanged(index(0, 0), index(m_count - 1, columnCount() - 1));
    if (count == m_count) return;
    if (count > m_count) {
        beginInsertRows({}, m_count, count - 1);
        m_count = count;
        return endInsertRows();
    }
    beginResetModel();
    m_count = count;
    endResetModel();
}

int SongsModel::rowCount(const QModelIndex& parent) const { return parent.isValid() ? 0 : m_count; }

QVariant SongsModel::headerData(int section, Qt::Orientation orientation, int role) const {
    if (orientation != Qt::Horizontal || role != Qt::DisplayRole) return {};
    const QStringList names = {tr("Song"),   tr("Type"),    tr("Tracks → parts"),
                               tr("Length"), tr("Dialect"), tr("Snags")};
    return names.value(section);
}

/// A song in a sentence: "Lantern Quay, type 0, 1 track, 10 parts, 2 minutes 55, 11 to decide".
QString SongsModel::sentenceOf(int row) const {
    const Song& song = *m_session.current.set().songs[static_cast<std::size_t>(row)];
    const auto counted = [](auto count, const QString& one, const QString& many) {
        return count == 1 ? one : many.arg(count);
    };
    const auto parts =
        std::count_if(song.parts.begin(), song.parts.end(), [](const Part& p) { return !p.aside; });
    const auto seconds = static_cast<int>(song.seconds());
    const auto snags = askedCount(*m_session.findings.snagsOf(row));
    return QStringList({QString::fromStdString(song.title), tr("type %1").arg(song.source->midi.type),
                        counted(song.source->midi.tracks.size(), tr("1 track"), tr("%1 tracks")),
                        counted(parts, tr("1 part"), tr("%1 parts")),
                        seconds < 60
                            ? tr("%1 seconds").arg(seconds)
                            : counted(seconds / 60, tr("1 minute"), tr("%1 minutes")) +
                                  (seconds % 60 ? QStringLiteral(" %1").arg(seconds % 60) : QString()),
                        snags == 0 ? tr("nothing to decide") : tr("%1 to decide").arg(snags)})
        .join(QStringLiteral(", "));
}

QVariant SongsModel::data(const QModelIndex& index, int role) const {
    if (!index.isValid() || index.row() >= static_cast<int>(m_session.current.set().songs.size())) return {};
    const Song& song = *m_session.current.set().songs[static_cast<std::size_t>(index.row())];
    const bool wanted = role == Qt::DisplayRole || role == Qt::AccessibleTextRole;
    if (role == Qt::AccessibleTextRole && index.column() == Name) return sentenceOf(index.row());
    switch (index.column()) {
    case Name:
        if (role == FileRole) return QString::fromStdString(song.source->name);
        return wanted ? QString::fromStdString(song.title) : QVariant();
    case Type: return wanted ? QString::number(song.source->midi.type) : QVariant();
    case Parts: {
        const auto parts =
            std::count_if(song.parts.begin(), song.parts.end(), [](const Part& p) { return !p.aside; });
        const QString text = QStringLiteral("%1 → %2").arg(song.source->midi.tracks.size()).arg(parts);
        // The arrow points from the first to the second also where text runs from right to left.
        const bool turned = role == Qt::DisplayRole && QGuiApplication::isRightToLeft();
        return wanted ? (turned ? QChar(0x200E) + text : text) : QVariant();
    }
    case Length: return wanted ? timeText(song.seconds()) : QVariant();
    case Kind: return wanted ? QString::fromUtf8(dialectName(song.dialect).data()) : QVariant();
    case Snags: {
        const auto count = askedCount(*m_session.findings.snagsOf(index.row()));
        if (role == CountRole) return static_cast<int>(count);
        return wanted ? (count ? QString::number(count) : tr("clear")) : QVariant();
    }
    default: return {};
    }
}

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

SongsPage::SongsPage(Uses<uses::Set, uses::Sounds, uses::Findings> session, QAction* addFiles,
                     QAction* addFolder, QWidget* parent)
    : QWidget(parent), m_session(session), m_model(new SongsModel(session, this)),
      m_table(new QuietView<QTreeView>), m_card(new Readable<Card>) {
    m_card->setAccessibleName(tr("What the song is"));
    m_table->setModel(m_model);
    m_table->setItemDelegate(new SongCell(session, m_table));
    m_table->setRootIsDecorated(false);
    m_table->setUniformRowHeights(true);
    m_table->setAccessibleName(tr("Songs of the set"));
    m_table->setObjectName(QStringLiteral("songTable"));
    m_table->header()->setStretchLastSection(false);
    m_table->header()->setSectionResizeMode(QHeaderView::Fixed);
    m_table->header()->setSectionResizeMode(0, QHeaderView::Stretch);
    const int widths[] = {0, 58, 118, 74, 88, 74};
    for (int i = 1; i < 6; ++i) m_table->header()->resizeSection(i, widths[i]);
    m_table->header()->setSectionsClickable(false);

    m_setName = mutedLabel();
    m_empty = new QLabel(tr("Drop MIDI files or a whole folder here"));
    m_empty->setAlignment(Qt::AlignCenter);
    m_empty->setObjectName(QStringLiteral("dropHint"));
    m_empty->setMinimumHeight(64);
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
    list->column()->setContentsMargins(1, 1, 1, 14);
    list->column()->addWidget(m_table, 1);
    auto* hintBox = new QHBoxLayout;
    hintBox->setContentsMargins(14, 6, 14, 0);
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
            [this](const QModelIndex& current) { m_session.current.showSong(current.row()); });
    connect(m_table, &QTreeView::activated, this, &SongsPage::workOn);
    m_shown = new WhenShown(this, [this] { refresh(); });
    connect(&session.current, &CurrentSet::songsChanged, m_shown, &WhenShown::request);
    follow(session.current, Side::Names | Side::Notes | Side::Time, m_shown, &WhenShown::request);
    connect(&session.current, &CurrentSet::busyChanged, m_shown, &WhenShown::request);
    refresh();
}

void SongsPage::refresh() {
    const auto count = m_session.current.set().songs.size();
    QString text = count == 0 ? tr("none yet") : (count == 1 ? tr("1 song") : tr("%1 songs").arg(count));
    const QString project = QFileInfo(m_session.current.projectPath()).completeBaseName();
    if (!project.isEmpty()) text += tr(" · “%1” set").arg(project);
    if (m_session.current.isBusy()) text += tr(" · reading…");
    m_setName->setText(text);
    m_empty->setStyleSheet(
        QStringLiteral("#dropHint { border: 2px dashed %1; border-radius: 9px; color: %2; }")
            .arg(theme().line.name(), theme().muted.name()));
    const QModelIndex current = m_model->index(m_session.current.songIndex(), 0);
    if (current.isValid() && m_table->currentIndex().row() != current.row()) {
        const QSignalBlocker quiet(m_table->selectionModel());
        m_table->setCurrentIndex(current);
    }
    m_table->viewport()->update();
    fillCard();
}

void SongsPage::addDevices(QVBoxLayout* column) const {
    constexpr std::size_t most = 5;
    std::vector<std::pair<DeviceMessage, int>> kinds;
    eachDeviceMessage(m_session.current.song().source->midi, [&](const DeviceMessage& message) {
        const auto at = std::find_if(kinds.begin(), kinds.end(),
                                     [&](const auto& k) { return k.first.what == message.what; });
        at == kinds.end() ? (kinds.emplace_back(message, 1), 0) : ++at->second;
    });
    if (kinds.empty()) return;
    column->addWidget(titleLabel(tr("What it asks of the device")));
    for (std::size_t i = 0; i < std::min(most, kinds.size()); ++i) {
        const auto& [message, count] = kinds[i];
        QString text = sentence(message.what);
        if (count > 1) text += tr(" (%1 times)").arg(count);
        if (!message.followed) text += tr(" — not followed");
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

void SongsPage::fillCard() {
    delete m_cardBody;
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
        std::size_t notes = 0;
        for (const Part& part : song.parts) notes += m_session.findings.heard(part.id)->notes.size();
        const Division& division = song.source->midi.division;
        const QString ticks = division.isSmpte() ? tr("%1 frames a second").arg(division.framesPerSecond)
                                                 : tr("%1 ticks to a quarter").arg(division.ticksPerQuarter);
        column->addWidget(mutedLabel(QStringLiteral("%1 · %2 · %3 · %4 · %5")
                                         .arg(QString::fromStdString(song.source->name),
                                              tr("%1 kB").arg((song.source->midi.pool.size() + 999) / 1000),
                                              tr("type %1").arg(song.source->midi.type), ticks,
                                              tr("%1 notes").arg(notes))));
        column->addWidget(new ChannelBars(m_session));
        column->addWidget(mutedLabel(tr("notes on each channel · grey: drums")));
        column->addWidget(titleLabel(tr("Asked of you")));
        auto snags = m_session.findings.snags();
        std::erase_if(snags, [](const Snag& snag) { return !snag.asked; });
        if (snags.empty()) column->addWidget(pillLine(QStringLiteral("✓"), Tone::Good, tr("nothing")));
        std::map<std::string, int> alike;
        for (const Snag& snag : snags) ++alike[snag.kind];
        for (const Snag& snag : snags) {
            const int count = std::exchange(alike[snag.kind], 0); // each kind once, where it first stands
            if (count > 0)
                column->addWidget(
                    pillLine(QString::number(count), Tone::Look,
                             count == 1 ? sentence(snag.what) : tr("parts: %1").arg(sentence(snag.pill))));
        }
        const QString where = stepText(snags);
        if (!where.isEmpty()) column->addWidget(mutedLabel(where));
        addDone(column);
        column->addWidget(titleLabel(tr("Good to know")));
        if (song.source->damage.empty())
            column->addWidget(pillLine(QStringLiteral("✓"), Tone::Good, tr("The file is not damaged.")));
        std::size_t shown = 0;
        for (const Damage& damage : song.source->damage)
            if (shown++ < 6)
                column->addWidget(pillLine(
                    QString::number(shown), Tone::Look,
                    damage.track ? tr("%1 (track %2, byte %3)")
                                       .arg(sentence(damage.what))
                                       .arg(damage.track)
                                       .arg(damage.offset)
                                 : tr("%1 (byte %2)").arg(sentence(damage.what)).arg(damage.offset)));
        if (shown > 6) column->addWidget(mutedLabel(tr("… and %1 more places").arg(shown - 6)));
        column->addWidget(
            pillLine(QStringLiteral("✓"), Tone::Good,
                     tr("names read as %1").arg(QString::fromStdString(encodingText(song.encoding)))));
        if (const auto words = lyricsOf(song); !words.empty())
            column->addWidget(pillLine(QStringLiteral("✓"), Tone::Good,
                                       tr("words to sing: %1 syllables").arg(words.size())));
        addDevices(column);
    }
    column->addStretch();
    m_card->column()->addWidget(m_cardBody);
}

} // namespace cobbleway
