#include "app/widgets/wordsstrip.h"

#include "app/look/theme.h"
#include "app/widgets/painting.h"

#include <QPainter>
#include <algorithm>
#include <cmath>

namespace cobbleway {

WordsStrip::WordsStrip(double points, double nextPoints, QWidget* parent)
    : QWidget(parent), m_points(points), m_nextPoints(nextPoints) {
    const int height = QFontMetrics(textFont(points, QFont::DemiBold)).height() +
                       QFontMetrics(textFont(nextPoints)).height() + 6;
    setFixedHeight(height);
    hide();
}

void WordsStrip::setLines(std::vector<LyricLine> lines) {
    m_lines = std::move(lines);
    std::erase_if(m_lines, [](const LyricLine& line) { return line.text.empty(); });
    m_line = m_lit = 0;
    setVisible(!m_lines.empty());
    setAccessibleName(line());
    update();
}

void WordsStrip::follow(Tick place) {
    if (m_lines.empty()) return;
    const auto next = std::upper_bound(m_lines.begin(), m_lines.end(), place,
                                       [](Tick t, const LyricLine& line) { return t < line.start; });
    // Before a line begins it is already shown, so that one can breathe.
    const auto line = next == m_lines.begin() ? next : next - 1;
    const auto begun = std::upper_bound(line->syllables.begin(), line->syllables.end(), place,
                                        [](Tick t, const Syllable& s) { return t < s.tick; });
    const auto at = static_cast<std::size_t>(line - m_lines.begin());
    const auto lit = static_cast<std::size_t>(begun - line->syllables.begin());
    if (at == m_line && lit == m_lit) return;
    if (at != m_line) setAccessibleName(text(at));
    m_line = at;
    m_lit = lit;
    update();
}

QString WordsStrip::text(std::size_t line) const {
    return line < m_lines.size() ? QString::fromStdString(m_lines[line].text) : QString();
}

QString WordsStrip::litSyllable() const {
    return m_line < m_lines.size() && m_lit > 0
               ? QString::fromStdString(m_lines[m_line].syllables[m_lit - 1].text).trimmed()
               : QString();
}

void WordsStrip::paintEvent(QPaintEvent*) {
    if (m_lines.empty()) return;
    QPainter painter(this);
    const QFont strong = textFont(m_points, QFont::DemiBold), plain = textFont(m_nextPoints);
    const QFontMetricsF metrics(strong);
    const auto& syllables = m_lines[m_line].syllables;
    std::vector<QString> texts;
    double width = 0;
    for (const Syllable& syllable : syllables) {
        QString text = QString::fromStdString(syllable.text);
        if (texts.empty() && text.startsWith(QLatin1Char(' '))) text.remove(0, 1);
        texts.push_back(text);
        width += metrics.horizontalAdvance(texts.back());
    }
    // A line that is too long is moved so that what is sung stays in sight.
    double sung = 0;
    for (std::size_t i = 0; i + 1 < m_lit; ++i) sung += metrics.horizontalAdvance(texts[i]);
    const double spare = this->width() - width;
    double x = spare >= 0 ? spare / 2 : std::clamp(this->width() / 3.0 - sung, spare, 0.0);
    for (std::size_t i = 0; i < texts.size(); ++i) {
        const bool lit = i + 1 == m_lit, done = i + 1 < m_lit;
        const double advance = metrics.horizontalAdvance(texts[i]);
        if (lit) {
            painter.setPen(Qt::NoPen);
            painter.setBrush(theme().selected);
            painter.drawRoundedRect(QRectF(x - 2, 0, advance + 4, metrics.height() + 2), 4, 4);
        }
        paintText(painter, QRectF(x, 0, advance + 2, metrics.height() + 2), texts[i], strong,
                  lit ? theme().action : (done ? theme().muted : theme().ink),
                  Qt::AlignLeft | Qt::AlignVCenter);
        x += advance;
    }
    paintText(painter, QRectF(0, metrics.height() + 4, this->width(), height() - metrics.height() - 4),
              nextLine(), plain, theme().muted, Qt::AlignCenter);
}

} // namespace cobbleway
