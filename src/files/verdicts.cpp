#include "files/verdicts.h"

#include "files/folders.h"

#include <algorithm>

namespace cobbleway {

Verdicts::Verdicts(std::filesystem::path file) : m_file(std::move(file)) {
    for (const std::string& line : linesOf(m_file))
        if (const auto tab = line.rfind('\t'); tab != std::string::npos)
            m_known[line.substr(0, tab)] = line.substr(tab + 1);
}

const std::string* Verdicts::find(const std::string& version) const {
    const auto at = m_known.find(version);
    return at == m_known.end() ? nullptr : &at->second;
}

void Verdicts::set(const std::string& version, std::string why) {
    std::replace_if(
        why.begin(), why.end(), [](char c) { return c == '\t' || c == '\n'; }, ' ');
    m_known[version] = std::move(why);
}

void Verdicts::write(const std::string& text) const {
    if (!m_file.empty()) (void)writePrivately(m_file, text).ok();
}

} // namespace cobbleway
