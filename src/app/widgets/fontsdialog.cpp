#include "app/widgets/fontsdialog.h"

#include "app/session/session.h"
#include "app/widgets/small.h"
#include "font/catalogue.h"

#include <QFileDialog>
#include <QHBoxLayout>
#include <QListWidget>
#include <QVBoxLayout>

namespace cobbleway {

FontsDialog::FontsDialog(Session& session, QWidget* parent)
    : QDialog(parent), m_session(session), m_fonts(new QListWidget), m_folders(new QListWidget) {
    setWindowTitle(tr("Fonts and instruments"));
    resize(560, 470);
    m_fonts->setAccessibleName(tr("Soundfonts"));
    m_fonts->setObjectName(QStringLiteral("fontList"));
    m_folders->setAccessibleName(tr("Folders"));
    auto* use = button(tr("Play every part with it"), true);
    auto* add = button(tr("Add a folder…"));
    auto* again = button(tr("Look again"));
    auto* close = button(tr("Close"));
    auto* fonts = new Card(tr("Soundfonts"));
    fonts->column()->addWidget(mutedLabel(tr("The default font plays every part that has no sound chosen by "
                                             "hand. It takes effect at once, also while the song plays.")));
    fonts->column()->addWidget(m_fonts, 2);
    fonts->column()->addWidget(use, 0, Qt::AlignRight);
    auto* folders = new Card(tr("Folders that are looked through"));
    folders->column()->addWidget(m_folders, 1);
    auto* line = new QHBoxLayout;
    line->addStretch();
    line->addWidget(again);
    line->addWidget(add);
    folders->column()->addLayout(line);
    auto* layout = new QVBoxLayout(this);
    layout->setSpacing(10);
    layout->addWidget(fonts, 3);
    layout->addWidget(folders, 2);
    layout->addWidget(close, 0, Qt::AlignRight);
    const auto take = [this] {
        if (m_fonts->currentItem())
            m_session.setDefaultFont(m_fonts->currentItem()->data(Qt::UserRole).toString());
    };
    connect(use, &QPushButton::clicked, this, take);
    connect(m_fonts, &QListWidget::itemActivated, this, take);
    connect(again, &QPushButton::clicked, &session, &Session::rescanFonts);
    connect(add, &QPushButton::clicked, this, [this] {
        const QString folder = QFileDialog::getExistingDirectory(this, tr("Folder with soundfonts"));
        if (!folder.isEmpty()) m_session.addFontFolder(folder);
    });
    connect(close, &QPushButton::clicked, this, &QDialog::accept);
    connect(&session, &Session::catalogueChanged, this, &FontsDialog::refresh);
    refresh();
}

void FontsDialog::refresh() {
    const Catalogue& catalogue = m_session.catalogue();
    const SoundFont* chosen = catalogue.defaultFont();
    m_fonts->clear();
    for (const FontPtr& font : catalogue.fonts()) {
        QString text = tr("%1 — %2 sounds, %3 MB")
                           .arg(QString::fromStdString(font->name))
                           .arg(font->presets.size())
                           .arg(static_cast<double>(font->size) / 1e6, 0, 'f', 1);
        if (font.get() == chosen) text += tr("  · plays every part");
        auto* item = new QListWidgetItem(text, m_fonts);
        item->setData(Qt::UserRole, QString::fromStdString(font->id));
        item->setToolTip(QString::fromStdString(font->path.string()));
        if (font.get() == chosen) m_fonts->setCurrentItem(item);
    }
    m_folders->clear();
    for (const auto& folder : standardFontFolders())
        m_folders->addItem(QString::fromStdString(folder.string()));
    m_folders->addItems(m_session.fontFolders());
}

} // namespace cobbleway
