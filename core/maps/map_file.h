#pragma once
// Image files in and out, through OpenImageIO.
#include "core/maps/map.h"

#include <atomic>
#include <filesystem>
#include <functional>
#include <memory>
#include <mutex>

namespace hue {

/// One channel is spread over RGB, a second of two is alpha. Color maps are decoded from sRGB where they hold integers. Mips
/// are made; those of normals as directions.
Map mapOf(const Image& image, MapKind kind, Wrap wrap);
/// Errors: those of readImage.
Result<Map> readMap(const std::filesystem::path& file, MapKind kind, Wrap wrap);

/// Pixels to be written: interleaved, row 0 on top.
struct Picture {
    int width = 0, height = 0, channels = 3;
    std::vector<float> values;
};
enum class PictureEncoding { Linear, Srgb }; ///< of the color channels; alpha is always linear

/// Writes 8-bit PNG (values clamped to 0..1) or float EXR, by the suffix, to a temporary file that is then renamed.
/// A value that is not finite is written as 0; how many there were is returned.
Result<size_t> writePicture(const std::filesystem::path& file, const Picture& picture, PictureEncoding encoding);
/// The bytes of an 8-bit PNG.
Result<std::vector<unsigned char>> encodePng(const Picture& picture, PictureEncoding encoding);
Result<Picture> readPicture(const std::filesystem::path& file);

/// Hash of a file's content, 16 hexadecimal digits (FNV-1a, 64 bit); empty when it cannot be read.
std::string contentHash(const std::filesystem::path& file);

/// Loaded maps, shared by path, kind, wrap and format; a file is read again when it has changed on disk.
class MapLibrary {
  public:
    MapLibrary();
    ~MapLibrary();
    enum class View {
        Original,
        CompressedWhenReady, ///< the original until a thread in the background has compressed the map
        Compressed           ///< waits for it
    };
    /// Null, with a message by problem(), when the file cannot be used. `format`: key of a block format, or empty.
    MapPtr get(const std::filesystem::path& file, MapKind kind, Wrap wrap, const std::string& format = {}, View view = View::Original);
    /// The last error for the file, empty when there was none.
    std::string problem(const std::filesystem::path& file) const;
    void forget();
    /// Called, from the background, when a compressed map is ready.
    void setReady(std::function<void()> ready);

  private:
    struct Entry {
        MapPtr map;
        std::string problem;
        std::filesystem::file_time_type changed;
    };
    struct Background;
    static std::string keyOf(const std::filesystem::path& file, MapKind kind, Wrap wrap, const std::string& format, bool compressed);
    MapPtr compressedMap(const std::filesystem::path& file, MapKind kind, Wrap wrap, const std::string& format, View view);

    mutable std::mutex m_mutex;
    std::map<std::string, Entry> m_entries;
    std::function<void()> m_ready;
    std::atomic<bool> m_stopping = false;
    std::unique_ptr<Background> m_background;
};

} // namespace hue
