/// Sound files of several mixes of one song, from one synthesis pass: the one pipeline for window and command
/// line.
#pragma once
#include "files/soundfile.h"
#include "sound/render.h"

namespace cobbleway {

/// A sound file to be written, and the song whose levels make it.
struct SoundFileOrder {
    std::filesystem::path path;
    Song levels;
};

/// Renders a plan and writes one file an order, in the plan's rate. Each file is written whole, or fails with
/// an error and leaves nothing: one that the disk refuses is given up at once, which makes room for the
/// others, and those go on. After a stop by `options.stop` none that was not finished is there. One result an
/// order, in order.
std::vector<Result<Measured>> writeSoundFiles(Plan& plan, const std::vector<SoundFileOrder>& orders,
                                              const RenderOptions& options = {});

} // namespace cobbleway
