#pragma once
#include "app/pages/drumsmodel.h"

#include <QStyledItemDelegate>

namespace cobbleway {

/// Where the columns of a drum row are, for a row or a heading of some width.
struct DrumColumns {
    explicit DrumColumns(const QRectF& row);
    QRectF key, name, print, link, plays, hits, loudness;
};

/// Paints a drum note: number, name, bar print, the key it plays, hits, loudness with its trim.
class DrumRow : public QStyledItemDelegate {
    Q_OBJECT
  public:
    DrumRow(const DrumsModel* model, QObject* parent) : QStyledItemDelegate(parent), m_model(model) {}
    [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override;
    void paint(QPainter* painter, const QStyleOptionViewItem& option,
               const QModelIndex& index) const override;
    void updateEditorGeometry(QWidget* editor, const QStyleOptionViewItem& option,
                              const QModelIndex& index) const override;

  private:
    void paintPrint(QPainter& painter, const QRectF& rect, const DrumNote& note) const;
    void paintLoudness(QPainter& painter, const QRectF& rect, const DrumNote& note) const;
    const DrumsModel* m_model;
};

/// The line over the rows that says what each column is.
class DrumHeading : public QWidget {
    Q_OBJECT
  public:
    explicit DrumHeading(QWidget* parent = nullptr);

  private:
    void paintEvent(QPaintEvent* event) override;
};

} // namespace cobbleway
