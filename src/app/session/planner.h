#pragma once
#include "song/shape/pluginplace.h"
#include "sound/plan.h"

#include <QObject>
#include <QStringList>
#include <QTimer>
#include <memory>

namespace cobbleway {

class CurrentSet;
class Findings;
class Messages;
class Output;
class Sounds;

/// Makes what the player plays of the song that is shown, as it is heard now: beside the interface, and anew
/// only where levels are not enough.
class Planner : public QObject {
    Q_OBJECT
  public:
    Planner(CurrentSet& current, Sounds& sounds, Findings& findings, Output& output, Messages& messages);
    ~Planner() override;
    /// Whether the song that is shown is ready to be played.
    [[nodiscard]] bool isPlanned() const;
    /// Whether a plug-in that plays, or is to, has ended or hangs.
    [[nodiscard]] bool hasEndedPlugins() const { return m_anyEnded; }
    /// The plug-in that plays there, as newest planned; null when none does.
    [[nodiscard]] std::shared_ptr<PluginUnit> pluginAt(const PluginPlace& place) const;
    void startPluginsAgain(); ///< those, as they are set in the song

  Q_SIGNALS:
    void playable();  ///< the player has a plan of the song that is shown
    void planReady(); ///< what is heard is what is shown
    void endedPluginsChanged();

  private:
    void update();
    void startJob();
    void take(const Result<std::shared_ptr<Plan>>& made, const std::shared_ptr<const SourceFile>& source);
    [[nodiscard]] QStringList newProblems(const std::vector<Error>& problems);
    void checkPlugins();
    CurrentSet& m_current;
    Sounds& m_sounds;
    Findings& m_findings;
    Output& m_output;
    Messages& m_messages;
    std::shared_ptr<Plan> m_plan;                ///< the newest that the player has
    std::shared_ptr<const SourceFile> m_planned; ///< the file of the song that it plays
    bool m_running = false, m_wanted = false;
    bool m_stale = false; ///< it must be made anew, whatever the song says
    bool m_anyEnded = false, m_startsAgain = false;
    QStringList m_toldProblems;
    QTimer m_watch;
};

} // namespace cobbleway
