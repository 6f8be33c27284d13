#pragma once
// How maps lie in the memory of a graphics card: block formats and plain ones, their sizes, and turning pixels into blocks
// and back.
// Threads: any. Nothing is kept between calls.
#include "core/images/image.h"

#include <atomic>
#include <optional>
#include <string>

namespace hue {

enum class BlockFormat : uint8_t { Plain8, Plain16, Half, Bc1, Bc3, Bc4, Bc5, Bc7, Astc4x4, Astc5x5, Astc6x6, Astc8x8, Count };

struct BlockFormatInfo {
    std::string_view key;        ///< in files and on the command line: "bc7", "astc-6x6", "plain-8"
    std::string_view name;       ///< for people
    int width, height;           ///< of a block, in pixels
    int bytes;                   ///< of a block; of plain formats per channel
    int channels;                ///< that it carries; plain formats take what the map has
    uint32_t vulkan, vulkanSrgb; ///< VkFormat; 0: none. Of plain formats that of four channels
    uint32_t dxgi, dxgiSrgb;     ///< DXGI_FORMAT; 0: none
    bool plain() const { return width == 1; }
    bool astc() const { return vulkan >= 157; }
};
const BlockFormatInfo& infoOf(BlockFormat);
std::optional<BlockFormat> blockFormatByKey(std::string_view key);

/// Bytes of one level, and of a map with all its levels.
size_t levelBytes(BlockFormat, int width, int height, int channels);
size_t bytesWithMips(BlockFormat, int width, int height, int channels);

/// Channels that a graphics card keeps: three plain ones take the room of four.
int cardChannels(BlockFormat, int channels);
/// What a map with all its levels takes on a graphics card.
size_t cardBytes(BlockFormat, int width, int height, int channels);
/// In the format of a key, or plain as its samples are.
size_t cardBytes(std::string_view format, int width, int height, int channels, SampleType type);

enum class Effort { Quick, Usual, Best };
struct EncodeOptions {
    bool srgb = false; ///< the pixels are sRGB-encoded colors
    Effort effort = Effort::Usual;
    int threads = 0; ///< 0: all
    const std::atomic<bool>* cancelled = nullptr;
};
/// Blocks in rows from the top. Grey maps are spread over red, green and blue where a format has no single channel; a
/// missing alpha is 1. Errors: compress.cancelled, compress.memory, compress.type (half and float maps only fit Half).
Result<std::vector<std::byte>> encodeBlocks(const Image& image, BlockFormat format, const EncodeOptions& options);

/// 8-bit pixels with the format's channels (plain formats: of `channels`); of BC4 and BC5 16-bit ones, since cards keep the fractions
/// between the ends of a block. Blocks that no encoder writes (reserved modes)
/// give black. Error: compress.short.
Result<Image> decodeBlocks(const std::byte* blocks, size_t bytes, BlockFormat format, int width, int height, int channels, int threads = 0);

/// What a graphics card reads after compression: encoded and decoded again, with the channels of the original.
Result<Image> asCompressed(const Image& image, BlockFormat format, const EncodeOptions& options);

} // namespace hue
