#pragma once
#include "app/widgets/rowlist.h"

#include <QTreeView>

namespace cobbleway {

/// The grid of the Export page: cells to tick with the mouse, the space bar or a screen reader; the arrow
/// keys go from cell to cell. Shows one song, or all songs, which open into their rows.
class ExportView : public TickView<QTreeView> {
    Q_OBJECT
  public:
    explicit ExportView(QWidget* parent = nullptr);
    void showSong(int song); ///< 0-based; −1: all songs

  protected:
    void resizeEvent(QResizeEvent* event) override;
};

} // namespace cobbleway
