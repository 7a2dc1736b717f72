#include "app/dialogs/fontsdialog.h"

#include "app/dialogs/ask.h"
#include "app/dialogs/usefonts.h"
#include "app/look/sentence.h"
#include "app/session/paths.h"
#include "app/widgets/rowlist.h"

#include <QComboBox>
#include <QListWidget>
#include <QStackedWidget>

namespace cobbleway {
namespace {

constexpr int triableRole = Qt::UserRole + 2;

QPushButton* tryButton() {
    QPushButton* again = button(FontsDialog::tr("Try again"));
    again->setToolTip(
        FontsDialog::tr("It was set aside after a trial, or since Cobbleway ended while it was in use. If "
                        "it is another now, or the computer was busy, it may do better."));
    again->setAccessibleDescription(again->toolTip());
    return again;
}

} // namespace

FontsDialog::FontsDialog(Uses<uses::Set, uses::Sounds> session, QWidget* parent)
    : Form(tr("Fonts and instruments"), parent), m_session(session),
      m_sides(new Segments({tr("Soundfonts"), tr("LV2"), tr("Folders")}, {})), m_stack(new QStackedWidget) {
    setPreferredWidth(640);
    setHeading(tr("Soundfonts and instruments that Cobbleway uses"));
    m_stack->addWidget(makeFonts());
    m_stack->addWidget(makePlugins());
    m_stack->addWidget(makeFolders());
    auto* line = new QHBoxLayout;
    line->addWidget(m_sides);
    line->addStretch();
    column()->addLayout(line);
    column()->addWidget(m_stack, 1);
    addButtons({}, tr("Close"));
    connect(m_sides, &Segments::chosen, m_stack, &QStackedWidget::setCurrentIndex);
    m_sides->setCurrent(0);
    connect(&session.sounds, &Sounds::catalogueChanged, this, &FontsDialog::refresh);
    follow(session.current, Side::Sounds, this, &FontsDialog::refreshFonts);
    connect(&session.sounds, &Sounds::pluginsChanged, this, &FontsDialog::refreshPlugins);
    refresh();
}

QWidget* FontsDialog::makeFonts() {
    m_scope = new QComboBox;
    m_scope->addItems({tr("everywhere"), tr("in this set"), tr("in this song")});
    m_scope->setObjectName(QStringLiteral("fontScope"));
    m_fonts = new QuietView<QListWidget>;
    m_fonts->setAccessibleName(tr("Soundfonts"));
    m_fonts->setObjectName(QStringLiteral("fontList"));
    m_order = mutedLabel();
    m_first = button(tr("Use first"), true);
    m_first->setObjectName(QStringLiteral("serveFirst"));
    m_first->setAutoDefault(false);
    m_earlier = button(tr("Earlier"));
    m_later = button(tr("Later"));
    m_clear = button(tr("Use the usual order"));
    m_compare = button(tr("Compare with it"));
    m_compare->setToolTip(tr("F7 then switches between this soundfont and the first while the song plays"));
    m_tryFont = tryButton();
    m_tryFont->setObjectName(QStringLiteral("tryFont"));
    auto* page = new QWidget;
    auto* layout = new QVBoxLayout(page);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->addWidget(
        mutedLabel(tr("The first soundfont plays every part for which you chose no sound; those after it "
                      "play what it lacks. You hear a change at once, even while the song plays.")));
    layout->addLayout(row({labelled(tr("&Order of fonts"), m_scope)}));
    layout->addWidget(m_fonts, 1);
    layout->addWidget(m_order);
    layout->addLayout(row({m_first, m_earlier, m_later, m_clear, m_compare, m_tryFont}));
    connect(m_scope, &QComboBox::activated, this, &FontsDialog::refreshFonts);
    connect(m_fonts, &QListWidget::currentRowChanged, this, [this] {
        m_compare->setEnabled(!currentFont().isEmpty());
        m_tryFont->setVisible(!triable(*m_fonts).isEmpty());
    });
    connect(m_tryFont, &QPushButton::clicked, this,
            [this] { m_session.sounds.tryFontAgain(triable(*m_fonts)); });
    const auto first = [this] {
        QStringList ids = m_session.sounds.fontOrder(scope());
        ids.removeAll(currentFont());
        ids.prepend(currentFont());
        if (!currentFont().isEmpty()) setOrder(ids);
    };
    connect(m_first, &QPushButton::clicked, this, first);
    connect(m_fonts, &QListWidget::itemActivated, this, first);
    connect(m_earlier, &QPushButton::clicked, this, [this] { moveCurrent(-1); });
    connect(m_later, &QPushButton::clicked, this, [this] { moveCurrent(1); });
    connect(m_clear, &QPushButton::clicked, this, [this] { setOrder({}); });
    connect(m_compare, &QPushButton::clicked, this, [this] {
        m_session.sounds.setCompareFont(currentFont());
        m_session.sounds.toggleCompare();
    });
    return page;
}

QWidget* FontsDialog::makePlugins() {
    m_plugins = new QuietView<QListWidget>;
    m_plugins->setAccessibleName(tr("LV2 instruments and effects"));
    m_plugins->setObjectName(QStringLiteral("pluginList"));
    m_plugins->setWordWrap(true);
    m_plugins->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    m_scan = mutedLabel();
    auto* again = button(tr("Look for them again"));
    m_tryPlugin = tryButton();
    m_tryPlugin->setObjectName(QStringLiteral("tryPlugin"));
    auto* page = new QWidget;
    auto* layout = new QVBoxLayout(page);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->addWidget(
        mutedLabel(tr("Instruments are on the shelf. Each plug-in is tried in a separate program "
                      "first; one that crashes or hangs there is set aside.")));
    layout->addWidget(m_plugins, 1);
    layout->addWidget(m_scan);
    layout->addLayout(row({again, m_tryPlugin}));
    connect(again, &QPushButton::clicked, &m_session.sounds, &Sounds::rescanPlugins);
    const auto refreshUse = [this] { m_tryPlugin->setEnabled(!triable(*m_plugins).isEmpty()); };
    connect(m_plugins, &QListWidget::currentRowChanged, this, refreshUse);
    connect(m_tryPlugin, &QPushButton::clicked, this,
            [this] { m_session.sounds.tryPluginAgain(triable(*m_plugins)); });
    refreshUse();
    return page;
}

QWidget* FontsDialog::makeFolders() {
    m_folders = new QuietView<QListWidget>;
    m_folders->setAccessibleName(tr("Folders"));
    m_folders->setObjectName(QStringLiteral("folderList"));
    auto* add = button(tr("Add a folder…"));
    auto* addFont = button(tr("Add soundfonts…"));
    addFont->setObjectName(QStringLiteral("addFonts"));
    m_removeFolder = button(tr("Remove it from the list"));
    auto* again = button(tr("Look again"));
    auto* page = new QWidget;
    auto* layout = new QVBoxLayout(page);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->addWidget(
        mutedLabel(tr("Soundfonts (SF2, SF3, DLS) in these folders are found automatically, "
                      "even those that you add while the program runs; single files can be added, too.")));
    layout->addWidget(m_folders, 1);
    layout->addLayout(row({add, addFont, m_removeFolder, again}));
    connect(addFont, &QPushButton::clicked, this, [this] {
        ask::forFiles(this, tr("Add soundfonts"), tr("Soundfonts (*.sf2 *.sf3 *.dls *.SF2 *.SF3 *.DLS)"),
                      [this](const QStringList& fonts) { askHowToUse(this, m_session, fonts); });
    });
    connect(again, &QPushButton::clicked, &m_session.sounds, &Sounds::rescanFonts);
    connect(add, &QPushButton::clicked, this, [this] {
        ask::forFolder(this, tr("Folder with soundfonts"), {},
                       [this](const QString& folder) { m_session.sounds.addFontFolder(folder); });
    });
    connect(m_removeFolder, &QPushButton::clicked, this, [this] {
        if (m_folders->currentItem()) m_session.sounds.removeFontFolder(m_folders->currentItem()->text());
    });
    connect(m_folders, &QListWidget::currentTextChanged, this, [this](const QString& folder) {
        m_removeFolder->setEnabled(m_session.sounds.fontFolders().contains(folder));
    });
    return page;
}

QString FontsDialog::triable(const QListWidget& list) {
    return list.currentItem() ? list.currentItem()->data(triableRole).toString() : QString();
}

Sounds::Scope FontsDialog::scope() const { return static_cast<Sounds::Scope>(m_scope->currentIndex()); }

QString FontsDialog::currentFont() const {
    return m_fonts->currentItem() ? m_fonts->currentItem()->data(Qt::UserRole).toString() : QString();
}

void FontsDialog::setOrder(QStringList ids) {
    ids.removeAll(QString());
    m_session.sounds.setFontOrder(scope(), ids);
}

void FontsDialog::moveCurrent(int by) {
    // What is shown is what is moved: from here on the scope has an order of its own.
    QStringList ids;
    for (int i = 0; i < m_fonts->count(); ++i)
        if (m_fonts->item(i)->data(Qt::UserRole + 1).toBool())
            ids << m_fonts->item(i)->data(Qt::UserRole).toString();
    const QString font = currentFont();
    const auto from = ids.indexOf(font);
    if (from < 0)
        ids << font;
    else if (from + by >= 0 && from + by < ids.size())
        ids.move(from, from + by);
    setOrder(ids);
}

void FontsDialog::refresh() {
    refreshFonts();
    refreshPlugins();
    const QString before = m_folders->currentItem() ? m_folders->currentItem()->text() : QString();
    m_folders->clear();
    for (const auto& folder : standardFontFolders())
        m_folders->addItem(QString::fromStdString(folder.string()));
    m_folders->addItems(m_session.sounds.fontFolders());
    for (int i = 0; i < m_folders->count(); ++i)
        if (m_folders->item(i)->text() == before) m_folders->setCurrentRow(i);
    m_removeFolder->setEnabled(m_session.sounds.fontFolders().contains(before));
}

void FontsDialog::refreshFonts() {
    Catalogue catalogue = m_session.sounds.catalogue();
    if (scope() == Sounds::Scope::Song && m_session.current.hasSong())
        catalogue = catalogueFor(m_session.current.song(), catalogue);
    const auto order = catalogue.order();
    const QString before = currentFont();
    m_fonts->clear();
    const auto add = [&](const SoundFont& font, int place) {
        QString text = tr("%1 — %2 sounds, %3 MB")
                           .arg(QString::fromStdString(font.name))
                           .arg(font.presets.size())
                           .arg(static_cast<double>(font.size) / 1e6, 0, 'f', 1);
        if (place == 1) text += tr("  · used first");
        if (place > 1) text += tr("  · then");
        if (!font.damage.empty()) text += tr("  · damaged");
        auto* item = new QListWidgetItem(text, m_fonts);
        item->setData(Qt::UserRole, QString::fromStdString(font.id));
        item->setData(Qt::UserRole + 1, place > 0);
        QStringList tip = {QString::fromStdString(font.path.string())};
        if (!font.version.empty()) tip << tr("SoundFont %1").arg(QString::fromStdString(font.version));
        if (font.compressed) tip << tr("compressed samples (SF3)");
        if (font.has24Bit) tip << tr("24-bit samples");
        for (const Message& damage : font.damage) tip << sentence(damage);
        item->setToolTip(tip.join(QLatin1Char('\n')));
        if (item->data(Qt::UserRole).toString() == before) m_fonts->setCurrentItem(item);
    };
    int place = 0;
    for (const SoundFont* font : order) add(*font, ++place);
    for (const FontPtr& font : catalogue.fonts())
        if (std::find(order.begin(), order.end(), font.get()) == order.end()) add(*font, 0);
    for (const FontProblem& problem : m_session.sounds.fontProblems()) {
        const QString name = QString::fromStdString(problem.path.filename().string());
        auto* item = new QListWidgetItem(
            tr("%1 — cannot be used. %2").arg(name, sentence(problem.error.what)), m_fonts);
        item->setToolTip(QString::fromStdString(problem.error.message()));
        if (problem.wasTried) item->setData(triableRole, textOfPath(problem.path));
    }
    if (!m_fonts->currentItem()) m_fonts->setCurrentRow(0);
    m_tryFont->setVisible(!triable(*m_fonts).isEmpty());
    const bool own = !m_session.sounds.fontOrder(scope()).isEmpty();
    m_order->setText(own ? tr("This order holds %1.").arg(m_scope->currentText())
                     : scope() == Sounds::Scope::Mine
                         ? tr("No order is set: the system's default soundfont is used first.")
                     : scope() == Sounds::Scope::Set ? tr("The set has no order: yours is used.")
                                                     : tr("The song has no order: that of the set is used."));
    m_clear->setEnabled(own);
}

void FontsDialog::refreshPlugins() {
    const int before = m_plugins->currentRow();
    m_plugins->clear();
    for (const PluginInfo& plugin : m_session.sounds.catalogue().plugins())
        m_plugins->addItem(tr("%1 — %2, %3")
                               .arg(QString::fromStdString(plugin.name),
                                    plugin.instrument ? tr("instrument") : tr("effect"),
                                    QString::fromStdString(plugin.maker)));
    for (const PluginSetAside& aside : m_session.sounds.catalogue().setAside()) {
        m_plugins->addItem((aside.wasTried ? tr("%1 — set aside. %2") : tr("%1 — cannot be used. %2"))
                               .arg(QString::fromStdString(aside.plugin.name), sentence(aside.why)));
        if (aside.wasTried)
            m_plugins->item(m_plugins->count() - 1)
                ->setData(triableRole, QString::fromStdString(aside.plugin.uri));
    }
    m_plugins->setCurrentRow(std::min(std::max(0, before), m_plugins->count() - 1));
    const QString tried = m_session.sounds.pluginBeingTried();
    m_scan->setText(!tried.isEmpty()          ? tr("Trying %1…").arg(tried)
                    : m_plugins->count() == 0 ? tr("No plug-in is known.")
                    : m_session.sounds.arePluginsConfined()
                        ? QString()
                        : tr("This system cannot keep plug-ins from your files."));
    m_scan->setVisible(!m_scan->text().isEmpty());
}

} // namespace cobbleway
