#include "app/dialogs/ask.h"

#include <QFileDialog>
#include <QMessageBox>
#include <QPushButton>

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
                 const std::function<void(const QString&)>& then) {
    auto* dialog = new QFileDialog(parent, title, {}, filter);
    dialog->setAcceptMode(QFileDialog::AcceptSave); // asks before a file is replaced
    dialog->setFileMode(QFileDialog::AnyFile);
    if (!path.isEmpty()) dialog->selectFile(path);
    openForOne(dialog, then);
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
