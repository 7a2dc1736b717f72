#pragma once
#include "app/session/uses.h"
#include "app/widgets/surface.h"
#include "song/heard/notes.h"

#include <QWidget>

class QListView;

namespace cobbleway {

class PartsModel;

inline constexpr int fanWidth = 214; ///< pixels

/// The file as it came: a block a track with a stone a channel, and curves to the parts beside it, as thick
/// as they have notes.
class FanPicture : public QWidget, public Surface {
    Q_OBJECT
  public:
    FanPicture(Uses<uses::Set, uses::Findings> session, QListView* rows, PartsModel* model,
               QWidget* parent = nullptr);
    [[nodiscard]] std::vector<SurfaceRow> surfaceRows() const override; ///< the stones
    void activateSurfaceRow(int row) override;

  private:
    /// A channel of a track, and the parts that its notes went to.
    struct Stone {
        Origins::Origin origin;
        std::vector<std::pair<PartId, int>> parts; ///< with the count of notes
        QRectF rect;
        [[nodiscard]] int notes() const;
    };
    struct Block {
        int track = 0;
        QRectF rect;
        std::vector<Stone> stones;
    };
    [[nodiscard]] std::vector<Block> layoutBlocks() const;
    void paintCurves(QPainter& painter, const std::vector<Block>& blocks) const;
    void paintStone(QPainter& painter, const Stone& stone) const;
    void selectFrom(const Stone& stone);
    [[nodiscard]] QRect shownRect(const Stone& stone) const;
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    Uses<uses::Set, uses::Findings> m_session;
    QListView* m_rows;
    PartsModel* m_model;
};

} // namespace cobbleway
