/// The sounds that there are, and those that are being tried.
#pragma once
#include "font/catalogue.h"
#include "song/model/song.h"
#include "sound/instrumentbank.h"

#include <QFileSystemWatcher>
#include <QObject>
#include <QStringList>
#include <QThreadPool>
#include <QTimer>
#include <functional>
#include <stop_token>

namespace cobbleway {

class CurrentSet;
class Messages;
struct PluginScan;

/// Finds fonts, plug-ins and ports; lets a sound or another font be heard without keeping it.
class Sounds : public QObject {
    Q_OBJECT
  public:
    Sounds(CurrentSet& current, Messages& messages);
    ~Sounds() override;

    /// All sounds, in the order of fonts that the set wants, or else the person.
    [[nodiscard]] const Catalogue& catalogue() const { return m_catalogue; }
    void setCatalogue(Catalogue catalogue);
    /// Soundfonts in the folders that cannot be used, and why.
    [[nodiscard]] const std::vector<FontProblem>& fontProblems() const { return m_fontProblems; }
    /// Leaves fonts out that could not be loaded, until they are found anew.
    void leaveOut(const std::vector<std::string>& fonts);
    void rescanFonts();   ///< fonts and MIDI ports; beside the interface
    void rescanPlugins(); ///< LV2, in a helper process; beside the interface
    /// Tries a plug-in, or a soundfont, that was set aside after a trial, or since it ended the program.
    void tryPluginAgain(const QString& uri);
    void tryFontAgain(const QString& path);
    /// Whether plug-ins could be kept from the person's files while they were tried; true until it is known.
    [[nodiscard]] bool arePluginsConfined() const { return m_confined; }
    [[nodiscard]] QString pluginBeingTried() const { return m_pluginTried; } ///< empty when none is
    /// Whose order of fonts: the person's own, the set's, the song's.
    enum class Scope { Mine, Set, Song };
    [[nodiscard]] QStringList fontOrder(Scope scope) const; ///< ids; empty where there is none of its own
    void setFontOrder(Scope scope, const QStringList& ids);
    /// Where soundfonts are looked for: folders, and single files.
    [[nodiscard]] QStringList fontFolders() const { return m_fontFolders; }
    void addFontFolder(const QString& folder);
    /// Takes font files to where fonts are looked for, and puts them first in an order, when one is named.
    void addFonts(const QStringList& files, std::optional<Scope> scope);
    void removeFontFolder(const QString& folder);

    /// The song that is shown, with a sound that is being tried or a font that is compared; only when there
    /// is a song.
    [[nodiscard]] const Song& heardSong() const;
    /// Lets the selected part be heard with a sound without keeping it.
    void trySound(const SoundRef& sound);
    [[nodiscard]] bool isTrying() const { return m_tried.has_value(); }
    [[nodiscard]] const std::optional<SoundRef>& tried() const { return m_tried; }
    void keepTried();
    void keepTriedFor(const std::vector<PartId>& parts);
    void dropTried();
    /// Lets only some notes of the selected drum part be heard, by incoming key, without changing the song;
    /// none: all again.
    void hearOnly(const std::vector<Key>& keys);
    [[nodiscard]] const std::vector<Key>& heardOnly() const { return m_only; }
    /// Lets the song be heard with an edit that is not kept; without one as it is. Ends when the song
    /// changes.
    void hearEdited(std::function<Song(const Song&)> edit);
    /// Whether only the part is heard while a sound is tried.
    [[nodiscard]] bool triesAlone() const { return m_triesAlone; }
    void setTriesAlone(bool alone);
    /// Lets the song be heard with another font in front, and back again, without keeping it.
    void toggleCompare();
    [[nodiscard]] const SoundFont* comparedFont() const; ///< null when none is
    void setCompareFont(const QString& id) { m_compareWith = id.toStdString(); }
    /// The font that toggleCompare() turns to: the one set, else the next in order, else any other.
    [[nodiscard]] const SoundFont* compareFont() const;

    /// The settings that a preset of a plug-in stands for, asked of the plug-in itself beside the interface.
    void askPreset(const QString& pluginUri, const QString& preset, std::function<void(PluginSettings)> take);
    struct PluginFace {
        std::vector<PluginControl> controls;
        std::vector<PluginPreset> presets;
        bool window = false; ///< whether it has a window of its own
    };
    void askFace(const QString& pluginUri, std::function<void(PluginFace)> take);

    /// Loads instruments; for the loader's thread alone.
    [[nodiscard]] const std::shared_ptr<InstrumentBank>& bank() const { return m_bank; }
    [[nodiscard]] QThreadPool& loader() { return m_loader; } ///< one thread

    void stop();
    bool waitForDone(int milliseconds); ///< false when something still runs then

  Q_SIGNALS:
    void catalogueChanged();
    void pluginsChanged();  ///< the scan goes on or has ended
    void triedChanged();    ///< another sound is tried, or none
    void onlyChanged();     ///< other drum notes are heard alone, or all again
    void editedChanged();   ///< another edit is heard that is not kept, or none
    void comparedChanged(); ///< another font is compared, or none
    void heardChanged();    ///< heardSong() is another, though the song is not

  private:
    void derive();
    void takeSetChange();
    void takeSongChange(bool another);
    void takePlugins(PluginScan scan);
    void useAdded();
    void refreshTrial();
    void watchFolders();
    void tellFontProblems();

    CurrentSet& m_current;
    Messages& m_messages;
    std::optional<Song> m_trial; ///< what is heard in place of the song
    std::optional<SoundRef> m_tried;
    std::function<Song(const Song&)> m_edited; ///< an edit that is heard and not kept
    std::vector<Key> m_only;                   ///< drum notes of the selected part that alone are heard
    bool m_triesAlone = false, m_comparing = false;
    std::string m_compareWith;
    Catalogue m_found, m_catalogue;     ///< as scanned; and as it serves
    QStringList m_mine;                 ///< the person's own order of fonts
    std::vector<std::string> m_leftOut; ///< fonts that could not be loaded
    std::vector<FontProblem> m_fontProblems;
    std::vector<std::string> m_setOrder; ///< what the catalogue was derived with
    std::vector<FontMemory> m_setFonts;
    std::optional<std::pair<QStringList, Scope>> m_toUse; ///< fonts that were added, when they are found
    QStringList m_fontFolders;
    std::shared_ptr<FontScanner> m_fontScanner; ///< the reader thread's alone
    QFileSystemWatcher m_watcher;
    QTimer m_watchTimer;
    QString m_pluginTried;
    bool m_confined = true;
    QStringList m_toldProblems;
    std::stop_source m_stop, m_fontStop;
    std::shared_ptr<InstrumentBank> m_bank;
    QThreadPool m_loader;  ///< one thread: the instrument bank is its alone
    QThreadPool m_reader;  ///< fonts
    QThreadPool m_scanner; ///< plug-ins
};

} // namespace cobbleway
