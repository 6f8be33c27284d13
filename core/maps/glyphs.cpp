#include "core/maps/glyphs.h"

#include <cmath>
#include <cstdint>
#include <mutex>

#include <ft2build.h>
#include FT_FREETYPE_H
#include FT_OUTLINE_H

// The font file, as the build found it among Debian's packages, inside the program.
asm(".section .rodata\n.balign 16\n.global hue_mask_font\nhue_mask_font:\n.incbin \"" HUE_MASK_FONT
    "\"\n.global hue_mask_font_end\nhue_mask_font_end:\n.byte 0\n.previous\n");
extern "C" const unsigned char hue_mask_font[], hue_mask_font_end[];

namespace hue {
namespace {

struct Font {
    FT_Library library{};
    FT_Face face{};
    Font() {
        FT_Init_FreeType(&library);
        FT_New_Memory_Face(library, hue_mask_font, FT_Long(hue_mask_font_end - hue_mask_font), 0, &face);
        FT_Set_Pixel_Sizes(face, 0, 512);
    }
};

struct Walk {
    TextOutline* out;
    float left, scale;
    std::pair<float, float> place(const FT_Vector* v) const { return {left + float(v->x) * scale, -float(v->y) * scale}; }
    void to(std::pair<float, float> p) { out->contours.back().push_back(p); }
};

constexpr int kPieces = 8; ///< of a curve

uint32_t nextCharacter(const std::string& s, size_t& at) {
    const auto byte = [&](size_t i) { return i < s.size() ? uint32_t(static_cast<unsigned char>(s[i])) : 0u; };
    const uint32_t first = byte(at++);
    const int more = first >= 0xF0 ? 3 : first >= 0xE0 ? 2 : first >= 0xC0 ? 1 : 0;
    uint32_t code = more == 3 ? first & 7 : more == 2 ? first & 15 : more == 1 ? first & 31 : first;
    for (int k = 0; k < more; ++k) code = (code << 6) | (byte(at++) & 63);
    return code;
}

} // namespace

TextOutline outlineOf(const std::string& utf8) {
    static std::mutex mutex;
    static Font font;
    const std::lock_guard lock(mutex);
    TextOutline out;
    if (!font.face) return out;
    FT_Load_Char(font.face, 'H', FT_LOAD_NO_BITMAP | FT_LOAD_NO_HINTING);
    const float scale = 1 / float(font.face->glyph->metrics.horiBearingY);
    FT_Outline_Funcs funcs{};
    funcs.move_to = [](const FT_Vector* v, void* w) {
        auto& walk = *static_cast<Walk*>(w);
        walk.out->contours.emplace_back();
        walk.to(walk.place(v));
        return 0;
    };
    funcs.line_to = [](const FT_Vector* v, void* w) {
        auto& walk = *static_cast<Walk*>(w);
        walk.to(walk.place(v));
        return 0;
    };
    funcs.conic_to = [](const FT_Vector* c, const FT_Vector* v, void* w) {
        auto& walk = *static_cast<Walk*>(w);
        const auto a = walk.out->contours.back().back(), b = walk.place(c), d = walk.place(v);
        for (int k = 1; k <= kPieces; ++k) {
            const float t = float(k) / kPieces, s = 1 - t;
            walk.to({s * s * a.first + 2 * s * t * b.first + t * t * d.first, s * s * a.second + 2 * s * t * b.second + t * t * d.second});
        }
        return 0;
    };
    funcs.cubic_to = [](const FT_Vector* c1, const FT_Vector* c2, const FT_Vector* v, void* w) {
        auto& walk = *static_cast<Walk*>(w);
        const auto a = walk.out->contours.back().back(), b = walk.place(c1), c = walk.place(c2), d = walk.place(v);
        for (int k = 1; k <= kPieces; ++k) {
            const float t = float(k) / kPieces, s = 1 - t;
            auto at = [&](float p, float q, float r, float u) {
                return s * s * s * p + 3 * s * s * t * q + 3 * s * t * t * r + t * t * t * u;
            };
            walk.to({at(a.first, b.first, c.first, d.first), at(a.second, b.second, c.second, d.second)});
        }
        return 0;
    };
    for (size_t at = 0; at < utf8.size();) {
        if (FT_Load_Char(font.face, nextCharacter(utf8, at), FT_LOAD_NO_BITMAP | FT_LOAD_NO_HINTING)) continue;
        Walk walk{&out, out.width, scale};
        FT_Outline_Decompose(&font.face->glyph->outline, &funcs, &walk);
        out.width += float(font.face->glyph->metrics.horiAdvance) * scale;
    }
    return out;
}

} // namespace hue
