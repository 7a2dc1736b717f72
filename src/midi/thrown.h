#pragma once
#include "midi/result.h"

#include <exception>
#include <new>

namespace cobbleway {

/// What was thrown, as an error for people.
inline Error thrownError(const std::exception_ptr& thrown) {
    try {
        std::rethrow_exception(thrown);
    } catch (const std::bad_alloc&) {
        return {{"error.memory"}, {}, {"now.less-memory"}};
    } catch (const std::exception& error) {
        return {{"error.exception", {{"reason", std::string(error.what())}}}, {}, {"now.try-again"}};
    } catch (...) { return {{"error.unknown"}, {}, {"now.try-again"}}; }
}

} // namespace cobbleway
