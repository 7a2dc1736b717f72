#include "song/heard/barprint.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace cobbleway {
namespace {

constexpr int parts = 12; // of a beat: quarters and thirds of it are whole numbers of these

/// The hits in all bars of one metre, by key and twelfth of a beat.
struct OfMetre {
    std::array<std::vector<double>, 128> keys;
    std::array<double, parts> inBeat{}; ///< of all keys
    std::size_t hits = 0;
};

/// Tells the bar of ticks that come in order.
class Bars {
  public:
    explicit Bars(const TempoMap& tempo) : m_tempo(tempo) {}
    void goTo(Tick tick) {
        if (tick >= m_start && tick < m_end) return;
        const int bar = m_tempo.position(tick).bar;
        m_start = m_tempo.barStart(bar);
        m_end = std::max(m_start + 1, m_tempo.barStart(bar + 1));
        metre = m_tempo.metre(m_start);
        const double quarter = static_cast<double>(m_tempo.quarter());
        m_perTick = parts * metre.denominator / (quarter * 4);
    }
    /// Twelfths of a beat from the bar's start, within the bar: what falls a little before the next bar
    /// belongs to its first beat, which is the same place.
    [[nodiscard]] int placeOf(Tick tick) const {
        const int place = static_cast<int>(static_cast<double>(tick - m_start) * m_perTick + 0.5);
        const int whole = metre.numerator * parts;
        return place < whole ? place : place % whole;
    }
    MetreChange metre;

  private:
    const TempoMap& m_tempo;
    Tick m_start = 0, m_end = 0;
    double m_perTick = 1; ///< twelfths of a beat
};

} // namespace

BarPrints barPrintsOf(const SongFrame& song, const PartSource& source, Tick from, Tick to) {
    std::map<std::pair<int, int>, OfMetre> metres;
    Bars bars(*song.tempo);
    OfMetre* current = nullptr;
    std::pair<int, int> of{0, 0};
    song.each(*source.events, [&](const Event& event, EventRef ref) {
        if (!event.isNoteOn()) return;
        const Tick tick = song.tickOf(ref);
        if (tick < from || tick >= to) return;
        bars.goTo(tick);
        const std::pair metre(bars.metre.numerator, bars.metre.denominator);
        if (!current || metre != of) {
            of = metre;
            current = &metres[metre];
        }
        auto& slots = current->keys[event.data1 & 0x7FU];
        if (slots.empty()) slots.resize(static_cast<std::size_t>(metre.first) * parts);
        const auto place = static_cast<std::size_t>(bars.placeOf(tick));
        slots[place] += event.data2 / 127.0;
        ++current->inBeat[place % parts];
        ++current->hits;
    });
    const auto most = std::max_element(metres.begin(), metres.end(), [](const auto& a, const auto& b) {
        return a.second.hits < b.second.hits;
    });
    BarPrints prints;
    if (most == metres.end()) {
        const MetreChange& metre = song.tempo->metre(from);
        prints.numerator = metre.numerator;
        prints.denominator = metre.denominator;
        prints.perBeat = metre.denominator >= 8 ? 2 : 4;
        return prints;
    }
    std::tie(prints.numerator, prints.denominator) = most->first;
    const auto& at = most->second.inBeat;
    const bool shortBeat = prints.denominator >= 8;
    // 7 is the short eighth of a light swing, 2 and 10 sextuplets.
    const double last = at[7] + at[8], thirds = at[2] + at[4] + last + at[10];
    prints.triplets = !shortBeat && thirds > at[3] + at[6] + at[9];
    prints.swing = prints.triplets && last > 3 * (at[4] + at[2] + at[10]);
    prints.perBeat = shortBeat ? 2 : (prints.triplets ? 3 : 4);
    for (std::size_t key = 0; key < 128; ++key) {
        const auto& fine = most->second.keys[key];
        if (fine.empty()) continue;
        prints.keys[key].resize(prints.slots());
        for (std::size_t i = 0; i < fine.size(); ++i) {
            const auto slot =
                static_cast<std::size_t>(std::lround(static_cast<double>(i) * prints.perBeat / parts));
            prints.keys[key][slot % prints.slots()] += fine[i];
        }
    }
    return prints;
}

} // namespace cobbleway
