/// cobbleway-cli: the work of Cobbleway without a window.
#include "cli/commands.h"
#include "cli/ground.h"
#include "midi/thrown.h"

#include <csignal>
#include <cstdio>

namespace cobbleway::cli {
namespace {

int run(const std::vector<std::string>& given) {
    const auto asked = parse(commands(), given);
    if (!asked) return fail(asked.error(), 2);
    const CommandSpec* command = asked.value().command;
    if (asked.value().version) {
        std::puts("cobbleway-cli " COBBLEWAY_VERSION);
        return 0;
    }
    if (asked.value().help || !command) {
        std::fputs((command ? helpText(*command) : helpText()).c_str(), given.empty() ? stderr : stdout);
        return given.empty() ? 2 : 0;
    }
    return command->work(asked.value().arguments);
}

} // namespace
} // namespace cobbleway::cli

int main(int count, char** words) {
    std::signal(SIGPIPE, SIG_IGN); // an output that nobody takes is an error to tell
    int code = 1;
    try {
        code = cobbleway::cli::run({words + 1, words + count});
    } catch (...) { code = cobbleway::cli::fail(cobbleway::thrownError(std::current_exception())); }
    return code == 0 && !cobbleway::cli::outputIsWhole() ? 1 : code;
}
