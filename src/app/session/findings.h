/// What follows from the song that is shown: matches, snags, notes as they sound.
#pragma once
#include "song/derived.h"

#include <QObject>

namespace cobbleway {

class CurrentSet;
class Messages;
class Sounds;

/// Asks Derived for the song that is shown, and tells when matches and snags are others than before.
class Findings : public QObject {
    Q_OBJECT
  public:
    Findings(CurrentSet& current, Sounds& sounds, Messages& messages);

    [[nodiscard]] const std::vector<PartMatch>& matches() const { return *m_matches; }
    [[nodiscard]] const PartMatch* matchOf(PartId part) const; ///< null for a part that is not there
    [[nodiscard]] const std::vector<Snag>& snags() const { return *m_snags; }
    [[nodiscard]] Derived::Kept<std::vector<Snag>> snagsOf(int song) const; ///< of any song in the set
    // Of a part of the song that is shown; of one that is not there: empty
    [[nodiscard]] Derived::Kept<HeardPart> heard(PartId part) const;
    [[nodiscard]] Derived::Kept<Overview> overview(PartId part) const;
    [[nodiscard]] Derived::Kept<std::vector<ControlPoint>> volume(PartId part) const;
    [[nodiscard]] Derived::Kept<std::vector<OriginCount>> origins(PartId part) const;
    [[nodiscard]] const std::shared_ptr<Derived>& derived() const { return m_derived; }
    void fixAllSafe();

  Q_SIGNALS:
    void matchesChanged();
    void snagsChanged();

  private:
    void refresh();
    CurrentSet& m_current;
    Sounds& m_sounds;
    Messages& m_messages;
    std::shared_ptr<Derived> m_derived = std::make_shared<Derived>();
    Derived::Kept<std::vector<PartMatch>> m_matches;
    Derived::Kept<std::vector<Snag>> m_snags;
};

} // namespace cobbleway
