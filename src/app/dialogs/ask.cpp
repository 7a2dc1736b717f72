#include "app/dialogs/ask.h"

#include "app/session/paths.h"
#include "files/project.h"

#include <QFileDialog>
#include <QFileInfo>
#include <QMessageBox>
#include <QPushButton>
#include <algorithm>
#include <filesystem>

namespace cobbleway::ask {
namespace {

void open(QFileDialog* dialog, const std::function<void(const QStringList&)>& then) {
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    QObject::connect(dialog, &QFileDialog::filesSelected, dialog->parentWidget(), then);
    dialog->open();
}

void openForOne(QFileDialog* dialog, const std::function<void(const QString&)>& then) {
    open(dialog, [then](const QStringList& paths) {
        if (!paths.isEmpty()) then(paths.first());
    });
}

} // namespace

void forFiles(QWidget* parent, const QString& title, const QString& filter,
              const std::function<void(const QStringList&)>& then) {
    auto* dialog = new QFileDialog(parent, title, {}, filter);
    dialog->setFileMode(QFileDialog::ExistingFiles);
    open(dialog, then);
}

void forFile(QWidget* parent, const QString& title, const QString& folder, const QString& filter,
             const std::function<void(const QString&)>& then) {
    auto* dialog = new QFileDialog(parent, title, folder, filter);
    dialog->setFileMode(QFileDialog::ExistingFile);
    openForOne(dialog, then);
}

void whereToSave(QWidget* parent, const QString& title, const QString& path, const QString& filter,
                 const QStringList& endings, const std::function<void(const QString&)>& then) {
    auto* dialog = new QFileDialog(parent, title, {}, filter);
    dialog->setAcceptMode(QFileDialog::AcceptSave); // asks before a file is replaced
    dialog->setFileMode(QFileDialog::AnyFile);
    if (!path.isEmpty()) dialog->selectFile(path);
    openForOne(dialog, [parent, endings, then](const QString& chosen) {
        const bool ends = std::any_of(endings.begin(), endings.end(), [&](const QString& ending) {
            return chosen.endsWith(ending, Qt::CaseInsensitive);
        });
        if (ends) return then(chosen);
        const QString full = chosen + endings.first(); // of which the dialog knows nothing
        mayReplace(parent, full, [then, full] { then(full); });
    });
}

void mayReplace(QWidget* parent, const QString& path, const std::function<void()>& then) {
    std::error_code error;
    if (!std::filesystem::exists(std::filesystem::symlink_status(pathOf(path), error))) return then();
    auto* box = new QMessageBox(
        QMessageBox::NoIcon, QObject::tr("Replace the file?"),
        QObject::tr("<b>%1 is there already.</b>").arg(QFileInfo(path).fileName().toHtmlEscaped()),
        QMessageBox::NoButton, parent);
    box->setInformativeText(isProject(pathOf(path))
                                ? QObject::tr("What is in it now is kept as an earlier save.")
                                : QObject::tr("What is in it now will be lost."));
    QPushButton* replace = box->addButton(QObject::tr("Replace"), QMessageBox::DestructiveRole);
    box->setDefaultButton(box->addButton(QMessageBox::Cancel));
    withButtons(box, [replace, then](const QPushButton* pressed) {
        if (pressed == replace) then();
    });
}

void forFolder(QWidget* parent, const QString& title, const QString& folder,
               const std::function<void(const QString&)>& then) {
    auto* dialog = new QFileDialog(parent, title, folder);
    dialog->setFileMode(QFileDialog::Directory);
    dialog->setOption(QFileDialog::ShowDirsOnly);
    openForOne(dialog, then);
}

void withButtons(QMessageBox* box, const std::function<void(const QPushButton*)>& then) {
    box->setAttribute(Qt::WA_DeleteOnClose);
    QObject::connect(box, &QMessageBox::finished, box->parentWidget(),
                     [box, then] { then(qobject_cast<QPushButton*>(box->clickedButton())); });
    box->open();
}

} // namespace cobbleway::ask
