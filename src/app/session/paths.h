/// Paths as text, for names of files that are not UTF-8: on Linux a name is bytes.
#pragma once
#include <QString>
#include <filesystem>

class QUrl;

namespace cobbleway {

/// A byte that is not part of valid UTF-8 becomes the lone surrogate U+DC00 + byte, which pathOf() turns
/// back.
QString textOfPath(const std::filesystem::path& path);
std::filesystem::path pathOf(const QString& text);

/// Of a local file; empty for others.
QString textOfUrl(const QUrl& url);

} // namespace cobbleway
