#pragma once
#include "words/message.h"

#include <cassert>
#include <string>
#include <utility>
#include <variant>

namespace cobbleway {

/// Why an operation could not be done, for people.
struct Error {
    Message what;      ///< what happened, one sentence
    std::string where; ///< the file or place it concerns; may be empty
    Message whatNow;   ///< what the person can do; may be empty

    /// All three in words, as one text.
    [[nodiscard]] std::string message() const {
        std::string text = where.empty() ? inWords(what) : where + ": " + inWords(what);
        if (!whatNow.empty()) text += " " + inWords(whatNow);
        return text;
    }
    bool operator==(const Error&) const = default;
};

/// A value, or the Error that stands in its place. Must be looked at before use.
template <class T> class [[nodiscard]] Result {
  public:
    Result(T value) : m_state(std::move(value)) {}
    Result(Error error) : m_state(std::move(error)) {}

    [[nodiscard]] bool ok() const { return std::holds_alternative<T>(m_state); }
    explicit operator bool() const { return ok(); }

    /// The value. Only when ok().
    [[nodiscard]] const T& value() const {
        assert(ok());
        return *std::get_if<T>(&m_state);
    }
    [[nodiscard]] T& value() {
        assert(ok());
        return *std::get_if<T>(&m_state);
    }
    /// The error. Only when not ok().
    [[nodiscard]] const Error& error() const {
        assert(!ok());
        return *std::get_if<Error>(&m_state);
    }

  private:
    std::variant<T, Error> m_state;
};

/// The value of an operation that yields nothing but success.
struct Done {
    bool operator==(const Done&) const = default;
};

} // namespace cobbleway
