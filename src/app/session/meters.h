#pragma once
#include "song/model/song.h"

#include <QObject>
#include <array>
#include <map>

namespace cobbleway {

class CurrentSet;
class Output;

/// The peaks since the last tick of the output, as amplitudes.
class Meters : public QObject {
    Q_OBJECT
  public:
    Meters(CurrentSet& current, Output& output);
    [[nodiscard]] double output(int side) const { return m_output[static_cast<std::size_t>(side)]; }
    [[nodiscard]] double part(PartId part) const;

  private:
    void look();
    CurrentSet& m_current;
    Output& m_played;
    std::array<double, 2> m_output{}; ///< left, right
    std::map<PartId, double> m_parts; ///< those above 0
};

} // namespace cobbleway
