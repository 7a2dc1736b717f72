#pragma once
#include <set>

namespace cobbleway {

/// The threads of this process that began after this object was made.
class NewThreads {
  public:
    NewThreads();
    /// Waits until all of them rest, which takes a few milliseconds where there are any; `seconds` at most.
    void awaitRest(double seconds) const;

  private:
    [[nodiscard]] bool anyWorks() const;
    std::set<int> m_before; ///< those that were there
};

} // namespace cobbleway
