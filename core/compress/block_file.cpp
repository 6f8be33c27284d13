#include "core/compress/block_file.h"

#include "core/base/files.h"

#include <cstring>
#include <fmt/format.h>
#include <fstream>
#include <zstd.h>

namespace hue {
namespace {

namespace fs = std::filesystem;

constexpr unsigned char kKtx2[12] = {0xAB, 'K', 'T', 'X', ' ', '2', '0', 0xBB, '\r', '\n', 0x1A, '\n'};
constexpr uint32_t kZstd = 2;

class Writer {
  public:
    void u8(uint32_t v) { bytes.push_back(std::byte(v)); }
    void u16(uint32_t v) { u8(v & 255), u8((v >> 8) & 255); }
    void u32(uint32_t v) { u16(v & 0xFFFF), u16(v >> 16); }
    void u64(uint64_t v) { u32(uint32_t(v)), u32(uint32_t(v >> 32)); }
    void raw(const void* p, size_t n) {
        const auto* b = static_cast<const std::byte*>(p);
        bytes.insert(bytes.end(), b, b + n);
    }
    void align(size_t n) {
        while (bytes.size() % n) u8(0);
    }
    std::vector<std::byte> bytes;
};

class Reader {
  public:
    explicit Reader(std::span<const std::byte> b) : m_bytes(b) {}
    bool has(size_t n) const { return m_at + n <= m_bytes.size(); }
    uint32_t u32() {
        uint32_t v = 0;
        if (has(4)) std::memcpy(&v, m_bytes.data() + m_at, 4);
        m_at += 4;
        return v;
    }
    uint64_t u64() {
        const uint64_t low = u32();
        return low | uint64_t(u32()) << 32;
    }
    void skip(size_t n) { m_at += n; }

