#include "cli/ground.h"

#include "files/folders.h"
#include "files/fonttrial.h"
#include "files/pluginscan.h"
#include "files/shipped.h"

#include <algorithm>
#include <cstdio>

namespace cobbleway::cli {

int fail(const Error& error, int code) {
    std::fprintf(stderr, "%s\n", error.message().c_str());
    return code;
}

namespace {

/// The fonts of some folders, without those that would end this program: fonts of strangers are tried in the
/// helper first.
Catalogue safeFonts(const FontFolders& where, std::vector<FontProblem>& problems) {
    FontTrialOptions trial;
    trial.helper = pluginHelper();
    trial.cache = fontCache();
    trial.state = stateFolder();
    const auto read = [&](const std::filesystem::path& path) { return readTriedFont(path, trial); };
    return withoutUnsafeFonts(scanFonts(where, {}, &problems, read), trial, problems);
}

} // namespace

Result<Catalogue> catalogueOf(const Arguments& arguments) {
    FontFolders where = defaultFontFolders();
    std::vector<FontProblem> problems;
    if (!arguments.has("--font") && !arguments.has("--then")) return safeFonts(where, problems);
    if (arguments.has("--font")) where.folders.clear();
    std::vector<std::string> order;
    for (const char* option : {"--font", "--then"}) {
        if (!arguments.has(option)) continue;
        std::error_code error;
        const auto real = std::filesystem::canonical(arguments.value(option), error);
        if (error) return Error{{"error.font-find"}, arguments.value(option), {"now.check-name"}};
        const bool house = !where.houseFont.empty() && real == where.houseFont;
        if (!house) where.files.push_back(real);
        order.push_back(house ? houseFontId : real.string());
    }
    const Catalogue catalogue = safeFonts(where, problems);
    for (const FontProblem& problem : problems)
        if (std::find(order.begin(), order.end(), problem.path.string()) != order.end()) return problem.error;
    for (const std::string& id : order)
        if (const SoundFont* font = catalogue.font(id))
            for (const Message& damage : font->damage)
                std::fprintf(stderr, "%s: %s\n", font->path.c_str(), inWords(damage).c_str());
    // Without --font it is the default that --then comes after.
    if (!arguments.has("--font") && catalogue.defaultFont())
        order.insert(order.begin(), catalogue.defaultFont()->id);
    return catalogue.withOrder(order);
}

void print(const char* command, const Json& result) {
    const Json whole = {{"version", 1}, {"command", command}, {"result", result}};
    std::printf("%s\n", whole.dump(1, ' ', false, Json::error_handler_t::replace).c_str());
}

bool outputIsWhole() {
    const bool whole = std::fflush(stdout) == 0 && !std::ferror(stdout);
    if (!whole) fail({{"cli.no-output"}, "", {"now.check-room"}});
    return whole;
}

} // namespace cobbleway::cli
