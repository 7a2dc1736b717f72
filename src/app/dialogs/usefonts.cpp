#include "app/dialogs/usefonts.h"

#include "app/dialogs/ask.h"
#include "app/session/session.h"

#include <QFileInfo>
#include <QMessageBox>
#include <QPushButton>

namespace cobbleway {

bool isFontFile(const QString& path) {
    static const QStringList endings = {QStringLiteral("sf2"), QStringLiteral("sf3"), QStringLiteral("dls")};
    const QFileInfo file(path);
    return file.isFile() && endings.contains(file.suffix().toLower());
}

void askHowToUse(QWidget* parent, Uses<uses::Set, uses::Sounds> session, const QStringList& fonts) {
    if (fonts.isEmpty()) return;
    const QString name = QFileInfo(fonts.front()).fileName().toHtmlEscaped();
    auto* box =
        new QMessageBox(QMessageBox::NoIcon, QObject::tr("Use a soundfont"),
                        fonts.size() == 1 ? QObject::tr("<b>What shall %1 play?</b>").arg(name)
                                          : QObject::tr("<b>What shall %1 and %n more soundfonts play?</b>",
                                                        nullptr, static_cast<int>(fonts.size()) - 1)
                                                .arg(name),
                        QMessageBox::NoButton, parent);
    box->setInformativeText(
        QObject::tr("It comes first in the order of soundfonts; what it does not have, the others play."));
    const QPushButton* song = nullptr;
    if (session.current.hasSong()) song = box->addButton(QObject::tr("This song"), QMessageBox::AcceptRole);
    const QPushButton* all = box->addButton(QObject::tr("All songs"), QMessageBox::AcceptRole);
    const QPushButton* keep = box->addButton(QObject::tr("Nothing yet"), QMessageBox::AcceptRole);
    box->addButton(QMessageBox::Cancel);
    ask::withButtons(box, [session, fonts, song, all, keep](const QPushButton* pressed) {
        if (!pressed || (pressed != song && pressed != all && pressed != keep)) return;
        session.sounds.addFonts(fonts, pressed == keep   ? std::nullopt
                                       : pressed == song ? std::optional(Sounds::Scope::Song)
                                                         : std::optional(Sounds::Scope::Mine));
    });
}

} // namespace cobbleway
