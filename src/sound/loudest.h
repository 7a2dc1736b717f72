/// The sample peak of a block, and whether there is any.
#pragma once
#include "sound/instrument.h"

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <cstdint>
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

/// Whether all samples are zero. Sounding ones are told by the first few.
inline bool isSilent(std::span<const float> samples) {
    constexpr std::size_t few = 64;
    for (; !samples.empty(); samples = samples.subspan(std::min(few, samples.size()))) {
        std::uint32_t any = 0;
        for (const float sample : samples.first(std::min(few, samples.size())))
            any |= std::bit_cast<std::uint32_t>(sample) & 0x7FFFFFFFU;
        if (any != 0) return false;
    }
    return true;
}

/// The same of both sides of a block.
inline bool isSilent(const StereoBlock& block, int from, int frames) {
    const auto first = static_cast<std::size_t>(from), count = static_cast<std::size_t>(frames);
    return isSilent(std::span(block.left + first, count)) && isSilent(std::span(block.right + first, count));
}

} // namespace cobbleway
