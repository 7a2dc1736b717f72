/// Writes the demo songs. Usage: make-demo FOLDER
#include "compose.h"

#include "midi/writer.h"

#include <cstdio>
#include <filesystem>
#include <fstream>

namespace {

bool write(const std::filesystem::path& path, const std::vector<std::uint8_t>& bytes) {
    std::ofstream out(path, std::ios::binary);
    out.write(reinterpret_cast<const char*>(bytes.data()), static_cast<std::streamsize>(bytes.size()));
    return static_cast<bool>(out);
}

} // namespace

int main(int count, char** words) {
    if (count != 2) {
        std::fprintf(stderr, "Usage: make-demo FOLDER\n");
        return 1;
    }
    const std::filesystem::path folder = words[1];
    std::filesystem::create_directories(folder);
    const bool written =
        write(folder / "lantern_quay.mid", cobbleway::writeMidi(demo::lanternQuay())) &&
        write(folder / "TIDEMILL.MID", cobbleway::writeMidi(demo::tideMillReel())) &&
        write(folder / "pilots-evening-song.kar", cobbleway::writeMidi(demo::pilotsEveningSong())) &&
        write(folder / "SLACKW~1.MID", demo::slackWaterMarch());
    if (!written) std::fprintf(stderr, "The demo songs cannot be written to %s.\n", words[1]);
    return written ? 0 : 1;
}
