#pragma once
#include "app/pages/exportgrid.h"
#include "app/session/uses.h"

#include <QElapsedTimer>
#include <QTimer>
#include <QWidget>
#include <stop_token>

class QLabel;
class QProgressBar;
class QPushButton;
class QVBoxLayout;

namespace cobbleway {

class ExportOptionsPanel;
class ExportView;
class Segments;
class WhenShown;

/// Page 6: writes MIDI, sound and other files of one song or of all, in one go, beside the interface.
class ExportPage : public QWidget {
    Q_OBJECT
  public:
    explicit ExportPage(
        Uses<uses::Messages, uses::Set, uses::Sounds, uses::Transport, uses::Findings> session,
        QWidget* parent = nullptr);
    ~ExportPage() override;
    void setFolder(const QString& folder);
    [[nodiscard]] ExportGrid* model();
    [[nodiscard]] ExportView* view() const { return m_view; }
    /// What is ticked, with the names it will have; one for each song that has any.
    [[nodiscard]] std::vector<SongExport> ticked();
    /// Ticks of the song that is shown.
    void tickOnly(const std::function<bool(const ExportItem&)>& wanted);
    void showAllSongs(bool all);
    /// Sets ticks and options.
    void use(const Recipe& recipe);
    [[nodiscard]] Recipe recipe() const; ///< what is ticked and set now
    [[nodiscard]] bool isWriting() const { return m_writing; }
    void write();
    void stop();
    /// Calls `then` with what becomes of files that are there already; not at all when nothing is to be
    /// written. Tests answer instead of a dialog.
    std::function<void(const std::vector<std::filesystem::path>& there,
                       const std::function<void(Existing)>& then)>
        askAboutExisting;

  Q_SIGNALS:
    void finished();

  private:
    void refresh();
    void refreshCount();
    [[nodiscard]] QString quieterText() const;
    [[nodiscard]] QString planText(const std::vector<SongExport>& songs) const;
    void countSoon();
    QTimer m_countSoon;
    void refreshRow();
    std::map<int, std::vector<ExportItem>> m_counted; ///< what is ticked, by the song's place
    [[nodiscard]] std::vector<int> songsShown() const;
    void askWhatBecomesOf(const std::vector<std::filesystem::path>& there,
                          const std::function<void(Existing)>& then);
    void writeSongs(const std::vector<SongExport>& songs, const std::vector<int>& places, Existing existing);
    void takeEnd(const SetOutcome& made, const QStringList& silent);
    void showProgress(double share);
    void makeTop(QVBoxLayout* layout);
    void makeRow(QVBoxLayout* column);
    void showRecipes();
    Uses<uses::Messages, uses::Set, uses::Sounds, uses::Transport, uses::Findings> m_session;
    WhenShown* m_shown = nullptr;
    ExportGrid* m_grid;
    ExportView* m_view;
    ExportOptionsPanel* m_options;
    Segments* m_songs;
    QLabel *m_count, *m_status, *m_plan, *m_rowName, *m_rowFiles;
    QProgressBar* m_progress;
    QPushButton *m_write, *m_stop, *m_recipes, *m_openFolder, *m_hear;
    std::stop_source m_stopSource;
    QElapsedTimer m_since;
    /// What the options say of how files become; where they go is none of it.
    [[nodiscard]] std::pair<Recipe, std::optional<std::pair<Tick, Tick>>> asNow() const;
    std::pair<Recipe, std::optional<std::pair<Tick, Tick>>>
        m_writtenAs; ///< the same, when files were written last
    bool m_writing = false, m_all = false;
};

} // namespace cobbleway
