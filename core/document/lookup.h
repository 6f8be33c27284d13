#pragma once
// Where the entry with a certain id lies in a list of a project.
// Threads: many may ask, and copy, at a time.
#include "core/base/result.h"

#include <memory>
#include <mutex>
#include <unordered_map>

namespace hue {

/// Remembers where ids were, and looks before it believes: the list may have changed since. A copy remembers the same.
class Lookup {
  public:
    Lookup() = default;
    Lookup(const Lookup& other) : m_places(other.places()) {}
    Lookup& operator=(const Lookup& other) {
        if (this == &other) return *this;
        auto theirs = other.places();
        const std::lock_guard lock(m_mutex);
        m_places = std::move(theirs);
        return *this;
    }

    /// The first entry of a list of pointers with that id; null when there is none.
    template <class List> auto find(const List& list, const Id& id) const -> decltype(list.front().get()) {
        constexpr size_t kShort = 16;
        if (list.size() > kShort)
            if (const auto kept = places())
                if (const auto at = kept->find(id); at != kept->end() && at->second < list.size() && list[at->second]->id == id)
                    return list[at->second].get();
        for (const auto& entry : list) {
            if (entry->id != id) continue;
            if (list.size() > kShort) remember(list);
            return entry.get();
        }
        return nullptr;
    }

  private:
    using Places = std::unordered_map<Id, size_t>;

    std::shared_ptr<const Places> places() const {
        const std::lock_guard lock(m_mutex);
        return m_places;
    }
    template <class List> void remember(const List& list) const {
        auto made = std::make_shared<Places>();
        made->reserve(list.size());
        for (size_t k = 0; k < list.size(); ++k) made->emplace(list[k]->id, k);
        const std::lock_guard lock(m_mutex);
        m_places = std::move(made);
    }

    mutable std::mutex m_mutex;
    mutable std::shared_ptr<const Places> m_places;
};

} // namespace hue
