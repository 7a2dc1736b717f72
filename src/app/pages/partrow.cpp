#include "app/pages/partrow.h"

#include "app/look/sentence.h"
#include "app/look/theme.h"
#include "app/pages/partsmodel.h"
#include "app/widgets/painting.h"

#include <QPainter>
#include <algorithm>

namespace cobbleway {

void LanePictures::paint(QPainter& painter, const QRectF& rect, const Part& part,
                         const Derived::Kept<Overview>& notes,
                         const Derived::Kept<std::vector<ControlPoint>>& volume, LaneRange range) {
    const double ratio = painter.device()->devicePixelRatioF();
    Kept& kept = m_kept[part.id];
    const Key now{notes, volume, rect.size(), range, part.colour, part.source.drums, ratio, theme().revision};
    if (!(kept.key == now) || kept.picture.isNull()) {
        kept.key = now;
        kept.picture = QPixmap((rect.size() * ratio).toSize());
        kept.picture.setDevicePixelRatio(ratio);
        kept.picture.fill(Qt::transparent);
        QPainter to(&kept.picture);
        paintLane(to, QRectF(margin, margin, rect.width() - 2 * margin, rect.height() - 2 * margin), *notes,
                  *volume, range, part.source.drums, partColour(part.colour));
    }
    painter.drawPixmap(rect.topLeft(), kept.picture);
}

void PartRow::paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const {
    const Part* part = m_session.current.song().part(index.data(PartsModel::IdRole).toInt());
    if (!part) return;
    const Mirrored mirrored(*painter, option.rect, option.direction);
    const QRectF card = QRectF(option.rect).adjusted(0, 1, -2, -3);
    paintCard(*painter, card, part->id == m_session.current.selectedPart());
    painter->setPen(Qt::NoPen);
    painter->setBrush(partColour(part->colour));
    painter->setRenderHint(QPainter::Antialiasing);
    painter->drawRoundedRect(QRectF(card.left(), card.top() + 1, 6, card.height() - 2), 2.5, 2.5);
    const QRectF text(card.left() + 16, card.top() + 4, partNameWidth - 22, card.height() - 8);
    paintText(*painter, QRectF(text.left(), text.top(), text.width(), 17), QString::fromStdString(part->name),
              textFont(10, QFont::DemiBold), theme().ink);
    paintText(*painter, QRectF(text.left(), text.top() + 17, text.width(), 16), asksText(m_session, part->id),
              textFont(9), theme().muted);
    const double right = paintPills(*painter, *part, card);
    const QRectF lane(card.left() + partNameWidth, card.top() + 5, right - card.left() - partNameWidth - 8,
                      card.height() - 10);
    const Upright upright(*painter, lane.adjusted(-3, -3, 3, 3));
    m_pictures.paint(*painter, upright.rect(), *part, m_session.findings.overview(part->id),
                     m_session.findings.volume(part->id), m_zoom->range());
}

void PartRow::updateEditorGeometry(QWidget* editor, const QStyleOptionViewItem& option,
                                   const QModelIndex&) const {
    const QRect name(option.rect.left() + 10, option.rect.top() + 7, partNameWidth + 20, 30);
    editor->setGeometry(QStyle::visualRect(option.direction, option.rect, name));
}

double PartRow::paintPills(QPainter& painter, const Part& part, const QRectF& card) const {
    double right = card.right() - 12;
    const Snag* weightiest = nullptr; // one remark a row; what changes the sound goes first
    for (const Snag& snag : m_session.findings.snags())
        if (snag.asked && snag.part == part.id &&
            (!weightiest || snag.serious || weightiest->step == Step::Parts))
            weightiest = &snag;
    if (weightiest)
        right = paintPill(painter, right, card.center().y(), sentence(weightiest->pill),
                          weightiest->serious ? Tone::Wrong : Tone::Look)
                    .left() -
                6;
    if (!m_session.findings.volume(part.id)->empty())
        right = paintPill(painter, right, card.center().y(), tr("level moves"), Tone::Good).left() - 6;
    return std::min(right, card.right() - 190); // lanes of all rows keep one scale
}

} // namespace cobbleway
