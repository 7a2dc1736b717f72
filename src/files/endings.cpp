#include "files/endings.h"

#include "files/folders.h"
#include "sound/runningnote.h"

#include <algorithm>
#include <cerrno>
#include <csignal>
#include <cstdlib>
#include <unistd.h>

namespace cobbleway {
namespace fs = std::filesystem;
namespace {

std::string noteStart(Foreign kind) { return kind == Foreign::Font ? "loading-font-" : "running-plugin-"; }

fs::path listOf(const fs::path& state, Foreign kind) {
    return state /
           (kind == Foreign::Font ? "fonts-that-ended-the-program" : "plugins-that-ended-the-program");
}

void writeList(const fs::path& list, const std::vector<std::string>& lines) {
    std::string text;
    for (const std::string& line : lines) text += line + "\n";
    (void)writePrivately(list, text).ok(); // without it the program may end once more by the same thing
}

bool hasEnded(long program) {
    return program > 0 && kill(static_cast<pid_t>(program), 0) != 0 && errno == ESRCH;
}

} // namespace

fs::path endingNote(const fs::path& state, Foreign kind) {
    return state / (noteStart(kind) + std::to_string(getpid()));
}

std::vector<std::string> endedPrograms(const fs::path& state, Foreign kind) {
    if (state.empty()) return {};
    auto ended = linesOf(listOf(state, kind));
    const std::size_t before = ended.size();
    std::error_code error;
    for (const auto& entry : fs::directory_iterator(state, error)) {
        const std::string name = entry.path().filename().string(), start = noteStart(kind);
        if (!name.starts_with(start) || !hasEnded(std::strtol(name.c_str() + start.size(), nullptr, 10)))
            continue;
        for (std::string& one :
             kind == Foreign::Font ? linesOf(entry.path()) : RunningNote::left(entry.path()))
            if (std::find(ended.begin(), ended.end(), one) == ended.end()) ended.push_back(std::move(one));
        std::error_code ignored;
        fs::remove(entry.path(), ignored);
    }
    if (ended.size() != before) writeList(listOf(state, kind), ended);
    return ended;
}

void forgiveEnding(const fs::path& state, Foreign kind, const std::string& name) {
    auto ended = endedPrograms(state, kind);
    if (std::erase_if(ended, [&](const std::string& line) { return line.starts_with(name + "\t"); }) > 0)
        writeList(listOf(state, kind), ended);
}

} // namespace cobbleway
