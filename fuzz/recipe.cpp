/// Any bytes at all as a recipe: refused with a sentence, or read, with values that can be, written and read
/// again as the same.
#include "insist.h"

#include "files/recipe.h"

#include <nlohmann/json.hpp>

using namespace cobbleway;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const auto json = nlohmann::json::parse(data, data + size, nullptr, false);
    if (json.is_discarded()) return 0;
    const auto recipe = recipeFrom(json, "any.json");
    if (!recipe) {
        insist(!recipe.error().what.empty(), "it says why");
        return 0;
    }
    const Recipe& read = recipe.value();
    insist(!read.paces.empty(), "there is a pace");
    for (const double pace : read.paces) insist(pace >= 25 && pace <= 200, "paces are in range");
    insist(read.key >= -12 && read.key <= 12, "the key is in range");
    const auto again = recipeFrom(recipeJson(read), "again.json");
    insist(again.ok() && again.value() == read, "what is written is read again");
    return 0;
}
