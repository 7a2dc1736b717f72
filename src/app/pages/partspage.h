#pragma once
#include "app/pages/lanezoom.h"
#include "app/pages/partsmodel.h"
#include "app/session/uses.h"

#include <QListView>
#include <QWidget>
#include <memory>

class QHBoxLayout;
class QLabel;
class QPushButton;
class QScrollBar;

namespace cobbleway {

class EventsView;
class FanPicture;
class LanePictures;
class PageStack;

/// Page 2: how the file becomes parts.
class PartsPage : public QWidget {
    Q_OBJECT
  public:
    explicit PartsPage(Uses<uses::Messages, uses::Set, uses::Findings> session, QWidget* parent = nullptr);
    ~PartsPage() override;
    [[nodiscard]] QListView* rows() const { return m_rows; }
    [[nodiscard]] LaneZoom* zoom() const { return m_zoom; }
    [[nodiscard]] EventsView* events() const { return m_events; }
    /// Buttons for actions of the window: above the rows, and in two lines below them.
    void addActions(const QList<QAction*>& above, const QList<QAction*>& split, const QList<QAction*>& shape);
    void renameSelected();
    void showEvents(bool show);
    [[nodiscard]] bool showsEvents() const;
    /// Opens the value of the current event to be typed over, when the events are shown and have the focus.
    bool editsAValue();

  private:
    void refresh();
    void refreshHeading();
    void refreshScroll();
    QWidget* makeFacts();
    bool eventFilter(QObject* watched, QEvent* event) override;
    Uses<uses::Messages, uses::Set, uses::Findings> m_session;
    PartsModel* m_model;
    QListView* m_rows;
    FanPicture* m_fan;
    LaneZoom* m_zoom;
    std::unique_ptr<LanePictures> m_pictures;
    EventsView* m_events;
    std::shared_ptr<const SourceFile> m_counted; ///< the file whose channels m_came tells
    PageStack* m_stack;
    QScrollBar* m_scroll;
    QHBoxLayout *m_above, *m_splitLine, *m_shapeLine;
    QLabel *m_came, *m_asParts, *m_name, *m_facts;
    QList<QPushButton*> m_changes; ///< of the selected part
};

} // namespace cobbleway
