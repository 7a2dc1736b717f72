#include "song/match/musicalkey.h"

#include <cmath>

namespace cobbleway {
namespace {

constexpr PitchClasses majorProfile = {6.35, 2.23, 3.48, 2.33, 4.38, 4.09,
                                       2.52, 5.19, 2.39, 3.66, 2.29, 2.88};
constexpr PitchClasses minorProfile = {6.33, 2.68, 3.52, 5.38, 2.60, 3.53,
                                       2.54, 4.75, 3.98, 2.69, 3.34, 3.17};

/// The profiles of all keys with a mean of 0 and a length of 1, so that a product is a correlation: major and
/// minor by tonic.
const std::array<PitchClasses, 24>& keyProfiles() {
    static const auto profiles = [] {
        std::array<PitchClasses, 24> all;
        for (int key = 0; key < 24; ++key) {
            PitchClasses profile = profileOf({key / 2, key % 2 == 1, 0});
            const double mean = sumOf(profile) / 12;
            double square = 0;
            for (double& v : profile) square += (v - mean) * (v - mean);
            for (double& v : profile) v = (v - mean) / std::sqrt(square);
            all[static_cast<std::size_t>(key)] = profile;
        }
        return all;
    }();
    return profiles;
}

/// In correlations: keys of one scale differ by about 0.1, those a fifth apart by about 0.3.
double hintOf(const MusicalKey& key, const KeyHints& hints) {
    constexpr double last = 0.12, first = 0.05, signature = 0.25, plain = 0.05, mode = 0.04;
    double hint = 0;
    if (hints.lastBass == key.tonic) hint += last;
    if (hints.firstBass == key.tonic) hint += first;
    if (!hints.sharps) return hint;
    const bool saysLittle = *hints.sharps == 0 && !hints.minor;
    const bool sameScale = (sharpsOf(key) - *hints.sharps) % 12 == 0;
    if (sameScale) hint += saysLittle ? plain : signature;
    if (sameScale && !saysLittle && key.minor == hints.minor) hint += mode;
    return hint;
}

} // namespace

double sumOf(const PitchClasses& classes) {
    double sum = 0;
    for (const double v : classes) sum += v;
    return sum;
}

PitchClasses profileOf(const MusicalKey& key) {
    PitchClasses turned;
    const PitchClasses& profile = key.minor ? minorProfile : majorProfile;
    for (std::size_t i = 0; i < 12; ++i) turned[(i + static_cast<std::size_t>(key.tonic)) % 12] = profile[i];
    return turned;
}

MusicalKey keyOf(const PitchClasses& classes, const KeyHints& hints) {
    const double mean = sumOf(classes) / 12;
    double square = 0;
    for (const double v : classes) square += (v - mean) * (v - mean);
    if (square <= 0) return {0, false, 0};
    MusicalKey best{0, false, -2};
    double most = -4;
    for (int key = 0; key < 24; ++key) {
        const PitchClasses& profile = keyProfiles()[static_cast<std::size_t>(key)];
        double fit = 0;
        for (std::size_t i = 0; i < 12; ++i) fit += classes[i] * profile[i];
        const MusicalKey here{key / 2, key % 2 == 1, fit / std::sqrt(square)};
        if (const double all = here.fit + hintOf(here, hints); all > most) {
            most = all;
            best = here;
        }
    }
    return best;
}

int sharpsOf(const MusicalKey& key) {
    const int relative = key.minor ? key.tonic + 3 : key.tonic; // of the major key with the same signs
    const int fifths = relative * 7 % 12;
    return fifths > 6 ? fifths - 12 : fifths;
}

std::string keyText(const MusicalKey& key) {
    static constexpr const char* major[] = {"C", "D♭", "D", "E♭", "E", "F", "F♯", "G", "A♭", "A", "B♭", "B"};
    static constexpr const char* minor[] = {"C", "C♯", "D", "E♭", "E", "F", "F♯", "G", "G♯", "A", "B♭", "B"};
    return std::string((key.minor ? minor : major)[key.tonic]) + (key.minor ? " minor" : " major");
}

} // namespace cobbleway
