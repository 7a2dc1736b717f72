#pragma once
#include <cstdint>
#include <filesystem>
#include <span>

namespace cobbleway {

/// A file's bytes, mapped for reading. Owns the mapping. Empty when the file cannot be opened.
class MappedFile {
  public:
    explicit MappedFile(const std::filesystem::path& path);
    ~MappedFile();
    MappedFile(const MappedFile&) = delete;
    MappedFile& operator=(const MappedFile&) = delete;

    /// Valid as long as this object.
    [[nodiscard]] std::span<const std::uint8_t> bytes() const { return m_bytes; }

  private:
    std::span<const std::uint8_t> m_bytes;
};

} // namespace cobbleway
