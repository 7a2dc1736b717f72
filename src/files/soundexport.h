/// Sound files of several mixes of one song, from one synthesis pass: the one pipeline for window and command
/// line.
#pragma once
#include "files/soundfile.h"
#include "files/spool.h"
#include "sound/clicks.h"
#include "sound/render.h"

namespace cobbleway {

/// A sound file to be written, and the song whose levels make it.
struct SoundFileOrder {
    std::filesystem::path path;
    Song levels;
    SoundFormat format = SoundFormat::Wav24;
    SoundTags tags = {};
    bool stem = false; ///< stems of one pass are equally long
};

/// How loud files become. Never past highestPeakDb as true peak.
enum class Level { AsMixed, Peak, Lufs16, Lufs18, Lufs23 };

/// The loudness that a level asks for, in LUFS; none where it asks for none.
std::optional<double> aimOf(Level level);

/// What is done to the sound before it is written.
struct Finish {
    Level level = Level::AsMixed;
    /// Each file has the gain that brings it to its level; else all of a song have one, so that parts keep
    /// their balance between files, and the loudest file meets the level.
    bool gainOfEach = true;
    bool trim = false;  ///< begins with the first note, ends faded where it falls below −60 dBFS
    int countIn = 0;    ///< bars that are counted before the bar of the first note, 0–8
    bool click = false; ///< a click on each beat
    /// Of these, and of the bars counted; its level is beside music of aimedLufs, and follows the music's.
    ClickShape clickShape = {};
    /// Whether anything must be known of the whole sound before it can be written.
    [[nodiscard]] bool waits() const { return level != Level::AsMixed || trim || countIn > 0 || click; }
    bool operator==(const Finish&) const = default;
};

/// Whether a file is as loud as was asked, within half a unit, and else why not.
enum class Reached {
    AsAsked,
    HeldByPeak,   ///< louder, its true peak would be past highestPeakDb
    KeepsBalance, ///< a louder file of the same song meets the level
    NotMeasured   ///< too short or too quiet to have a loudness
};
Reached reachedBy(const Measured& written, const Finish& finish);

/// Renders a plan and writes one file an order, in the plan's rate. Each file is written whole, or fails with
/// an error and leaves nothing: one that the disk refuses is given up at once, which makes room for the
/// others, and those go on. After a stop by `options.stop` none that was not finished is there. One result an
/// order, in order; its peak is the true peak where the finish waits for the whole sound. `memory`: of other
/// songs as well.
std::vector<Result<Measured>> writeSoundFiles(Plan& plan, const std::vector<SoundFileOrder>& orders,
                                              const RenderOptions& options = {}, const Finish& finish = {},
                                              SpoolMemory* memory = nullptr);

} // namespace cobbleway
