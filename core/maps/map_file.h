#pragma once
// Image files in and out, through OpenImageIO.
#include "core/maps/map.h"
#include "core/maps/mips.h"

#include <atomic>
#include <filesystem>
#include <functional>
#include <memory>
#include <mutex>
#include <optional>

namespace hue {

/// How the smaller levels of a map are made.
struct MapLevels {
    enum class How {
        ByKind,   ///< colors as light, normals as directions
        Opacity,  ///< and so that every level covers as much: alpha where there is one, else the first channel
        AsPacked, ///< each channel by `meaning`
    } how = How::ByKind;
    MipMeaning meaning{};          ///< channels as the file has them; those it lacks do not count
    std::filesystem::path normals; ///< the map whose lost variance raises the roughness, or empty
    std::string key() const;
};
/// Level 0 is the image; the last is 1 x 1.
std::vector<Image> levelsOf(Image image, MapKind kind, const MapLevels& how);

/// One channel is spread over RGB, a second of two is alpha. Color maps are decoded from sRGB where they hold integers. The
/// levels are all of one type, largest first.
Map mapOf(const std::vector<Image>& levels, MapKind kind, Wrap wrap);
/// With levels by its kind.
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

/// Loaded maps, shared by path, kind, wrap, format and levels; a file is read again when it has changed on disk.
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
    MapPtr get(const std::filesystem::path& file, MapKind kind, Wrap wrap, const std::string& format = {}, View view = View::Original,
               const MapLevels& levels = {});
    /// The last error for the file, empty when there was none.
    std::string problem(const std::filesystem::path& file) const;
    void forget();
    /// Called, from the background, when a compressed map is ready.
    void setReady(std::function<void()> ready);

  private:
    struct Entry {
        MapPtr map;
        std::string problem;
        std::optional<std::filesystem::file_time_type> changed;
    };
    struct Background;
    /// What is asked for; two that are equal share a map.
    struct Request {
        std::filesystem::path file;
        MapKind kind;
        Wrap wrap;
        std::string format;
        MapLevels levels;
        std::string key(bool compressed) const;
        /// When the file, or the normals that its levels follow, changed last; nothing when the file is missing.
        std::optional<std::filesystem::file_time_type> changed() const;
    };
    MapPtr compressedMap(const Request& request, View view);

    mutable std::mutex m_mutex;
    std::map<std::string, Entry> m_entries;
    std::function<void()> m_ready;
    std::atomic<bool> m_stopping = false;
    std::unique_ptr<Background> m_background;
};

} // namespace hue
