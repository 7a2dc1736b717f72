#pragma once
#include "app/session/uses.h"
#include "font/catalogue.h"
#include "song/match/shelf.h"

#include <QAbstractListModel>
#include <QStringList>
#include <vector>

namespace cobbleway {

inline constexpr const char* soundMime = "application/x-cobbleway-sound";

/// Names a sound in settings and while it is dragged.
QString soundKey(const SoundRef& sound);

/// The sounds that fit a search and a family.
class ShelfModel : public QAbstractListModel {
    Q_OBJECT
  public:
    /// Families beside those of the core: kept by the person, used lately, and what could play the selected
    /// part, likeliest first. −1: all.
    enum Special { Favourites = familyCount, Recent, Suggested };
    explicit ShelfModel(Uses<uses::Set, uses::Sounds> session, QObject* parent = nullptr);
    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    [[nodiscard]] Qt::ItemFlags flags(const QModelIndex& index) const override;
    [[nodiscard]] QStringList mimeTypes() const override;
    [[nodiscard]] QMimeData* mimeData(const QModelIndexList& indexes) const override;
    void setFilter(const QString& words, int family); ///< see fitOf()
    [[nodiscard]] const SoundRef& soundAt(int row) const { return shown(row).sound; }
    [[nodiscard]] QModelIndex indexOf(const SoundRef& sound) const;
    [[nodiscard]] bool isFavourite(const SoundRef& sound) const {
        return m_favourites.contains(soundKey(sound));
    }
    void toggleFavourite(const SoundRef& sound);
    void noteUsed(const SoundRef& sound);
    enum Role {
        NumberRole = Qt::UserRole,
        PlaceRole, ///< the font's name and the like; empty when there is one font only
        FavouriteRole
    };

  private:
    void refresh();
    void fill();
    void fillSuggested();
    Uses<uses::Set, uses::Sounds> m_session;
    QString m_words;
    int m_family = -1;
    [[nodiscard]] const ShelfSound& shown(int row) const {
        return m_all[m_rows[static_cast<std::size_t>(row)]];
    }
    std::vector<ShelfSound> m_all;
    std::vector<std::size_t> m_rows; ///< those of all that are shown
    std::vector<QString> m_reasons;  ///< of the rows, when they are those that fit
    QStringList m_favourites;
};

} // namespace cobbleway
