#pragma once
#include "app/session/uses.h"
#include "app/widgets/surface.h"
#include <QAbstractTableModel>
#include <QLabel>
#include <QPushButton>
#include <QTreeView>
#include <QWidget>
#include <array>

class QVBoxLayout;

namespace cobbleway {

class Card;
class WhenShown;

/// The set's songs as rows: name and file, type, tracks → parts, length, dialect, snags.
class SongsModel : public QAbstractTableModel {
    Q_OBJECT
  public:
    explicit SongsModel(Uses<uses::Set, uses::Sounds, uses::Findings> session, QObject* parent = nullptr);
    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] int columnCount(const QModelIndex& = {}) const override { return 6; }
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    [[nodiscard]] QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
    enum Column { Name, Type, Parts, Length, Kind, Snags };
    enum Role { FileRole = Qt::UserRole, CountRole };

  private:
    void refresh();
    [[nodiscard]] QString sentenceOf(int row) const;
    Uses<uses::Set, uses::Sounds, uses::Findings> m_session;
    int m_count = 0;
};

/// Notes on each channel as bars; drums grey.
class ChannelBars : public QWidget, public Surface {
    Q_OBJECT
  public:
    explicit ChannelBars(Uses<uses::Set, uses::Findings> session, QWidget* parent = nullptr);
    [[nodiscard]] std::vector<SurfaceRow> surfaceRows() const override; ///< channels with notes

  private:
    struct Channels {
        std::array<std::size_t, 16> notes{};
        std::array<bool, 16> drums{};
    };
    [[nodiscard]] Channels channels() const;
    void paintEvent(QPaintEvent* event) override;
    Uses<uses::Set, uses::Findings> m_session;
};

/// Page 1: the files of the set, and what each is.
class SongsPage : public QWidget {
    Q_OBJECT
  public:
    SongsPage(Uses<uses::Set, uses::Sounds, uses::Findings> session, QAction* addFiles, QAction* addFolder,
              QWidget* parent = nullptr);

  Q_SIGNALS:
    void workOn(); ///< the person wants to go on with the selected song

  private:
    void refresh();
    void fillCard();
    void addDevices(QVBoxLayout* column) const;
    void addDone(QVBoxLayout* column);
    Uses<uses::Set, uses::Sounds, uses::Findings> m_session;
    WhenShown* m_shown = nullptr;
    SongsModel* m_model;
    QTreeView* m_table;
    QLabel *m_setName, *m_empty;
    QWidget* m_cardBody = nullptr;
    Card* m_card;
};

} // namespace cobbleway
