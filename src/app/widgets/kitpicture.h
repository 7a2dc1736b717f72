#pragma once
#include "app/widgets/surface.h"
#include "song/drums/drumnotes.h"

#include <QWidget>

namespace cobbleway {

/// A kit as a heap of stones, to play: a stone for each common drum. A click plays it; arrow keys choose one
/// and Enter plays it. Stones of notes that the part uses are full, those that are silent have a broken rim.
class KitPicture : public QWidget, public Surface {
    Q_OBJECT
  public:
    explicit KitPicture(QWidget* parent = nullptr);
    void setNotes(const std::vector<DrumNote>& notes, Key selected);
    [[nodiscard]] QString surfaceValue() const override;
    [[nodiscard]] std::vector<SurfaceRow> surfaceRows() const override;
    void activateSurfaceRow(int row) override;

  Q_SIGNALS:
    void struck(int key); ///< incoming

  private:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    [[nodiscard]] QRectF stoneRect(std::size_t stone) const;
    [[nodiscard]] const DrumNote* noteOf(std::size_t stone) const;
    std::vector<DrumNote> m_notes;
    Key m_selected{255};
    std::size_t m_chosen = 0;
};

} // namespace cobbleway
