#pragma once
#include "files/loudness.h"
#include "song/model/song.h"

#include <QObject>
#include <QThreadPool>
#include <QTimer>
#include <optional>
#include <stop_token>

namespace cobbleway {

class CurrentSet;
class Messages;
class Output;
class Sounds;

/// How loud songs are: measured beside the interface, brought to one level when asked, and heard equally loud
/// meanwhile.
class Levelling : public QObject {
    Q_OBJECT
  public:
    Levelling(CurrentSet& current, Sounds& sounds, Output& output, Messages& messages);
    ~Levelling() override;

    /// Measures the song beside the interface and sets the master level so that it is as loud as others.
    void bringToLevel();
    [[nodiscard]] bool isMeasuring() const { return m_measuring; }
    void stopMeasuring() { m_stop.request_stop(); }
    /// What bringToLevel() found for the song that is shown; none when it has changed since.
    [[nodiscard]] std::optional<Measured> measured() const;
    /// Whether songs that nobody has levelled are heard equally loud.
    [[nodiscard]] bool isEven() const { return m_even; }
    void setEven(bool even);
    /// The gain in dB at which the song that is shown is heard to be as loud as others; 0 when it has a level
    /// of its own, or is not measured yet.
    [[nodiscard]] double evenGain() const;
    /// Measures the song that is shown, when it has not been; of itself only where somebody can hear it.
    void measureForEvenness();

    void stop();                        ///< gives up measuring
    bool waitForDone(int milliseconds); ///< false when something still runs then

  Q_SIGNALS:
    void evennessChanged();
    void measuringChanged();

  private:
    void sendGain();
    CurrentSet& m_current;
    Sounds& m_sounds;
    Output& m_output;
    Messages& m_messages;
    bool m_even = true, m_evenRunning = false;
    std::stop_source m_evenStop, m_stop;
    QTimer m_evenPause; ///< a song that is only looked at for a moment is not measured
    bool m_measuring = false;
    Measured m_measured;
    Song m_measuredSong; ///< without its master level
    QThreadPool m_measurer;
};

} // namespace cobbleway
