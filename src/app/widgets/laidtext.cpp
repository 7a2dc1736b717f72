#include "app/widgets/laidtext.h"

#include <QCache>
#include <QFontMetricsF>
#include <QPainter>
#include <QTextOption>

namespace cobbleway {
namespace {

struct Line {
    QString text;
    QFont font;
    double width;
    Qt::LayoutDirection direction;
    bool operator==(const Line&) const = default;
};

std::size_t qHash(const Line& line, std::size_t seed) {
    return qHashMulti(seed, line.text, line.font, line.width, static_cast<int>(line.direction));
}

QStaticText* layOut(const Line& line) {
    auto* laid = new QStaticText(QFontMetricsF(line.font).elidedText(line.text, Qt::ElideRight, line.width));
    laid->setTextFormat(Qt::PlainText);
    laid->setPerformanceHint(QStaticText::AggressiveCaching);
    QTextOption option;
    option.setTextDirection(line.direction);
    option.setWrapMode(QTextOption::NoWrap);
    laid->setTextOption(option);
    laid->prepare({}, line.font);
    return laid;
}

} // namespace

const QStaticText& laidText(const QPainter& painter, const QString& text, const QFont& font, double width) {
    constexpr int most = 2000;
    static QCache<Line, QStaticText> kept(most);
    const Line line{text, font, width, painter.layoutDirection()};
    if (const QStaticText* laid = kept.object(line)) return *laid;
    auto* laid = layOut(line);
    kept.insert(line, laid);
    return *laid;
}

} // namespace cobbleway
