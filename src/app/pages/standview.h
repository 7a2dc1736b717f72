#pragma once
#include "app/session/uses.h"
#include <QWidget>

class QLabel;

namespace cobbleway {

class NotesPicture;
class WordsStrip;

/// The whole screen for whoever plays or sings: the lead's notes, its words with the next line under them,
/// bar and section, and bars of rest counted down; to be read from two metres. W names the notes as they are
/// written for a transposing instrument, or as they sound. Space plays, the arrow keys go from section to
/// section, Esc closes.
class StandView : public QWidget {
    Q_OBJECT
  public:
    explicit StandView(Uses<uses::Set, uses::Findings, uses::Transport> session, QWidget* parent = nullptr);
    [[nodiscard]] QString shown() const; ///< all that it says, a line each; for tests and screen readers

  private:
    void keyPressEvent(QKeyEvent* event) override;
    void refresh();
    void follow();
    Uses<uses::Set, uses::Findings, uses::Transport> m_session;
    NotesPicture* m_notes;
    QLabel *m_name, *m_place;
    WordsStrip* m_words;
    QLabel* m_rest;
    bool m_written = false;
};

} // namespace cobbleway
