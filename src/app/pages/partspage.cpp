#include "app/pages/partspage.h"

#include "app/look/theme.h"
#include "app/pages/eventsview.h"
#include "app/session/session.h"
#include "app/widgets/painting.h"
#include "app/widgets/small.h"
#include "midi/gm.h"
#include "midi/text.h"
#include "song/edits.h"

#include <QAbstractItemDelegate>
#include <QAction>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QScrollBar>
#include <QStackedWidget>
#include <QStyledItemDelegate>
#include <QVBoxLayout>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>
#include <map>

namespace cobbleway {
namespace {

constexpr int rowHeight = 45, nameWidth = 216, fanWidth = 214;

} // namespace

/// Lanes as they were painted last: painted anew only when the part, the stretch or the room for it change.
class LanePictures {
  public:
    void paint(QPainter& painter, const QRectF& rect, const Part& part, const Session::Digest& digest,
               LaneRange range) {
        const double ratio = painter.device()->devicePixelRatioF();
        Kept& kept = m_kept[part.id];
        const Key now{digest.stamp, rect.size(), range, part.colour, part.drums, ratio, theme().dark};
        if (!(kept.key == now) || kept.picture.isNull()) {
            kept.key = now;
            kept.picture = QPixmap((rect.size() * ratio).toSize());
            kept.picture.setDevicePixelRatio(ratio);
            kept.picture.fill(Qt::transparent);
            QPainter to(&kept.picture);
            paintLane(to, QRectF(margin, margin, rect.width() - 2 * margin, rect.height() - 2 * margin),
                      digest.overview, digest.volume, range, part.drums, partColour(part.colour));
        }
        painter.drawPixmap(rect.topLeft(), kept.picture);
    }

  private:
    static constexpr double margin = 3; ///< for stones that stand out at the edges
    struct Key {
        std::uint64_t stamp = 0;
        QSizeF size;
        LaneRange range;
        int colour = 0;
        bool drums = false;
        double ratio = 0;
        bool dark = false;
        bool operator==(const Key&) const = default;
    };
    struct Kept {
        Key key;
        QPixmap picture;
    };
    std::map<PartId, Kept> m_kept;
};

namespace {

/// A part's row: name, what it asks for, its notes along the song, remarks.
class PartRow final : public QStyledItemDelegate {
  public:
    PartRow(Session& session, const LaneZoom* zoom, LanePictures& pictures, QObject* parent)
        : QStyledItemDelegate(parent), m_session(session), m_zoom(zoom), m_pictures(pictures) {}
    [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
        return {300, rowHeight};
    }

    void paint(QPainter* painter, const QStyleOptionViewItem& option,
               const QModelIndex& index) const override {
        const Part* part = m_session.song().part(index.data(PartsModel::IdRole).toInt());
        if (!part) return;
        const QRectF card = QRectF(option.rect).adjusted(0, 1, -2, -3);
        paintCard(*painter, card, part->id == m_session.selectedPart());
        painter->setPen(Qt::NoPen);
        painter->setBrush(partColour(part->colour));
        painter->setRenderHint(QPainter::Antialiasing);
        painter->drawRoundedRect(QRectF(card.left(), card.top() + 1, 6, card.height() - 2), 2.5, 2.5);
        const QRectF text(card.left() + 16, card.top() + 4, nameWidth - 22, card.height() - 8);
        paintText(*painter, QRectF(text.left(), text.top(), text.width(), 17),
                  QString::fromStdString(part->name), textFont(10, QFont::DemiBold), theme().ink);
        paintText(*painter, QRectF(text.left(), text.top() + 17, text.width(), 16),
                  asksText(m_session, part->id), textFont(9), theme().muted);
        const double right = paintPills(*painter, *part, card);
        const QRectF lane(card.left() + nameWidth, card.top() + 5, right - card.left() - nameWidth - 8,
                          card.height() - 10);
        m_pictures.paint(*painter, lane.adjusted(-3, -3, 3, 3), *part, m_session.digest(part->id),
                         m_zoom->range());
    }

    void updateEditorGeometry(QWidget* editor, const QStyleOptionViewItem& option,
                              const QModelIndex&) const override {
        editor->setGeometry(option.rect.left() + 10, option.rect.top() + 7, nameWidth + 20, 30);
    }

