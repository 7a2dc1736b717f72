#pragma once
#include <filesystem>
#include <map>
#include <string>

namespace cobbleway {

/// What was found out about files of strangers, kept between starts: for each version of one (fileVersion())
/// why it is set aside, as asLine() has it, or nothing when it can be used.
class Verdicts {
  public:
    /// Reads the file; empty for one that keeps nothing.
    explicit Verdicts(std::filesystem::path file);
    [[nodiscard]] const std::string* find(const std::string& version) const; ///< null when it is not known
    void set(const std::string& version, std::string why);
    void erase(const std::string& version) { m_known.erase(version); }
    /// Writes those of which `wanted` is true. Without them the next start takes longer, no more.
    template <class Wanted> void save(Wanted wanted) const {
        std::string text;
        for (const auto& [version, why] : m_known)
            if (wanted(version)) text += version + "\t" + why + "\n";
        write(text);
    }

  private:
    void write(const std::string& text) const;
    std::filesystem::path m_file;
    std::map<std::string, std::string> m_known;
};

} // namespace cobbleway
