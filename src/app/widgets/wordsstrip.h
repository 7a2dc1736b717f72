#pragma once
#include "song/heard/lyrics.h"

#include <QWidget>

namespace cobbleway {

/// The line of words that is sung, with its syllable lit, and the next line under it. Hidden where a song has
/// no words.
class WordsStrip : public QWidget {
    Q_OBJECT
  public:
    /// Sizes of the letters of both lines, in points.
    WordsStrip(double points, double nextPoints, QWidget* parent = nullptr);
    void setLines(std::vector<LyricLine> lines);
    void follow(Tick place);
    [[nodiscard]] QString line() const { return text(m_line); }
    [[nodiscard]] QString nextLine() const { return text(m_line + 1); }
    [[nodiscard]] QString litSyllable() const; ///< empty before the line begins

  private:
    void paintEvent(QPaintEvent* event) override;
    [[nodiscard]] QString text(std::size_t line) const;
    double m_points, m_nextPoints;
    std::vector<LyricLine> m_lines;
    std::size_t m_line = 0;
    std::size_t m_lit = 0; ///< how many of the line's syllables have begun; the last is lit
};

} // namespace cobbleway
