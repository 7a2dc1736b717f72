/// A song as samples, faster than it sounds. Equal to the bit from run to run, however many processors there
/// are.
#pragma once
#include "midi/result.h"
#include "sound/plan.h"
#include "sound/threadshare.h"

#include <functional>
#include <limits>
#include <stop_token>

namespace cobbleway {

/// One mix to be made: where its samples go, and how loud each part is in it.
struct MixOrder {
    /// The song whose levels, roles, pan and room make this mix; it has the parts of the rendered one.
    Song levels;
    /// Takes interleaved stereo samples as they come; false stops the render. Called by one thread at a time,
    /// which need not be the caller's.
    std::function<bool(std::span<const float>)> take;
};

struct RenderOptions {
    double pace = 100; ///< percent of the song's own tempo, 25–200; pitch stays
    std::stop_token stop;
    std::function<void(double)> progress; ///< 0–1; called on the caller's thread
    /// The stretch that is rendered, in seconds of the song at its own tempo; notes that sound already at its
    /// start are taken up, those that sound at its end are released.
    double from = 0, to = std::numeric_limits<double>::infinity();
    Workers workers = {};
};

/// How a render ended.
enum class RenderEnd { Done, Stopped };

/// Renders all mixes of a song from one synthesis pass: events once, sums as many as asked for. Where there
/// are several processors, the plan's shares and the mixing of what came before go side by side. After the
/// song's end it goes on until the tails have died away (below −80 dBFS for 0.3 s; 12 s at most).
RenderEnd renderMixes(Plan& plan, const std::vector<MixOrder>& orders, const RenderOptions& options = {});

/// The same for one mix, into memory: interleaved stereo.
std::vector<float> renderToMemory(const Song& song, const Catalogue& catalogue, int rate,
                                  const RenderOptions& options = {}, const BankOptions& bank = {});

} // namespace cobbleway
