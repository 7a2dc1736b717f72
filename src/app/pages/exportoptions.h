#pragma once
#include "app/session/uses.h"
#include "app/widgets/pagestack.h"
#include "files/recipe.h"

class QCheckBox;
class QComboBox;
class QLabel;
class QLineEdit;
class QSpinBox;
class QVBoxLayout;

namespace cobbleway {

/// How files are written: format, level, paces, stretch, names, place; and how MIDI files are.
class ExportOptionsPanel : public FocusScroll {
    Q_OBJECT
  public:
    explicit ExportOptionsPanel(Uses<uses::Set, uses::Sounds, uses::Transport, uses::Findings> session,
                                QWidget* parent = nullptr);
    /// What the fields say, with no ticks of files.
    [[nodiscard]] Recipe recipe() const;
    /// The loop, a section, or what is from one on, where that is what is to be written.
    [[nodiscard]] std::optional<std::pair<Tick, Tick>> stretch() const;
    /// Whether options are for all songs: a loop belongs to the song that is shown alone, and how MIDI files
    /// are written is set for each of them.
    void setForAll(bool all);
    /// Sets the fields; ticks of files are left out.
    void take(const Recipe& recipe);
    [[nodiscard]] std::filesystem::path folder() const;
    void setFolder(const QString& folder);
    /// A place at the top for what belongs to the row in hand.
    [[nodiscard]] QVBoxLayout* top() const { return m_top; }
    void refreshMidi();
    void rememberSound() const; ///< the format and rate, for the next time

  Q_SIGNALS:
    void changed();

  private:
    void addSound(QVBoxLayout* column);
    void addNames(QVBoxLayout* column);
    void addMidi(QVBoxLayout* column);
    void setMidiShape(const MidiShape& shape);
    bool m_forAll = false;
    void refreshRates();
    void refreshStretches();
    void row(QVBoxLayout* column, const QString& name, QWidget* control);
    Uses<uses::Set, uses::Sounds, uses::Transport, uses::Findings> m_session;
    QVBoxLayout* m_top;
    QComboBox *m_format, *m_rate, *m_level, *m_gain, *m_stretch, *m_folders, *m_midiType;
    QLineEdit *m_paces, *m_names, *m_folder;
    QCheckBox *m_trim, *m_click, *m_playlists, *m_writtenIn, *m_running, *m_folded, *m_filePerPort,
        *m_notesOnly, *m_keepsPlace;
    QSpinBox* m_countIn;
    QLabel* m_lost;
    bool m_filling = false;
};

} // namespace cobbleway
