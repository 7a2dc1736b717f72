/// Questions that are asked beside the window's own work: nothing waits for the answer, so that whoever
/// opened the dialog (a screen reader's action among them) gets its reply at once.
#pragma once
#include <QString>
#include <QStringList>
#include <functional>

class QMessageBox;
class QPushButton;
class QWidget;

namespace cobbleway::ask {

/// Calls `then` with what was chosen; not at all when nothing was. `filter` as QFileDialog has it.
void forFiles(QWidget* parent, const QString& title, const QString& filter,
              const std::function<void(const QStringList&)>& then);
void forFile(QWidget* parent, const QString& title, const QString& folder, const QString& filter,
             const std::function<void(const QString&)>& then);
/// The path that it gives ends in one of `endings` (".json"): where another or none was typed, the first is
/// added. Whatever was typed, a file that is there is replaced only when the person says so.
void whereToSave(QWidget* parent, const QString& title, const QString& path, const QString& filter,
                 const QStringList& endings, const std::function<void(const QString&)>& then);
/// Asks before a file is replaced; calls `then` only when it may be.
void mayReplace(QWidget* parent, const QString& path, const std::function<void()>& then);
void forFolder(QWidget* parent, const QString& title, const QString& folder,
               const std::function<void(const QString&)>& then);

/// Opens a box, which deletes itself, and calls `then` with the button that was pressed, or the escape
/// button.
void withButtons(QMessageBox* box, const std::function<void(const QPushButton*)>& then);

} // namespace cobbleway::ask
