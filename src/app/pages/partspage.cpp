#include "app/pages/partspage.h"

#include "app/look/theme.h"
#include "app/session/session.h"
#include "app/widgets/painting.h"
#include "app/widgets/small.h"
#include "midi/gm.h"
#include "midi/text.h"
#include "song/edits.h"
#include "song/levels.h"

#include <QAbstractItemDelegate>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QScrollBar>
#include <QStyledItemDelegate>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>
#include <map>

namespace cobbleway {
namespace {

constexpr int rowHeight = 45, nameWidth = 216, fanWidth = 214;

/// A part's row: name, what it asks for, its notes along the song, remarks.
class PartRow final : public QStyledItemDelegate {
  public:
    PartRow(Session& session, QObject* parent) : QStyledItemDelegate(parent), m_session(session) {}
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
        paintLane(*painter, lane, m_session.line(part->id), m_session.song().end, part->drums,
                  partColour(part->colour));
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
        if (volumeMoves(m_session.song(), part))
            right = paintPill(painter, right, card.center().y(), tr("level moves"), Tone::Good).left() - 6;
        return std::min(right, card.right() - 190); // lanes of all rows keep one scale
    }
    Session& m_session;
};

QString countsText(const Song& song) {
    const auto tracks = song.source->midi.tracks.size();
    std::set<std::pair<int, int>> channels;
    for (const Part& part : song.parts) channels.insert({part.port, part.channel.value});
    return QObject::tr("%1, %2").arg(
        tracks == 1 ? QObject::tr("1 track") : QObject::tr("%1 tracks").arg(tracks),
        channels.size() == 1 ? QObject::tr("1 channel") : QObject::tr("%1 channels").arg(channels.size()));
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

std::vector<FanPicture::Block> FanPicture::layoutBlocks() const {
    std::map<int, std::vector<PartId>> byTrack;
    for (const Part& part : m_session.song().parts)
        if (!part.aside) byTrack[part.track].push_back(part.id);
    std::size_t count = 0;
    for (const auto& [track, parts] : byTrack) count += parts.size();
    const double heads = 36, gap = 8;
    const double wanted =
        static_cast<double>(count) * 21.5 + static_cast<double>(byTrack.size()) * (heads + gap + 8);
    const double scale =
        std::min(1.0, (height() - 8) / std::max(1.0, wanted)); // many tracks: everything closer
    // Blocks stand level with the middle of the rows that they fan out to.
    const double rowsHeight = std::min<double>(height(), static_cast<double>(count) * rowHeight);
    double y = std::max(2.0, (rowsHeight - wanted * scale) / 2);
    std::vector<Block> blocks;
    for (auto& [track, parts] : byTrack) {
        std::sort(parts.begin(), parts.end(), [&](PartId a, PartId b) {
            return m_session.song().part(a)->channel < m_session.song().part(b)->channel;
        });
        Block block{
            track, QRectF(4, y, 122, (heads + 8 + static_cast<double>(parts.size()) * 21.5) * scale), {}};
        double stoneY = y + heads * scale;
        for (const PartId part : parts) {
            block.stones.push_back({part, QRectF(12, stoneY, 106, 18 * scale)});
            stoneY += 21.5 * scale;
        }
        y = block.rect.bottom() + gap * scale;
        blocks.push_back(std::move(block));
    }
    return blocks;
}

void FanPicture::paintEvent(QPaintEvent*) {
    if (!m_session.hasSong()) return;
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Song& song = m_session.song();
    const auto blocks = layoutBlocks();
    std::size_t most = 1;
    for (const Part& part : song.parts) most = std::max(most, m_session.line(part.id).notes.size());
    for (const Block& block : blocks)
        for (const Stone& stone : block.stones) {
            const QRect row = m_rows->visualRect(m_model->indexOf(stone.part));
            const double y =
                std::clamp<double>(row.center().y() + m_rows->y() - this->y(), -20, height() + 20);
            const double share =
                static_cast<double>(m_session.line(stone.part).notes.size()) / static_cast<double>(most);
            QColor colour = partColour(song.part(stone.part)->colour);
            colour.setAlpha(stone.part == m_session.selectedPart() ? 255 : 150);
            QPainterPath curve(QPointF(stone.rect.right() + 8, stone.rect.center().y()));
            curve.cubicTo(QPointF(fanWidth - 50, stone.rect.center().y()), QPointF(fanWidth - 46, y),
                          QPointF(fanWidth, y));
            painter.setBrush(Qt::NoBrush);
            painter.setPen(QPen(colour, 1.4 + 5 * std::sqrt(share), Qt::SolidLine, Qt::FlatCap));
            painter.drawPath(curve);
        }
    for (const Block& block : blocks) {
        painter.setPen(QPen(theme().line, 1));
        painter.setBrush(theme().stone);
        painter.drawRoundedRect(block.rect, 9, 9);
        const auto& track = song.source->midi.tracks[static_cast<std::size_t>(block.track)];
        QString name;
        for (const Event& event : track.events)
            if (event.isMeta(meta::trackName)) {
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
        for (const Stone& stone : block.stones) {
            const Part& part = *song.part(stone.part);
            painter.setPen(stone.part == m_session.selectedPart() ? QPen(theme().ink, 1.5) : QPen(Qt::NoPen));
            painter.setBrush(partColour(part.colour));
            painter.drawRoundedRect(stone.rect, stone.rect.height() / 2, stone.rect.height() / 2);
            if (stone.rect.height() < 11) continue;
            const QColor ink =
                partColour(part.colour).lightness() > 125 ? QColor("#1B1A16") : QColor("#FFFFFF");
            const QFont font = textFont(stone.rect.height() < 15 ? 7.5 : 8.5, QFont::Medium);
            const QString channel = part.port
                                        ? tr("port %1 ch %2").arg(part.port + 1).arg(part.channel.value + 1)
                                        : tr("ch %1").arg(part.channel.value + 1);
            paintText(painter, stone.rect.adjusted(9, 0, -6, 0), channel, font, ink);
            paintText(painter, stone.rect.adjusted(9, 0, -8, 0),
                      QString::number(m_session.line(part.id).notes.size()), font, ink,
                      Qt::AlignRight | Qt::AlignVCenter);
        }
    }
}

void FanPicture::mousePressEvent(QMouseEvent* event) {
    if (!m_session.hasSong()) return;
    for (const Block& block : layoutBlocks())
        for (const Stone& stone : block.stones)
            if (stone.rect.contains(event->position())) m_session.selectPart(stone.part);
}

std::vector<SurfaceRow> FanPicture::surfaceRows() const {
    std::vector<SurfaceRow> rows;
    if (!m_session.hasSong()) return rows;
    for (const Block& block : layoutBlocks())
        for (const Stone& stone : block.stones) {
            const Part& part = *m_session.song().part(stone.part);
            rows.push_back({tr("track %1, channel %2: %3")
                                .arg(block.track + 1)
                                .arg(part.channel.value + 1)
                                .arg(QString::fromStdString(part.name)),
                            tr("%1 notes").arg(m_session.line(part.id).notes.size()), stone.rect.toRect(),
                            part.id == m_session.selectedPart()});
        }
    return rows;
}

void FanPicture::activateSurfaceRow(int row) {
    for (const Block& block : layoutBlocks()) {
        if (row < static_cast<int>(block.stones.size()))
            return m_session.selectPart(block.stones[static_cast<std::size_t>(row)].part);
        row -= static_cast<int>(block.stones.size());
    }
}

PartsPage::PartsPage(Session& session, QWidget* parent)
    : QWidget(parent), m_session(session), m_model(new PartsModel(session, this)), m_rows(new QListView) {
    m_rows->setModel(m_model);
    m_rows->setItemDelegate(new PartRow(session, m_rows));
    m_rows->setAccessibleName(tr("Parts"));
    m_rows->setObjectName(QStringLiteral("partRows"));
    m_rows->setEditTriggers(QAbstractItemView::EditKeyPressed | QAbstractItemView::DoubleClicked);
    m_rows->setDragDropMode(QAbstractItemView::InternalMove);
    m_rows->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
    m_rows->setUniformItemSizes(true);
    m_fan = new FanPicture(session, m_rows, m_model);

    m_came = mutedLabel();
    m_came->setWordWrap(false);
    m_came->setFont(textFont(9));
    m_asParts = mutedLabel();
    auto* top = new QHBoxLayout;
    top->setSpacing(8);
    auto* left = new QHBoxLayout;
    left->addWidget(titleLabel(tr("As it came")));
    left->addWidget(m_came, 1);
    auto* leftBox = new QWidget;
    leftBox->setLayout(left);
    left->setContentsMargins(0, 0, 0, 0);
    leftBox->setFixedSize(fanWidth - 8, 29);
    top->addWidget(leftBox);
    top->addWidget(titleLabel(tr("As parts")));
    top->addWidget(m_asParts, 1);
    auto* middle = new QHBoxLayout;
    middle->setSpacing(0);
    middle->addWidget(m_fan);
    middle->addWidget(m_rows, 1);

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

    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 12, 12, 12);
    layout->setSpacing(8);
    layout->addLayout(top);
    layout->addLayout(middle, 1);
    layout->addWidget(facts);
    followSelection(m_rows, m_model, session);
    connect(&session, &Session::songChanged, this, &PartsPage::refresh);
    connect(&session, &Session::selectionChanged, this, &PartsPage::refresh);
    refresh();
}

void PartsPage::renameSelected() {
    const QModelIndex index = m_model->indexOf(m_session.selectedPart());
    if (index.isValid()) m_rows->edit(index);
}

void PartsPage::refresh() {
    if (!m_session.hasSong()) return;
    const Song& song = m_session.song();
    const auto aside =
        std::count_if(song.parts.begin(), song.parts.end(), [](const Part& p) { return p.aside; });
    m_came->setText(countsText(song));
    m_asParts->setText((m_model->rowCount() == 1 ? tr("one part") : tr("%1 parts").arg(m_model->rowCount())) +
                       (aside ? tr(" · %1 empty, set aside").arg(aside) : QString()));
    const Part* part = m_session.part();
    if (!part) return;
    const PartFacts facts = factsOf(song, *part);
    m_name->setText(QString::fromStdString(part->name));
    QStringList said = {facts.notes == 1 ? tr("one note") : tr("%1 notes").arg(facts.notes)};
    if (facts.notes)
        said << QStringLiteral("%1–%2").arg(QString::fromStdString(keyName(facts.lowest)),
                                            QString::fromStdString(keyName(facts.highest)));
    said << tr("channel %1").arg(part->channel.value + 1);
    said << (facts.programs.size() == 1 ? tr("1 program") : tr("%1 programs").arg(facts.programs.size()));
    said << (facts.controllers.size() == 1 ? tr("1 controller")
                                           : tr("%1 controllers").arg(facts.controllers.size()));
    if (part->drums) said << tr("drums");
    m_facts->setText(said.join(QStringLiteral(" · ")));
}

} // namespace cobbleway
