#include "app/session/paths.h"

#include <QStringConverter>
#include <QUrl>

namespace cobbleway {
namespace {

constexpr char16_t escaped = 0xDC00; // U+DC80–U+DCFF: no text has them alone

/// The bytes of the letter that begins at `at`; 0 when no valid letter does.
qsizetype letterAt(const QByteArray& bytes, qsizetype at) {
    for (qsizetype length = 1; length <= 4 && at + length <= bytes.size(); ++length) {
        QStringDecoder decode(QStringDecoder::Utf8, QStringConverter::Flag::Stateless);
        const QString letter = decode(QByteArrayView(bytes).sliced(at, length));
        if (!decode.hasError() && !letter.isEmpty() && !letter.contains(QChar::ReplacementCharacter))
            return length;
    }
    return 0;
}

QString textOfBytes(const QByteArray& bytes) {
    QStringDecoder decode(QStringDecoder::Utf8, QStringConverter::Flag::Stateless);
    QString text = decode(bytes);
    if (!decode.hasError()) return text;
    text.clear();
    for (qsizetype at = 0; at < bytes.size();) {
        if (const qsizetype length = letterAt(bytes, at)) {
            text += QString::fromUtf8(bytes.sliced(at, length));
            at += length;
        } else {
            text += QChar(static_cast<char16_t>(escaped + static_cast<unsigned char>(bytes[at++])));
        }
    }
    return text;
}

} // namespace

QString textOfPath(const std::filesystem::path& path) {
    return textOfBytes(QByteArray::fromStdString(path.string()));
}

std::filesystem::path pathOf(const QString& text) {
    std::string bytes;
    qsizetype plain = 0; // where what is not converted yet begins
    const auto upTo = [&](qsizetype end) { bytes += text.sliced(plain, end - plain).toStdString(); };
    for (qsizetype i = 0; i < text.size(); ++i) {
        const char16_t unit = text[i].unicode();
        const bool alone = i == 0 || !text[i - 1].isHighSurrogate();
        if (unit < escaped + 0x80 || unit > escaped + 0xFF || !alone) continue;
        upTo(i);
        bytes += static_cast<char>(unit - escaped);
        plain = i + 1;
    }
    upTo(text.size());
    return bytes;
}

QString textOfUrl(const QUrl& url) {
    if (!url.isLocalFile()) return {};
    return textOfBytes(QByteArray::fromPercentEncoding(url.path(QUrl::FullyEncoded).toLatin1()));
}

} // namespace cobbleway