  private:
    /// Remarks from the right; gives where they begin.
    [[nodiscard]] double paintPills(QPainter& painter, const Part& part, const QRectF& card) const {
        double right = card.right() - 12;
        const Snag* weightiest = nullptr; // one remark a row; what changes the sound goes first
        for (const Snag& snag : m_session.snags())
            if (snag.part == part.id && (!weightiest || snag.serious || weightiest->step == Step::Parts))
                weightiest = &snag;
        if (weightiest)
            right = paintPill(painter, right, card.center().y(), QString::fromStdString(weightiest->pill),
                              weightiest->serious ? Tone::Wrong : Tone::Look)
                        .left() -
                    6;
        if (!m_session.digest(part.id).volume.empty())
            right = paintPill(painter, right, card.center().y(), tr("level moves"), Tone::Good).left() - 6;
        return std::min(right, card.right() - 190); // lanes of all rows keep one scale
    }
    Session& m_session;
    const LaneZoom* m_zoom;
    LanePictures& m_pictures;
};

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

FanPicture::FanPicture(Session& session, QListView* rows, PartsModel* model, QWidget* parent)
    : QWidget(parent), m_session(session), m_rows(rows), m_model(model) {
    setFixedWidth(fanWidth);
    setFocusPolicy(Qt::NoFocus); // the rows beside it reach the same parts by keyboard
    setAccessibleName(tr("The file as it came"));
    connect(rows->verticalScrollBar(), &QScrollBar::valueChanged, this, QOverload<>::of(&QWidget::update));
    connect(&session, &Session::songChanged, this, QOverload<>::of(&QWidget::update));
    connect(&session, &Session::selectionChanged, this, QOverload<>::of(&QWidget::update));
}

LaneZoom::LaneZoom(Session& session, QObject* parent) : QObject(parent), m_session(session) {
    connect(&session, &Session::setChanged, this, [this] {
        if (m_session.songIndex() != m_song) showAll();
        m_song = m_session.songIndex();
    });
}

LaneRange LaneZoom::range() const {
    const auto end = m_session.hasSong() ? static_cast<double>(std::max<Tick>(1, m_session.song().end)) : 1;
    const auto from = static_cast<Tick>(m_from * end);
    return {from, from + std::max<Tick>(1, static_cast<Tick>(m_share * end))};
}

void LaneZoom::zoom(double factor, double anchor) {
    const double narrowest = 1.0 / 512;
    const double share = std::clamp(m_share / factor, narrowest, 1.0);
    m_from = std::clamp(m_from + (m_share - share) * anchor, 0.0, 1 - share);
    m_share = share;
    Q_EMIT changed();
}

void LaneZoom::scroll(double screens) {
    m_from = std::clamp(m_from + screens * m_share, 0.0, 1 - m_share);
    Q_EMIT changed();
}

void LaneZoom::showAll() {
    m_from = 0;
    m_share = 1;
    Q_EMIT changed();
}

int FanPicture::Stone::notes() const {
    int sum = 0;
    for (const auto& [part, count] : parts) sum += count;
    return sum;
}

std::vector<FanPicture::Block> FanPicture::layoutBlocks() const {
    std::map<std::uint32_t, std::vector<Stone>> byTrack;
    std::size_t count = 0;
    for (const Part& part : m_session.song().parts) {
        if (part.aside) continue;
        for (const OriginCount& from : m_session.digest(part.id).origins) {
            if (from.notes == 0) continue;
            auto& stones = byTrack[from.origin.track];
            auto at = std::find_if(stones.begin(), stones.end(),
                                   [&](const Stone& s) { return s.origin == from.origin; });
            if (at == stones.end()) {
                ++count;
                at = stones.insert(stones.end(), Stone{from.origin, {}, {}});
            }
            at->parts.emplace_back(part.id, from.notes);
        }
    }
    const double heads = 36, gap = 8;
    const double wanted =
        static_cast<double>(count) * 21.5 + static_cast<double>(byTrack.size()) * (heads + gap + 8);
    const double scale =
        std::min(1.0, (height() - 8) / std::max(1.0, wanted)); // many tracks: everything closer
    // Blocks stand level with the middle of the rows that they fan out to.
    const double rowsHeight =
        std::min<double>(height(), static_cast<double>(m_model->rowCount()) * rowHeight);
    double y = std::max(2.0, (rowsHeight - wanted * scale) / 2);
    std::vector<Block> blocks;
    for (auto& [track, stones] : byTrack) {
        std::sort(stones.begin(), stones.end(), [](const Stone& a, const Stone& b) {
            return std::pair(a.origin.port, a.origin.channel) < std::pair(b.origin.port, b.origin.channel);
        });
        Block block{static_cast<int>(track),
                    QRectF(4, y, 122, (heads + 8 + static_cast<double>(stones.size()) * 21.5) * scale),
                    std::move(stones)};
        double stoneY = y + heads * scale;
        for (Stone& stone : block.stones) {
            stone.rect = QRectF(12, stoneY, 106, 18 * scale);
            stoneY += 21.5 * scale;
        }
        y = block.rect.bottom() + gap * scale;
        blocks.push_back(std::move(block));
    }
    return blocks;
}

void FanPicture::paintCurves(QPainter& painter, const std::vector<Block>& blocks) const {
    const Song& song = m_session.song();
    int most = 1;
    for (const Block& block : blocks)
        for (const Stone& stone : block.stones)
            for (const auto& [part, count] : stone.parts) most = std::max(most, count);
    for (const Block& block : blocks)
        for (const Stone& stone : block.stones)
            for (const auto& [id, count] : stone.parts) {
                const QRect row = m_rows->visualRect(m_model->indexOf(id));
                const double y =
                    std::clamp<double>(row.center().y() + m_rows->y() - this->y(), -20, height() + 20);
                const double share = static_cast<double>(count) / static_cast<double>(most);
                QColor colour = partColour(song.part(id)->colour);
                colour.setAlpha(id == m_session.selectedPart() ? 255 : 150);
                QPainterPath curve(QPointF(stone.rect.right() + 8, stone.rect.center().y()));
                curve.cubicTo(QPointF(fanWidth - 50, stone.rect.center().y()), QPointF(fanWidth - 46, y),
                              QPointF(fanWidth, y));
                painter.setBrush(Qt::NoBrush);
                painter.setPen(QPen(colour, 1.4 + 5 * std::sqrt(share), Qt::SolidLine, Qt::FlatCap));
                painter.drawPath(curve);
            }
}

void FanPicture::paintStone(QPainter& painter, const Stone& stone) const {
    const Song& song = m_session.song();
    const bool selected = std::any_of(stone.parts.begin(), stone.parts.end(),
                                      [&](const auto& p) { return p.first == m_session.selectedPart(); });
    const QColor ground = partColour(song.part(stone.parts.front().first)->colour);
    painter.setPen(selected ? QPen(theme().ink, 1.5) : QPen(Qt::NoPen));
    painter.setBrush(ground);
    painter.drawRoundedRect(stone.rect, stone.rect.height() / 2, stone.rect.height() / 2);
    if (stone.rect.height() < 11) return;
    const QColor ink = ground.lightness() > 125 ? QColor("#1B1A16") : QColor("#FFFFFF");
    const QFont font = textFont(stone.rect.height() < 15 ? 7.5 : 8.5, QFont::Medium);
    const int channel = stone.origin.channel.value + 1;
    paintText(painter, stone.rect.adjusted(9, 0, -6, 0),
              stone.origin.port ? tr("port %1 ch %2").arg(stone.origin.port + 1).arg(channel)
                                : tr("ch %1").arg(channel),
              font, ink);
    paintText(painter, stone.rect.adjusted(9, 0, -8, 0), QString::number(stone.notes()), font, ink,
              Qt::AlignRight | Qt::AlignVCenter);
}

void FanPicture::paintEvent(QPaintEvent*) {
    if (!m_session.hasSong()) return;
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Song& song = m_session.song();
    const auto blocks = layoutBlocks();
    paintCurves(painter, blocks);
    for (const Block& block : blocks) {
        painter.setPen(QPen(theme().line, 1));
        painter.setBrush(theme().stone);
        painter.drawRoundedRect(block.rect, 9, 9);
        const auto& track = song.source->midi.tracks[static_cast<std::size_t>(block.track)];
        QString name;
        for (const Event& event : track.events) {
            if (event.tick > 0) break; // names stand at the start
            if (!event.isMeta(meta::trackName)) continue;
            name = QString::fromStdString(toUtf8(song.source->midi.rawText(event), song.encoding));
            break;
        }
        const double room = block.stones.empty() ? 30 : block.stones.front().rect.top() - block.rect.top();
        if (room > 13)
            paintText(painter,
                      QRectF(block.rect.left() + 10, block.rect.top() + 3, 104,
                             name.isEmpty() || room < 28 ? room - 4 : 15),
                      tr("Track %1").arg(block.track + 1), textFont(9, QFont::DemiBold), theme().ink);
        if (room >= 28 && !name.isEmpty())
            paintText(painter, QRectF(block.rect.left() + 10, block.rect.top() + 17, 104, 15),
                      QStringLiteral("“%1”").arg(name), textFont(8.5), theme().muted);
        for (const Stone& stone : block.stones) paintStone(painter, stone);
    }
}

void FanPicture::selectFrom(const Stone& stone) {
    // Of several parts the next after the one that is selected.
    auto at = std::find_if(stone.parts.begin(), stone.parts.end(),
                           [&](const auto& p) { return p.first == m_session.selectedPart(); });
    at = at == stone.parts.end() || at + 1 == stone.parts.end() ? stone.parts.begin() : at + 1;
    m_session.selectPart(at->first);
}

void FanPicture::mousePressEvent(QMouseEvent* event) {
    if (!m_session.hasSong()) return;
    for (const Block& block : layoutBlocks())
        for (const Stone& stone : block.stones)
            if (stone.rect.contains(event->position())) return selectFrom(stone);
}

std::vector<SurfaceRow> FanPicture::surfaceRows() const {
    std::vector<SurfaceRow> rows;
    if (!m_session.hasSong()) return rows;
    for (const Block& block : layoutBlocks())
        for (const Stone& stone : block.stones) {
            QStringList names;
            bool selected = false;
            for (const auto& [id, count] : stone.parts) {
                names << QString::fromStdString(m_session.song().part(id)->name);
                selected = selected || id == m_session.selectedPart();
            }
            rows.push_back({tr("track %1, channel %2: %3")
                                .arg(block.track + 1)
                                .arg(stone.origin.channel.value + 1)
                                .arg(names.join(QStringLiteral(", "))),
                            tr("%1 notes").arg(stone.notes()), stone.rect.toRect(), selected});
        }
    return rows;
}

void FanPicture::activateSurfaceRow(int row) {
    for (const Block& block : layoutBlocks()) {
        if (row < static_cast<int>(block.stones.size()))
            return selectFrom(block.stones[static_cast<std::size_t>(row)]);
        row -= static_cast<int>(block.stones.size());
    }
}

PartsPage::PartsPage(Session& session, QWidget* parent)
    : QWidget(parent), m_session(session), m_model(new PartsModel(session, this)), m_rows(new QListView),
      m_zoom(new LaneZoom(session, this)), m_pictures(std::make_unique<LanePictures>()),
      m_events(new EventsView(session)), m_stack(new QStackedWidget),
      m_scroll(new QScrollBar(Qt::Horizontal)) {
    m_rows->setModel(m_model);
    m_rows->setItemDelegate(new PartRow(session, m_zoom, *m_pictures, m_rows));
    m_rows->setAccessibleName(tr("Parts"));
    m_rows->setObjectName(QStringLiteral("partRows"));
    m_rows->setEditTriggers(QAbstractItemView::EditKeyPressed | QAbstractItemView::DoubleClicked);
    m_rows->setDragDropMode(QAbstractItemView::InternalMove);
    m_rows->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
    m_rows->setUniformItemSizes(true);
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
    connect(m_zoom, &LaneZoom::changed, this, &PartsPage::refreshScroll);
    connect(m_scroll, &QScrollBar::valueChanged, this, [this](int value) {
        const LaneRange shown = m_zoom->range();
        const double width = static_cast<double>(shown.to - shown.from);
        const double end = static_cast<double>(m_session.song().end);
        m_zoom->scroll((value / 10000.0 * end - static_cast<double>(shown.from)) / width);
    });
    connect(&session, &Session::songChanged, this, &PartsPage::refresh);
    connect(&session, &Session::selectionChanged, this, &PartsPage::refresh);
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
    for (QPushButton* b : {rename, colour, up, down}) line->addWidget(b);
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
        const int row = m_model->indexOf(m_session.selectedPart()).row();
        m_session.edit(tr("Move part"), [id = m_session.selectedPart(), to = row + by](const Song& song) {
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
            m_session.edit(tr("Change colour"), [id = m_session.selectedPart(), i](const Song& song) {
                return edits::setColour(song, id, i);
            });
        });
    }
    colour->setMenu(menu);
    return facts;
}

void PartsPage::addActions(const QList<QAction*>& above, const QList<QAction*>& split,
                           const QList<QAction*>& shape) {
    const auto add = [this](QHBoxLayout* to, const QList<QAction*>& actions, int points) {
        for (QAction* action : actions) to->addWidget(actionButton(action, points));
    };
    add(m_above, above, 0);
    add(m_splitLine, split, 9);
    add(m_shapeLine, shape, 9);
}

void PartsPage::renameSelected() {
    showEvents(false);
    const QModelIndex index = m_model->indexOf(m_session.selectedPart());
    if (index.isValid()) m_rows->edit(index);
}

void PartsPage::showEvents(bool show) {
    m_stack->setCurrentIndex(show ? 1 : 0);
    if (!show && isVisible()) m_rows->setFocus();
}

bool PartsPage::showsEvents() const { return m_stack->currentIndex() == 1; }

void PartsPage::refreshScroll() {
    const LaneRange shown = m_zoom->range();
    const double end = m_session.hasSong() ? static_cast<double>(std::max<Tick>(1, m_session.song().end)) : 1;
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
    const double lanes = m_rows->viewport()->width() - nameWidth - 190.0;
    const double turn = wheel->angleDelta().y() / 120.0;
    if (wheel->modifiers() & Qt::ControlModifier) {
        m_zoom->zoom(std::pow(1.25, turn), std::clamp((wheel->position().x() - nameWidth) / lanes, 0.0, 1.0));
        return true;
    }
    const bool sideways = (wheel->modifiers() & Qt::ShiftModifier) != 0;
    if (!sideways && wheel->angleDelta().x() == 0) return QWidget::eventFilter(watched, event);
    m_zoom->scroll(-(sideways ? turn : wheel->angleDelta().x() / 120.0) / 8);
    return true;
}

void PartsPage::refreshHeading() {
    if (!m_session.hasSong()) return;
    const Song& song = m_session.song();
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
    if (!m_session.hasSong()) return;
    const Song& song = m_session.song();
    const Part* part = m_session.part();
    if (!part) return;
    const PartFacts facts = factsOf(song, *part);
    m_name->setText(QString::fromStdString(part->name));
    QStringList said = {facts.notes == 1 ? tr("one note") : tr("%1 notes").arg(facts.notes)};
    if (facts.notes)
        said << QStringLiteral("%1–%2").arg(QString::fromStdString(keyName(facts.lowest)),
                                            QString::fromStdString(keyName(facts.highest)));
    said << (part->port ? tr("port %1 channel %2").arg(part->port + 1).arg(part->channel.value + 1)
                        : tr("channel %1").arg(part->channel.value + 1));
    said << (facts.programs.size() == 1 ? tr("1 program") : tr("%1 programs").arg(facts.programs.size()));
    said << (facts.controllers.size() == 1 ? tr("1 controller")
                                           : tr("%1 controllers").arg(facts.controllers.size()));
    if (part->drums) said << tr("drums");
    if (part->semitones) said << tr("moved by %1").arg(part->semitones);
    if (!part->followsPrograms && !part->chosen) said << tr("sound fixed");
    m_facts->setText(said.join(QStringLiteral(" · ")));
}

} // namespace cobbleway
