/// How the rows of the table become menus, and the menus that are filled with what there is.
#include "app/mainwindow.h"

#include "app/look/textsize.h"
#include "app/look/theme.h"
#include "app/pages/exportpage.h"
#include "app/session/session.h"
#include "app/session/settings.h"

#include <QActionGroup>
#include <QApplication>
#include <QMenu>
#include <QMenuBar>
#include <QMessageBox>
#include <QProcess>
#include <QPushButton>
#include <QScreen>

namespace cobbleway {
namespace {

/// Gives each entry of a menu a letter of its own: the one that it is marked with, else the first of a word,
/// else any that is free.
void settleMnemonics(const QList<QAction*>& entries) {
    QSet<QChar> taken;
    const auto take = [&taken](QAction* entry, QString text, qsizetype at) {
        const QChar letter = text[at].toLower();
        if (!letter.isLetterOrNumber() || taken.contains(letter)) return false;
        taken.insert(letter);
        entry->setText(text.insert(at, QLatin1Char('&')));
        return true;
    };
    QList<std::pair<QAction*, QString>> rest;
    for (QAction* entry : entries) {
        if (entry->isSeparator()) continue;
        const auto mark = entry->text().indexOf(QLatin1Char('&'));
        const QString plain = entry->text().remove(QLatin1Char('&'));
        if (mark < 0 || mark >= plain.size() || !take(entry, plain, mark)) rest.append({entry, plain});
    }
    for (const auto& [entry, text] : rest) {
        bool done = false;
        for (const bool starts : {true, false})
            for (qsizetype at = 0; at < text.size() && !done; ++at)
                if (!starts || at == 0 || text[at - 1] == QLatin1Char(' ')) done = take(entry, text, at);
        if (!done) entry->setText(text);
    }
}

} // namespace

void MainWindow::makeMenus() {
    const std::pair<QString, QString> titles[] = {
        {QStringLiteral("File"), tr("&File")},
        {QStringLiteral("Edit"), tr("&Edit")},
        {QStringLiteral("Song"), tr("&Song")},
        {QStringLiteral("Part"), tr("&Part")},
        {QStringLiteral("Sound"), tr("S&ound")},
        {QStringLiteral("Drums"), tr("&Drums")},
        {QStringLiteral("Play"), tr("P&lay")},
        {QStringLiteral("View"), tr("&View")},
        {QStringLiteral("Help"), tr("&Help")},
        {QStringLiteral("File/Recent sets"), tr("Recent sets")},
        {QStringLiteral("Part/Split and join"), tr("&Split and join")},
        {QStringLiteral("Part/Pitch and level"), tr("Pitch and level")},
        {QStringLiteral("Part/In the mix"), tr("In the mix")},
        {QStringLiteral("Sound/Range"), tr("Into range")},
        {QStringLiteral("Sound/Whole mix"), tr("The whole mix")},
        {QStringLiteral("Drums/Names"), tr("Names")},
        {QStringLiteral("Drums/Names/Published names"), tr("Published names")},
        {QStringLiteral("Play/Place"), tr("Place in the song")},
        {QStringLiteral("Play/Pace"), tr("&Pace")},
        {QStringLiteral("Play/Click"), tr("&Click")},
        {QStringLiteral("Play/Keyboard"), tr("Play along with a key&board")},
        {QStringLiteral("Play/Output"), tr("Sound output")},
        {QStringLiteral("View/Theme"), tr("Theme")},
        {QStringLiteral("View/Text size"), tr("Text size")}};
    const auto titleOf = [&](const QString& menu) {
        const auto at = std::find_if(std::begin(titles), std::end(titles),
                                     [&](const auto& t) { return t.first == menu; });
        return at == std::end(titles) ? menu : at->second;
    };
    QHash<QString, QMenu*> menus;
    const std::function<QMenu*(const QString&)> menuOf = [&](const QString& name) {
        if (!menus.contains(name)) {
            const auto slash = name.lastIndexOf(QLatin1Char('/'));
            menus.insert(name, slash < 0 ? menuBar()->addMenu(titleOf(name))
                                         : menuOf(name.left(slash))->addMenu(titleOf(name)));
        }
        return menus[name];
    };
    for (const ActionRow& row : m_rows) {
        QMenu* menu = menuOf(QLatin1String(row.menu));
        if (*row.id)
            menu->addAction(action(QLatin1String(row.id)));
        else if (row.need)
            menu->addSeparator();
    }
    for (QMenu* menu : std::as_const(menus)) settleMnemonics(menu->actions());
    settleMnemonics(menuBar()->actions());
    m_recent = menus[QStringLiteral("File/Recent sets")];
    connect(m_recent, &QMenu::aboutToShow, this, &MainWindow::fillRecent);
    QMenu* inputs = menus[QStringLiteral("Play/Keyboard")];
    Keyboards& keyboards = m_session.playAlong.keyboards();
    connect(inputs, &QMenu::aboutToShow, this, [this, inputs, &keyboards] {
        keyboards.look();
        fillInputs(inputs);
    });
    connect(&keyboards, &Keyboards::listed, inputs, [this, inputs] { fillInputs(inputs); });
    fillInputs(inputs);
    fillPublishedNames(menus[QStringLiteral("Drums/Names/Published names")]);
    QMenu* outputs = menus[QStringLiteral("Play/Output")];
    connect(outputs, &QMenu::aboutToShow, this, [this, outputs] {
        m_session.output.look();
        fillOutputs(outputs);
    });
    for (const auto news : {&Output::listed, &Output::changed})
        connect(&m_session.output, news, outputs, [this, outputs] { fillOutputs(outputs); });
    fillOutputs(outputs);
    fillThemes(menus[QStringLiteral("View/Theme")]);
    fillTextSizes(menus[QStringLiteral("View/Text size")]);
}

namespace {

/// A menu that was filled anew while it is open has another size.
void keepOnScreen(QMenu& menu) {
    if (!menu.isVisible()) return;
    menu.resize(menu.sizeHint());
    const QRect screen = menu.screen()->availableGeometry();
    menu.move(menu.x(), std::max(screen.top(), std::min(menu.y(), screen.bottom() - menu.height())));
}

} // namespace

/// Shows the keyboards of the last look; when it is opened they are looked for anew.
void MainWindow::fillInputs(QMenu* menu) {
    const QString before = menu->activeAction() ? menu->activeAction()->text() : QString();
    menu->clear();
    const Keyboards& keyboards = m_session.playAlong.keyboards();
    const auto offer = [&](const QString& name, const QString& id) {
        QAction* choice = menu->addAction(name, this, [this, id] { m_session.playAlong.setInput(id); });
        choice->setCheckable(true);
        choice->setChecked(keyboards.wanted() == id);
    };
    offer(tr("No keyboard"), {});
    for (const PortInfo& port : keyboards.known())
        offer(QString::fromStdString(port.name), QString::fromStdString(port.id));
    if (menu->actions().size() == 1)
        menu->addAction(keyboards.isLooking() ? tr("Looking for keyboards…") : tr("None is connected"))
            ->setEnabled(false);
    keepOnScreen(*menu);
    for (QAction* choice : menu->actions()) // it may be open, and used by keys
        if (choice->text() == before) menu->setActiveAction(choice);
}

/// Shows the devices of the last look; when it is opened they are asked for anew.
void MainWindow::fillOutputs(QMenu* menu) {
    const QString before = menu->activeAction() ? menu->activeAction()->text() : QString();
    menu->clear();
    Output& output = m_session.output;
    menu->addAction(output.said())->setEnabled(false);
    menu->addSeparator();
    const auto offer = [&](const QString& name, bool chosen, auto choose) {
        QAction* choice = menu->addAction(name, this, choose);
        choice->setCheckable(true);
        choice->setChecked(chosen);
    };
    for (const OutputInfo& info : output.known()) {
        const QString id = QString::fromStdString(info.id);
        offer(QString::fromStdString(info.name), output.wanted() == id, [&output, id] { output.choose(id); });
    }
    menu->addSeparator();
    for (const auto& [delay, name] :
         {std::pair(SoundDelay::AsUsed, tr("Delay as it is used: short while a keyboard plays")),
          std::pair(SoundDelay::Short, tr("Short delay, for playing along")),
          std::pair(SoundDelay::Long, tr("Long delay, for a busy computer"))})
        offer(name, output.delay() == delay, [&output, delay = delay] { output.setDelay(delay); });
    keepOnScreen(*menu);
    for (QAction* choice : menu->actions()) // it may be open, and used by keys
        if (choice->text() == before) menu->setActiveAction(choice);
}

void MainWindow::fillTextSizes(QMenu* sizes) {
    auto* group = new QActionGroup(this);
    for (const int size : textSizes) {
        const QString name = size == 0 ? tr("As the system") : tr("%1 %").arg(size);
        QAction* item = sizes->addAction(name, this, [this, size] { setTextSize(size); });
        item->setCheckable(true);
        item->setChecked(settings::textSize() == size);
        group->addAction(item);
    }
}

void MainWindow::setTextSize(int size) {
    settings::setTextSize(size);
    auto* box = new QMessageBox(QMessageBox::NoIcon, tr("Text size"),
                                tr("<b>The new size takes effect when Cobbleway starts again.</b>"),
                                QMessageBox::NoButton, this);
    box->setInformativeText(tr("If the set has changes, you are asked about saving them first."));
    QPushButton* now = box->addButton(tr("Start again now"), QMessageBox::AcceptRole);
    box->addButton(tr("Later"), QMessageBox::RejectRole);
    box->setAttribute(Qt::WA_DeleteOnClose);
    connect(now, &QPushButton::clicked, this, [this] {
        whenSaved([this] {
            const QString set = m_session.current.projectPath();
            QProcess::startDetached(QCoreApplication::applicationFilePath(),
                                    set.isEmpty() ? QStringList() : QStringList{set});
            m_export->stop();
            settings::setWindowGeometry(saveGeometry());
            QApplication::exit(0); // closing would ask again
        });
    });
    box->open();
}

void MainWindow::fillThemes(QMenu* themes) {
    auto* themeGroup = new QActionGroup(this);
    const std::pair<ThemeChoice, QString> choices[] = {{ThemeChoice::System, tr("As the system")},
                                                       {ThemeChoice::Light, tr("Light")},
                                                       {ThemeChoice::Dark, tr("Dark")},
                                                       {ThemeChoice::Contrast, tr("High contrast")},
                                                       {ThemeChoice::Palette, tr("The system's colours")}};
    for (const auto& [choice, name] : choices) {
        QAction* item = themes->addAction(name, this, [choice = choice] {
            settings::setThemeChoice(static_cast<int>(choice));
            applyTheme(choice);
        });
        item->setCheckable(true);
        item->setChecked(themeChoice() == choice);
        themeGroup->addAction(item);
    }
}

} // namespace cobbleway
