#pragma once
#include "app/pages/partsmodel.h"
#include "app/widgets/painting.h"
#include "app/widgets/surface.h"
#include "song/notes.h"

#include <QListView>
#include <QWidget>
#include <memory>

class QHBoxLayout;
class QLabel;
class QScrollBar;
class QStackedWidget;

namespace cobbleway {

class EventsView;
class LanePictures;

/// Which stretch of the song the lanes of all rows show. The whole song until it is zoomed.
class LaneZoom : public QObject {
    Q_OBJECT
  public:
    explicit LaneZoom(Session& session, QObject* parent = nullptr);
    [[nodiscard]] LaneRange range() const;
    [[nodiscard]] bool isZoomed() const { return m_share < 1; }
    void zoom(double factor, double anchor); ///< `anchor`: the place that stays, 0–1 of what is shown
    void scroll(double screens);             ///< by so many times what is shown; negative to the left
    void showAll();

  Q_SIGNALS:
    void changed();

  private:
    Session& m_session;
    double m_from = 0, m_share = 1; ///< of the song, 0–1
    int m_song = -1;
};

/// The file as it came: a block a track with a stone a channel, and curves to the parts beside it, as thick
/// as they have notes.
class FanPicture : public QWidget, public Surface {
    Q_OBJECT
  public:
    FanPicture(Session& session, QListView* rows, PartsModel* model, QWidget* parent = nullptr);
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
    ~PartsPage() override;
    [[nodiscard]] QListView* rows() const { return m_rows; }
    [[nodiscard]] LaneZoom* zoom() const { return m_zoom; }
    [[nodiscard]] EventsView* events() const { return m_events; }
    /// Buttons for actions of the window: above the rows, and in two lines below them.
    void addActions(const QList<QAction*>& above, const QList<QAction*>& split, const QList<QAction*>& shape);
    void renameSelected();
    void showEvents(bool show);
    [[nodiscard]] bool showsEvents() const;

  private:
    void refresh();
    void refreshHeading();
    void refreshScroll();
    QWidget* makeFacts();
    bool eventFilter(QObject* watched, QEvent* event) override;
    Session& m_session;
    PartsModel* m_model;
    QListView* m_rows;
    FanPicture* m_fan;
    LaneZoom* m_zoom;
    std::unique_ptr<LanePictures> m_pictures;
    EventsView* m_events;
    std::shared_ptr<const SourceFile> m_counted; ///< the file whose channels m_came tells
    QStackedWidget* m_stack;
    QScrollBar* m_scroll;
    QHBoxLayout *m_above, *m_splitLine, *m_shapeLine;
    QLabel *m_came, *m_asParts, *m_name, *m_facts;
};

} // namespace cobbleway
