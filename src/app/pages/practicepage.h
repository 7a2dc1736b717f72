#pragma once
#include "song/heard/lyrics.h"

#include <QWidget>
#include <vector>

class QCheckBox;
class QDoubleSpinBox;
class QLabel;
class QScrollArea;
class QSlider;
class QSpinBox;

namespace cobbleway {

class NotesPicture;
class Segments;
struct Session;
class WhenShown;

/// Page 4: who leads, who backs, who rests; loop and pace.
class PracticePage : public QWidget {
    Q_OBJECT
  public:
    explicit PracticePage(Session& session, QWidget* parent = nullptr);

  private:
    void showWords();
    std::vector<LyricLine> m_lyrics;
    QLabel* m_words = nullptr;
    class RoleRow;
    void refresh();
    void rebuildRows();
    void showLoop();
    void showTitle();
    QWidget* makeMixes();
    QWidget* makeLoop();
    QWidget* makePace();
    Session& m_session;
    WhenShown* m_shown = nullptr;
    QScrollArea* m_area;
    std::vector<RoleRow*> m_rows;
    NotesPicture* m_notes;
    QLabel *m_name, *m_bars, *m_loopName;
    QSpinBox *m_from, *m_to;
    QCheckBox* m_loopOn;
    QSlider* m_pace;
    QLabel* m_paceText;
    QDoubleSpinBox* m_back;
    QSpinBox* m_room;
};

} // namespace cobbleway
