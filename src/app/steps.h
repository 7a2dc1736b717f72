/// The steps of the work as people see them: one row a page.
#pragma once
#include "song/snags/snags.h"

#include <QString>
#include <span>

namespace cobbleway {

struct StepText {
    Step step;
    const char* action; ///< id of the action that shows its page
    QString name;
    QString menuText; ///< the same with the letter that chooses it
    [[nodiscard]] int number() const { return static_cast<int>(step) + 1; } ///< from 1
};

/// All steps, in order.
std::span<const StepText> stepTexts();
QString stepName(Step step);

} // namespace cobbleway
