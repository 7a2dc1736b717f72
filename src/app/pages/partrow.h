#pragma once
#include "app/pages/lanezoom.h"
#include "app/session/session.h"
#include "app/session/uses.h"

#include <QPixmap>
#include <QStyledItemDelegate>
#include <map>

namespace cobbleway {

inline constexpr int partRowHeight = 45, partNameWidth = 216; ///< pixels

/// Lanes as they were painted last: painted anew only when the part, the stretch or the room for it change.
class LanePictures {
  public:
    void paint(QPainter& painter, const QRectF& rect, const Part& part, const Derived::Kept<Overview>& notes,
               const Derived::Kept<std::vector<ControlPoint>>& volume, LaneRange range);

  private:
    static constexpr double margin = 3; ///< for stones that stand out at the edges
    struct Key {
        Derived::Kept<Overview> notes; ///< kept, so that no other comes to lie where it lay
        Derived::Kept<std::vector<ControlPoint>> volume;
        QSizeF size;
        LaneRange range;
        int colour = 0;
        bool drums = false;
        double ratio = 0;
        int theme = 0;
        bool operator==(const Key&) const = default;
    };
    struct Kept {
        Key key;
        QPixmap picture;
    };
    std::map<PartId, Kept> m_kept;
};

/// A part's row: name, what it asks for, its notes along the song, remarks.
class PartRow final : public QStyledItemDelegate {
    Q_OBJECT
  public:
    PartRow(Uses<uses::Set, uses::Findings> session, const LaneZoom* zoom, LanePictures& pictures,
            QObject* parent)
        : QStyledItemDelegate(parent), m_session(session), m_zoom(zoom), m_pictures(pictures) {}
    [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
        return {300, partRowHeight};
    }
    void paint(QPainter* painter, const QStyleOptionViewItem& option,
               const QModelIndex& index) const override;
    void updateEditorGeometry(QWidget* editor, const QStyleOptionViewItem& option,
                              const QModelIndex& index) const override;

  private:
    /// Remarks from the right; gives where they begin.
    [[nodiscard]] double paintPills(QPainter& painter, const Part& part, const QRectF& card) const;
    Uses<uses::Set, uses::Findings> m_session;
    const LaneZoom* m_zoom;
    LanePictures& m_pictures;
};

} // namespace cobbleway
