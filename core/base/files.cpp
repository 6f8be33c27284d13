#include "core/base/files.h"

#include "core/base/hash.h"

#include <cerrno>
#include <cstdlib>
#include <cstring>
#include <ctime>
#include <fcntl.h>
#include <fmt/format.h>
#include <fstream>
#include <mutex>
#include <set>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

namespace hue {

namespace fs = std::filesystem;

Error cannotWrite(const fs::path& file, const std::string& why) {
    return {
        "file.cannot-write", fmt::format("{} cannot be written: {}. Check the folder and the space on the disk.", file.string(), why), {}};
}

Error wrongSuffix(const fs::path& file, const std::string& written) {
    return {"file.suffix", fmt::format("{} cannot be written: {}. Let its name end so.", file.string(), written), {}};
}

std::string whyUnreadable(const fs::path& file) {
    struct stat there {};
    if (::stat(file.c_str(), &there) != 0) return errno == EACCES ? "lies in a folder that you may not look into" : "is not there";
    if (S_ISDIR(there.st_mode)) return "is a folder";
    if (!S_ISREG(there.st_mode)) return "is a pipe, a device or a socket, and no file";
    return ::access(file.c_str(), R_OK) == 0 ? "" : "may not be read by you";
}

namespace {

/// Permissions that a plain new file gets, or those of the file that is replaced.
mode_t permissionsFor(const fs::path& file) {
    struct stat there {};
    if (::stat(file.c_str(), &there) == 0) return there.st_mode & 0777;
    // The mask can only be read by setting it, which no other thread should see for long.
    const mode_t mask = ::umask(022);
    ::umask(mask);
    return 0666 & ~mask;
}

bool synced(const fs::path& path, int flags) {
    const int handle = ::open(path.c_str(), flags | O_CLOEXEC);
    if (handle < 0) return false;
    const bool good = ::fsync(handle) == 0;
    return ::close(handle) == 0 && good;
}

/// Temporary files that are being written.
struct Unfinished {
    std::mutex mutex;
    std::set<fs::path> files;
    static Unfinished& all() {
        static auto* one = new Unfinished; // never taken down: threads may still write when the process ends
        return *one;
    }
    void drop(const fs::path& file) {
        const std::lock_guard lock(mutex);
        files.erase(file);
    }
};

} // namespace

void discardUnfinishedFiles() {
    Unfinished& all = Unfinished::all();
    all.mutex.lock(); // for good: no other thread begins a file before the process ends
    std::error_code none;
    for (const fs::path& file : all.files) fs::remove(file, none);
}

NewFile::NewFile(fs::path file, fs::path temporary, int handle)
    : m_file(std::move(file)), m_temporary(std::move(temporary)), m_handle(handle) {}

NewFile::NewFile(NewFile&& other) noexcept
    : m_file(std::move(other.m_file)),
      m_temporary(std::exchange(other.m_temporary, fs::path{})),
      m_handle(std::exchange(other.m_handle, -1)) {}

NewFile::~NewFile() {
    if (m_handle >= 0) ::close(m_handle);
    if (m_temporary.empty()) return;
    std::error_code none;
    fs::remove(m_temporary, none);
    Unfinished::all().drop(m_temporary);
}

namespace {

/// Temporary files of this file that nobody holds any more: their writers were killed.
void cleanUp(const fs::path& file) {
    const std::string start = fmt::format(".{}.", file.stem().string()), end = ".part" + file.extension().string();
    std::error_code none;
    const fs::path folder = file.has_parent_path() ? file.parent_path() : fs::path(".");
    for (auto it = fs::directory_iterator(folder, none); !none && it != fs::directory_iterator(); it.increment(none)) {
        const std::string name = it->path().filename().string();
        constexpr size_t kLetters = 6; // that make it unique
        if (name.size() != start.size() + kLetters + end.size() || !name.starts_with(start) || !name.ends_with(end)) continue;
        const int handle = ::open(it->path().c_str(), O_RDONLY | O_NOFOLLOW | O_NONBLOCK | O_CLOEXEC);
        if (handle < 0) continue;
        struct stat its {};
        // One that is young may be about to be locked.
        constexpr time_t kYoung = 60; // seconds
        const bool old = ::fstat(handle, &its) == 0 && S_ISREG(its.st_mode) && ::time(nullptr) - its.st_mtime > kYoung;
        if (old && ::flock(handle, LOCK_EX | LOCK_NB) == 0) ::unlink(it->path().c_str());
        ::close(handle);
    }
}

} // namespace

Result<NewFile> NewFile::create(const fs::path& wanted, Folders folders) {
    std::error_code failed;
    // A link keeps pointing at its target, which is what gets the new content.
    fs::path file = fs::is_symlink(wanted, failed) ? fs::weakly_canonical(wanted, failed) : wanted;
    if (folders == Folders::Make && file.has_parent_path()) fs::create_directories(file.parent_path(), failed);
    cleanUp(file);
    const std::string suffix = file.extension().string();
    std::string name = (file.parent_path() / fmt::format(".{}.XXXXXX.part{}", file.stem().string(), suffix)).string();
    Unfinished& all = Unfinished::all();
    const std::lock_guard lock(all.mutex);
    // Closed for programs that are started meanwhile: they would hold the lock.
    const int handle = ::mkostemps(name.data(), int(suffix.size() + 5), O_CLOEXEC);
    if (handle < 0)
        return cannotWrite(wanted, errno == ENOENT || errno == ENOTDIR || errno == EACCES ? "the folder is missing or not writable"
                                                                                          : std::strerror(errno));
    ::flock(handle, LOCK_EX | LOCK_NB);
    ::fchmod(handle, permissionsFor(file));
    try {
        fs::path temporary = name;
        all.files.insert(temporary);
        return NewFile(std::move(file), std::move(temporary), handle);
    } catch (...) { // no memory to note that it is there
        ::close(handle);
        ::unlink(name.c_str());
        throw;
    }
}

Error NewFile::failed(const std::string& why) const {
    return cannotWrite(m_file, why.empty() ? "the disk is full or was taken away" : why);
}

Outcome NewFile::keep() {
    if (!synced(m_temporary, O_RDONLY)) return failed();
    std::error_code problem;
    fs::rename(m_temporary, m_file, problem);
    if (problem) return failed(problem.message());
    Unfinished::all().drop(m_temporary);
    m_temporary.clear();
    // Some file systems cannot sync a folder; the file itself is safe by then.
    synced(m_file.has_parent_path() ? m_file.parent_path() : fs::path("."), O_RDONLY | O_DIRECTORY);
    return Done{};
}

bool NewFile::become(const fs::path& other) {
    struct stat its {
    }, wanted{};
    if (::stat(other.c_str(), &its) != 0 || ::fstat(m_handle, &wanted) != 0) return false;
    if (!S_ISREG(its.st_mode) || (its.st_mode & 0777) != (wanted.st_mode & 0777)) return false;
    return ::unlink(m_temporary.c_str()) == 0 && ::link(other.c_str(), m_temporary.c_str()) == 0;
}

bool nameAlso(const fs::path& from, const fs::path& to) {
    Result<NewFile> file = NewFile::create(to);
    return file && file->become(from) && file->keep();
}

Outcome writeFile(const fs::path& file, std::string_view content, Folders folders) {
    Result<NewFile> fresh = NewFile::create(file, folders);
    if (!fresh) return fresh.error();
    const int handle = ::open(fresh->temporary().c_str(), O_WRONLY | O_TRUNC | O_NOFOLLOW | O_CLOEXEC);
    if (handle < 0) return fresh->failed(std::strerror(errno));
    int problem = 0;
    for (size_t done = 0; done < content.size() && !problem;) {
        const ssize_t n = ::write(handle, content.data() + done, content.size() - done);
        if (n >= 0) done += size_t(n);
        else if (errno != EINTR) problem = errno;
    }
    if (::close(handle) != 0 && !problem) problem = errno;
    if (problem) return fresh->failed(std::strerror(problem));
    return fresh->keep();
}

bool liesWithin(const fs::path& folder, const fs::path& file) {
    std::error_code none;
    // What counts is where the file would come to lie. A project that is named without a folder lies in the one that we are in.
    const auto whole = [&](const fs::path& path) { return fs::weakly_canonical(fs::absolute(path.empty() ? "." : path, none), none); };
    const fs::path inside = whole(file).lexically_relative(whole(folder));
    return !none && !inside.empty() && *inside.begin() != "..";
}

std::string contentHash(const fs::path& file) {
    std::ifstream in;
    if (whyUnreadable(file).empty()) in.open(file, std::ios::binary);
    if (!in.is_open()) return {};
    Hash hash;
    char buffer[1 << 16];
    while (in.read(buffer, sizeof buffer) || in.gcount() > 0) hash.add(buffer, size_t(in.gcount()));
    return hash.text();
}

fs::path cacheFolder(std::string_view name) {
    if (const char* cache = std::getenv("XDG_CACHE_HOME"); cache && *cache) return fs::path(cache) / "huestack" / name;
    if (const char* home = std::getenv("HOME"); home && *home) return fs::path(home) / ".cache" / "huestack" / name;
    return {};
}

} // namespace hue
