#pragma once
#include "app/session/uses.h"
#include "song/shape/eventlist.h"

#include <QAbstractTableModel>
#include <QWidget>

class QComboBox;
class QLabel;
class QPushButton;
class QSpinBox;
class QTableView;

namespace cobbleway {

class WhenShown;

/// The events of the selected part that pass a filter, as rows. Only what is on the screen is ever asked for.
class EventsModel : public QAbstractTableModel {
    Q_OBJECT
  public:
    enum Column { Place, Time, Kind, What, Value, ColumnCount };
    explicit EventsModel(Uses<uses::Set> session, QObject* parent = nullptr);
    void setFilter(const EventFilter& filter);
    void reload();
    [[nodiscard]] EventRef refAt(int row) const;
    [[nodiscard]] std::size_t all() const { return m_all; } ///< of the part, those that do not pass too
    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] int columnCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    [[nodiscard]] QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
    [[nodiscard]] Qt::ItemFlags flags(const QModelIndex& index) const override;
    bool setData(const QModelIndex& index, const QVariant& value, int role) override; ///< changes the value

  private:
    Uses<uses::Set> m_session;
    EventFilter m_filter;
    std::vector<EventRef> m_rows;
    PartId m_part = 0;
    std::size_t m_all = 0;
};

/// The selected part's events: filtered, changed, deleted, moved to a new part.
class EventsView : public QWidget {
    Q_OBJECT
  public:
    explicit EventsView(Uses<uses::Messages, uses::Set> session, QWidget* parent = nullptr);
    [[nodiscard]] EventsModel* model() const { return m_model; }
    [[nodiscard]] QTableView* table() const { return m_table; }

    /// Opens the value of the current event to be typed over; false when the table has not the focus.
    bool editValue();

  Q_SIGNALS:
    void closed();

  private:
    QWidget* makeFilter();
    void applyFilter();
    void refresh();
    void listTargets();
    void refreshCount();
    [[nodiscard]] std::vector<EventRef> selected() const;
    void remove();
    void move();
    void keyPressEvent(QKeyEvent* event) override;
    void showEvent(QShowEvent* event) override;
    Uses<uses::Messages, uses::Set> m_session;
    WhenShown* m_shown = nullptr;
    EventsModel* m_model;
    QTableView* m_table;
    QComboBox *m_kind, *m_controller;
    QSpinBox *m_lowKey, *m_highKey, *m_fromBar, *m_toBar, *m_lowValue, *m_highValue;
    QLabel *m_title, *m_count;
    QPushButton *m_delete, *m_move;
    QComboBox* m_target;
    bool m_filling = false;
};

} // namespace cobbleway
