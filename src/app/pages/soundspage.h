#pragma once
#include "app/pages/partsmodel.h"
#include "app/pages/shelf.h"

#include <QListView>
#include <QWidget>

class QDoubleSpinBox;
class QLabel;
class QPushButton;
class QSlider;
class QSpinBox;

namespace cobbleway {

/// Page 3: what each part asks for, what it gets, and whether its notes lie in range.
class SoundsPage : public QWidget {
    Q_OBJECT
  public:
    SoundsPage(Session& session, QAction* fonts, QWidget* parent = nullptr);
    [[nodiscard]] Shelf* shelf() const { return m_shelf; }

  private:
    void refresh();
    Session& m_session;
    PartsModel* m_model;
    QListView* m_rows;
    Shelf* m_shelf;
    QLabel *m_font, *m_why, *m_name;
    QSpinBox* m_octaves;
    QDoubleSpinBox* m_level;
    QSlider* m_pan;
    QPushButton* m_follow;
};

} // namespace cobbleway
