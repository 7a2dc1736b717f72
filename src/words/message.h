/// A sentence for people as data: which sentence, and what it names. One catalogue turns it into words.
#pragma once
#include <concepts>
#include <cstdint>
#include <initializer_list>
#include <string>
#include <utility>
#include <variant>
#include <vector>

namespace cobbleway {

struct Message;

/// What a sentence names: a number, a name as it is, another message, or a list of them.
struct Argument {
    using Value = std::variant<std::int64_t, std::string, std::vector<Message>>;
    // All defined where Message is complete.
    template <std::integral T> Argument(const char* argument, T number);
    Argument(const char* argument, std::string text);
    Argument(const char* argument, Message message);
    Argument(const char* argument, std::vector<Message> list);
    bool operator==(const Argument&) const;

    std::string name;
    Value value;
};

struct Message {
    std::string id; ///< of the catalogue: "doubled-notes.what"; empty: nothing is said
    std::vector<Argument> with;

    Message() = default;
    Message(const char* sentence, std::initializer_list<Argument> arguments = {})
        : id(sentence), with(arguments) {}
    /// A name, or what another program said: the same in every language.
    static Message verbatim(std::string text) { return {"verbatim", {{"text", std::move(text)}}}; }

    [[nodiscard]] bool empty() const { return id.empty(); }
    bool operator==(const Message& other) const { return id == other.id && with == other.with; }
    bool operator<(const Message&) const; ///< some order, for maps
};

template <std::integral T> Argument::Argument(const char* argument, T number)
    : name(argument), value(static_cast<std::int64_t>(number)) {}
inline Argument::Argument(const char* argument, std::string text) : name(argument), value(std::move(text)) {}
inline Argument::Argument(const char* argument, std::vector<Message> list)
    : name(argument), value(std::move(list)) {}
inline Argument::Argument(const char* argument, Message message)
    : name(argument), value(std::vector<Message>{std::move(message)}) {}
inline bool Argument::operator==(const Argument& other) const {
    return name == other.name && value == other.value;
}

/// The sentence in English. Lists are joined with commas and "and". An id that the catalogue lacks is given
/// back as it is.
std::string inWords(const Message& message);

/// As one line for another process or a cache: the id where nothing is named, else the words.
std::string asLine(const Message& message);
/// What asLine() gave; words that are no id are taken as they are.
Message fromLine(const std::string& line);

/// Whether the catalogue has a sentence of this id.
bool isInCatalogue(const std::string& id);

} // namespace cobbleway
