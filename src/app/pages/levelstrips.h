#pragma once
#include <QWidget>
#include <vector>

class QAction;
class QDoubleSpinBox;
class QLabel;
class QPushButton;
class QScrollArea;
class QSlider;

namespace cobbleway {

class Meter;
struct Session;
class WhenShown;

/// A row a part to mix by: meter, level, pan, room, mute, solo; and one for the whole mix.
class LevelStrips : public QWidget {
    Q_OBJECT
  public:
    explicit LevelStrips(Session& session, QAction* effects, QAction* mixEffects, QWidget* parent = nullptr);

  private:
    class Strip;
    QWidget* makeMaster(QAction* mixEffects);
    void rebuild();
    void refresh();
    Session& m_session;
    WhenShown* m_shown = nullptr;
    QAction* m_effects;
    QScrollArea* m_area;
    std::vector<Strip*> m_strips;
    Meter *m_left, *m_right;
    QSlider* m_master;
    QLabel *m_masterText, *m_measured;
    QDoubleSpinBox* m_roomSeconds;
    QPushButton* m_bring;
};

} // namespace cobbleway
