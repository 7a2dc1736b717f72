#pragma once
#include "app/session/uses.h"
#include "song/model/song.h"

#include <QAbstractListModel>
#include <unordered_map>
#include <vector>

class QAbstractItemView;

namespace cobbleway {

/// The song's parts as rows, those set aside left out. Rows map to ids; what a row looks like is the views'
/// matter, but for what a screen reader says.
class PartsModel : public QAbstractListModel {
    Q_OBJECT
  public:
    enum Role { IdRole = Qt::UserRole };
    explicit PartsModel(Uses<uses::Set, uses::Findings> session, QObject* parent = nullptr);
    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    bool setData(const QModelIndex& index, const QVariant& value, int role) override; ///< renames
    [[nodiscard]] Qt::ItemFlags flags(const QModelIndex& index) const override;
    [[nodiscard]] Qt::DropActions supportedDropActions() const override { return Qt::MoveAction; }
    [[nodiscard]] QStringList mimeTypes() const override;
    [[nodiscard]] QMimeData* mimeData(const QModelIndexList& indexes) const override;
    bool dropMimeData(const QMimeData* data, Qt::DropAction action, int row, int column,
                      const QModelIndex& parent) override; ///< reorders
    [[nodiscard]] QModelIndex indexOf(PartId part) const;
    [[nodiscard]] PartId idAt(const QModelIndex& index) const {
        return index.isValid() ? m_ids[static_cast<std::size_t>(index.row())] : 0;
    }

  private:
    void refresh();
    void refreshChanged();
    Uses<uses::Set, uses::Findings> m_session;
    std::vector<PartId> m_ids;
    std::unordered_map<PartId, int> m_rowOf;
    std::vector<Part> m_shown; ///< all parts as they were shown last
};

/// "asks for 57 Trumpet", or of several: "asks for 57 Trumpet and 2 more".
QString asksText(const Uses<uses::Findings>& session, PartId part);

/// Keeps a view's current row and the session's selected part the same.
void followSelection(QAbstractItemView* view, PartsModel* model, const Uses<uses::Set>& session);

} // namespace cobbleway
