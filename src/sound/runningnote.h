/// Which foreign code runs just now, noted where the end of the program does not take it along.
#pragma once
#include <atomic>
#include <filesystem>
#include <memory>
#include <string>
#include <vector>

namespace cobbleway {

/// A file that is mapped into memory, with a place for each plug-in that is loaded. What stands there as
/// running when the program ends by force, by exit() in the plug-in or because it hung, is found there at the
/// next start. To note something is one write to memory, so that the audio thread may.
class RunningNote : public std::enable_shared_from_this<RunningNote> {
  public:
    /// Makes the file anew, for the person alone; null when it cannot be made.
    static std::shared_ptr<RunningNote> make(const std::filesystem::path& path);
    /// Takes the file away: the program has ended as it should.
    ~RunningNote();
    RunningNote(const RunningNote&) = delete;
    RunningNote& operator=(const RunningNote&) = delete;

    /// The place of one plug-in; freed with the object.
    class Place {
      public:
        ~Place();
        Place(const Place&) = delete;
        Place& operator=(const Place&) = delete;
        void begin() { m_running.fetch_add(1, std::memory_order_relaxed); } ///< on any thread
        void end() { m_running.fetch_sub(1, std::memory_order_relaxed); }

      private:
        friend class RunningNote;
        Place(std::shared_ptr<RunningNote> note, char* at);
        std::shared_ptr<RunningNote> m_note; ///< which it lies in
        char* m_at;
        std::atomic_ref<std::uint32_t> m_running;
    };
    /// For `name`, of which the first 500 bytes are kept; null when all 256 places are taken.
    std::shared_ptr<Place> place(const std::string& name);

    /// The names of what runs at this moment.
    [[nodiscard]] std::vector<std::string> running() const;
    /// The names of what ran when a program ended that left this file.
    static std::vector<std::string> left(const std::filesystem::path& path);

  private:
    RunningNote(std::filesystem::path path, char* memory) : m_path(std::move(path)), m_memory(memory) {}
    std::filesystem::path m_path;
    char* m_memory; ///< `places` records: how many threads run it, then the name
};

/// Notes that code runs, as long as it lives. For a place or none.
class Running {
  public:
    explicit Running(RunningNote::Place* place) : m_place(place) {
        if (m_place) m_place->begin();
    }
    ~Running() {
        if (m_place) m_place->end();
    }
    Running(const Running&) = delete;
    Running& operator=(const Running&) = delete;

  private:
    RunningNote::Place* m_place;
};

} // namespace cobbleway
