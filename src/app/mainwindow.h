#pragma once
#include "app/actions.h"
#include "song/snags/snags.h"
#include <QMainWindow>

#include <functional>

class QLabel;

namespace cobbleway {

class DrumsPage;
class ExportPage;
class Head;
class Narrator;
class PageStack;
class PartsPage;
class Rail;
struct Session;
class SnagDrawer;
class SongStrip;
class SongsPage;
class SoundsPage;

/// Puts pages, actions and the frame together; knows nothing of songs.
class MainWindow : public QMainWindow {
    Q_OBJECT
  public:
    explicit MainWindow(Session& session);
    ~MainWindow() override;
    void showPage(Step step);
    [[nodiscard]] Step page() const;
    void showSnags(bool show);
    /// Asks about work that was not saved before a program ended, if there is any.
    /// Opens songs, folders and sets; of soundfonts among them it asks what they are to play.
    void openPaths(QStringList paths);
    void offerRecovered();
    /// What offerRecovered() asks for each copy. Tests answer instead of a dialog.
    enum class Recovered { Open, Later, Discard };
    std::function<Recovered(const QString& about)> askAboutRecovered;
    [[nodiscard]] ExportPage* exportPage() const { return m_export; }
    [[nodiscard]] PartsPage* partsPage() const { return m_parts; }
    [[nodiscard]] SoundsPage* soundsPage() const { return m_sounds; }
    [[nodiscard]] DrumsPage* drumsPage() const { return m_drums; }
    /// Reads a list of drum names and shows what is in it, to be taken over.
    void showNames(const QString& path);
    /// Writes the names that the Drums page shows, or those of all 128 keys.
    void writeNames(const QString& path, bool all);
    [[nodiscard]] QAction* action(const QString& id) const;
    /// What whenSaved() asks. Tests answer instead of a dialog.
    /// It calls `then` with a QMessageBox::StandardButton: Save, Discard or Cancel.
    std::function<void(const std::function<void(int)>& then)> askAboutChanges;

  Q_SIGNALS:
    void closed(); ///< what was not saved is saved or thrown away

  private:
    void makeActions();
    /// The keys of an action, as a person changed them or as they came.
    static QList<QKeySequence> keysOf(const ActionRow& row);
    QList<ActionRow> fileRows();
    QList<ActionRow> songRows();
    QList<ActionRow> partRows();
    QList<ActionRow> soundRows();
    QList<ActionRow> drumRows();
    QList<ActionRow> playRows();
    QList<ActionRow> viewRows();
    void chooseMix(int by);
    void makePages();
    void refreshActions();
    void addPartButtons();
    void makeMenus();
    void refresh();
    void fillRecent();
    void addEarlierSaves();
    void fillInputs(QMenu* menu);
    void fillOutputs(QMenu* menu);
    void fillPublishedNames(QMenu* menu);
    void fillThemes(QMenu* menu);
    void fillTextSizes(QMenu* menu);
    void setTextSize(int percent);
    /// Goes on when nothing is lost by it: at once, after saving, or never. The one gate before the set is
    /// replaced.
    void whenSaved(const std::function<void()>& then);
    void saveSet(bool askWhere, std::function<void(bool)> then = {});
    void askAboutChangedSet(const QString& path, const std::function<void(bool)>& then);
    static void takeTypingElsewhere(const QWidget* pressed);
    void collectFiles();
    void openSet();
    void addFiles();
    void addFolder();
    void showAbout();
    void showKeys();
    void placeDrawer();
    void closeEvent(QCloseEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dropEvent(QDropEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override;

    Session& m_session;
    bool m_mayClose = false; ///< unsaved changes have been asked about
    QList<ActionRow> m_rows; ///< the table of actions
    QHash<QString, QAction*> m_actions;
    QMenu* m_recent = nullptr;
    Rail* m_rail;
    PageStack* m_stack;
    SongsPage* m_songs = nullptr;
    PartsPage* m_parts;
    SoundsPage* m_sounds;
    DrumsPage* m_drums;
    ExportPage* m_export;
    SnagDrawer* m_drawer;
    Narrator* m_narrator;
    QWidget* m_body;
};

} // namespace cobbleway
