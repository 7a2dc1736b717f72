#pragma once
#include "sound/midisink.h"

#include <QObject>
#include <QThreadPool>
#include <QTimer>

namespace cobbleway {

/// What the system offers; tests bring their own.
struct KeyboardDoors {
    std::function<std::vector<PortInfo>()> list = midiInputs;
    std::function<Result<std::unique_ptr<MidiInput>>(const std::string&, MidiReceiver)> open = openMidiInput;
};

/// The MIDI keyboards of this computer and the one that plays. Lists, opens and closes them on a thread of
/// its own, since each may have to wait for another program. A keyboard that is unplugged stays wanted, and
/// plays again when it is back.
class Keyboards : public QObject {
    Q_OBJECT
  public:
    /// `receiver` is called on threads of the inputs' own, and no more once this is gone.
    explicit Keyboards(MidiReceiver receiver, KeyboardDoors doors = {});
    ~Keyboards() override;

    [[nodiscard]] const std::vector<PortInfo>& known() const { return m_known; } ///< at the last look
    [[nodiscard]] bool isLooking() const { return m_looking; }
    [[nodiscard]] QString playing() const { return m_playing; } ///< id of the open one; empty for none
    [[nodiscard]] QString wanted() const { return m_wanted; }
    /// Closes what is open and opens this one beside the caller; empty for none. Ends with opened() or
    /// failed().
    void want(const QString& id);
    /// Like want(), but one that is not connected is waited for, and not told.
    void waitFor(const QString& id);
    /// Lists what is connected; ends with listed(). What is wanted and there is opened, what plays and is
    /// gone is closed.
    void look();

  Q_SIGNALS:
    void listed();
    void opened(const QString& id);
    void failed(const QString& id, const QString& problem);
    void gone(const QString& id); ///< it was unplugged

  private:
    struct Gate;
    void close();
    void open();
    void takeList(std::vector<PortInfo> ports);
    [[nodiscard]] bool isKnown(const QString& id) const;
    KeyboardDoors m_doors;
    std::shared_ptr<Gate> m_gate;
    std::shared_ptr<MidiInput> m_open;
    QThreadPool* m_pool; ///< given up, not waited for, when it does not come back
    std::vector<PortInfo> m_known;
    QString m_wanted, m_playing;
    int m_openings = 0; ///< the last that was begun: what earlier ones bring is not wanted any more
    bool m_looking = false;
    QTimer m_again; ///< looks while one is waited for, and whether the one that plays is there
};

} // namespace cobbleway
