#pragma once
#include "midi/gm.h"

#include <QSpinBox>

namespace cobbleway {

/// A spin box for keys that reads C4, not 60; a number may be typed too.
class KeyBox final : public QSpinBox {
  public:
    KeyBox() { setRange(0, 127); }

  private:
    [[nodiscard]] QString textFromValue(int value) const override {
        return QString::fromStdString(keyName(Key{static_cast<std::uint8_t>(value)}));
    }
    [[nodiscard]] int valueFromText(const QString& text) const override {
        for (int key = 0; key < 128; ++key)
            if (textFromValue(key).compare(text.trimmed(), Qt::CaseInsensitive) == 0) return key;
        return text.toInt();
    }
    QValidator::State validate(QString&, int&) const override { return QValidator::Acceptable; }
};

} // namespace cobbleway
