#pragma once
#include "song/shape/pluginplace.h"
#include "sound/pluginunit.h"

#include <QElapsedTimer>
#include <QObject>
#include <QThreadPool>
#include <QTimer>
#include <memory>
#include <vector>

namespace cobbleway {

class CurrentSet;
class Messages;
class Planner;

/// The own windows of plug-ins that are open. What is done there is a step to undo in the song that is shown;
/// a window goes when its plug-in goes, and with its song.
class PluginWindows : public QObject {
    Q_OBJECT
  public:
    PluginWindows(CurrentSet& current, Planner& planner, Messages& messages);
    ~PluginWindows() override;
    /// Opens the window of the plug-in that plays there, or brings it to the front.
    void open(const PluginPlace& place, const QString& title);
    bool waitForDone(int milliseconds) { return m_pool.waitForDone(milliseconds); }

  Q_SIGNALS:
    void pressed(WindowKey key); ///< a key that the window had no use for

  private:
    struct Opened {
        PluginPlace place;
        std::shared_ptr<PluginUnit> unit;
        std::shared_ptr<const SourceFile> song;
        bool isOpening = true, isOpen = true, isAsking = false, hasChanged = false;
        QElapsedTimer still; ///< since something changed that is no control
    };
    void look();
    void lookAt(Opened& opened);
    [[nodiscard]] bool isGone(const Opened& opened) const;
    void turn(const PluginPlace& place, const std::vector<std::pair<std::string, float>>& turned);
    void keep(Opened& opened); ///< what is no control
    void take(const std::shared_ptr<PluginUnit>& unit, const PluginSettings& settings);
    CurrentSet& m_current;
    Planner& m_planner;
    Messages& m_messages;
    QThreadPool m_pool;
    std::vector<Opened> m_opened;
    QTimer m_timer;
};

} // namespace cobbleway
