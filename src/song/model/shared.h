#pragma once
#include <memory>

namespace cobbleway {

/// A shared, immutable value that compares by content. Copies are cheap. Never null.
template <class T> class Shared {
  public:
    Shared() : m_value(std::make_shared<const T>()) {}
    Shared(T value) : m_value(std::make_shared<const T>(std::move(value))) {}
    const T& operator*() const { return *m_value; }
    const T* operator->() const { return m_value.get(); }
    /// True when both are the very same value in memory.
    [[nodiscard]] bool sameAs(const Shared& other) const { return m_value == other.m_value; }
    bool operator==(const Shared& other) const { return sameAs(other) || *m_value == *other.m_value; }

  private:
    std::shared_ptr<const T> m_value;
};

} // namespace cobbleway
