#pragma once
// Maps in the containers that engines load: KTX 2.0 and DDS.
// Threads: any. Nothing is kept between calls.
#include "core/compress/block_format.h"

#include <filesystem>
#include <span>

namespace hue {

struct BlockMap {
    BlockFormat format = BlockFormat::Plain8;
    bool srgb = false;
    int width = 0, height = 0, channels = 4;
    std::vector<std::vector<std::byte>> levels; ///< 0 is the largest
};

/// Encodes all levels. Errors: those of encodeBlocks.
Result<BlockMap> compressed(std::vector<Image> mips, BlockFormat format, const EncodeOptions& options);

struct ContainerOptions {
    bool zstd = false; ///< KTX2 only: levels are supercompressed with Zstandard
    int zstdLevel = 12;
};
/// The bytes of a KTX 2.0 file: Khronos, "KTX File Format Specification", version 2.0.
std::vector<std::byte> ktx2Of(const BlockMap& map, const ContainerOptions& options);
/// The bytes of a DDS file, with the DX10 header where the format or sRGB needs it. Error: dds.format for what DDS has no name for (ASTC).
Result<std::vector<std::byte>> ddsOf(const BlockMap& map);
/// By the suffix, to a temporary file that is then renamed. Errors: dds.format, file.cannot-write.
Outcome writeBlockFile(const std::filesystem::path& file, const BlockMap& map, const ContainerOptions& options);

/// All levels, checked against their sizes before any memory is taken. `name` stands in messages.
/// Errors: map.unreadable, map.too-large, map.animated (arrays, cubes and volumes).
Result<BlockMap> readKtx2(std::span<const std::byte> bytes, const std::string& name);
Result<BlockMap> readDds(std::span<const std::byte> bytes, const std::string& name);
Result<BlockMap> readBlockFile(const std::filesystem::path& file);
/// The largest level as pixels.
Result<Image> readBlockImage(const std::filesystem::path& file);

} // namespace hue
