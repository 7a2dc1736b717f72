/// Runs the target over files, and over so many seeded mutations of each: a short run with any compiler.
/// Usage: fuzz-replay MUTATIONS FILE…
#include <algorithm>
#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <fstream>
#include <iterator>
#include <random>
#include <vector>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size);

namespace {

using Bytes = std::vector<std::uint8_t>;

Bytes mutated(Bytes bytes, const Bytes& other, std::mt19937& random) {
    for (unsigned i = 0; i < 1 + random() % 6 && !bytes.empty(); ++i) {
        const std::size_t at = random() % bytes.size();
        switch (random() % 5) {
        case 0: bytes.erase(bytes.begin() + static_cast<std::ptrdiff_t>(at)); break;
        case 1:
            bytes.insert(bytes.begin() + static_cast<std::ptrdiff_t>(at),
                         static_cast<std::uint8_t>(random()));
            break;
        case 2: bytes.resize(std::max<std::size_t>(1, at)); break;
        case 3: // a stretch of another file
            if (!other.empty()) {
                const std::size_t from = random() % other.size(),
                                  count = std::min<std::size_t>(other.size() - from, random() % 40);
                bytes.insert(bytes.begin() + static_cast<std::ptrdiff_t>(at),
                             other.begin() + static_cast<std::ptrdiff_t>(from),
                             other.begin() + static_cast<std::ptrdiff_t>(from + count));
            }
            break;
        default: bytes[at] = static_cast<std::uint8_t>(random()); break;
        }
    }
    return bytes;
}

} // namespace

int main(int count, char** words) {
    if (count < 3) return std::fprintf(stderr, "Usage: fuzz-replay MUTATIONS FILE…\n"), 1;
    const int mutations = std::atoi(words[1]);
    std::vector<Bytes> files;
    for (int i = 2; i < count; ++i) {
        std::ifstream in(words[i], std::ios::binary);
        if (!in) return std::fprintf(stderr, "%s cannot be read.\n", words[i]), 1;
        files.emplace_back(std::istreambuf_iterator<char>(in), std::istreambuf_iterator<char>());
    }
    std::mt19937 random(20);
    std::size_t runs = 0;
    for (const Bytes& file : files) {
        LLVMFuzzerTestOneInput(file.data(), file.size());
        ++runs;
        for (int i = 0; i < mutations; ++i, ++runs) {
            const Bytes bytes = mutated(file, files[random() % files.size()], random);
            LLVMFuzzerTestOneInput(bytes.data(), bytes.size());
        }
    }
    std::printf("%zu inputs from %zu files\n", runs, files.size());
    return files.empty() ? 1 : 0;
}
