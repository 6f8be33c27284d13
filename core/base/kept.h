#pragma once
// Something computed from a value that is never changed once it is shared, and kept with it.
// Threads: many may ask at a time; the first computes it.
#include <memory>
#include <mutex>

namespace hue {

/// A copy begins without: whoever copies a value does so to change it.
template <class T> class Kept {
  public:
    Kept() = default;
    Kept(const Kept&) {}
    Kept& operator=(const Kept& other) {
        if (this != &other) m_value.reset();
        return *this;
    }
    /// `make` gives a std::shared_ptr<const T>. What is returned lives as long as the value that this is kept with.
    template <class Make> const T& get(Make make) const {
        const std::lock_guard lock(m_mutex);
        if (!m_value) m_value = make();
        return *m_value;
    }

  private:
    mutable std::mutex m_mutex;
    mutable std::shared_ptr<const T> m_value;
};

} // namespace hue
