#pragma once
#include "app/session/uses.h"
#include "song/model/part.h"

#include <QWidget>
#include <functional>
#include <vector>

class QCheckBox;
class QComboBox;
class QDoubleSpinBox;
class QLabel;
class QPushButton;
class QScrollArea;
class QSlider;
class QSpinBox;
class QVBoxLayout;

namespace cobbleway {

class Gradually;
class GridKeys;

class NotesPicture;
class Segments;
class WhenShown;
class WordsStrip;

/// Page 4: who leads, who backs, who rests; loop and pace.
class PracticePage : public QWidget {
    Q_OBJECT
  public:
    explicit PracticePage(
        Uses<uses::Set, uses::Findings, uses::Transport, uses::Rounds, uses::Meters> session,
        QWidget* parent = nullptr);

  private:
    class RoleRow;
    void refresh();
    void rebuildRows(std::vector<PartId> parts);
    void showLoop();
    void showTitle();
    void showRest();
    QLayout* makeClick();
    QWidget* makeMixes();
    QWidget* makeLoop();
    QWidget* makePace();
    void addKept(QVBoxLayout* column);
    void showKept();
    void showGrowth();
    void askForName(const QString& title, const QString& before,
                    const std::function<void(const QString&)>& then);
    Uses<uses::Set, uses::Findings, uses::Transport, uses::Rounds, uses::Meters> m_session;
    WhenShown* m_shown = nullptr;
    QScrollArea* m_area;
    std::vector<PartId> m_parts; ///< that have a row, or will soon
    std::vector<RoleRow*> m_rows;
    Gradually* m_rowMaker;
    GridKeys* m_keys;
    NotesPicture* m_notes;
    WordsStrip* m_words;
    QCheckBox *m_written, *m_names;
    QPushButton* m_work;
    QString m_barsText;
    QLabel *m_name, *m_bars, *m_loopName;
    QSpinBox *m_from, *m_to;
    QCheckBox* m_loopOn;
    QSlider* m_pace;
    QComboBox* m_kept;
    QPushButton *m_keep, *m_more;
    QCheckBox* m_grow;
    QSpinBox *m_growBy, *m_growTo;
    QLabel* m_paceText;
    QDoubleSpinBox* m_back;
    QSpinBox* m_room;
};

} // namespace cobbleway
