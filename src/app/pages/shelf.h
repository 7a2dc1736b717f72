#pragma once
#include "font/catalogue.h"

#include <QAbstractListModel>
#include <QFrame>

class QButtonGroup;
class QLabel;
class QLineEdit;
class QListView;
class QPushButton;

namespace cobbleway {

class KeyboardPicture;
class Session;

/// The sounds that fit a search and a family.
class ShelfModel : public QAbstractListModel {
    Q_OBJECT
  public:
    explicit ShelfModel(Session& session, QObject* parent = nullptr);
    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    /// Words that must all occur in name, family, font or "bank:program"; family 0–15, 16 for kits, −1 for
    /// all.
    void setFilter(const QString& words, int family);
    [[nodiscard]] const SoundRef& soundAt(int row) const { return m_sounds[static_cast<std::size_t>(row)]; }
    [[nodiscard]] QModelIndex indexOf(const SoundRef& sound) const;
    enum Role { NumberRole = Qt::UserRole, FontRole };

  private:
    void refresh();
    Session& m_session;
    QString m_words;
    int m_family = -1;
    std::vector<SoundRef> m_sounds;
};

/// The searchable list of all sounds. Arrow keys let the selected part be heard with a sound, Enter takes it,
/// Esc goes back.
class Shelf : public QFrame {
    Q_OBJECT
  public:
    explicit Shelf(Session& session, QWidget* parent = nullptr);
    [[nodiscard]] QListView* list() const { return m_list; }
    [[nodiscard]] QLineEdit* search() const { return m_search; }

  private:
    bool eventFilter(QObject* watched, QEvent* event) override;
    void refresh();
    void filter();
    void tryRow(int row);
    void showCurrent();
    Session& m_session;
    ShelfModel* m_model;
    QListView* m_list;
    QLineEdit* m_search;
    QButtonGroup* m_families;
    QLabel *m_count, *m_name, *m_range, *m_empty;
    KeyboardPicture* m_keyboard;
    QPushButton *m_hear, *m_use;
};

} // namespace cobbleway
