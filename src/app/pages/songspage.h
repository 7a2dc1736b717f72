#pragma once
#include "app/pages/songsmodel.h"
#include "app/session/uses.h"
#include "app/widgets/surface.h"

#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTimer>
#include <QTreeView>
#include <QWidget>
#include <array>

class QVBoxLayout;

namespace cobbleway {

class Card;
class WhenShown;

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
    SongsPage(Uses<uses::Set, uses::Files, uses::Sounds, uses::Findings, uses::Transport> session,
              QAction* addFiles, QAction* addFolder, QWidget* parent = nullptr);
    void find();                                     ///< puts the focus where songs are searched
    [[nodiscard]] std::vector<int> selected() const; ///< songs of the set; the one that is shown if none else
    void moveSelected(int by);                       ///< −1 up, 1 down, in the set's order
    /// Plays the song that is shown from its first note, and each that is shown after it, until asked again.
    void firstListen();

  Q_SIGNALS:
    void workOn();         ///< the person wants to go on with the selected song
    void removeSelected(); ///< the person wants to be rid of the selected songs

  private:
    void refresh();
    void takeChange(bool ofTheCard);
    void takeSongs();
    void refreshList();
    void refreshTitle();
    void sortBy(int column, Qt::SortOrder order);
    void showHint();
    void showHeaderFor(int width);
    void resizeEvent(QResizeEvent* event) override;
    void listen();
    bool eventFilter(QObject* watched, QEvent* event) override;
    void fillCard();
    void fillCardSoon();
    void addFacts(QVBoxLayout* column) const;
    void addAsked(QVBoxLayout* column) const;
    void addParts(QVBoxLayout* column) const;
    void addKnown(QVBoxLayout* column) const;
    void addDevices(QVBoxLayout* column) const;
    void addDone(QVBoxLayout* column);
    Uses<uses::Set, uses::Files, uses::Sounds, uses::Findings, uses::Transport> m_session;
    WhenShown* m_shown = nullptr;
    SongsModel* m_model;
    SongsList* m_list;
    QTreeView* m_table;
    QLineEdit* m_find;
    QComboBox* m_order;
    QLabel *m_setName, *m_empty, *m_none;
    bool m_listening = false;
    std::shared_ptr<const SourceFile> m_heard; ///< while listening: of the song that is heard
    QWidget* m_cardBody = nullptr;
    QTimer m_cardPause;        ///< none is made while it runs
    bool m_cardWaits = false;  ///< one is to be made after it
    bool m_otherSnags = false; ///< than the card tells
    [[nodiscard]] QStringList sameMusic() const;
    QStringList m_sameMusic; ///< as the card tells it
    Card* m_card;
};

} // namespace cobbleway
