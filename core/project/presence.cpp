#include "core/project/presence.h"

#include "core/base/hash.h"
#include "core/project/store.h"

#include <chrono>
#include <fcntl.h>
#include <fmt/format.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <thread>
#include <unistd.h>
#include <utility>

namespace hue {

namespace fs = std::filesystem;

namespace {

/// Whether a handle is of the file that stands under the name now: a writer may have replaced it meanwhile.
bool standsUnder(int handle, const fs::path& file) {
    struct stat held {
    }, there{};
    return ::fstat(handle, &held) == 0 && ::stat(file.c_str(), &there) == 0 && held.st_ino == there.st_ino && held.st_dev == there.st_dev;
}

fs::path lockOfSeat(const fs::path& file, int seat) {
    std::error_code none;
    const std::string key = file.empty() ? std::string("untitled") : fs::weakly_canonical(fs::absolute(file, none), none).string();
    Hash hash;
    hash.add(key.data(), key.size());
    return journalFor({}).parent_path() / "open" / fmt::format("{}.{}", hash.text(), seat);
}

/// -1 when somebody else holds it, or it cannot be made.
int lockedFile(const fs::path& file, bool make) {
    const int handle = ::open(file.c_str(), O_RDWR | O_CLOEXEC | O_NOFOLLOW | (make ? O_CREAT : 0), 0600);
    if (handle < 0) return -1;
    if (::flock(handle, LOCK_EX | LOCK_NB) == 0 && standsUnder(handle, file)) return handle;
    ::close(handle);
    return -1;
}

} // namespace

Result<RewriteLock> RewriteLock::take(const fs::path& file, double seconds) {
    const auto end = std::chrono::steady_clock::now() + std::chrono::duration<double>(seconds);
    while (true) {
        const int handle = ::open(file.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK);
        if (handle < 0) return RewriteLock(-1); // not there, or not to be read: whoever reads or writes it will say so
        if (::flock(handle, LOCK_EX | LOCK_NB) == 0 && standsUnder(handle, file)) return RewriteLock(handle);
        ::close(handle);
        if (std::chrono::steady_clock::now() >= end)
            return Error{
                "project.busy",
                fmt::format("{} is being written by another program. Try again when it is done; nothing was changed.", file.string()),
                {}};
        std::this_thread::sleep_for(std::chrono::milliseconds(10));
    }
}

RewriteLock::RewriteLock(RewriteLock&& other) noexcept : m_handle(std::exchange(other.m_handle, -1)) {}
RewriteLock::~RewriteLock() {
    if (m_handle >= 0) ::close(m_handle);
}

Seat::Seat(const fs::path& file) : m_file(file) {
    std::error_code none;
    fs::create_directories(lockOfSeat(file, 0).parent_path(), none);
    for (int seat = 0; seat < kSeats; ++seat) {
        const fs::path lock = lockOfSeat(file, seat);
        const int handle = lockedFile(lock, true);
        if (handle < 0) {
            // Held by somebody; one that cannot be made at all tells nothing.
            if (!fs::exists(lock, none)) return;
            continue;
        }
        m_number = seat;
        m_handle = handle;
        m_lock = lock;
        return;
    }
    m_number = kSeats;
}

int Seat::abandoned() const {
    std::error_code none;
    if (m_number < kSeats && fs::exists(journalFor(m_file, m_number), none)) return m_number;
    for (int seat = 0; seat < kSeats; ++seat) {
        if (seat == m_number || !fs::exists(journalFor(m_file, seat), none)) continue;
        const int handle = lockedFile(lockOfSeat(m_file, seat), true);
        if (handle < 0) continue;
        ::close(handle);
        return seat;
    }
    return -1;
}

Seat::Seat(Seat&& other) noexcept
    : m_file(std::move(other.m_file)),
      m_lock(std::exchange(other.m_lock, fs::path{})),
      m_number(other.m_number),
      m_handle(std::exchange(other.m_handle, -1)) {}

Seat& Seat::operator=(Seat&& other) noexcept {
    if (this == &other) return *this;
    leave();
    m_file = std::move(other.m_file);
    m_lock = std::exchange(other.m_lock, fs::path{});
    m_number = other.m_number;
    m_handle = std::exchange(other.m_handle, -1);
    return *this;
}

Seat::~Seat() { leave(); }

void Seat::leave() {
    if (m_handle < 0) return;
    std::error_code none;
    fs::remove(m_lock, none); // while it is held; whoever opened it meanwhile sees that it is not the one any more
    ::close(std::exchange(m_handle, -1));
}

} // namespace hue
