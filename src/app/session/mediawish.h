/// What calls over the bus ask of playing, as numbers: no Qt, so that it is tried with any arguments at all.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstdint>
#include <optional>

namespace cobbleway {

/// Where playing is now. Times in microseconds.
struct MediaPlace {
    std::int64_t position = 0, length = 0;
    int song = 0, songs = 0; ///< 0-based, and how many
};

/// What was asked for since it was done last, gathered: thousands of calls come to one. By MPRIS 2.2
/// (freedesktop.org; from memory).
struct MediaWish {
    static constexpr double lowestRate = 0.25, highestRate = 2;
    std::optional<std::int64_t> position;
    int songs = 0;           ///< to go on by
    std::optional<int> pace; ///< percent, 25–200
    std::optional<bool> play;
    bool operator==(const MediaWish&) const = default;

    [[nodiscard]] bool hasSong(const MediaPlace& now, int by) const {
        const std::int64_t song = std::int64_t{now.song} + songs + by;
        return song >= 0 && song < now.songs;
    }
    /// To a place; one outside of the song is ignored.
    void setPosition(const MediaPlace& now, std::int64_t to) {
        if (to >= 0 && to <= now.length) position = to;
    }
    /// By a distance: before the start is the start, past the end the next song.
    void seek(const MediaPlace& now, std::int64_t by) {
        const std::int64_t at = std::clamp<std::int64_t>(position.value_or(now.position), 0, now.length);
        if (by > now.length - at)
            skip(now, 1);
        else
            position = by < -at ? 0 : at + by;
    }
    /// Held in range; 0 and less is a pause.
    void setRate(double rate) {
        if (std::isnan(rate)) return;
        if (rate <= 0)
            play = false;
        else
            pace = static_cast<int>(std::lround(std::clamp(rate, lowestRate, highestRate) * 100));
    }
    /// +1 the next song, −1 the one before; where there is no next, playing ends.
    void skip(const MediaPlace& now, int by) {
        if (hasSong(now, by)) {
            songs += by;
            position = 0;
        } else if (by > 0) {
            play = false;
        }
    }
};

} // namespace cobbleway
