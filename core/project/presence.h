#pragma once
// Several programs at one project: who rewrites its file, and who has it open.
// Threads: an object belongs to one at a time.
#include "core/base/result.h"

#include <filesystem>

namespace hue {

/// Held while a project's file is read, changed and replaced, so that nobody's work is lost between the two. It lies on the file itself
/// (flock): nothing is left behind, whatever becomes of the process. A file that is not there yet needs no lock.
class RewriteLock {
  public:
    /// Waits until others are done, at most so long. Error: project.busy.
    static Result<RewriteLock> take(const std::filesystem::path& file, double seconds = 30);
    RewriteLock(RewriteLock&&) noexcept;
    RewriteLock& operator=(RewriteLock&&) = delete;
    ~RewriteLock();

  private:
    explicit RewriteLock(int handle) : m_handle(handle) {}
    int m_handle = -1;
};

/// A window's place at a project. The first one that opens it has seat 0, others at the same time the next; a seat is free again when its
/// process ends, however it does. Each seat has a journal of its own. Seats are known on one machine, to one user.
class Seat {
  public:
    Seat() = default;
    /// `file` empty: the project without a file. Where seats cannot be kept, it is the first.
    explicit Seat(const std::filesystem::path& file);
    Seat(Seat&&) noexcept;
    Seat& operator=(Seat&&) noexcept;
    ~Seat();
    int number() const { return m_number; }
    bool openElsewhere() const { return m_number > 0; }
    /// A seat below 8 whose window is gone without taking its journal along: this one, or another that is free; -1: none.
    int abandoned() const;

    static constexpr int kSeats = 8;

  private:
    std::filesystem::path m_file, m_lock;
    int m_number = 0, m_handle = -1;
    void leave();
};

} // namespace hue
