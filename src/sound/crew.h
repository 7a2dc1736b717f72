#pragma once
#include <atomic>
#include <thread>
#include <vector>

namespace cobbleway {

/// Does pieces of one work on the caller's thread and on helpers at once, for the audio thread: nothing locks
/// or allocates, and a helper that has not begun is never waited for.
class Crew {
  public:
    /// One helper for each further processor, at most `most`; none on a machine with one.
    explicit Crew(int most = 3);
    ~Crew();
    Crew(const Crew&) = delete;
    Crew& operator=(const Crew&) = delete;
    [[nodiscard]] bool alone() const { return m_helpers.empty(); }

    /// A piece of work: what it works on, and which piece, 0-based.
    using Work = void (*)(void* self, int piece);
    /// Does the pieces 0 to `pieces` − 1 (at most 255), each once, in any order. From one thread at a time.
    void run(int pieces, Work work, void* self);

  private:
    /// Takes a piece that nobody has, if there is one.
    bool takeOne();
    void help();

    Work m_work = nullptr;
    void* m_self = nullptr;
    std::atomic<int> m_ticket{0}; ///< round in the upper bits; pieces left in the lowest eight
    std::atomic<int> m_done{0};
    std::atomic<bool> m_ends{false};
    std::vector<std::jthread> m_helpers; // last, so that they end first
};

} // namespace cobbleway
