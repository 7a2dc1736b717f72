/// The sample peak of a block.
#pragma once
#include <algorithm>
#include <array>
#include <cmath>
#include <span>

namespace cobbleway {

/// The largest amplitude of some samples; 0 of none. In eight rows, which a processor takes at once.
inline float loudestOf(std::span<const float> samples) {
    constexpr std::size_t rows = 8;
    std::array<float, rows> most{};
    const std::size_t whole = samples.size() / rows * rows;
    for (std::size_t at = 0; at < whole; at += rows)
        for (std::size_t row = 0; row < rows; ++row)
            most[row] = std::max(most[row], std::abs(samples[at + row]));
    for (std::size_t at = whole; at < samples.size(); ++at)
        most[0] = std::max(most[0], std::abs(samples[at]));
    return *std::max_element(most.begin(), most.end());
}

} // namespace cobbleway
