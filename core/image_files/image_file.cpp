#include "core/image_files/image_file.h"

#include "core/base/files.h"
#include "core/compress/block_file.h"
#include "core/image_files/png_writer.h"

#include <OpenImageIO/imageio.h>
#include <algorithm>
#include <cstring>
#include <fmt/format.h>
#include <fstream>
#include <optional>

namespace hue {
namespace {

namespace fs = std::filesystem;
using std::string_view_literals::operator""sv;

std::string firstLine(const std::string& text) { return text.substr(0, text.find('\n')); }

Error unreadable(const fs::path& file, const std::string& why) {
    return {"map.unreadable",
            fmt::format("{} cannot be read as an image: {}. Export it again, or choose another file.", file.string(),
                        why.empty() ? "its format is not known" : why),
            {}};
}

std::string lower(std::string s) {
    std::transform(s.begin(), s.end(), s.begin(), [](unsigned char c) { return char(std::tolower(c)); });
    return s;
}

/// The format by the first bytes; empty when they tell nothing.
std::string sniff(const fs::path& file) {
    std::ifstream in(file, std::ios::binary);
    char b[16] = {};
    in.read(b, sizeof b);
    const std::string_view head(b, 16);
    auto starts = [&](std::string_view s) { return head.starts_with(s); };
    if (starts("\x89PNG\r\n\x1a\n")) return "png";
    if (starts("\xFF\xD8\xFF")) return "jpeg";
    if (starts("II*") || starts("MM\0*"sv)) return "tiff";
    if (starts("\x76\x2F\x31\x01")) return "exr";
    if (starts("#?")) return "hdr";
    if (starts("GIF8")) return "gif";
    if (starts("BM")) return "bmp";
    if (starts("DDS ")) return "dds";
    if (starts("\xABKTX 20\xBB")) return "ktx2";
    if (starts("RIFF") && head.substr(8, 4) == "WEBP") return "webp";
    if (starts("%PDF")) return "pdf";
    return {};
}

/// Suffix and format of every file that can be read. A GIF is looked at to say that it holds several pictures.
constexpr std::pair<std::string_view, std::string_view> kSuffixes[] = {
    {".png", "png"}, {".jpg", "jpeg"}, {".jpeg", "jpeg"}, {".tga", "tga"},   {".tif", "tiff"}, {".tiff", "tiff"}, {".exr", "exr"},
    {".hdr", "hdr"}, {".bmp", "bmp"},  {".webp", "webp"}, {".ktx2", "ktx2"}, {".dds", "dds"},  {".gif", "gif"}};

std::string formatOfSuffix(const std::string& suffix) {
    for (const auto& [s, f] : kSuffixes)
        if (s == suffix) return std::string(f);
    return {};
}

SampleType sampleTypeOf(OIIO::TypeDesc t) {
    switch (t.basetype) {
    case OIIO::TypeDesc::UINT8:
    case OIIO::TypeDesc::INT8: return SampleType::U8;
    case OIIO::TypeDesc::HALF: return SampleType::F16;
    case OIIO::TypeDesc::FLOAT:
    case OIIO::TypeDesc::DOUBLE: return SampleType::F32;
    default: return SampleType::U16;
    }
}
OIIO::TypeDesc typeDescOf(SampleType t) {
    switch (t) {
    case SampleType::U8: return OIIO::TypeDesc::UINT8;
    case SampleType::U16: return OIIO::TypeDesc::UINT16;
    case SampleType::F16: return OIIO::TypeDesc::HALF;
    case SampleType::F32: return OIIO::TypeDesc::FLOAT;
    }
    return OIIO::TypeDesc::UINT8;
}

/// How many bytes of pixels a byte of the file can stand for at most; a header that promises more lies. Deflate reaches 1032 (RFC 1951:
/// 258 bytes for two bits), LZW with codes of 12 bits some 2700, runs of bytes 64; with a margin for what is not told apart.
double densestPacking(std::string_view format, std::string_view compression) {
    if (format == "png") return 1100;
    if (format == "jpeg") return 2000;
    if (format == "bmp" || format == "tga" || format == "hdr") return 400;
    if (format == "tiff")
        return compression == "none"       ? 1.5
               : compression == "packbits" ? 80
               : compression == "zip"      ? 1100
               : compression == "lzw"      ? 3000
                                           : 8000;
    return 8000;
}

} // namespace

struct ImageReader::State {
    fs::path file;
    std::unique_ptr<OIIO::ImageInput> input;
    Image whole; ///< of files that cannot be read in rows
};

ImageReader::ImageReader() : m(std::make_unique<State>()) {}
ImageReader::~ImageReader() = default;

Result<std::unique_ptr<ImageReader>> ImageReader::open(const fs::path& file) {
    std::error_code none;
    if (const std::string why = whyUnreadable(file); !why.empty())
        return Error{"map.missing", fmt::format("{} {}. Bring the file back, or relocate the map.", file.string(), why), {}};
    const uintmax_t bytes = fs::file_size(file, none);
    if (bytes == 0) return Error{"map.empty", fmt::format("{} is empty (0 bytes). Export it again.", file.string()), {}};
    const std::string suffix = lower(file.extension().string()), holds = sniff(file), named = formatOfSuffix(suffix);
    if (!holds.empty() && !named.empty() && holds != named)
        return Error{"map.wrong-suffix",
                     fmt::format("{} is named {} but holds {}. Rename it to end with .{}.", file.string(), suffix, holds,
                                 holds == "jpeg" ? "jpg" : holds),
                     {}};
    std::unique_ptr<ImageReader> reader(new ImageReader);
    reader->m->file = file;
    auto tooLarge = [&](int w, int h) -> std::optional<Error> {
        if (w < 1 || h < 1)
            return Error{"map.empty", fmt::format("{} says it is {} x {} pixels. Export it again.", file.string(), w, h), {}};
        if (w > kLargestSide || h > kLargestSide)
            return Error{"map.too-large",
                         fmt::format("{} says it is {} x {} pixels; at most {} a side can be used. Make it smaller.", file.string(), w, h,
                                     kLargestSide),
                         {}};
        return {};
    };
    if (holds == "ktx2" || holds == "dds") {
        Result<Image> image = readBlockImage(file);
        if (!image) return image.error();
        reader->m_facts = {image->width, image->height, image->channels, image->type, holds};
        reader->m->whole = std::move(*image);
        return reader;
    }
    // Masks live in the alpha of maps, so alpha must not be multiplied in; TIFF colors come as they are.
    OIIO::ImageSpec config;
    config["oiio:UnassociatedAlpha"] = 1;
    config["oiio:RawColor"] = 1;
    auto input = OIIO::ImageInput::open(file.string(), &config);
    if (!input) return unreadable(file, firstLine(OIIO::geterror()));
    const OIIO::ImageSpec& spec = input->spec();
    const std::string colors = lower(fmt::format("{} {} {}", std::string(spec.get_string_attribute("jpeg:ColorSpace")),
                                                 std::string(spec.get_string_attribute("tiff:ColorSpace")),
                                                 std::string(spec.get_string_attribute("oiio:ColorSpace"))));
    if (colors.find("cmyk") != std::string::npos || colors.find("ycck") != std::string::npos || colors.find("ycbcrk") != std::string::npos)
        return Error{"map.cmyk",
                     fmt::format("{} holds printing inks (CMYK), which have no place on a surface. Convert it to RGB.", file.string()),
                     {}};
    if (spec.depth > 1) return unreadable(file, "it is a volume, not a picture");
    if (auto error = tooLarge(spec.width, spec.height)) return *error;
    if (spec.nchannels > 4 || spec.nchannels < 1)
        return Error{"map.channels",
                     fmt::format("{} has {} channels; a map has one to four. Write the wanted ones to a file of their own.", file.string(),
                                 spec.nchannels),
                     {}};
    int pictures = 1;
    if (spec.get_int_attribute("oiio:Movie") || holds == "gif" || holds == "tiff" || holds == "webp")
        while (pictures < 3 && input->seek_subimage(pictures, 0)) ++pictures;
    if (pictures > 1) {
        return Error{
            "map.animated",
            fmt::format("{} holds several pictures; a map is one. Write the wanted one to a file of its own, or lay the frames out "
                        "side by side in one map for Sheet player.",
                        file.string()),
            {}};
    }
    input->seek_subimage(0, 0);
    reader->m_facts = {spec.width, spec.height, spec.nchannels, sampleTypeOf(spec.format), std::string(input->format_name())};
    const double promised = double(spec.width) * double(spec.height) * double(spec.nchannels) * double(bytesOf(reader->m_facts.type));
    if (promised > densestPacking(holds, input->spec().get_string_attribute("compression")) * double(bytes))
        return Error{
            "map.short",
            fmt::format("{} says it is {} x {} pixels, which its {} bytes cannot hold. It was cut off or is damaged; export it again.",
                        file.string(), spec.width, spec.height, bytes),
            {}};
    reader->m->input = std::move(input);
    return reader;
}

Outcome ImageReader::rows(int from, int to, std::byte* out) {
    const size_t rowBytes = size_t(m_facts.width) * size_t(m_facts.channels) * bytesOf(m_facts.type);
    if (!m->whole.empty()) {
        std::memcpy(out, m->whole.row(from), rowBytes * size_t(to - from));
        return Done{};
    }
    auto failed = [&] {
        std::string why = firstLine(m->input->geterror());
        if (why.empty()) why = "it ends too early";
        return unreadable(m->file, fmt::format("{} (rows {} to {} of {})", why, from, to, m_facts.height));
    };
    const OIIO::ImageSpec& spec = m->input->spec();
    const OIIO::TypeDesc type = typeDescOf(m_facts.type);
    if (spec.tile_width > 0) {
        // Tiles come as a whole.
        Image image(m_facts.width, m_facts.height, m_facts.channels, m_facts.type);
        if (!m->input->read_image(0, 0, 0, m_facts.channels, type, image.samples.data())) return failed();
        m->whole = std::move(image);
        return rows(from, to, out);
    }
    if (!m->input->read_scanlines(0, 0, spec.y + from, spec.y + to, 0, 0, m_facts.channels, type, out)) return failed();
    return Done{};
}

Result<ImageFacts> imageFacts(const fs::path& file) {
    auto reader = ImageReader::open(file);
    if (!reader) return reader.error();
    return (*reader)->facts();
}

Outcome readable(const fs::path& file) {
    auto reader = ImageReader::open(file);
    if (!reader) return reader.error();
    const ImageFacts& f = (*reader)->facts();
    constexpr int kStrip = 64;
    std::vector<std::byte> strip(size_t(f.width) * size_t(f.channels) * bytesOf(f.type) * size_t(std::min(kStrip, f.height)));
    for (int y = 0; y < f.height; y += kStrip)
        if (Outcome o = (*reader)->rows(y, std::min(y + kStrip, f.height), strip.data()); !o) return o;
    return Done{};
}

Result<Image> readImage(const fs::path& file) {
    auto reader = ImageReader::open(file);
    if (!reader) return reader.error();
    const ImageFacts& f = (*reader)->facts();
    const int first = std::min(16, f.height);
    Image head(f.width, first, f.channels, f.type);
    if (Outcome read = (*reader)->rows(0, first, head.samples.data()); !read) return read.error();
    Image image;
    image.width = f.width, image.height = f.height, image.channels = f.channels, image.type = f.type;
    image.samples = std::move(head.samples);
    image.samples.resize(image.rowBytes() * size_t(f.height));
    if (first < f.height)
        if (Outcome read = (*reader)->rows(first, f.height, image.row(first)); !read) return read.error();
    return image;
}

namespace {

/// Through OpenImageIO, scanline by scanline.
class PlainWriter final : public ImageWriter {
  public:
    PlainWriter(NewFile file, std::unique_ptr<OIIO::ImageOutput> output, const ImageFacts& facts)
        : m_file(std::move(file)), m_output(std::move(output)), m_facts(facts) {}
    ~PlainWriter() override { m_output->close(); }
    Outcome rows(const std::byte* samples, int count) override {
        if (!m_output->write_scanlines(m_y, m_y + count, 0, typeDescOf(m_facts.type), samples))
            return m_file.failed(firstLine(m_output->geterror()));
        m_y += count;
        return Done{};
    }
    Outcome finish() override {
        if (!m_output->close()) return m_file.failed(firstLine(m_output->geterror()));
        // The writer of this format does not look at what the disk takes; what ends too early cannot be read to its end.
        if (lower(m_file.file().extension().string()) == ".tga") {
            const auto back = readImage(m_file.temporary());
            if (!back || back->height != m_facts.height) return m_file.failed();
        }
        return m_file.keep();
    }

