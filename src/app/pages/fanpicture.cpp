#include "app/pages/fanpicture.h"

#include "app/look/theme.h"
#include "app/pages/partrow.h"
#include "app/pages/partsmodel.h"
#include "app/session/session.h"
#include "app/widgets/painting.h"
#include "midi/text.h"

#include <QListView>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QScrollBar>
#include <algorithm>
#include <cmath>
#include <map>

namespace cobbleway {

FanPicture::FanPicture(Uses<uses::Set, uses::Findings> session, QListView* rows, PartsModel* model,
                       QWidget* parent)
    : QWidget(parent), m_session(session), m_rows(rows), m_model(model) {
    setFixedWidth(fanWidth);
    setFocusPolicy(Qt::NoFocus); // the rows beside it reach the same parts by keyboard
    setAccessibleName(tr("The file as it came"));
    connect(rows->verticalScrollBar(), &QScrollBar::valueChanged, this, QOverload<>::of(&QWidget::update));
    follow(session.current, Side::Names | Side::Notes, this, QOverload<>::of(&QWidget::update));
    connect(&session.current, &CurrentSet::selectionChanged, this, QOverload<>::of(&QWidget::update));
}

int FanPicture::Stone::notes() const {
    int sum = 0;
    for (const auto& [part, count] : parts) sum += count;
    return sum;
}

std::vector<FanPicture::Block> FanPicture::layoutBlocks() const {
    std::map<std::uint32_t, std::vector<Stone>> byTrack;
    std::size_t count = 0;
    for (const Part& part : m_session.current.song().parts) {
        if (part.aside) continue;
        const auto origins = m_session.findings.origins(part.id);
        for (const OriginCount& from : *origins) {
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
        std::min<double>(height(), static_cast<double>(m_model->rowCount()) * partRowHeight);
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
    const Song& song = m_session.current.song();
    const bool many = song.parts.size() > 200; // then only what leads to rows in sight is drawn
    int most = 1;
    for (const Block& block : blocks)
        for (const Stone& stone : block.stones)
            for (const auto& [part, count] : stone.parts) most = std::max(most, count);
    for (const Block& block : blocks)
        for (const Stone& stone : block.stones)
            for (const auto& [id, count] : stone.parts) {
                const QRect row = m_rows->visualRect(m_model->indexOf(id));
                const double middle = row.center().y() + m_rows->y() - this->y();
                if (many && (middle < -20 || middle > height() + 20)) continue;
                const double y = std::clamp<double>(middle, -20, height() + 20);
                const double share = static_cast<double>(count) / static_cast<double>(most);
                QColor colour = partColour(song.part(id)->colour);
                colour.setAlpha(id == m_session.current.selectedPart() ? 255 : 150);
                QPainterPath curve(QPointF(stone.rect.right() + 8, stone.rect.center().y()));
                curve.cubicTo(QPointF(fanWidth - 50, stone.rect.center().y()), QPointF(fanWidth - 46, y),
                              QPointF(fanWidth, y));
                painter.setBrush(Qt::NoBrush);
                painter.setPen(QPen(colour, 1.4 + 5 * std::sqrt(share), Qt::SolidLine, Qt::FlatCap));
                painter.drawPath(curve);
            }
}

void FanPicture::paintStone(QPainter& painter, const Stone& stone) const {
    const Song& song = m_session.current.song();
    const bool selected = std::any_of(stone.parts.begin(), stone.parts.end(), [&](const auto& p) {
        return p.first == m_session.current.selectedPart();
    });
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
    if (!m_session.current.hasSong()) return;
    QPainter painter(this);
    const Mirrored mirrored(painter, rect(), layoutDirection());
    painter.setRenderHint(QPainter::Antialiasing);
    const Song& song = m_session.current.song();
    const auto blocks = layoutBlocks();
    paintCurves(painter, blocks);
    double painted = -1; // down to here
    for (const Block& block : blocks) {
        if (block.rect.bottom() < painted + 0.5) continue; // of thousands of tracks many share a pixel
        painted = block.rect.bottom();
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
                           [&](const auto& p) { return p.first == m_session.current.selectedPart(); });
    at = at == stone.parts.end() || at + 1 == stone.parts.end() ? stone.parts.begin() : at + 1;
    m_session.current.selectPart(at->first);
}

QRect FanPicture::shownRect(const Stone& stone) const {
    return QStyle::visualRect(layoutDirection(), rect(), stone.rect.toRect());
}

void FanPicture::mousePressEvent(QMouseEvent* event) {
    if (!m_session.current.hasSong()) return;
    for (const Block& block : layoutBlocks())
        for (const Stone& stone : block.stones)
            if (shownRect(stone).contains(event->position().toPoint())) return selectFrom(stone);
}

std::vector<SurfaceRow> FanPicture::surfaceRows() const {
    std::vector<SurfaceRow> rows;
    if (!m_session.current.hasSong()) return rows;
    for (const Block& block : layoutBlocks())
        for (const Stone& stone : block.stones) {
            QStringList names;
            bool selected = false;
            for (const auto& [id, count] : stone.parts) {
                names << QString::fromStdString(m_session.current.song().part(id)->name);
                selected = selected || id == m_session.current.selectedPart();
            }
            rows.push_back({tr("track %1, channel %2: %3")
                                .arg(block.track + 1)
                                .arg(stone.origin.channel.value + 1)
                                .arg(names.join(QStringLiteral(", "))),
                            tr("%1 notes").arg(stone.notes()), shownRect(stone), selected});
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

} // namespace cobbleway
