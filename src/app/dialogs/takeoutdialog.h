#pragma once
#include "app/dialogs/forms.h"
#include "app/session/uses.h"
#include "song/model/part.h"

class QListWidget;

namespace cobbleway {

/// The tracks that a kit was joined of; those that are ticked become parts again, as the file has them.
class TakeOutDialog : public Form {
    Q_OBJECT
  public:
    TakeOutDialog(Uses<uses::Set, uses::Findings> session, PartId part, QWidget* parent);

  private:
    void refresh();
    void take();
    [[nodiscard]] std::vector<std::size_t> chosen() const;
    Uses<uses::Set, uses::Findings> m_session;
    PartId m_part;
    QListWidget* m_origins;
    QPushButton* m_take;
};

} // namespace cobbleway
