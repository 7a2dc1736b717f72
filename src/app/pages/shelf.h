#pragma once
#include "app/pages/shelfmodel.h"
#include "app/session/uses.h"
#include "song/model/song.h"

#include <QFrame>
#include <functional>

class QButtonGroup;
class QCheckBox;
class QComboBox;
class QLabel;
class QLineEdit;
class QListView;
class QMenu;
class QPushButton;
class QToolButton;

namespace cobbleway {

class KeyboardPicture;

/// The searchable list of all sounds. Arrow keys let the selected part be heard with a sound, Enter takes it,
/// Esc goes back.
class Shelf : public QFrame {
    Q_OBJECT
  public:
    explicit Shelf(Uses<uses::Set, uses::Sounds, uses::Findings, uses::Transport> session,
                   QWidget* parent = nullptr);
    [[nodiscard]] QListView* list() const { return m_list; }
    [[nodiscard]] QLineEdit* search() const { return m_search; }
    /// The sound that is current in the list; none when there is none.
    [[nodiscard]] std::optional<SoundRef> current() const;
    /// Which parts take a sound; without it the selected one does.
    void setTargets(std::function<std::vector<PartId>()> targets) { m_targets = std::move(targets); }
    void refresh();
    void useCurrent();   ///< for the targets
    void useInSection(); ///< for the selected part, where the song stands
    void addAsLayer();   ///< to the selected part
    void toggleFavourite();
    void useDropped(const QString& key); ///< a sound by soundKey(), for the selected part
    void refreshTargets() { showCurrent(); }
    void offer(const QList<QAction*>& actions); ///< what else can be done with the current sound

  private:
    bool eventFilter(QObject* watched, QEvent* event) override;
    bool takeKey(QObject* watched, int key);
    QWidget* makePreview();
    void filter();
    void showAll(); ///< nothing is searched for
    [[nodiscard]] bool isSearched() const;
    [[nodiscard]] int wanted() const;
    void tryRow(int row);
    void showCurrent();
    [[nodiscard]] std::vector<PartId> targets() const;
    /// A sound as the selected part plays it: an outside instrument is told the bank and program it asks for.
    [[nodiscard]] SoundRef forPart(SoundRef sound) const;
    Uses<uses::Set, uses::Sounds, uses::Findings, uses::Transport> m_session;
    ShelfModel* m_model;
    QListView* m_list;
    QLineEdit* m_search;
    QButtonGroup* m_families;
    QWidget* m_chips;
    QComboBox* m_familyBox;
    QLabel *m_count, *m_name, *m_range, *m_empty;
    KeyboardPicture* m_keyboard;
    QPushButton *m_hear, *m_use;
    QToolButton* m_more;
    QCheckBox* m_alone;
    std::function<std::vector<PartId>()> m_targets;
};

} // namespace cobbleway
