/// Bytes as text (RFC 4648, 4).
#pragma once
#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace cobbleway {

std::string base64(std::span<const std::uint8_t> bytes);

/// None when the text is not base64 from start to end: other letters, a length that does not go by fours, "="
/// within.
std::optional<std::vector<std::uint8_t>> fromBase64(std::string_view text);

} // namespace cobbleway
