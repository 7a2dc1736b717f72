/// From bytes to what a window needs: song, matches, snags and lines of a 5 000-note song, as a multiple of
/// reading the bytes alone. Usage: bench-song FONT.sf2 FILE.mid
#include "measure.h"

#include "files/songfile.h"
#include "song/heard/realise.h"
#include "song/snags/snags.h"

#include <cstdio>

using namespace cobbleway;

int main(int count, char** words) {
    if (count != 3) return std::fprintf(stderr, "Usage: bench-song FONT.sf2 FILE.mid\n"), 1;
    const Catalogue catalogue = scanFonts({words[1], {}, {}}, houseFontId);
    const auto bytes = readFile(words[2]);
    if (!bytes) return 1;
    const double reading = cpuSeconds(9, [&] { (void)readMidi(bytes.value(), "bench.mid").ok(); });
    std::size_t notes = 0, snags = 0;
    const double whole = cpuSeconds(9, [&] {
        auto read = readMidi(bytes.value(), "bench.mid");
        const Song song = makeSong(std::make_shared<const SourceFile>(std::move(read.value())));
        const auto matches = matchSong(song, catalogue);
        snags = findSnags(song, catalogue).size();
        notes = 0;
        for (const Part& part : song.parts) notes += realise(song, part).notes.size();
    });
    const double font = cpuSeconds(9, [&] { (void)readSoundFont(words[1]).ok(); });
    std::printf("%zu notes, %zu snags: reading %.2f ms, to the window %.2f ms; font headers %.2f ms\n", notes,
                snags, reading * 1e3, whole * 1e3, font * 1e3);
    return 0;
}