  private:
    std::span<const std::byte> m_bytes;
    size_t m_at = 0;
};

Error damaged(const std::string& name, const std::string& why) {
    return {"map.unreadable", fmt::format("{} cannot be read: {}. Export it again, or choose another file.", name, why), {}};
}

struct Plain {
    uint32_t vulkan, vulkanSrgb;
    BlockFormat format;
    int channels;
};
constexpr Plain kPlain[] = {
    {9, 15, BlockFormat::Plain8, 1},  {16, 22, BlockFormat::Plain8, 2}, {23, 29, BlockFormat::Plain8, 3}, {37, 43, BlockFormat::Plain8, 4},
    {70, 0, BlockFormat::Plain16, 1}, {77, 0, BlockFormat::Plain16, 2}, {84, 0, BlockFormat::Plain16, 3}, {91, 0, BlockFormat::Plain16, 4},
    {76, 0, BlockFormat::Half, 1},    {83, 0, BlockFormat::Half, 2},    {90, 0, BlockFormat::Half, 3},    {97, 0, BlockFormat::Half, 4},
};

uint32_t vulkanOf(const BlockMap& m) {
    if (infoOf(m.format).plain()) {
        for (const Plain& p : kPlain)
            if (p.format == m.format && p.channels == m.channels) return m.srgb && p.vulkanSrgb ? p.vulkanSrgb : p.vulkan;
        return 0;
    }
    const BlockFormatInfo& f = infoOf(m.format);
    return m.srgb && f.vulkanSrgb ? f.vulkanSrgb : f.vulkan;
}

/// The basic data format descriptor: Khronos Data Format Specification 1.3, chapter 5.
std::vector<std::byte> descriptorOf(const BlockMap& m) {
    const BlockFormatInfo& f = infoOf(m.format);
    struct Sample {
        uint32_t offset, length, channel, low, high;
    };
    std::vector<Sample> samples;
    uint32_t model = 1;
    const uint32_t all = 0xFFFFFFFFu;
    switch (m.format) {
    case BlockFormat::Bc1: model = 128, samples = {{0, 63, 0, 0, all}}; break;
    case BlockFormat::Bc3: model = 130, samples = {{0, 63, 15, 0, all}, {64, 63, 0, 0, all}}; break;
    case BlockFormat::Bc4: model = 131, samples = {{0, 63, 0, 0, all}}; break;
    case BlockFormat::Bc5: model = 132, samples = {{0, 63, 0, 0, all}, {64, 63, 1, 0, all}}; break;
    case BlockFormat::Bc7: model = 134, samples = {{0, 127, 0, 0, all}}; break;
    case BlockFormat::Plain8:
    case BlockFormat::Plain16:
    case BlockFormat::Half:
        for (int c = 0; c < m.channels; ++c) {
            const uint32_t bits = uint32_t(f.bytes) * 8;
            // Alpha is linear even in an sRGB map; half is signed and floating.
            uint32_t channel = c == 3 ? 15 : uint32_t(c);
            if (c == 3 && m.srgb) channel |= 0x10;
            if (m.format == BlockFormat::Half) channel |= 0xC0;
            samples.push_back({uint32_t(c) * bits, bits - 1, channel, m.format == BlockFormat::Half ? 0xBF800000u : 0,
                               m.format == BlockFormat::Half     ? 0x3F800000u
                               : m.format == BlockFormat::Plain8 ? 255u
                                                                 : 65535u});
        }
        break;
    default: model = 162, samples = {{0, 127, 0, 0, all}};
    }
    Writer w;
    const uint32_t block = 24 + 16 * uint32_t(samples.size());
    w.u32(block + 4);
    w.u32(0);
    w.u16(2), w.u16(block);
    w.u8(model), w.u8(1), w.u8(m.srgb ? 2 : 1), w.u8(0);
    w.u8(uint32_t(f.width - 1)), w.u8(uint32_t(f.height - 1)), w.u8(0), w.u8(0);
    w.u8(uint32_t(f.plain() ? f.bytes * m.channels : f.bytes));
    for (int k = 0; k < 7; ++k) w.u8(0);
    for (const Sample& s : samples) {
        w.u16(s.offset), w.u8(s.length), w.u8(s.channel);
        w.u32(0);
        w.u32(s.low), w.u32(s.high);
    }
    return w.bytes;
}

Result<std::vector<std::byte>> bytesOfFile(const fs::path& file) {
    if (const std::string why = whyUnreadable(file); !why.empty()) return damaged(file.string(), "it " + why);
    std::ifstream in(file, std::ios::binary | std::ios::ate);
    if (!in) return damaged(file.string(), "it cannot be opened");
    std::vector<std::byte> bytes(size_t(in.tellg()));
    in.seekg(0);
    in.read(reinterpret_cast<char*>(bytes.data()), std::streamsize(bytes.size()));
    return bytes;
}

/// What both containers ask of a size.
std::optional<Error> wrongSize(const std::string& name, uint32_t width, uint32_t height, uint32_t levels) {
    if (!width || !height) return damaged(name, fmt::format("it says it is {} x {} pixels", width, height));
    if (width > uint32_t(kLargestSide) || height > uint32_t(kLargestSide))
        return Error{
            "map.too-large",
            fmt::format("{} says it is {} x {} pixels; at most {} a side can be used. Make it smaller.", name, width, height, kLargestSide),
            {}};
    uint32_t most = 1;
    while (std::max(width, height) >> most) ++most;
    if (levels > most) return damaged(name, fmt::format("it says it has {} levels, and its size allows {}", levels, most));
    return {};
}

} // namespace

Result<BlockMap> compressed(std::vector<Image> mips, BlockFormat format, const EncodeOptions& o) {
    BlockMap m;
    m.format = format;
    m.srgb = o.srgb && infoOf(format).vulkanSrgb;
    m.width = mips[0].width, m.height = mips[0].height;
    m.channels = infoOf(format).plain() ? mips[0].channels : infoOf(format).channels;
    for (Image& level : mips) {
        auto blocks = encodeBlocks(level, format, o);
        if (!blocks) return blocks.error();
        m.levels.push_back(std::move(*blocks));
        level = {}; // of large maps pixels and blocks have no room beside each other
    }
    return m;
}

namespace {

/// A container in pieces that follow each other, so that levels go to the file from where they lie.
struct Pieces {
    std::vector<std::byte> head;
    std::vector<std::vector<std::byte>> packed; ///< levels of their own, where they are not those of the map
    std::vector<std::span<const std::byte>> rest;
};

std::vector<std::byte> joined(const Pieces& p) {
    size_t size = p.head.size();
    for (const auto& piece : p.rest) size += piece.size();
    std::vector<std::byte> out;
    out.reserve(size);
    out.insert(out.end(), p.head.begin(), p.head.end());
    for (const auto& piece : p.rest) out.insert(out.end(), piece.begin(), piece.end());
    return out;
}

Pieces ktx2Pieces(const BlockMap& m, const ContainerOptions& o) {
    Pieces out;
    const BlockFormatInfo& f = infoOf(m.format);
    const size_t levels = m.levels.size();
    const std::vector<std::byte> descriptor = descriptorOf(m);
    Writer keys;
    auto key = [&](std::string_view name, std::string_view value) {
        keys.u32(uint32_t(name.size() + value.size() + 2));
        keys.raw(name.data(), name.size());
        keys.u8(0);
        keys.raw(value.data(), value.size());
        keys.u8(0);
        keys.align(4);
    };
    key("KTXorientation", "rd");
    key("KTXwriter", "Hue Stack");
    const size_t indexAt = 80, descriptorAt = indexAt + 24 * levels, keysAt = descriptorAt + descriptor.size(),
                 dataAt = keysAt + keys.bytes.size();
    static constexpr std::byte kZeros[64] = {};
    size_t dataBytes = 0;
    const auto unit = size_t(f.plain() ? f.bytes * m.channels : f.bytes);
    // Levels start at a multiple of their block and of four bytes.
    const size_t alignment = o.zstd ? 1 : unit % 4 == 0 ? unit : unit % 2 == 0 ? unit * 2 : unit * 4;
    struct Extent {
        uint64_t offset, length, plain;
    };
    std::vector<Extent> places(levels);
    for (size_t l = levels; l-- > 0;) {
        if (const size_t over = (dataAt + dataBytes) % alignment) {
            out.rest.emplace_back(kZeros, alignment - over);
            dataBytes += alignment - over;
        }
        const std::vector<std::byte>& level = m.levels[l];
        places[l] = {dataAt + dataBytes, level.size(), level.size()};
        if (o.zstd) {
            std::vector<std::byte>& packed = out.packed.emplace_back(ZSTD_compressBound(level.size()));
            packed.resize(ZSTD_compress(packed.data(), packed.size(), level.data(), level.size(), o.zstdLevel));
            packed.shrink_to_fit();
            places[l].length = packed.size();
            out.rest.emplace_back(packed);
        } else {
            out.rest.emplace_back(level);
        }
        dataBytes += places[l].length;
    }
    Writer w;
    w.raw(kKtx2, 12);
    w.u32(vulkanOf(m));
    w.u32(m.format == BlockFormat::Plain16 || m.format == BlockFormat::Half ? 2 : 1);
    w.u32(uint32_t(m.width)), w.u32(uint32_t(m.height)), w.u32(0);
    w.u32(0), w.u32(1), w.u32(uint32_t(levels));
    w.u32(o.zstd ? kZstd : 0);
    w.u32(uint32_t(descriptorAt)), w.u32(uint32_t(descriptor.size()));
    w.u32(uint32_t(keysAt)), w.u32(uint32_t(keys.bytes.size()));
    w.u64(0), w.u64(0);
    for (const Extent& p : places) w.u64(p.offset), w.u64(p.length), w.u64(p.plain);
    w.raw(descriptor.data(), descriptor.size());
    w.raw(keys.bytes.data(), keys.bytes.size());
    out.head = std::move(w.bytes);
    return out;
}

} // namespace

std::vector<std::byte> ktx2Of(const BlockMap& m, const ContainerOptions& o) { return joined(ktx2Pieces(m, o)); }

Result<BlockMap> readKtx2(std::span<const std::byte> bytes, const std::string& name) {
    if (bytes.size() < 80 || std::memcmp(bytes.data(), kKtx2, 12) != 0) return damaged(name, "it is no KTX 2.0 file");
    Reader r(bytes);
    r.skip(12);
    const uint32_t vulkan = r.u32();
    r.u32();
    const uint32_t width = r.u32(), height = r.u32(), depth = r.u32(), layers = r.u32(), faces = r.u32(), said = r.u32(), scheme = r.u32();
    const uint32_t levels = std::max(said, 1u);
    if (depth > 1 || layers > 1 || faces != 1)
        return Error{"map.animated", fmt::format("{} holds several pictures (an array, a cube or a volume); a map is one.", name), {}};
    if (auto error = wrongSize(name, width, height, levels)) return *error;
    BlockMap m;
    m.width = int(width), m.height = int(height);
    bool known = false;
    for (int f = 0; f < int(BlockFormat::Count) && !known; ++f) {
        const BlockFormatInfo& info = infoOf(BlockFormat(f));
        if (info.plain() || (vulkan != info.vulkan && (vulkan != info.vulkanSrgb || !vulkan))) continue;
        m.format = BlockFormat(f), m.srgb = vulkan == info.vulkanSrgb, m.channels = info.channels, known = true;
    }
    for (const Plain& p : kPlain) {
        if (known || !vulkan || (vulkan != p.vulkan && vulkan != p.vulkanSrgb)) continue;
        m.format = p.format, m.srgb = vulkan == p.vulkanSrgb, m.channels = p.channels, known = true;
    }
    // BC1 with its one clear entry decodes as BC1.
    if (!known && (vulkan == 133 || vulkan == 134)) m.format = BlockFormat::Bc1, m.srgb = vulkan == 134, m.channels = 3, known = true;
    if (!known) return damaged(name, fmt::format("its pixel format (VkFormat {}) is none that can be read here", vulkan));
    if (scheme != 0 && scheme != kZstd)
        return damaged(name, fmt::format("its supercompression scheme {} is none that can be read here", scheme));
    r.skip(16 + 16);
    if (!r.has(24 * size_t(levels))) return damaged(name, "it ends within its list of levels");
    for (uint32_t l = 0; l < levels; ++l) {
        const uint64_t offset = r.u64(), length = r.u64(), plain = r.u64();
        const size_t wanted = levelBytes(m.format, std::max(1, m.width >> l), std::max(1, m.height >> l), m.channels);
        if (offset > bytes.size() || length > bytes.size() - offset)
            return damaged(name, fmt::format("level {} should lie at byte {}, and the file has {}", l, offset, bytes.size()));
        const std::byte* from = bytes.data() + offset;
        if (scheme == 0) {
            if (length != wanted) return damaged(name, fmt::format("level {} has {} bytes and should have {}", l, length, wanted));
            m.levels.emplace_back(from, from + length);
            continue;
        }
        // A frame tells its size before it is unpacked, and nothing packs better than some 20 000 to 1.
        if (plain != wanted || ZSTD_getFrameContentSize(from, length) != wanted || wanted > length * 30000 + 4096)
            return damaged(name, fmt::format("level {} unpacks to another size than it should", l));
        std::vector<std::byte> level(wanted);
        if (ZSTD_decompress(level.data(), level.size(), from, length) != wanted)
            return damaged(name, fmt::format("level {} is damaged", l));
        m.levels.push_back(std::move(level));
    }
    return m;
}

namespace {

Result<Pieces> ddsPieces(const BlockMap& m) {
    const BlockFormatInfo& f = infoOf(m.format);
    const bool plain8 = m.format == BlockFormat::Plain8;
    static constexpr uint32_t plainCodes[] = {61, 49, 0, 28};
    uint32_t code = plain8 ? plainCodes[m.channels - 1] : f.plain() ? (m.channels == 4 ? f.dxgi : 0) : f.dxgi;
    if (m.srgb && f.dxgiSrgb && (!plain8 || m.channels == 4)) code = f.dxgiSrgb;
    if (!code)
        return Error{"dds.format", fmt::format("DDS has no name for {} with {} channels. Write KTX2 instead.", f.name, m.channels), {}};
    Writer w;
    w.raw("DDS ", 4);
    w.u32(124);
    const bool mips = m.levels.size() > 1;
    w.u32(0x1007 | (f.plain() ? 0x8 : 0x80000) | (mips ? 0x20000 : 0));
    w.u32(uint32_t(m.height)), w.u32(uint32_t(m.width));
    w.u32(uint32_t(f.plain() ? size_t(m.width) * size_t(m.channels) * size_t(f.bytes) : m.levels[0].size()));
    w.u32(0), w.u32(uint32_t(m.levels.size()));
    for (int k = 0; k < 11; ++k) w.u32(0);
    w.u32(32), w.u32(0x4);
    // What has had a name of its own from the start keeps it: more programs read that than the newer header.
    const bool named = !m.srgb && (m.format == BlockFormat::Bc1 || m.format == BlockFormat::Bc3);
    w.raw(!named ? "DX10" : m.format == BlockFormat::Bc1 ? "DXT1" : "DXT5", 4);
    for (int k = 0; k < 5; ++k) w.u32(0);
    w.u32(0x1000 | (mips ? 0x400008 : 0));
    for (int k = 0; k < 4; ++k) w.u32(0);
    if (!named) w.u32(code), w.u32(3), w.u32(0), w.u32(1), w.u32(0);
    Pieces out;
    out.head = std::move(w.bytes);
    for (const auto& level : m.levels) out.rest.emplace_back(level);
    return out;
}

} // namespace

Result<std::vector<std::byte>> ddsOf(const BlockMap& m) {
    const auto pieces = ddsPieces(m);
    if (!pieces) return pieces.error();
    return joined(*pieces);
}

Result<BlockMap> readDds(std::span<const std::byte> bytes, const std::string& name) {
    if (bytes.size() < 128 || std::memcmp(bytes.data(), "DDS ", 4) != 0) return damaged(name, "it is no DDS file");
    Reader r(bytes);
    r.skip(4);
    r.u32();
    r.u32();
    const uint32_t height = r.u32(), width = r.u32();
    r.u32();
    const uint32_t depth = r.u32(), said = r.u32();
    r.skip(44 + 4);
    const uint32_t flags = r.u32(), four = r.u32(), bits = r.u32();
    uint32_t mask[4];
    for (uint32_t& k : mask) k = r.u32();
    r.u32();
    const uint32_t caps2 = r.u32();
    const uint32_t levels = std::max(said, 1u);
    if (depth > 1 || (caps2 & 0x200200))
        return Error{"map.animated", fmt::format("{} holds several pictures (a cube or a volume); a map is one.", name), {}};
    if (auto error = wrongSize(name, width, height, levels)) return *error;
    BlockMap m;
    m.width = int(width), m.height = int(height);
    auto letters = [](const char* s) { return uint32_t(s[0]) | uint32_t(s[1]) << 8 | uint32_t(s[2]) << 16 | uint32_t(s[3]) << 24; };
    size_t at = 128;
    bool known = false, swapped = false;
    auto take = [&](BlockFormat f) { m.format = f, m.channels = infoOf(f).channels, known = true; };
    if (!(flags & 4)) {
        // Without a code: four plain channels, in one of two orders.
        known = (flags & 0x40) && bits == 32 && mask[1] == 0xFF00 && (mask[0] == 0xFF || mask[0] == 0xFF0000);
        swapped = mask[0] == 0xFF0000;
        m.format = BlockFormat::Plain8, m.channels = 4;
    } else if (four == letters("DX10")) {
        if (bytes.size() < 148) return damaged(name, "it ends within its header");
        Reader x(bytes.subspan(128));
        const uint32_t code = x.u32(), dimension = x.u32(), misc = x.u32(), array = x.u32();
        if (dimension != 3 || array > 1 || (misc & 4))
            return Error{"map.animated", fmt::format("{} holds several pictures (an array, a cube or a volume); a map is one.", name), {}};
        at = 148;
        for (int f = 0; f < int(BlockFormat::Count) && !known; ++f) {
            const BlockFormatInfo& info = infoOf(BlockFormat(f));
            if (!info.dxgi || (code != info.dxgi && (code != info.dxgiSrgb || !info.dxgiSrgb))) continue;
            take(BlockFormat(f));
            m.srgb = code == info.dxgiSrgb;
        }
        if (code == 61 || code == 49) m.format = BlockFormat::Plain8, m.channels = code == 61 ? 1 : 2, known = true;
    } else if (four == letters("DXT1")) take(BlockFormat::Bc1);
    else if (four == letters("DXT5")) take(BlockFormat::Bc3);
    else if (four == letters("ATI1") || four == letters("BC4U")) take(BlockFormat::Bc4);
    else if (four == letters("ATI2") || four == letters("BC5U")) take(BlockFormat::Bc5);
    if (!known) return damaged(name, "its pixel format is none that can be read here");
    for (uint32_t l = 0; l < levels; ++l) {
        const size_t wanted = levelBytes(m.format, std::max(1, m.width >> l), std::max(1, m.height >> l), m.channels);
        if (wanted > bytes.size() - at) {
            return damaged(name, fmt::format("level {} needs {} bytes and only {} are left", l, wanted, bytes.size() - at));
        }
        m.levels.emplace_back(bytes.begin() + long(at), bytes.begin() + long(at + wanted));
        at += wanted;
    }
    if (swapped)
        for (auto& level : m.levels)
            for (size_t i = 0; i + 3 < level.size(); i += 4) std::swap(level[i], level[i + 2]);
    return m;
}

Outcome writeBlockFile(const fs::path& file, const BlockMap& map, const ContainerOptions& options) {
    const std::string suffix = file.extension().string();
    if (suffix != ".dds" && suffix != ".ktx2") return wrongSuffix(file, "block formats are written as .ktx2 or .dds");
    auto pieces = suffix == ".dds" ? ddsPieces(map) : Result<Pieces>(ktx2Pieces(map, options));
    if (!pieces) return pieces.error();
    Result<NewFile> fresh = NewFile::create(file, Folders::Make);
    if (!fresh) return fresh.error();
    std::ofstream out(fresh->temporary(), std::ios::binary);
    const auto write = [&](std::span<const std::byte> bytes) {
        out.write(reinterpret_cast<const char*>(bytes.data()), std::streamsize(bytes.size()));
    };
    write(pieces->head);
    for (const auto& piece : pieces->rest) write(piece);
    out.close();
    if (!out) return fresh->failed();
    return fresh->keep();
}

Result<BlockMap> readBlockFile(const fs::path& file) {
    const auto bytes = bytesOfFile(file);
    if (!bytes) return bytes.error();
    if (bytes->size() >= 4 && std::memcmp(bytes->data(), "DDS ", 4) == 0) return readDds(*bytes, file.string());
    return readKtx2(*bytes, file.string());
}

Result<Image> readBlockImage(const fs::path& file) {
    const auto map = readBlockFile(file);
    if (!map) return map.error();
    return decodeBlocks(map->levels[0].data(), map->levels[0].size(), map->format, map->width, map->height, map->channels);
}

} // namespace hue
