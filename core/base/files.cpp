#include "core/base/files.h"

#include "core/base/hash.h"

#include <cerrno>
#include <cstdlib>
#include <cstring>
#include <fcntl.h>
#include <fmt/format.h>
#include <fstream>
#include <mutex>
#include <set>
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
    void add(const fs::path& file) {
        const std::lock_guard lock(mutex);
        files.insert(file);
    }
    void drop(const fs::path& file) {
        const std::lock_guard lock(mutex);
        files.erase(file);
    }
};

} // namespace

void discardUnfinishedFiles() {
    Unfinished& all = Unfinished::all();
    const std::lock_guard lock(all.mutex);
    std::error_code none;
    for (const fs::path& file : all.files) fs::remove(file, none);
}

NewFile::NewFile(fs::path file, fs::path temporary) : m_file(std::move(file)), m_temporary(std::move(temporary)) {
    Unfinished::all().add(m_temporary);
}

NewFile::NewFile(NewFile&& other) noexcept : m_file(std::move(other.m_file)), m_temporary(std::exchange(other.m_temporary, fs::path{})) {}

NewFile::~NewFile() {
    if (m_temporary.empty()) return;
    std::error_code none;
    fs::remove(m_temporary, none);
    Unfinished::all().drop(m_temporary);
}

Result<NewFile> NewFile::create(const fs::path& wanted, Folders folders) {
    std::error_code failed;
    // A link keeps pointing at its target, which is what gets the new content.
    fs::path file = fs::is_symlink(wanted, failed) ? fs::weakly_canonical(wanted, failed) : wanted;
    if (folders == Folders::Make && file.has_parent_path()) fs::create_directories(file.parent_path(), failed);
    const std::string suffix = file.extension().string();
    std::string name = (file.parent_path() / fmt::format(".{}.XXXXXX.part{}", file.stem().string(), suffix)).string();
    const int handle = ::mkstemps(name.data(), int(suffix.size() + 5));
    if (handle < 0)
        return cannotWrite(wanted, errno == ENOENT || errno == ENOTDIR || errno == EACCES ? "the folder is missing or not writable"
                                                                                          : std::strerror(errno));
    ::fchmod(handle, permissionsFor(file));
    ::close(handle);
    return NewFile(std::move(file), std::move(name));
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
