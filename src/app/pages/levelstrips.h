#pragma once
#include "app/session/uses.h"
#include "song/model/part.h"

#include <QWidget>
#include <vector>

class QAction;
class QDoubleSpinBox;
class QLabel;
class QPushButton;
class QScrollArea;
class QSlider;

namespace cobbleway {

class Gradually;
class GridKeys;

class Meter;
class WhenShown;

/// A row a part to mix by: meter, level, pan, room, mute, solo; and one for the whole mix.
class LevelStrips : public QWidget {
    Q_OBJECT
  public:
    explicit LevelStrips(Uses<uses::Set, uses::Transport, uses::Meters, uses::Levelling> session,
                         QAction* effects, QAction* mixEffects, QWidget* parent = nullptr);

  private:
    class Strip;
    QWidget* makeMaster(QAction* mixEffects);
    void rebuild();
    void refresh();
    Uses<uses::Set, uses::Transport, uses::Meters, uses::Levelling> m_session;
    WhenShown* m_shown = nullptr;
    QAction* m_effects;
    QScrollArea* m_area;
    std::vector<PartId> m_parts; ///< that have a strip, or will soon
    std::vector<Strip*> m_strips;
    Gradually* m_stripMaker;
    GridKeys* m_keys;
    Meter *m_left, *m_right;
    QSlider* m_master;
    QLabel *m_masterText, *m_measured;
    QDoubleSpinBox* m_roomSeconds;
    QPushButton* m_bring;
};

} // namespace cobbleway
