/// Lines of text that are cut and laid out once for many paintings.
#pragma once
#include <QFont>
#include <QStaticText>
#include <QString>

class QPainter;

namespace cobbleway {

/// `text` in one line, cut with "…" to `width` (in the painter's units), laid out for the painter's
/// direction. Kept for the next time, the last two thousand of them: letters take longer to lay out than to
/// draw, and rows of a list say the same again and again. For the thread of the interface.
const QStaticText& laidText(const QPainter& painter, const QString& text, const QFont& font, double width);

} // namespace cobbleway
