#pragma once
#include "app/session/uses.h"
#include "song/derived.h"

#include <QAbstractListModel>

namespace cobbleway {

/// The notes of a drum part as rows.
class DrumsModel : public QAbstractListModel {
    Q_OBJECT
  public:
    enum class Order { ByKey, ByPiece, ByHits };
    explicit DrumsModel(Uses<uses::Set, uses::Sounds, uses::Findings, uses::Transport> session,
                        QObject* parent = nullptr);

    /// The part that is shown; 0 for none.
    [[nodiscard]] PartId part() const { return m_part; }
    void setPart(PartId part);
    void setOrder(Order order);
    void setAll(bool all); ///< all 128 keys, not only those used
    void refresh();

    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    bool setData(const QModelIndex& index, const QVariant& value, int role) override; ///< names the note
    [[nodiscard]] Qt::ItemFlags flags(const QModelIndex& index) const override;
    [[nodiscard]] Qt::DropActions supportedDropActions() const override { return Qt::MoveAction; }
    [[nodiscard]] QStringList mimeTypes() const override;
    [[nodiscard]] QMimeData* mimeData(const QModelIndexList& indexes) const override;
    /// Notes that are dropped on another play what that one plays.
    bool dropMimeData(const QMimeData* data, Qt::DropAction action, int row, int column,
                      const QModelIndex& parent) override;

    [[nodiscard]] const DrumNote* note(const QModelIndex& index) const; ///< null for none
    [[nodiscard]] QModelIndex indexOf(Key key) const;
    [[nodiscard]] const std::vector<DrumNote>& notes() const { return m_notes; }
    [[nodiscard]] const std::shared_ptr<const DrumView>& view() const { return m_view; } ///< null for none
    [[nodiscard]] const std::shared_ptr<const BarPrints>& prints() const { return m_prints; }
    [[nodiscard]] double strongest() const { return m_strongest; } ///< of all slots of the bar prints

  private:
    Uses<uses::Set, uses::Sounds, uses::Findings, uses::Transport> m_session;
    PartId m_part = 0;
    Order m_order = Order::ByKey;
    bool m_all = false;
    std::vector<DrumNote> m_notes;
    std::shared_ptr<const DrumView> m_view;
    std::shared_ptr<const BarPrints> m_prints;
    double m_strongest = 1;
};

/// A note in a sentence, for screen readers: "42 Closed hi-hat, 612 hits, plays 42 Closed Hi-Hat, 28 softer".
QString drumNoteText(const DrumNote& note);
/// "28 softer", "4 harder"; empty for a trim of nothing.
QString trimText(const VelocityShape& trim);

} // namespace cobbleway
