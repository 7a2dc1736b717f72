#include "files/endings.h"

#include "files/folders.h"

#include <algorithm>
#include <cerrno>
#include <csignal>
#include <cstdlib>
#include <unistd.h>

namespace cobbleway {
namespace fs = std::filesystem;
namespace {

constexpr const char* noteStart = "loading-font-";

fs::path listOf(const fs::path& state) { return state / "fonts-that-ended-the-program"; }

void writeList(const fs::path& list, const std::vector<std::string>& lines) {
    std::string text;
    for (const std::string& line : lines) text += line + "\n";
    (void)writePrivately(list, text).ok(); // without it the program may end once more by the same thing
}

bool hasEnded(long program) {
    return program > 0 && kill(static_cast<pid_t>(program), 0) != 0 && errno == ESRCH;
}

} // namespace

fs::path endingNote(const fs::path& state) { return state / (noteStart + std::to_string(getpid())); }

std::vector<std::string> endedPrograms(const fs::path& state) {
    if (state.empty()) return {};
    auto ended = linesOf(listOf(state));
    const std::size_t before = ended.size();
    std::error_code error;
    for (const auto& entry : fs::directory_iterator(state, error)) {
        const std::string name = entry.path().filename().string(), start = noteStart;
        if (!name.starts_with(start) || !hasEnded(std::strtol(name.c_str() + start.size(), nullptr, 10)))
            continue;
        for (std::string& one : linesOf(entry.path()))
            if (std::find(ended.begin(), ended.end(), one) == ended.end()) ended.push_back(std::move(one));
        std::error_code ignored;
        fs::remove(entry.path(), ignored);
    }
    if (ended.size() != before) writeList(listOf(state), ended);
    return ended;
}

void forgiveEnding(const fs::path& state, const std::string& name) {
    auto ended = endedPrograms(state);
    if (std::erase_if(ended, [&](const std::string& line) { return line.starts_with(name + "\t"); }) > 0)
        writeList(listOf(state), ended);
}

} // namespace cobbleway
