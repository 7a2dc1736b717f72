#include "app/steps.h"

#include <QObject>
#include <array>

namespace cobbleway {

std::span<const StepText> stepTexts() {
    static const std::array all = {
        StepText{Step::Songs, "page1", QObject::tr("Songs"), QObject::tr("&Songs")},
        StepText{Step::Parts, "page2", QObject::tr("Parts"), QObject::tr("&Parts")},
        StepText{Step::Sounds, "page3", QObject::tr("Sounds"), QObject::tr("S&ounds")},
        StepText{Step::Drums, "page4", QObject::tr("Drums"), QObject::tr("&Drums")},
        StepText{Step::Practice, "page5", QObject::tr("Practice"), QObject::tr("P&ractice")},
        StepText{Step::Export, "page6", QObject::tr("Export"), QObject::tr("&Export")},
    };
    return all;
}

QString stepName(Step step) { return stepTexts()[static_cast<std::size_t>(step)].name; }

} // namespace cobbleway
