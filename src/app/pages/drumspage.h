#pragma once
#include "app/pages/drumsmodel.h"
#include "song/drums/drumedits.h"

#include <QListView>
#include <QWidget>

class QAction;
class QCheckBox;
class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;
class QSpinBox;

namespace cobbleway {

class Card;
class DrumHeading;
class GridKeys;
class KitPicture;
class PageStack;
class Segments;
class VelocityHistogram;

/// Page 4: the notes of a drum part, what they are called, what they play, and how loud.
class DrumsPage : public QWidget {
    Q_OBJECT
  public:
    DrumsPage(Uses<uses::Set, uses::Sounds, uses::Findings, uses::Transport, uses::Messages> session,
              QWidget* parent = nullptr);
    /// `above` become buttons over the rows, `note` beside them for the selected notes, `piece` under the
    /// pieces, `none` for a song without drums.
    void addActions(const QList<QAction*>& above, const QList<QAction*>& note, const QList<QAction*>& piece,
                    const QList<QAction*>& none);
    [[nodiscard]] QListView* rows() const { return m_rows; }
    [[nodiscard]] PartId part() const { return m_model->part(); } ///< the drum part that is shown; 0 for none
    [[nodiscard]] std::vector<Key> selectedKeys() const; ///< incoming keys of the selected rows, ascending
    [[nodiscard]] DrumPiece selectedPiece() const;       ///< of the current row
    [[nodiscard]] DrumNames namesShown() const;          ///< of the rows that are shown
    void selectKeys(const std::vector<std::uint8_t>& keys);
    /// Shows a drum part: selects the first where the selected part is none.
    void takeSelection();
    void nameSelected(); ///< opens the current row's name to type
    void hear();         ///< plays the selected note once
    void hearOnly(bool only);
    void loopBars(); ///< loops the bars in which the current note is struck; again: the next such stretch

  private:
    using Session = Uses<uses::Set, uses::Sounds, uses::Findings, uses::Transport, uses::Messages>;
    QWidget* makeTop();
    QWidget* makeNoteCard();
    QWidget* makeNothing();
    void refresh();
    void refreshParts();
    void refreshKits();
    void refreshNote();
    void refreshPieces();
    void play(Key key);
    void trimBy(const std::vector<Key>& keys, int by);
    void edit(const QString& name,
              const std::function<Song(const Song&, PartId, const std::vector<Key>&)>& change,
              const char* gesture = "");
    [[nodiscard]] const DrumNote* current() const;
    bool eventFilter(QObject* watched, QEvent* event) override;
    Session m_session;
    DrumsModel* m_model;
    QListView* m_rows;
    DrumHeading* m_heading;
    PageStack* m_stack;
    QLabel *m_facts, *m_hint, *m_nothing, *m_note, *m_noteFacts, *m_silent;
    QComboBox *m_parts, *m_kits, *m_plays;
    Segments* m_order;
    QCheckBox* m_all;
    QLineEdit* m_name;
    VelocityHistogram* m_histogram;
    QSpinBox *m_louder, *m_spread;
    QWidget *m_topLine, *m_noteLine, *m_pieceButtons, *m_pieceLine, *m_noneLine;
    std::vector<QPushButton*> m_pieces;
    GridKeys* m_pieceKeys;
    QPushButton* m_instead;
    KitPicture* m_kit;
    std::vector<KitFit> m_fits;
    bool m_filling = false; ///< controls are being set to what is so
};

} // namespace cobbleway
