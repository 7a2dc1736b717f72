#include "song/shape/voices.h"

#include <algorithm>
#include <array>
#include <cstdlib>
#include <limits>

namespace cobbleway {
namespace {

constexpr int mostLines = 8;
constexpr int soundingCost = 12; // semitones, for a line that sounds already
constexpr int crossingCost = 9;  // for passing a line that sounds
/// People do not play a chord at one instant, nor do they end a note where the next begins: what is apart by
/// less is meant together. Seconds.
constexpr double together = 0.040;

struct LineState {
    int key = 60;
    double end = -1; ///< of its last note, in seconds
};

class Leading {
  public:
    Leading(const TempoMap& tempo, const std::vector<PartNote>& notes, int lines, bool narrow)
        : m_notes(notes), m_lines(lines), m_narrow(narrow), m_of(notes.size(), 0) {
        m_times.reserve(notes.size());
        for (const PartNote& note : notes)
            m_times.push_back({tempo.seconds(note.start), tempo.seconds(note.end)});
        std::vector<int> keys;
        keys.reserve(notes.size());
        for (const PartNote& note : notes) keys.push_back(note.key.value);
        std::sort(keys.begin(), keys.end());
        for (int i = 0; i < lines && !keys.empty(); ++i) { // line i's share, counted from the top
            const auto from = (2 * (lines - i) - 1) * keys.size() / (2 * static_cast<std::size_t>(lines));
            m_state[static_cast<std::size_t>(i)].key = keys[std::min(from, keys.size() - 1)];
        }
    }

    std::vector<int> run() {
        std::vector<std::uint32_t> chord;
        for (std::size_t i = 0; i < m_notes.size();) {
            chord.clear();
            const std::size_t first = i;
            do chord.push_back(static_cast<std::uint32_t>(i));
            while (++i < m_notes.size() && isOneChord(first, i));
            if (chord.size() == 1) {
                giveOne(chord.front());
                continue;
            }
            std::stable_sort(chord.begin(), chord.end(), [&](std::uint32_t a, std::uint32_t b) {
                return m_notes[a].key > m_notes[b].key;
            });
            give(chord);
        }
        return std::move(m_of);
    }

  private:
    /// Whether a note begins with the first of a chord and sounds with it.
    [[nodiscard]] bool isOneChord(std::size_t first, std::size_t note) const {
        if (m_notes[note].start == m_notes[first].start) return true;
        return m_times[note].start - m_times[first].start <= together &&
               m_times[note].start < m_times[first].end;
    }

    [[nodiscard]] int cost(std::uint32_t note, int line) const {
        const int key = m_notes[note].key.value;
        const double start = m_times[note].start + together;
        const auto sounds = [&](int at) { return m_state[static_cast<std::size_t>(at)].end > start; };
        int cost =
            std::abs(key - m_state[static_cast<std::size_t>(line)].key) + (sounds(line) ? soundingCost : 0);
        for (int above = 0; above < line; ++above)
            if (sounds(above) && m_state[static_cast<std::size_t>(above)].key < key) cost += crossingCost;
        for (int below = line + 1; below < m_lines; ++below)
            if (sounds(below) && m_state[static_cast<std::size_t>(below)].key > key) cost += crossingCost;
        return cost;
    }

    void giveOne(std::uint32_t note) {
        int best = 0;
        for (int line = 1; line < m_lines; ++line)
            if (cost(note, line) < cost(note, best)) best = line;
        take(note, static_cast<std::size_t>(best));
    }

    /// Gives a chord, sorted from high to low: every line at least one note when there are enough, else every
    /// note a line of its own; both in order, at the least cost.
    void give(const std::vector<std::uint32_t>& chord) {
        const std::size_t count = chord.size();
        const auto lines = static_cast<std::size_t>(m_lines);
        const bool full = count >= lines;
        constexpr int far = std::numeric_limits<int>::max() / 4;
        // best[l] at note n: least cost with note n on line l. In a full chord the line steps by 0 or 1 and
        // begins at the top and ends at the bottom; in a smaller one it steps by at least 1.
        m_best.resize(std::max(count, m_best.size()));
        m_from.resize(m_best.size());
        auto &best = m_best, &from = m_from;
        for (std::size_t n = 0; n < count; ++n) {
            best[n].fill(far);
            for (std::size_t l = 0; l < lines; ++l) {
                int before = n == 0 && (!full || l == 0) ? 0 : far, source = -1;
                for (std::size_t k = 0; n > 0 && k <= l; ++k) {
                    const bool within = full && l == k && !(m_narrow && (l == 0 || l + 1 == lines));
                    const bool allowed = full ? l - k == 1 || within : k < l;
                    if (allowed && best[n - 1][k] < before) {
                        before = best[n - 1][k];
                        source = static_cast<int>(k);
                    }
                }
                if (before >= far) continue;
                best[n][l] = before + cost(chord[n], static_cast<int>(l));
                from[n][l] = source;
            }
        }
        std::size_t line = lines - 1;
        if (!full)
            line = static_cast<std::size_t>(
                std::min_element(best[count - 1].begin(), best[count - 1].begin() + m_lines) -
                best[count - 1].begin());
        for (std::size_t n = count; n-- > 0;) {
            take(chord[n], line);
            if (n > 0) line = static_cast<std::size_t>(from[n][line]);
        }
    }

    void take(std::uint32_t note, std::size_t line) {
        m_of[note] = static_cast<int>(line);
        LineState& state = m_state[line];
        state.key = m_notes[note].key.value;
        state.end = std::max(state.end, m_times[note].end);
    }

    const std::vector<PartNote>& m_notes;
    struct Times {
        double start, end; ///< seconds
    };
    std::vector<Times> m_times;
    int m_lines;
    bool m_narrow;
    std::vector<int> m_of;
    std::array<LineState, mostLines> m_state;
    std::vector<std::array<int, mostLines>> m_best,
        m_from; ///< of give(), kept so that nothing is allocated a chord
};

} // namespace

std::vector<int> linesOf(const TempoMap& tempo, const std::vector<PartNote>& notes, int lines, bool narrow) {
    return Leading(tempo, notes, std::clamp(lines, 2, mostLines), narrow).run();
}

} // namespace cobbleway
