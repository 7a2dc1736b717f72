#include "app/pages/drumrow.h"

#include "app/look/theme.h"
#include "app/widgets/painting.h"

#include <QPainter>
#include <algorithm>
#include <cmath>

namespace cobbleway {
namespace {

constexpr int rowHeight = 40;

double meanOf(const DrumHits::Velocities& velocities) {
    double sum = 0, count = 0;
    for (std::size_t v = 1; v < 128; ++v) {
        sum += static_cast<double>(v) * velocities[v];
        count += velocities[v];
    }
    return count > 0 ? sum / count : 0;
}

} // namespace

DrumColumns::DrumColumns(const QRectF& row) {
    const double loudWidth = 118, hitsWidth = 48, linkWidth = 26;
    const double rest = row.width() - 14 - 38 - loudWidth - hitsWidth - linkWidth - 30;
    const double nameWidth = rest * 0.27, playsWidth = rest * 0.30;
    double x = row.left() + 14;
    const auto take = [&](double width, double gap) {
        const QRectF rect(x, row.top(), width, row.height());
        x += width + gap;
        return rect;
    };
    key = take(34, 4);
    name = take(nameWidth, 8);
    print = take(rest - nameWidth - playsWidth - 8, 4);
    link = take(linkWidth, 2);
    plays = take(playsWidth, 6);
    hits = take(hitsWidth, 12);
    loudness = take(loudWidth, 0);
}

QSize DrumRow::sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const { return {400, rowHeight}; }

void DrumRow::updateEditorGeometry(QWidget* editor, const QStyleOptionViewItem& option,
                                   const QModelIndex&) const {
    const QRect name = DrumColumns(QRectF(option.rect)).name.adjusted(-6, 4, 6, -6).toRect();
    editor->setGeometry(QStyle::visualRect(option.direction, option.rect, name));
}

void DrumRow::paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const {
    const DrumNote* note = m_model->note(index);
    if (!note || !m_model->view()) return;
    const Mirrored mirrored(*painter, option.rect, option.direction);
    painter->setRenderHint(QPainter::Antialiasing);
    const QRectF row = QRectF(option.rect).adjusted(0, 1, -2, -4);
    const bool selected = option.state & QStyle::State_Selected;
    const bool silent = note->silent > 0;
    paintCard(*painter, row, selected);
    if (silent) {
        painter->setPen(QPen(theme().brick, 1.2));
        painter->setBrush(Qt::NoBrush);
        painter->drawRoundedRect(row.adjusted(0.5, 0.5, -0.5, -0.5), 8, 8);
    }
    if (option.state & QStyle::State_HasFocus) {
        painter->setPen(QPen(theme().action, 1.5));
        painter->setBrush(Qt::NoBrush);
        painter->drawRoundedRect(row.adjusted(1.5, 1.5, -1.5, -1.5), 7, 7);
    }
    const DrumColumns columns(row);
    const QColor ink = note->off || note->hits == 0 ? theme().muted : theme().ink;
    paintText(*painter, columns.key, QString::number(note->key.value), textFont(10, QFont::DemiBold), ink);
    QFont nameFont = textFont(10, QFont::DemiBold);
    nameFont.setStrikeOut(note->off);
    nameFont.setItalic(note->from == NameFrom::Person);
    paintText(*painter, columns.name, QString::fromStdString(note->name), nameFont, ink);
    {
        const Upright upright(*painter, columns.print);
        paintPrint(*painter, upright.rect(), *note);
    }
    const double middle = row.center().y();
    painter->setPen(
        QPen(silent ? theme().brick : theme().muted, 1.6, silent || note->off ? Qt::DotLine : Qt::SolidLine));
    painter->drawLine(QPointF(columns.link.left() + 4, middle), QPointF(columns.link.right() - 4, middle));
    const QRectF plays = columns.plays.adjusted(0, 6, 0, -6);
    painter->setPen(Qt::NoPen);
    painter->setBrush(silent ? theme().brickGround : (selected ? theme().panel : theme().ground));
    painter->drawRoundedRect(plays, 6, 6);
    const QString target =
        note->off ? tr("left out")
        : silent && note->silent == note->hits
            ? tr("no sound in this kit")
            : QStringLiteral("%1 %2").arg(note->plays.value).arg(QString::fromStdString(note->playsName));
    const bool moved = note->plays != note->key;
    paintText(*painter, plays.adjusted(9, 0, -6, 0), target,
              textFont(9.5, moved ? QFont::DemiBold : QFont::Normal), silent ? theme().brick : ink);
    paintText(*painter, columns.hits, QString::number(note->hits), textFont(10), ink,
              Qt::AlignRight | Qt::AlignVCenter);
    paintLoudness(*painter, columns.loudness, *note);
}

void DrumRow::paintPrint(QPainter& painter, const QRectF& rect, const DrumNote& note) const {
    const auto& prints = m_model->prints();
    if (!prints) return;
    const auto& slots = prints->keys[note.key.value & 0x7FU];
    const std::size_t count = prints->slots();
    if (count == 0) return;
    const double step = rect.width() / static_cast<double>(count), middle = rect.center().y();
    const double most = std::min(step * 0.5, 9.0);
    QColor colour = note.silent > 0 ? theme().brick : theme().action;
    colour.setAlpha(205);
    painter.setPen(Qt::NoPen);
    for (std::size_t i = 0; i < count; ++i) {
        const double x = rect.left() + (static_cast<double>(i) + 0.5) * step;
        const double weight = slots.empty() ? 0 : slots[i] / m_model->strongest();
        const bool beat = i % static_cast<std::size_t>(prints->perBeat) == 0;
        painter.setBrush(theme().line);
        const double dot = beat ? 2.2 : 1.1;
        painter.drawEllipse(QPointF(x, middle), dot, dot);
        if (weight <= 0) continue;
        const double radius = std::max(1.8, most * std::sqrt(std::min(1.0, weight)));
        painter.setBrush(colour);
        painter.drawEllipse(QPointF(x, middle), radius, radius);
    }
}

void DrumRow::paintLoudness(QPainter& painter, const QRectF& rect, const DrumNote& note) const {
    const auto& hits = *m_model->view()->hits;
    const double before = meanOf(hits.before[note.key.value & 0x7FU]);
    const double after = meanOf(hits.after[note.key.value & 0x7FU]);
    const QRectF bar(rect.left(), rect.center().y() - 3, rect.width() - 40, 6);
    const auto part = [&](double from, double to, const QColor& colour) {
        painter.setBrush(colour);
        painter.drawRoundedRect(QRectF(bar.left() + bar.width() * from / 127, bar.top(),
                                       std::max(0.0, bar.width() * (to - from) / 127), bar.height()),
                                3, 3);
    };
    painter.setPen(Qt::NoPen);
    part(0, 127, theme().stone);
    if (before > after) part(0, before, theme().ochre);
    part(0, after, theme().moss);
    const QString trim = note.trim.offset == 0
                             ? QString()
                             : (note.trim.offset < 0 ? QStringLiteral("−%1") : QStringLiteral("+%1"))
                                   .arg(std::abs(note.trim.offset));
    paintText(painter, QRectF(bar.right() + 4, rect.top(), 34, rect.height()), trim, textFont(9),
              theme().muted, Qt::AlignRight | Qt::AlignVCenter);
}

DrumHeading::DrumHeading(QWidget* parent) : QWidget(parent) { setFixedHeight(18); }

void DrumHeading::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    const Mirrored mirrored(painter, rect(), layoutDirection());
    const DrumColumns columns(QRectF(rect()).adjusted(0, 0, -2, 0));
    const auto say = [&](const QRectF& at, const QString& text, Qt::Alignment side = Qt::AlignLeft) {
        paintText(painter, at, text, textFont(9), theme().muted, side | Qt::AlignVCenter);
    };
    say(columns.key, tr("Note"));
    say(columns.name, tr("Called"));
    say(columns.print, tr("Where in the bar"));
    say(columns.plays.adjusted(9, 0, 0, 0), tr("Plays key"));
    say(columns.hits, tr("Hits"), Qt::AlignRight);
    say(columns.loudness, tr("Loudness"));
}

} // namespace cobbleway
