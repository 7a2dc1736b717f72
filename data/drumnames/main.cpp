/// Writes the published percussion maps as lists of drum names, a file a kit, for people to load and change.
#include "files/notenames.h"
#include "midi/percussion.h"

#include <cstdio>

int main(int count, char** words) {
    using namespace cobbleway;
    if (count != 2) return std::fprintf(stderr, "Usage: make-drum-names FOLDER\n"), 1;
    const std::filesystem::path folder = words[1];
    if (!makeFolder(folder)) return 1;
    for (const PercussionKit& kit : percussionKits()) {
        DrumNames names;
        for (std::uint8_t key = 0; key < 128; ++key)
            if (const auto name = drumName(kit, Key{key}); !name.empty()) names[key] = std::string(name);
        const std::string title = std::string(dialectName(kit.dialect)) + " " + std::string(kit.name);
        if (const auto written = writeNames(names, title, folder / (title + ".txt")); !written)
            return std::fprintf(stderr, "%s\n", written.error().message().c_str()), 1;
    }
    return 0;
}
