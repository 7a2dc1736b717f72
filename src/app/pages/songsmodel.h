#pragma once
#include "app/session/uses.h"
#include "song/match/songsummary.h"

#include <QAbstractTableModel>
#include <QSortFilterProxyModel>
#include <QThreadPool>
#include <stop_token>
#include <vector>

namespace cobbleway {

/// The set's songs as rows. What needs all of a song's notes is found beside the interface, and told as it
/// comes.
class SongsModel : public QAbstractTableModel {
    Q_OBJECT
  public:
    explicit SongsModel(Uses<uses::Set, uses::Files, uses::Sounds, uses::Findings> session,
                        QObject* parent = nullptr);
    ~SongsModel() override;
    enum Column { Name, Type, Parts, Length, Key, Tempo, Kind, Snags, ColumnCount };
    enum Role { FileRole = Qt::UserRole, CountRole, SortRole, NumberRole }; ///< the song's number, 0-based
    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] int columnCount(const QModelIndex& = {}) const override { return ColumnCount; }
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    [[nodiscard]] QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
    [[nodiscard]] Qt::ItemFlags flags(const QModelIndex& index) const override;
    [[nodiscard]] Qt::DropActions supportedDropActions() const override { return Qt::MoveAction; }
    [[nodiscard]] QStringList mimeTypes() const override;
    [[nodiscard]] QMimeData* mimeData(const QModelIndexList& indexes) const override;
    bool dropMimeData(const QMimeData* data, Qt::DropAction action, int row, int column,
                      const QModelIndex& parent) override;
    /// What is known of a row so far; null while it is looked for.
    [[nodiscard]] const SongSummary* summary(int row) const {
        return m_rows[static_cast<std::size_t>(row)].summary.get();
    }
    /// Other rows with the same music.
    [[nodiscard]] std::vector<int> sameMusic(int row) const;
    [[nodiscard]] bool isLooking() const { return m_open > 0; }

  Q_SIGNALS:
    void summariesChanged(); ///< more is known

  private:
    struct Row {
        Shared<Song> song;
        std::shared_ptr<const SongSummary> summary;
        std::optional<int> asked; ///< with the catalogue as it is
    };
    struct Found {
        Shared<Song> song;
        std::shared_ptr<const SongSummary> summary;
        int asked = 0;
    };
    void refresh();
    void forgetAsked();
    void look();
    void take(const std::vector<Found>& found);
    [[nodiscard]] QString sentenceOf(int row) const;
    [[nodiscard]] int askedOf(int row) const;
    [[nodiscard]] QVariant sortValue(int row, int column) const;
    Uses<uses::Set, uses::Files, uses::Sounds, uses::Findings> m_session;
    std::vector<Row> m_rows;
    int m_open = 0; ///< jobs that run
    std::stop_source m_stop;
    QThreadPool m_pool; ///< one thread
};

/// The rows that fit what somebody looks for, in the order that is wanted.
class SongsList : public QSortFilterProxyModel {
    Q_OBJECT
  public:
    explicit SongsList(SongsModel* songs, QObject* parent = nullptr);
    void setSearch(const QString& text);
    /// Rows come and go since something else is looked for, and the view's current row with them.
    [[nodiscard]] bool isFiltering() const { return m_filtering; }
    [[nodiscard]] bool isWhole() const {
        return m_search.isEmpty() && sortColumn() < 0;
    } ///< all, in the set's order

  private:
    void filter();
    [[nodiscard]] bool filterAcceptsRow(int row, const QModelIndex& parent) const override;
    [[nodiscard]] bool canDropMimeData(const QMimeData* data, Qt::DropAction action, int row, int column,
                                       const QModelIndex& parent) const override;
    SongsModel* m_songs;
    SongSearch m_search{""};
    QString m_text;
    bool m_filtering = false;
};

} // namespace cobbleway
