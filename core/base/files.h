#pragma once
// Files on the disk: written whole or not at all, told apart by content, found in the user's folders. Any thread.
// Threads: any. What is kept between calls is kept under a lock.
#include "core/base/result.h"

#include <filesystem>
#include <string_view>

namespace hue {

/// What every writer says when a file cannot be written: file.cannot-write.
Error cannotWrite(const std::filesystem::path& file, const std::string& why);

/// What a writer says to a name whose suffix it has no format for: file.suffix. `written`: "pictures are written as .png or .exr".
Error wrongSuffix(const std::filesystem::path& file, const std::string& written);

/// Why a file cannot be read, to follow its name: "is not there", "is a folder", "is a pipe, a device or a socket, and no file", "may not
/// be read by you"; empty when it can. Opens nothing, so that nothing waits.
std::string whyUnreadable(const std::filesystem::path& file);

/// What becomes of a folder that is not there.
enum class Folders { MustExist, Make };

/// A file that comes into being whole or not at all. It is written under a name of its own beside the real one, with the real one's
/// suffix, and takes its place once everything has reached the disk. What is not kept leaves nothing behind; what a writer that was killed
/// has left is cleaned up by the next one of the same file.
class NewFile {
  public:
    /// Makes the temporary file, which nobody else can have. Error: file.cannot-write.
    static Result<NewFile> create(const std::filesystem::path& file, Folders folders = Folders::MustExist);
    NewFile(NewFile&&) noexcept;
    NewFile& operator=(NewFile&&) = delete;
    ~NewFile();

    /// Where to write; any library may open it anew and cut it.
    const std::filesystem::path& temporary() const { return m_temporary; }
    const std::filesystem::path& file() const { return m_file; }
    /// Syncs the written file, gives it its name, and syncs the folder. Error: file.cannot-write; nothing is left then.
    Outcome keep();
    /// Has it be that file, instead of writing; after false it can only be thrown away. See nameAlso().
    bool become(const std::filesystem::path& other);
    /// An error of this file; `why` empty: the disk is full or was taken away.
    Error failed(const std::string& why = {}) const;

  private:
    NewFile(std::filesystem::path file, std::filesystem::path temporary, int handle);
    std::filesystem::path m_file, m_temporary; ///< no temporary once kept
    int m_handle = -1;                         ///< locked while it is written, which tells it from what a killed writer left behind
};

/// Removes the temporary files of all NewFiles that are neither kept nor gone, and lets nobody begin another: for the end of a process
/// that does not wait for its threads.
void discardUnfinishedFiles();

/// All of a file at once. Error: file.cannot-write.
Outcome writeFile(const std::filesystem::path& file, std::string_view content, Folders folders = Folders::MustExist);

/// Lets a file stand under another name as well, in whose place it comes; nothing is copied. `from` must be one that is only ever replaced
/// as a whole, as NewFile does, and have reached the disk. False where the disk cannot do that, or where the file that is replaced has
/// other permissions; `to` is as it was then.
bool nameAlso(const std::filesystem::path& from, const std::filesystem::path& to);

/// Whether a file would come to lie inside of a folder, links followed.
bool liesWithin(const std::filesystem::path& folder, const std::filesystem::path& file);

/// Hash of a file's content as 16 hexadecimal digits; empty when it cannot be read. See Hash.
std::string contentHash(const std::filesystem::path& file);

/// A folder of the program's in the user's cache (XDG_CACHE_HOME, else ~/.cache); empty when the user has no home.
std::filesystem::path cacheFolder(std::string_view name);

} // namespace hue
