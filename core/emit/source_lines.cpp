#include "core/emit/source_lines.h"

#include <charconv>

namespace hue {
namespace {

/// The number of the instruction whose value a line makes: "  vec3 v12 = ...", "  v12 = ..."; -1 for other lines.
int madeBy(std::string_view line) {
    const size_t from = line.find_first_not_of(" \t");
    if (from == std::string_view::npos) return -1;
    line.remove_prefix(from);
    // Its type, where it is declared: of two components or more, "vec2" or "float2" as the language has it.
    const size_t blank = line.find(' ');
    if (blank != std::string_view::npos && (line.starts_with("float") || line.starts_with("vec"))) line.remove_prefix(blank + 1);
    if (!line.starts_with('v')) return -1;
    int number = -1;
    const auto [end, bad] = std::from_chars(line.data() + 1, line.data() + line.size(), number);
    return bad == std::errc{} && std::string_view(end, size_t(line.data() + line.size() - end)).starts_with(" =") ? number : -1;
}

} // namespace

std::vector<SourceLine> sourceLines(const Program& program, std::string_view text) {
    std::vector<SourceLine> out;
    bool inside = false;
    while (!text.empty()) {
        const size_t end = std::min(text.find('\n'), text.size());
        const std::string_view line = text.substr(0, end);
        text.remove_prefix(std::min(end + 1, text.size()));
        const bool declares = line.find("hs_material(") != std::string_view::npos && !line.starts_with(' ');
        // A prototype ends where it stands.
        if (declares && !line.ends_with(';')) inside = true;
        else if (line.starts_with('}')) inside = false;
        Id card;
        const int n = inside ? madeBy(line) : -1;
        if (n >= 0 && size_t(n) < program.code.size())
            if (const int32_t origin = program.code[size_t(n)].origin; origin >= 0 && size_t(origin) < program.origins.size())
                card = program.origins[size_t(origin)].card;
        out.push_back({std::string(line), card});
    }
    return out;
}

} // namespace hue
