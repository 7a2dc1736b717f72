/// Undo and redo over earlier values.
#pragma once
#include <algorithm>
#include <cstddef>
#include <cstdint>
#include <string>
#include <utility>
#include <vector>

namespace cobbleway {

/// A stack of values with a place in it. Every change is a step with a name.
template <class T> class History {
  public:
    explicit History(T start = T{}) : m_steps{{std::move(start), {}, {}}} {}

    [[nodiscard]] const T& now() const { return m_steps[m_at].value; }
    /// Adds a step after the present one; steps that were undone are lost. Equal values add nothing. A step
    /// of the same non-empty gesture as the last one takes its place: dragging a slider is one step, and none
    /// when it ends where it began.
    void push(T value, std::string name, std::string gesture = {}) {
        if (value == now()) return;
        const bool goesOn = !gesture.empty() && m_at > 0 && m_at + 1 == m_steps.size() && !isClean() &&
                            m_steps[m_at].gesture == gesture;
        if (goesOn && value == m_steps[m_at - 1].value) { // back where it began: nothing to undo
            m_steps.pop_back();
            --m_at;
            return;
        }
        if (goesOn) {
            m_steps[m_at].value = std::move(value);
            m_steps[m_at].name = std::move(name);
            return;
        }
        m_steps.resize(m_at + 1);
        if (m_clean > static_cast<std::ptrdiff_t>(m_at)) m_clean = -1;
        m_steps.push_back({std::move(value), std::move(name), std::move(gesture)});
        ++m_at;
    }
    [[nodiscard]] bool canUndo() const { return m_at > 0; }
    [[nodiscard]] bool canRedo() const { return m_at + 1 < m_steps.size(); }
    [[nodiscard]] const std::string& undoName() const { return m_steps[m_at].name; } ///< only when canUndo()
    [[nodiscard]] const std::string& redoName() const {
        return m_steps[m_at + 1].name;
    } ///< only when canRedo()
    /// What comes next is a step of its own, whatever its gesture.
    void endGesture() { m_steps[m_at].gesture.clear(); }
    /// Goes back a step; a gesture ends with it.
    void undo() {
        if (!canUndo()) return;
        m_steps[m_at].gesture.clear();
        --m_at;
        m_steps[m_at].gesture.clear();
    }
    void redo() { m_at += canRedo() ? 1 : 0; }
    /// Says which value is on disk: the step nearest to the present one that has it, if any.
    void markClean(const T& value) {
        m_clean = -1;
        for (std::size_t i = 0; i < m_steps.size(); ++i)
            if (m_steps[i].value == value &&
                (m_clean < 0 || distance(i) < distance(static_cast<std::size_t>(m_clean))))
                m_clean = static_cast<std::ptrdiff_t>(i);
    }
    void markClean() { m_clean = static_cast<std::ptrdiff_t>(m_at); }
    void markUnsaved() { m_clean = -1; }
    /// Names of the steps between the value on disk and the present one, the newest last, at most so many of
    /// the newest; all steps count when that value is lost.
    [[nodiscard]] std::vector<std::string> namesSinceClean(std::size_t most = SIZE_MAX) const {
        std::vector<std::string> names;
        const std::size_t from = m_clean < 0 ? 0 : static_cast<std::size_t>(m_clean);
        const std::size_t last = std::max(from, m_at), first = std::min(from, m_at);
        for (std::size_t i = last - std::min(last - first, most) + 1; i <= last; ++i)
            names.push_back(m_steps[i].name);
        return names;
    }
    [[nodiscard]] bool isClean() const { return m_clean == static_cast<std::ptrdiff_t>(m_at); }

  private:
    [[nodiscard]] std::size_t distance(std::size_t step) const {
        return step > m_at ? step - m_at : m_at - step;
    }
    struct Step {
        T value;
        std::string name;
        std::string gesture;
    };
    std::vector<Step> m_steps;
    std::size_t m_at = 0;
    std::ptrdiff_t m_clean = 0; ///< the step that is on disk; −1 when it is lost
};

} // namespace cobbleway