  private:
    NewFile m_file;
    std::unique_ptr<OIIO::ImageOutput> m_output;
    ImageFacts m_facts;
    int m_y = 0;
};

} // namespace

std::span<const std::string_view> imageSuffixes() {
    // Without the last, which is never a map.
    static const auto all = [] {
        std::array<std::string_view, std::size(kSuffixes) - 1> out;
        for (size_t i = 0; i < out.size(); ++i) out[i] = kSuffixes[i].first;
        return out;
    }();
    return all;
}

bool isImageFile(const fs::path& file) {
    const auto all = imageSuffixes();
    return std::find(all.begin(), all.end(), lower(file.extension().string())) != all.end();
}

bool canHold(const fs::path& file, SampleType type) {
    const std::string format = formatOfSuffix(lower(file.extension().string()));
    if (format == "png") return type == SampleType::U8 || type == SampleType::U16;
    if (format == "tga") return type == SampleType::U8;
    if (format == "exr") return type == SampleType::F16 || type == SampleType::F32;
    return format == "tiff" && type != SampleType::F16;
}

Result<std::unique_ptr<ImageWriter>> ImageWriter::create(const fs::path& file, const ImageFacts& facts, PixelEncoding encoding) {
    const std::string format = formatOfSuffix(lower(file.extension().string()));
    if (!canHold(file, facts.type))
        return wrongSuffix(file, fmt::format("{} maps are written as {}", nameOf(facts.type),
                                             facts.type == SampleType::U8    ? ".png, .tga or .tif"
                                             : facts.type == SampleType::U16 ? ".png or .tif"
                                             : facts.type == SampleType::F16 ? ".exr"
                                                                             : ".exr or .tif"));
    Result<NewFile> fresh = NewFile::create(file, Folders::Make);
    if (!fresh) return fresh.error();
    if (format == "png") return createPngWriter(std::move(*fresh), facts, encoding);
    auto output = OIIO::ImageOutput::create(file.string());
    if (!output) return cannotWrite(file, firstLine(OIIO::geterror()));
    OIIO::ImageSpec spec(facts.width, facts.height, facts.channels, typeDescOf(facts.type));
    spec.attribute("oiio:ColorSpace", encoding == PixelEncoding::Srgb ? "sRGB" : "Linear");
    spec.attribute("oiio:UnassociatedAlpha", 1);
    if (!output->open(fresh->temporary().string(), spec)) return fresh->failed(firstLine(output->geterror()));
    return std::unique_ptr<ImageWriter>(new PlainWriter(std::move(*fresh), std::move(output), facts));
}

Outcome writeImage(const fs::path& file, const Image& image, PixelEncoding encoding) {
    auto writer = ImageWriter::create(file, {image.width, image.height, image.channels, image.type, {}}, encoding);
    if (!writer) return writer.error();
    if (Outcome o = (*writer)->rows(image.samples.data(), image.height); !o) return o;
    return (*writer)->finish();
}

} // namespace hue
