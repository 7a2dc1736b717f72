#include "files/notenames.h"

#include "files/midnam.h"
#include "files/namelines.h"
#include "midi/text.h"
#include "words/letters.h"

#include <algorithm>
#include <cctype>

namespace cobbleway {
namespace {

std::string csvField(const std::string& text) {
    if (text.find_first_of(",\"\r\n") == std::string::npos) return text;
    std::string quoted = "\"";
    for (const char c : text) quoted += c == '"' ? std::string("\"\"") : std::string(1, c);
    return quoted + '"';
}

/// So that the same name is read again: one that begins as a separator gets one before it; what would be a
/// remark is drawn together.
std::string textOf(const DrumNames& names) {
    std::string text;
    for (const auto& [key, name] : names) {
        const std::string shown = oneLine(name);
        std::string line =
            std::to_string(key) + (std::string_view("=;,").find(shown[0]) < 3 ? " = " : " ") + shown;
        for (auto at = line.find(" # "); at != std::string::npos; at = line.find(" # "))
            line.erase(at + 2, 1);
        text += line + "\n";
    }
    return text;
}

std::string csvOf(const DrumNames& names) {
    std::string text = "key,name\r\n"; // RFC 4180: lines end with both
    for (const auto& [key, name] : names)
        text += std::to_string(key) + "," + csvField(oneLine(name)) + "\r\n";
    return text;
}

} // namespace

std::string_view nameFormatWord(NameFormat format) {
    return format == NameFormat::Text ? "text" : (format == NameFormat::Csv ? "csv" : "midnam");
}

NameFormat nameFormatOf(const std::filesystem::path& path) {
    const std::string ending = inSmallLetters(path.extension().string());
    if (ending == ".csv") return NameFormat::Csv;
    return ending == ".midnam" || ending == ".xml" ? NameFormat::Midnam : NameFormat::Text;
}

Result<NameFile> parseNames(std::string_view bytes, const std::filesystem::path& path) {
    const Error none{{"error.no-drum-names"}, path.string(), {"now.drum-name-line"}};
    constexpr std::size_t most = 8U << 20;
    if (bytes.size() > most) return Error{{"error.names-large"}, path.string(), {"now.choose-names"}};
    const std::string text = toUtf8Whole(bytes, guessEncoding(bytes));
    const bool xml = looksLikeXml(text);
    if (xml || nameFormatOf(path) == NameFormat::Midnam) {
        auto file = parseMidnam(bytes, path);
        if (file && file.value().lists.empty()) return none;
        return file;
    }
    NameFile file;
    file.format =
        nameFormatOf(path) == NameFormat::Csv || looksLikeCsv(text) ? NameFormat::Csv : NameFormat::Text;
    NameLines lines = file.format == NameFormat::Csv ? csvLines(text) : textLines(text);
    if (lines.names.empty()) return none;
    file.lists.push_back({path.stem().string(), std::move(lines.names)});
    file.repaired = std::move(lines.repaired);
    return file;
}

Result<NameFile> readNames(const std::filesystem::path& path) {
    const auto bytes = readFile(path);
    if (!bytes) return bytes.error();
    return parseNames({reinterpret_cast<const char*>(bytes.value().data()), bytes.value().size()}, path);
}

std::string namesText(const DrumNames& names, NameFormat format, const std::string& title) {
    if (format == NameFormat::Csv) return csvOf(names);
    return format == NameFormat::Midnam ? midnamOf(names, title) : textOf(names);
}

Result<Done> writeNames(const DrumNames& names, const std::string& title, const std::filesystem::path& path) {
    return writeFile(path, namesText(names, nameFormatOf(path), title));
}

} // namespace cobbleway
