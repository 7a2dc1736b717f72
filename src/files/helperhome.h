#pragma once
#include <filesystem>

namespace cobbleway {

/// A home of its own for a program that runs foreign code, so that what it writes there (settings, presets,
/// folders of plug-ins) never reaches the person's. Private, under a name that cannot be guessed, and gone
/// with this object. The person's own plug-ins (~/.lv2) are linked into it; those of programs that were
/// killed go when the next is made.
class HelperHome {
  public:
    HelperHome();
    ~HelperHome();
    HelperHome(const HelperHome&) = delete;
    HelperHome& operator=(const HelperHome&) = delete;
    [[nodiscard]] const std::filesystem::path& path() const { return m_path; } ///< empty when none was made

  private:
    std::filesystem::path m_path;
};

} // namespace cobbleway
