#include "files/soundexport.h"

#include <algorithm>

namespace cobbleway {
namespace {

/// One file on its way, until it is finished or has failed.
struct Open {
    std::unique_ptr<WavWriter> writer; ///< null when it has failed
    Error error{"The sound file was not finished.", {}, "Try again."};
};

} // namespace

std::vector<Result<Measured>> writeSoundFiles(Plan& plan, const std::vector<SoundFileOrder>& orders,
                                              const RenderOptions& options) {
    std::vector<Open> files(orders.size());
    std::vector<MixOrder> mixes;
    const auto anyOpen = [&files] {
        return std::any_of(files.begin(), files.end(), [](const Open& f) { return f.writer != nullptr; });
    };
    for (std::size_t i = 0; i < orders.size(); ++i) {
        files[i].error.where = orders[i].path.string();
        auto writer = WavWriter::open(orders[i].path, plan.rate);
        if (writer)
            files[i].writer = std::move(writer.value());
        else
            files[i].error = writer.error();
        if (!files[i].writer) continue;
        mixes.push_back({orders[i].levels, [file = &files[i], &anyOpen](std::span<const float> samples) {
                             if (!file->writer) return true; // the others go on
                             if (file->writer->write(samples)) return true;
                             file->error = file->writer->refusal();
                             file->writer.reset(); // leaves nothing
                             return anyOpen();
                         }});
    }
    const RenderEnd end = mixes.empty() ? RenderEnd::Stopped : renderMixes(plan, mixes, options);
    std::vector<Result<Measured>> results;
    for (Open& file : files) {
        if (file.writer && end == RenderEnd::Done) {
            results.push_back(file.writer->finish());
            continue;
        }
        if (file.writer && options.stop.stop_requested()) file.error.what = "Stopped before it was finished.";
        results.emplace_back(file.error); // the writer is destroyed and leaves nothing
    }
    return results;
}

} // namespace cobbleway
