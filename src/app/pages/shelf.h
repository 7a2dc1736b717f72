#pragma once
#include "font/catalogue.h"
#include "song/shelf.h"
#include "song/song.h"

#include <QAbstractListModel>
#include <QFrame>
#include <QSet>
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
class Session;

inline constexpr const char* soundMime = "application/x-cobbleway-sound";

/// Names a sound in settings and while it is dragged.
QString soundKey(const SoundRef& sound);

/// The sounds that fit a search and a family.
class ShelfModel : public QAbstractListModel {
    Q_OBJECT
  public:
    /// Families beside those of the core: kept by the person, used lately, and what could play the selected
    /// part, likeliest first. −1: all.
    enum Special { Favourites = familyCount, Recent, Fitting };
    explicit ShelfModel(Session& session, QObject* parent = nullptr);
    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    [[nodiscard]] Qt::ItemFlags flags(const QModelIndex& index) const override;
    [[nodiscard]] QStringList mimeTypes() const override;
    [[nodiscard]] QMimeData* mimeData(const QModelIndexList& indexes) const override;
    void setFilter(const QString& words, int family); ///< see fitsSearch()
    [[nodiscard]] const SoundRef& soundAt(int row) const {
        return m_rows[static_cast<std::size_t>(row)].sound;
    }
    [[nodiscard]] QModelIndex indexOf(const SoundRef& sound) const;
    [[nodiscard]] bool isFavourite(const SoundRef& sound) const {
        return m_favourites.contains(soundKey(sound));
    }
    void toggleFavourite(const SoundRef& sound);
    void noteUsed(const SoundRef& sound);
    enum Role { NumberRole = Qt::UserRole, FontRole, FavouriteRole };

  private:
    void refresh();
    void fill();
    void fillFitting();
    Session& m_session;
    QString m_words;
    int m_family = -1;
    std::vector<ShelfSound> m_all, m_rows;
    std::vector<QString> m_reasons; ///< of the rows, when they are those that fit
    QStringList m_favourites;
};

/// The searchable list of all sounds. Arrow keys let the selected part be heard with a sound, Enter takes it,
/// Esc goes back.
class Shelf : public QFrame {
    Q_OBJECT
  public:
    explicit Shelf(Session& session, QWidget* parent = nullptr);
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
    void resizeEvent(QResizeEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override;
    bool takeKey(QObject* watched, int key);
    QWidget* makePreview();
    void filter();
    void tryRow(int row);
    void showCurrent();
    [[nodiscard]] std::vector<PartId> targets() const;
    Session& m_session;
    ShelfModel* m_model;
    QListView* m_list;
    QLineEdit* m_search;
    QButtonGroup* m_families;
    QWidget* m_chips;
    QComboBox* m_familyBox; ///< in place of the chips where there is little room
    QLabel *m_count, *m_name, *m_range, *m_empty;
    KeyboardPicture* m_keyboard;
    QPushButton *m_hear, *m_use;
    QToolButton* m_more;
    QCheckBox* m_alone;
    std::function<std::vector<PartId>()> m_targets;
};

} // namespace cobbleway
