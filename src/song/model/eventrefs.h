/// Lists of events by name, small where they follow each other in the file, and cheap to change a little.
#pragma once
#include "midi/event.h"

#include <algorithm>
#include <atomic>
#include <cstdint>
#include <iterator>
#include <memory>
#include <vector>

namespace cobbleway {

/// The EventRef::track of events that the file does not have: they are in SongEvents::made.
inline constexpr std::uint32_t madeTrack = 0xFFFFFFFF;

/// Names one event: of the source by track and index within it, or of SongEvents::made; all 0-based.
struct EventRef {
    std::uint32_t track = 0;
    std::uint32_t index = 0;
    [[nodiscard]] bool isMade() const { return track == madeTrack; }
    auto operator<=>(const EventRef&) const = default;
};

/// An event's place in the order that a device takes events: by tick, then track, then place in the track.
struct EventPlace {
    Tick tick = 0;
    EventRef ref;
    auto operator<=>(const EventPlace&) const = default;
};

/// Events in order. Neighbours within a track are held as one run, so that a track of a million events, and
/// what is left of it when a few were changed, take no room.
class EventRefs {
    struct Run {
        std::uint32_t track = 0, first = 0;
        std::uint32_t at = 0; ///< place of its first event in the list
        bool operator==(const Run&) const = default;
    };

  public:
    class Iterator {
      public:
        using iterator_category = std::random_access_iterator_tag;
        using value_type = EventRef;
        using difference_type = std::ptrdiff_t;
        using reference = EventRef;
        using pointer = void;

        Iterator() = default;
        EventRef operator*() const { return {m_run->track, m_run->first + (m_at - m_run->at)}; }
        EventRef operator[](difference_type by) const { return *(*this + by); }
        Iterator& operator++() {
            if (++m_at == m_run[1].at && m_at != m_list->size()) ++m_run;
            return *this;
        }
        Iterator& operator--() {
            if (m_at-- == m_run->at) --m_run;
            return *this;
        }
        Iterator operator++(int) {
            Iterator before = *this;
            ++*this;
            return before;
        }
        Iterator operator--(int) {
            Iterator before = *this;
            --*this;
            return before;
        }
        Iterator& operator+=(difference_type by) {
            return *this = m_list->at(static_cast<std::uint32_t>(m_at + by));
        }
        Iterator& operator-=(difference_type by) { return *this += -by; }
        Iterator operator+(difference_type by) const { return Iterator(*this) += by; }
        Iterator operator-(difference_type by) const { return Iterator(*this) -= by; }
        friend Iterator operator+(difference_type by, const Iterator& it) { return it + by; }
        difference_type operator-(const Iterator& o) const {
            return static_cast<difference_type>(m_at) - static_cast<difference_type>(o.m_at);
        }
        bool operator==(const Iterator& o) const { return m_at == o.m_at; }
        auto operator<=>(const Iterator& o) const { return m_at <=> o.m_at; }

      private:
        friend class EventRefs;
        Iterator(const EventRefs* list, const Run* run, std::uint32_t at)
            : m_list(list), m_run(run), m_at(at) {}
        const EventRefs* m_list = nullptr;
        const Run* m_run = nullptr;
        std::uint32_t m_at = 0;
    };
    using value_type = EventRef;
    using const_iterator = Iterator;

    EventRefs() = default;
    EventRefs(const std::vector<EventRef>& refs) {
        for (const EventRef ref : refs) push_back(ref);
        m_runs.shrink_to_fit();
    }
    operator std::vector<EventRef>() const { return {begin(), end()}; }

    [[nodiscard]] std::size_t size() const { return m_runs.back().at; }
    [[nodiscard]] bool empty() const { return size() == 0; }
    [[nodiscard]] Iterator begin() const { return {this, m_runs.data(), 0}; }
    [[nodiscard]] Iterator end() const {
        return {this, &m_runs[m_runs.size() - std::min<std::size_t>(2, m_runs.size())], m_runs.back().at};
    }
    [[nodiscard]] EventRef operator[](std::size_t place) const {
        return *at(static_cast<std::uint32_t>(place));
    }
    [[nodiscard]] EventRef back() const { return (*this)[size() - 1]; }
    [[nodiscard]] std::size_t runs() const { return m_runs.size() - 1; } ///< what it takes room for

    /// `count` events of a track that follow each other, at least one.
    void append(EventRef first, std::uint32_t count) {
        push_back(first);
        m_runs.back().at += count - 1;
    }
    void push_back(EventRef ref) {
        const std::uint32_t place = m_runs.back().at;
        if (m_runs.size() > 1) {
            const Run& last = m_runs[m_runs.size() - 2];
            if (last.track == ref.track && last.first + (place - last.at) == ref.index) {
                ++m_runs.back().at;
                return;
            }
        }
        m_runs.back() = {ref.track, ref.index, place};
        m_runs.push_back({0, 0, place + 1});
    }
    bool operator==(const EventRefs&) const = default;

    /// Calls `take(track, first, count)` for each run of neighbours, until it gives false.
    template <class Take> void eachRun(Take take) const {
        for (std::size_t i = 0; i + 1 < m_runs.size(); ++i)
            if (!take(m_runs[i].track, m_runs[i].first, m_runs[i + 1].at - m_runs[i].at)) return;
    }

  private:
    [[nodiscard]] Iterator at(std::uint32_t place) const {
        if (m_runs.size() <= 2) return {this, m_runs.data(), place};
        const auto next = std::upper_bound(m_runs.begin(), m_runs.end() - 1, place,
                                           [](std::uint32_t p, const Run& run) { return p < run.at; });
        return {this, &*next - 1, place};
    }
    std::vector<Run> m_runs{{}}; ///< the last is the end: only its place counts
};

/// A channel event that a person made or changed. Its tick counts as those of the track it belongs to.
struct MadeEvent {
    Event event;
    std::uint32_t track = 0; ///< of the source, 0-based
    bool operator==(const MadeEvent&) const = default;
};

/// Made events, only ever added to. Copies share all but the last few. What [] gives lives as long as the
/// list.
class MadeEvents {
  public:
    [[nodiscard]] std::size_t size() const { return m_size; }
    [[nodiscard]] bool empty() const { return m_size == 0; }
    const MadeEvent& operator[](std::size_t index) const {
        return (*m_pages[index / pageSize])[index % pageSize];
    }
    void push_back(const MadeEvent& event) {
        if (m_size % pageSize == 0)
            m_pages.push_back(newPage());
        else if (m_pages.back().use_count() > 1) // others have it
            m_pages.back() = newPage(*m_pages.back());
        std::atomic_thread_fence(
            std::memory_order_acquire); // what others read of it before they let it go is over
        m_pages.back()->push_back(event);
        ++m_size;
    }
    bool operator==(const MadeEvents& o) const {
        return m_size == o.m_size &&
               std::equal(m_pages.begin(), m_pages.end(), o.m_pages.begin(),
                          [](const auto& a, const auto& b) { return a == b || *a == *b; });
    }

  private:
    static constexpr std::size_t pageSize = 256;
    using Page = std::vector<MadeEvent>;
    static std::shared_ptr<Page> newPage(const Page& start = {}) {
        auto page = std::make_shared<Page>();
        page->reserve(pageSize);
        page->assign(start.begin(), start.end());
        return page;
    }
    std::vector<std::shared_ptr<Page>> m_pages;
    std::size_t m_size = 0;
};

} // namespace cobbleway
