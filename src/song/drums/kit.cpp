#include "song/drums/kit.h"

#include <algorithm>
#include <cstdlib>
#include <vector>

namespace cobbleway {
namespace {

struct StandIns {
    std::uint8_t key;
    std::vector<std::uint8_t> others;
};

const std::vector<StandIns>& table() {
    static const std::vector<StandIns> all = {
        {27, {32, 33, 76, 75}}, {28, {39, 37, 40}},     {29, {30, 58, 69}},     {30, {29, 58, 69}},
        {31, {37, 75, 76}},     {32, {33, 76, 75, 37}}, {33, {32, 76, 75, 37}}, {34, {33, 53, 81, 80, 76}},
        {35, {36, 41}},         {36, {35, 41}},         {37, {75, 76, 40, 38}}, {38, {40, 37, 39}},
        {39, {40, 38, 37}},     {40, {38, 37, 39}},     {41, {43, 45, 47}},     {42, {44, 46}},
        {43, {41, 45, 47}},     {44, {42, 46}},         {45, {47, 43, 48, 41}}, {46, {42, 44}},
        {47, {48, 45, 50, 43}}, {48, {47, 50, 45}},     {49, {57, 52, 55, 51}}, {50, {48, 47, 45}},
        {51, {59, 53, 57, 49}}, {52, {57, 49, 55}},     {53, {51, 59, 56}},     {54, {83, 82, 70, 69}},
        {55, {57, 49, 52}},     {56, {68, 67, 53, 76}}, {57, {49, 52, 55, 59}}, {58, {69, 73, 70, 54}},
        {59, {51, 53, 57}},     {60, {61, 65, 63, 50}}, {61, {60, 66, 64, 47}}, {62, {63, 64, 60, 48}},
        {63, {62, 64, 60, 47}}, {64, {63, 62, 61, 45}}, {65, {66, 60, 50, 48}}, {66, {65, 61, 47, 45}},
        {67, {68, 56, 76}},     {68, {67, 56, 77}},     {69, {70, 82, 54}},     {70, {82, 69, 54}},
        {71, {72, 80}},         {72, {71, 81}},         {73, {74, 69, 70}},     {74, {73, 69, 70}},
        {75, {76, 77, 37}},     {76, {77, 75, 37}},     {77, {76, 75, 37}},     {78, {79, 62}},
        {79, {78, 63}},         {80, {81, 53, 56}},     {81, {80, 53, 56}},     {82, {70, 69, 54}},
        {83, {54, 81, 82}},     {84, {81, 83, 80}},     {85, {75, 76, 37}},     {86, {87, 41, 35}},
        {87, {86, 41, 36}}};
    return all;
}

int soundingOf(const KitKeys& kit, Key key, const std::array<int, 128>& struck) {
    int count = 0;
    for (int velocity = 1; velocity < 128; ++velocity)
        if (struck[static_cast<std::size_t>(velocity)] && kit.sounds(key, velocity))
            count += struck[static_cast<std::size_t>(velocity)];
    return count;
}

std::string nameOf(const KitKeys& kit, Key key) {
    const std::string number = std::to_string(key.value) + " ";
    if (!kit.name(key).empty()) return number + kit.name(key);
    const auto name = drumName(key);
    return number + (name.empty() ? keyName(key) : std::string(name));
}

} // namespace

KitKeys::KitKeys(const SoundFont& font, const Preset& preset) : m_known(true) {
    for (const Zone& zone : preset.zones) {
        std::bitset<128> velocities;
        for (int v = std::max(0, zone.velocities.lowest); v <= std::min(127, zone.velocities.highest); ++v)
            velocities.set(static_cast<std::size_t>(v));
        for (int key = std::max(0, zone.keys.lowest); key <= std::min(127, zone.keys.highest); ++key) {
            const auto at = static_cast<std::size_t>(key);
            m_keys[at] |= velocities;
            // One sample over many keys is an instrument that is played on them, not a drum's name.
            const bool own = zone.keys.highest - zone.keys.lowest < 12;
            if (own && m_names[at].empty() && zone.sample < font.samples.size())
                m_names[at] = cleanDrumName(font.samples[zone.sample]);
        }
    }
    // A name on several keys tells them not apart: one tom, tuned to six.
    std::map<std::string, int> times;
    for (const std::string& name : m_names) ++times[name];
    for (std::string& name : m_names)
        if (times[name] > 1) name.clear();
}

std::span<const std::uint8_t> standInsFor(Key gm) {
    for (const StandIns& row : table())
        if (row.key == gm.value) return row.others;
    return {};
}

std::optional<InsteadOf> insteadOf(const KitKeys& kit, Key key, Key means,
                                   const std::array<int, 128>& struck) {
    int hits = 0;
    for (const int count : struck) hits += count;
    std::vector<Key> candidates;
    if (means != key) candidates.push_back(means);
    for (const std::uint8_t other : standInsFor(means)) candidates.push_back(Key{other});
    const std::size_t near = candidates.size();
    const auto byDistance = [&](auto takes) {
        std::vector<Key> keys;
        for (std::uint8_t k = 0; k < 128; ++k)
            if (Key{k} != key && takes(Key{k})) keys.push_back(Key{k});
        std::stable_sort(keys.begin(), keys.end(), [&](Key a, Key b) {
            return std::abs(a.value - means.value) < std::abs(b.value - means.value);
        });
        candidates.insert(candidates.end(), keys.begin(), keys.end());
    };
    const DrumPiece piece = pieceOf(means);
    if (piece != DrumPiece::Other) byDistance([&](Key k) { return pieceOf(k) == piece; });
    const std::size_t ofPiece = candidates.size();
    byDistance([](Key) { return true; });
    int best = soundingOf(kit, key, struck);
    std::optional<InsteadOf> found;
    for (std::size_t i = 0; i < candidates.size() && best < hits; ++i) {
        const int sounding = soundingOf(kit, candidates[i], struck);
        if (sounding <= best) continue;
        best = sounding;
        const std::string name = nameOf(kit, candidates[i]);
        found = {candidates[i],
                 {i < near      ? "drums.nearest-sound"
                  : i < ofPiece ? "drums.nearest-of-piece"
                                : "drums.nearest-key",
                  {{"name", name}, {"piece", std::string(pieceName(piece))}}}};
    }
    return found;
}

} // namespace cobbleway
