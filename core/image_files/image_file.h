#pragma once
// Image files in and out, pixel for pixel. PNG, JPEG, TGA, TIFF, EXR, HDR and the like through OpenImageIO; KTX2 and DDS
// by core/compress.
// Threads: any. Nothing is kept between calls.
#include "core/images/image.h"

#include <filesystem>
#include <memory>
#include <span>

namespace hue {

struct ImageFacts {
    int width = 0, height = 0, channels = 0;
    SampleType type = SampleType::U8;
    std::string format; ///< "png", "jpeg", "ktx2", ...
};

/// Reads a file in strips of rows, so that one that is large needs no memory of its size.
/// Errors of open: map.missing, map.unreadable, map.empty, map.too-large, map.channels, map.cmyk, map.animated,
/// map.wrong-suffix, map.short (more pixels promised than the file can hold).
class ImageReader {
  public:
    static Result<std::unique_ptr<ImageReader>> open(const std::filesystem::path& file);
    ~ImageReader();
    const ImageFacts& facts() const { return m_facts; }
    /// Rows from..to-1, in order from the top. Error: map.unreadable, naming how far the file could be read.
    Outcome rows(int from, int to, std::byte* out);

  private:
    struct State;
    ImageReader();
    std::unique_ptr<State> m;
    ImageFacts m_facts;
};

Result<ImageFacts> imageFacts(const std::filesystem::path& file);
/// Whether all pixels can be read, strip by strip, keeping none. Errors: those of ImageReader.
Outcome readable(const std::filesystem::path& file);
/// Memory: the pixels once. Nothing of the size that a header promises is taken before the first rows could be read.
Result<Image> readImage(const std::filesystem::path& file);

enum class PixelEncoding { Data, Srgb }; ///< what a file says of its color channels

/// Writes rows as they come; the file is there once finish() has succeeded (see NewFile). PNG (8 or 16 bits) is compressed on all cores
/// in bands; TIFF and EXR (any type) and TGA (8 bits) go through OpenImageIO. By the suffix.
/// Errors: file.cannot-write.
class ImageWriter {
  public:
    static Result<std::unique_ptr<ImageWriter>> create(const std::filesystem::path& file, const ImageFacts& facts, PixelEncoding encoding);
    virtual ~ImageWriter() = default;
    /// The next rows from the top.
    virtual Outcome rows(const std::byte* samples, int count) = 0;
    virtual Outcome finish() = 0;
};
Outcome writeImage(const std::filesystem::path& file, const Image& image, PixelEncoding encoding);

/// Suffixes of files that can be read as maps, with their dots and in lower case.
std::span<const std::string_view> imageSuffixes();
/// By the suffix alone, in upper or lower case.
bool isImageFile(const std::filesystem::path& file);

/// Whether files of this suffix can hold the type.
bool canHold(const std::filesystem::path& file, SampleType type);

} // namespace hue
