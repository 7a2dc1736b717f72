#include "files/recipe.h"

#include "files/shipped.h"

#include <algorithm>
#include <nlohmann/json.hpp>

namespace cobbleway {
namespace {

using json = nlohmann::json;

constexpr std::pair<Level, const char*> levels[] = {{Level::AsMixed, "mixed"},
                                                    {Level::Peak, "peak"},
                                                    {Level::Lufs16, "-16"},
                                                    {Level::Lufs18, "-18"},
                                                    {Level::Lufs23, "-23"}};
constexpr std::pair<Folders, const char*> foldersNames[] = {
    {Folders::None, "none"}, {Folders::Song, "song"}, {Folders::Part, "part"}};

/// The members that are ticks, by their names.
template <class Visit, class R> void eachTick(R& r, Visit visit) {
    visit("full", r.full);
    visit("now", r.now);
    visit("front", r.front);
    visit("alone", r.alone);
    visit("without", r.without);
    visit("stems", r.stems);
    visit("kept", r.kept);
    visit("midi", r.midi);
    visit("midiHeard", r.midiHeard);
    visit("midiParts", r.midiParts);
    visit("midiSingleTrack", r.midiForm.singleTrack);
    visit("midiKeepsPlace", r.midiForm.keepsPlace);
    visit("midiNotesOnly", r.midiForm.notesOnly);
    visit("midiFilePerPort", r.midiForm.filePerPort);
    visit("lyrics", r.lyrics);
    visit("drumNames", r.drumNames);
    visit("sheet", r.sheet);
    visit("playlists", r.playlists);
    visit("gainOfEach", r.finish.gainOfEach);
    visit("trim", r.finish.trim);
    visit("click", r.finish.click);
    visit("clickAccent", r.finish.clickShape.accent);
    visit("sections", r.sections);
}

constexpr std::pair<ClickSound, const char*> clickSounds[] = {
    {ClickSound::Tone, "tone"}, {ClickSound::Wood, "wood"}, {ClickSound::Stick, "stick"}};

const char* clickSoundId(ClickSound sound) {
    for (const auto& [one, id] : clickSounds)
        if (one == sound) return id;
    return "tone";
}

std::optional<ClickSound> clickSoundOfId(const std::string& id) {
    for (const auto& [sound, one] : clickSounds)
        if (id == one) return sound;
    return std::nullopt;
}

struct Wrong {
    Message what;
};

template <class Number>
Number within(const json& j, const char* member, Number otherwise, Number low, Number high) {
    if (!j.contains(member)) return otherwise;
    if (!j[member].is_number()) throw Wrong{{"recipe.no-number", {{"member", std::string(member)}}}};
    const auto number = j[member].get<Number>();
    if (number < low || number > high)
        throw Wrong{
            {"recipe.not-between",
             {{"member", std::string(member)}, {"low", json(low).dump()}, {"high", json(high).dump()}}}};
    return number;
}

std::string word(const json& j, const char* member, const std::string& otherwise) {
    if (!j.contains(member)) return otherwise;
    if (!j[member].is_string()) throw Wrong{{"recipe.no-text", {{"member", std::string(member)}}}};
    return j[member].get<std::string>();
}

} // namespace

const char* levelId(Level level) {
    for (const auto& [one, id] : levels)
        if (one == level) return id;
    return "mixed";
}

std::optional<Level> levelOfId(const std::string& id) {
    for (const auto& [level, one] : levels)
        if (id == one) return level;
    return std::nullopt;
}

json recipeJson(const Recipe& recipe) {
    json j = {{"format", "cobbleway-recipe"},
              {"version", 1},
              {"name", recipe.name},
              {"sound", formatId(recipe.format)},
              {"rate", recipe.rate},
              {"level", levelId(recipe.finish.level)},
              {"countIn", recipe.finish.countIn},
              {"clickSound", clickSoundId(recipe.finish.clickShape.sound)},
              {"clickLevel", recipe.finish.clickShape.levelDb},
              {"clickParts", recipe.finish.clickShape.parts},
              {"paces", recipe.paces},
              {"key", recipe.key},
              {"names", recipe.names}};
    if (recipe.firstBar > 0) j["firstBar"] = recipe.firstBar;
    if (recipe.lastBar > 0) j["lastBar"] = recipe.lastBar;
    for (const auto& [folders, name] : foldersNames)
        if (recipe.folders == folders) j["folders"] = name;
    eachTick(recipe, [&](const char* member, bool ticked) { j[member] = ticked; });
    return j;
}

Result<Recipe> recipeFrom(const json& j, const std::string& where) {
    const Error refused{{"error.not-recipe"}, where, {"now.choose-recipe"}};
    if (!j.is_object() || j.value("format", json()) != "cobbleway-recipe") return refused;
    Recipe recipe;
    try {
        if (within(j, "version", 1, 1, 1000) > 1) return Error{{"error.recipe-newer"}, where, {"now.update"}};
        recipe.name = word(j, "name", "");
        const auto format = formatOfId(word(j, "sound", std::string(formatId(recipe.format))));
        const auto level = levelOfId(word(j, "level", levelId(recipe.finish.level)));
        if (!format) throw Wrong{{"recipe.no-format"}};
        if (!level)
            throw Wrong{
                {"recipe.none-of",
                 {{"member", std::string("level")}, {"values", std::string("mixed, peak, -16, -18, -23")}}}};
        recipe.format = *format;
        recipe.finish.level = *level;
        recipe.rate = within(j, "rate", recipe.rate, 8000, 192000);
        recipe.finish.countIn = within(j, "countIn", 0, 0, 8);
        ClickShape& click = recipe.finish.clickShape;
        click.levelDb = within(j, "clickLevel", 0.0, -24.0, 6.0);
        click.parts = within(j, "clickParts", 1, 1, 4);
        const auto sound = clickSoundOfId(word(j, "clickSound", "tone"));
        if (!sound)
            throw Wrong{
                {"recipe.none-of",
                 {{"member", std::string("clickSound")}, {"values", std::string("tone, wood, stick")}}}};
        click.sound = *sound;
        recipe.key = within(j, "key", 0, -12, 12);
        recipe.firstBar = within(j, "firstBar", 0, 0, 1000000);
        recipe.lastBar = within(j, "lastBar", 0, 0, 1000000);
        recipe.names = word(j, "names", "");
        const std::string folders = word(j, "folders", "none");
        const auto at = std::find_if(std::begin(foldersNames), std::end(foldersNames),
                                     [&](const auto& f) { return folders == f.second; });
        if (at == std::end(foldersNames))
            throw Wrong{{"recipe.none-of",
                         {{"member", std::string("folders")}, {"values", std::string("none, song, part")}}}};
        recipe.folders = at->first;
        if (j.contains("paces")) {
            if (!j["paces"].is_array() || j["paces"].empty())
                throw Wrong{{"recipe.no-list", {{"member", std::string("paces")}}}};
            recipe.paces.clear();
            for (const json& pace : j["paces"])
                recipe.paces.push_back(within(json{{"paces", pace}}, "paces", 100.0, 25.0, 200.0));
        }
        // As recipes said it that were kept before MIDI had a form of its own.
        if (j.contains("midiTracks") || j.contains("midiSingle")) {
            const bool tracks = j.value("midiTracks", json()) == true,
                       single = j.value("midiSingle", json()) == true;
            recipe.midi = tracks || single;
            recipe.midiForm.singleTrack = single && !tracks;
        }
        eachTick(recipe, [&](const char* member, bool& ticked) {
            if (!j.contains(member)) return;
            if (!j[member].is_boolean()) throw Wrong{{"recipe.no-truth", {{"member", std::string(member)}}}};
            ticked = j[member].get<bool>();
        });
    } catch (const Wrong& wrong) {
        return Error{{"error.recipe", {{"reason", wrong.what}}}, where, {"now.correct-recipe"}};
    }
    return recipe;
}

Result<Recipe> readRecipe(const std::filesystem::path& path) {
    const auto bytes = readFile(path);
    if (!bytes) return bytes.error();
    return recipeFrom(json::parse(bytes.value().begin(), bytes.value().end(), nullptr, false), path.string());
}

Result<Done> writeRecipe(const Recipe& recipe, const std::filesystem::path& path) {
    return writeFile(path, recipeJson(recipe).dump(1, ' ', false, json::error_handler_t::replace) + "\n");
}

std::vector<Recipe> shippedRecipes() {
    std::vector<Recipe> recipes;
    std::error_code error;
    for (const auto& entry : std::filesystem::directory_iterator(shippedFile("recipes"), error))
        if (const auto recipe = readRecipe(entry.path())) recipes.push_back(recipe.value());
    std::sort(recipes.begin(), recipes.end(),
              [](const Recipe& a, const Recipe& b) { return a.name < b.name; });
    return recipes;
}

} // namespace cobbleway
