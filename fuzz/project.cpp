/// Any bytes at all as a project: refused with a sentence, or opened, saved and opened again as the same.
#include "insist.h"

#include "files/project.h"
#include "song/snags/snags.h"

using namespace cobbleway;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const auto set = parseProject(std::string(data, data + size), "any.cobbleway");
    if (!set) {
        insist(!set.error().what.empty() && set.error().message().find("json") == std::string::npos,
               "it says why");
        return 0;
    }
    for (const auto& song : set.value().songs) {
        insist(song->bars() >= 1, "it has a bar");
        for (const Part& part : song->parts) (void)realise(*song, part);
    }
    const std::string text = projectText(set.value());
    const auto again = parseProject(text, "again.cobbleway");
    insist(again.ok(), "what is saved can be opened");
    insist(projectText(again.value()) == text, "what is saved stays so");
    return 0;
}
