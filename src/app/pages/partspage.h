#pragma once
#include "app/pages/partsmodel.h"
#include "app/widgets/surface.h"

#include <QListView>
#include <QWidget>

class QLabel;

namespace cobbleway {

/// The file as it came: a block a track with a stone a channel, and curves to the parts beside it, as thick
/// as they have notes.
class FanPicture : public QWidget, public Surface {
    Q_OBJECT
  public:
    FanPicture(Session& session, QListView* rows, PartsModel* model, QWidget* parent = nullptr);
    [[nodiscard]] std::vector<SurfaceRow> surfaceRows() const override; ///< the stones
    void activateSurfaceRow(int row) override;

  private:
    struct Stone {
        PartId part = 0;
        QRectF rect;
    };
    struct Block {
        int track = 0;
        QRectF rect;
        std::vector<Stone> stones;
    };
    [[nodiscard]] std::vector<Block> layoutBlocks() const;
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    Session& m_session;
    QListView* m_rows;
    PartsModel* m_model;
};

/// Page 2: how the file becomes parts.
class PartsPage : public QWidget {
    Q_OBJECT
  public:
    explicit PartsPage(Session& session, QWidget* parent = nullptr);
    [[nodiscard]] QListView* rows() const { return m_rows; }
    void renameSelected();

  private:
    void refresh();
    Session& m_session;
    PartsModel* m_model;
    QListView* m_rows;
    FanPicture* m_fan;
    QLabel *m_came, *m_asParts, *m_name, *m_facts;
};

} // namespace cobbleway
