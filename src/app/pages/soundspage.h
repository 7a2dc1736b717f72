#pragma once
#include "app/pages/partsmodel.h"
#include "app/pages/shelf.h"
#include "app/session/uses.h"

#include <QListView>
#include <QWidget>

class QAction;
class QDoubleSpinBox;
class QHBoxLayout;
class QLabel;
class QSlider;
class QSpinBox;

namespace cobbleway {

class LevelStrips;
class PageStack;
class Segments;

/// Page 3: what each part asks for, what it gets, whether its notes lie in range; and, on its other side, how
/// loud each is in the mix.
class SoundsPage : public QWidget {
    Q_OBJECT
  public:
    /// `above` become buttons over the rows, `part` below them; `effects` opens those of the selected part.
    SoundsPage(
        Uses<uses::Set, uses::Sounds, uses::Findings, uses::Transport, uses::Meters, uses::Levelling> session,
        const QList<QAction*>& above, const QList<QAction*>& part, QAction* effects, QAction* mixEffects,
        QWidget* parent = nullptr);
    [[nodiscard]] Shelf* shelf() const { return m_shelf; }
    [[nodiscard]] QListView* rows() const { return m_rows; }
    void showLevels(bool levels);
    [[nodiscard]] bool showsLevels() const;
    /// The parts that are selected in the rows; at least the selected one, when there is any.
    [[nodiscard]] std::vector<PartId> selectedParts() const;

  private:
    QWidget* makeFacts(const QList<QAction*>& part);
    void refresh();
    bool eventFilter(QObject* watched, QEvent* event) override;
    Uses<uses::Set, uses::Sounds, uses::Findings, uses::Transport, uses::Meters, uses::Levelling> m_session;
    PartsModel* m_model;
    QListView* m_rows;
    Shelf* m_shelf;
    LevelStrips* m_levels;
    Segments* m_sides;
    PageStack* m_stack;
    QLabel *m_font, *m_why, *m_name, *m_extras;
    QSpinBox* m_octaves;
    QDoubleSpinBox* m_level;
    QSlider* m_pan;
};

} // namespace cobbleway
