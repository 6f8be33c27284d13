#include "core/emit/emit_glsl.h"

#include "core/program/uniform_layout.h"
#include "core/program/unseen.h"

#include <algorithm>
#include <fmt/format.h>
#include <set>

namespace hue {
namespace {

/// What a point of the surface brings; of what triangles carry only what is read.
std::string pointText(const Program& p) {
    std::string carried;
    for (uint32_t a = uint32_t(Attribute::Carried0); a <= uint32_t(Attribute::Carried3); ++a)
        if (p.reads(Attribute(a))) carried += fmt::format("  vec4 {}; // computed per vertex\n", nameOf(Attribute(a)));
    return fmt::format(R"(struct hs_Point {{
  vec2 uv0, uv1;
  vec4 color;
  vec3 positionWorld, positionObject, normalWorld, normalObject, tangent, bitangent;
{}  vec3 view;
  vec2 screen;
  float depthGap, side; // side: 1 where the front of a face is seen, -1 where its back is
{}{}}};
)",
                       carried, p.reads(Attribute::Painted) ? "  vec4 painted; // on the mesh's vertices; 0 where nothing is\n" : "",
                       p.reads(Attribute::PaintedSecond) ? "  vec4 paintedSecond; // four channels more\n" : "");
}

// What was drawn before, and the environment; without a scene both are an even grey, as on the CPU.
struct SceneSource {
    std::string_view call; ///< that needs it
    std::string_view sampler;
    std::vector<std::string_view> values; ///< uniforms, as declared
    std::string_view function;
};
const SceneSource kScenes[] = {
    {"hs_behind(",
     "sampler2D u_behindMap",
     {"float u_behindMapLevels", "vec2 u_behindSize"},
     R"(vec3 hs_behind(vec2 offset, float blur) {
  if (u_behindMapLevels < 0.0) return vec3(0.5); // no scene
  return textureLod(u_behindMap, gl_FragCoord.xy / u_behindSize + offset * vec2(1.0, -1.0), clamp(blur, 0.0, 1.0) * u_behindMapLevels).rgb;
}
)"},
    {"hs_aroundAt(",
     "samplerCube u_aroundMap",
     {"float u_aroundLevels", "vec2 u_aroundTurn"},
     R"(vec3 hs_aroundAt(vec3 d, float rough) {
  if (u_aroundLevels < 0.0) return vec3(0.5); // no scene
  vec3 turned = vec3(u_aroundTurn.x * d.x + u_aroundTurn.y * d.z, d.y, u_aroundTurn.x * d.z - u_aroundTurn.y * d.x);
  return textureLod(u_aroundMap, turned, clamp(rough, 0.0, 1.0) * u_aroundLevels).rgb;
}
)"},
};

std::string_view typeOf(int width) {
    static constexpr std::string_view names[] = {"float", "vec2", "vec3", "vec4"};
    return names[width - 1];
}

std::string_view swizzleText(uint32_t imm, int width, char* buffer) {
    for (int c = 0; c < width; ++c) buffer[c] = "xyzw"[(imm >> (2 * c)) & 3];
    return {buffer, size_t(width)};
}

class Emitter {
  public:
    /// Alone: everything is computed per pixel, from parameters by name.
    enum class Of { Pixels, Vertices, Alone };
    Emitter(const Program& p, const UniformLayout& layout, Of of)
        : m_p(p),
          m_layout(layout),
          m_vertices(of == Of::Vertices),
          m_alone(of == Of::Alone),
          m_values(m_vertices ? "u_vertexValues" : "u_values"),
          m_map(m_vertices ? "u_vertexMap" : "u_map") {
        // Vertices are few, and a branch is no gain to them.
        if (!m_vertices) m_unseen = unseenOf(p);
        else m_unseen.branchOf.assign(p.code.size(), -1);
    }

    std::string run() {
        std::string body;
        body.reserve(m_p.code.size() * 48);
        std::vector<bool> wanted(m_p.code.size());
        for (const auto& o : m_p.outputs) wanted[size_t(o.value)] = true;
        for (size_t n = m_p.code.size(); n-- > 0;)
            if (wanted[n] && onPixel(n))
                for (int a = 0; a < m_p.code[n].operands; ++a) wanted[size_t(m_p.code[n].args[size_t(a)])] = true;
        std::vector<size_t> lines;
        for (size_t n = 0; n < m_p.code.size(); ++n)
            if (wanted[n] && onPixel(n) && !isNamed(m_p.code[n].op)) lines.push_back(n);
        writeLines(body, lines);
        std::string outputs;
        for (size_t k = 0; k < m_p.outputs.size(); ++k) {
            outputs += fmt::format("  {} o{}; // {}\n", typeOf(m_p.code[size_t(m_p.outputs[k].value)].width), k, m_p.outputs[k].name);
            body += fmt::format("  r.o{} = {};\n", k, operand(m_p.outputs[k].value));
        }
        std::string out = pointText(m_p);
        std::vector<std::string> values;
        if (!m_layout.instructions.empty()) values.push_back(fmt::format("vec4 {}[{}]", m_values, m_layout.instructions.size()));
        if (m_alone)
            for (size_t k = 0; k < m_p.parameters.size(); ++k)
                if (const int width = widthOfParameter(k)) values.push_back(fmt::format("{} {}", typeOf(width), m_names.parameters[k]));
        if (body.find("u_time") != std::string::npos) values.emplace_back("float u_time");
        if (body.find("u_placement") != std::string::npos) values.emplace_back("float u_placement");
        // Where X, Y, Z and the origin lie in the world.
        for (const std::string_view space : {"u_objectToWorld", "u_cameraToWorld"})
            if (body.find(space) != std::string::npos) values.push_back(fmt::format("mat4 {}", space));
        if (body.find("u_cameraScale") != std::string::npos) values.emplace_back("vec2 u_cameraScale");
        for (size_t n = 0; n < m_p.maps.size(); ++n) {
            out += fmt::format("uniform sampler2D {}{};", m_map, n);
            out += m_alone ? " // " + m_names.maps[n] + "\n" : "\n";
        }
        std::string functions;
        for (const SceneSource& scene : kScenes) {
            if (body.find(scene.call) == std::string::npos) continue;
            out += fmt::format("uniform {};\n", scene.sampler);
            values.insert(values.end(), scene.values.begin(), scene.values.end());
            functions += scene.function;
        }
        // Every language has blocks; not every one has uniforms outside of them.
        if (m_alone && !values.empty()) out += fmt::format("layout(std140) uniform hs_Values {{\n  {};\n}};\n", fmt::join(values, ";\n  "));
        else
            for (const std::string& value : values) out += fmt::format("uniform {};\n", value);
        out += functions;
        out += glslLibraryFor(body);
        out += "struct hs_Outputs {\n" + outputs + "};\n";
        out += "hs_Outputs hs_material(hs_Point p) {\n  hs_Outputs r;\n" + body + "  return r;\n}\n";
        return out;
    }

    /// What parameters and maps are called; for Of::Alone.
    void setNames(const SurfaceNames& names) { m_names = names; }

  private:
    const Program& m_p;
    const UniformLayout& m_layout;
    const bool m_vertices, m_alone;
    SurfaceNames m_names;
    const std::string_view m_values, m_map;
    Unseen m_unseen;

    /// What instructions compute, with a branch around what only a mask shows.
    void writeLines(std::string& body, const std::vector<size_t>& lines) const {
        const std::vector<bool> outlives = valuesThatOutliveTheirBranch(lines);
        std::set<int32_t> derived;
        std::vector<int32_t> open;
        const auto indent = [&] { body.append(2 * (open.size() + 1), ' '); };
        for (size_t k = 0; k < lines.size(); ++k) {
            const size_t n = lines[k];
            const int32_t at = m_unseen.branchOf[n];
            while (!open.empty() && !m_unseen.within(at, open.back())) {
                open.pop_back();
                indent();
                body += "}\n";
            }
            if (open.empty() && at >= 0) prepare(body, lines, k, outlives, derived);
            std::vector<int32_t> enter;
            for (int32_t b = at; b >= 0 && (open.empty() || b != open.back()); b = m_unseen.branches[size_t(b)].parent) enter.push_back(b);
            for (size_t e = enter.size(); e-- > 0;) {
                const Branch& branch = m_unseen.branches[size_t(enter[e])];
                indent();
                fmt::format_to(std::back_inserter(body), "if ({} {}) {{ // seen here\n", operand(branch.mask),
                               branch.above ? "> 0.0" : "< 1.0");
                open.push_back(enter[e]);
            }
            indent();
            if (!outlives[n]) fmt::format_to(std::back_inserter(body), "{} ", typeOf(m_p.code[n].width));
            fmt::format_to(std::back_inserter(body), "v{} = {};\n", n, expression(n));
        }
        while (!open.empty()) {
            open.pop_back();
            indent();
            body += "}\n";
        }
    }

    /// What is read where the branch that made it is closed.
    std::vector<bool> valuesThatOutliveTheirBranch(const std::vector<size_t>& lines) const {
        std::vector<size_t> lastRead(m_p.code.size(), 0), closes(m_unseen.branches.size(), lines.size());
        for (size_t k = 0; k < lines.size(); ++k)
            for (int a = 0; a < m_p.code[lines[k]].operands; ++a) lastRead[size_t(m_p.code[lines[k]].args[size_t(a)])] = k;
        for (const auto& o : m_p.outputs) lastRead[size_t(o.value)] = lines.size();
        std::vector<bool> out(m_p.code.size());
        for (size_t k = lines.size(); k-- > 0;) {
            const int32_t at = m_unseen.branchOf[lines[k]];
            for (size_t b = 0; b < closes.size(); ++b)
                if (!m_unseen.within(at, int32_t(b))) closes[b] = k;
            out[lines[k]] = at >= 0 && lastRead[lines[k]] >= closes[size_t(at)];
        }
        return out;
    }

    /// What has to stand before branches that begin with line `first`: values that outlive them, which are 0 where nothing is seen, and
    /// derivatives, which need neighbours that may not enter.
    void prepare(std::string& body, const std::vector<size_t>& lines, size_t first, const std::vector<bool>& outlives,
                 std::set<int32_t>& derived) const {
        int32_t outermost = m_unseen.branchOf[lines[first]];
        while (m_unseen.branches[size_t(outermost)].parent >= 0) outermost = m_unseen.branches[size_t(outermost)].parent;
        for (size_t k = first; k < lines.size() && m_unseen.within(m_unseen.branchOf[lines[k]], outermost); ++k) {
            const Instruction& i = m_p.code[lines[k]];
            const int32_t at = i.op == Op::Sample ? i.args[0] : i.op == Op::SampleGuided ? i.args[1] : -1;
            if (at >= 0 && derived.insert(at).second)
                fmt::format_to(std::back_inserter(body), "  vec2 x{0} = dFdx({1}), y{0} = dFdy({1});\n", at, operand(at));
            if (outlives[lines[k]]) {
                const std::string_view type = typeOf(i.width);
                fmt::format_to(std::back_inserter(body), "  {} v{} = {}(0.0);\n", type, lines[k], type);
            }
        }
    }

    bool onPixel(size_t n) const { return m_alone || m_p.code[n].rate > Rate::Placement; }

    /// 0 where nothing reads it.
    int widthOfParameter(size_t k) const {
        for (const Instruction& i : m_p.code)
            if (i.op == Op::Parameter && i.imm == k) return i.width;
        return 0;
    }

    /// Needs no line of its own.
    bool isNamed(Op op) const { return op == Op::Attribute || (m_alone && infoOf(op).is(kFromOutside)); }

    std::string operand(int32_t n) const {
        const Instruction& i = m_p.code[size_t(n)];
        if (i.op == Op::Constant) return constantText(m_p.constants[i.imm], i.width);
        if (const int32_t slot = m_layout.slots[size_t(n)]; slot >= 0) {
            static constexpr std::string_view parts[] = {".x", ".xy", ".xyz", ""};
            return fmt::format("{}[{}]{}", m_values, slot, parts[i.width - 1]);
        }
        if (i.op == Op::Attribute) return fmt::format("p.{}", nameOf(Attribute(i.imm)));
        if (i.op == Op::Parameter) return m_names.parameters[i.imm];
        if (i.op == Op::Time) return "u_time";
        if (i.op == Op::PlacementRandom) return "u_placement";
        if (i.op == Op::ObjectToWorld) return fmt::format("u_objectToWorld[{}].xyz", i.imm);
        if (i.op == Op::CameraToWorld) return fmt::format("u_cameraToWorld[{}].xyz", i.imm);
        if (i.op == Op::CameraScale) return "u_cameraScale";
        if (i.op == Op::TexelSize) return fmt::format("(1.0 / vec2(textureSize({}{}, 0)))", m_map, i.imm);
        return fmt::format("v{}", n);
    }

    std::string spreadOperand(int32_t n, int width) const {
        const std::string text = operand(n);
        return m_p.code[size_t(n)].width == width ? text : fmt::format("{}({})", typeOf(width), text);
    }

    /// A choice, not a product: what is hidden may be no number.
    std::string whereText(const Instruction& i, std::string_view compares, std::string_view compared, std::string_view with) const {
        const std::string_view type = typeOf(i.width);
        const std::string value = spreadOperand(i.args[0], i.width);
        if (i.width == 1) return fmt::format("({} {} ? {} : 0.0)", operand(i.args[1]), compared, value);
        return fmt::format("mix({0}(0.0), {1}, {2}({3}, {0}{4}))", type, value, compares, spreadOperand(i.args[1], i.width), with);
    }

    std::string expression(size_t n) const {
        const Instruction& i = m_p.code[n];
        char buffer[4];
        if (handsOut(m_unseen, i)) return spreadOperand(i.args[0], i.width);
        if (m_unseen.branchOf[n] >= 0 && (i.op == Op::Sample || i.op == Op::SampleGuided))
            return fmt::format("textureGrad({0}{1}, {2}, x{3}, y{3})", m_map, i.imm, operand(i.args[0]),
                               i.args[i.op == Op::Sample ? 0 : 1]);
        switch (i.op) {
        case Op::Swizzle:
            // A number has no components to name in this version of the language.
            return m_p.code[size_t(i.args[0])].width == 1 ? spreadOperand(i.args[0], i.width)
                                                          : fmt::format("{}.{}", operand(i.args[0]), swizzleText(i.imm, i.width, buffer));
        case Op::Compose: {
            std::string out = fmt::format("{}(", typeOf(i.width));
            for (int a = 0; a < i.operands; ++a) out += (a ? ", " : "") + operand(i.args[size_t(a)]);
            return out + ")";
        }
        case Op::WhereAbove0: return whereText(i, "greaterThan", "> 0.0", "(0.0)");
        case Op::WhereBelow1: return whereText(i, "lessThan", "< 1.0", "(1.0)");
        default: break;
        }
        const OpInfo& info = infoOf(i.op);
        std::string args[kMostOperands];
        for (int a = 0; a < i.operands; ++a)
            args[a] = info.is(kElementwise) ? spreadOperand(i.args[size_t(a)], i.width) : operand(i.args[size_t(a)]);
        return fmt::format(fmt::runtime(m_vertices ? glslOfVertices(i.op, info.glsl) : info.glsl), args[0], args[1], args[2], args[3],
                           fmt::arg("imm", i.imm), fmt::arg("map", m_map));
    }

    static std::string_view glslOfVertices(Op op, std::string_view otherwise) {
        switch (op) {
        case Op::Sample:
        case Op::SampleGuided: return "textureLod({map}{imm}, {0}, 0.0)";
        case Op::SampleFramed: return "hs_framed0({map}{imm}, {0}, {1}, {2})";
        case Op::Behind:
        case Op::Around: return "vec3(0.5)";
        default: return otherwise;
        }
    }
};

} // namespace

const std::string_view kGlslVersion = "#version 410 core\n";

std::string numberText(float x) {
    if (std::isnan(x)) return "(0.0 / 0.0)";
    if (std::isinf(x)) return x > 0 ? "(1.0 / 0.0)" : "(-1.0 / 0.0)";
    std::string text = fmt::format("{:.9g}", x);
    if (text.find_first_of(".e") == std::string::npos) text += ".0";
    return x < 0 ? "(" + text + ")" : text;
}

std::string constantText(const std::array<float, 4>& v, int width) {
    if (width == 1) return numberText(v[0]);
    std::string out = fmt::format("{}(", typeOf(width));
    for (int c = 0; c < width; ++c) out += (c ? ", " : "") + numberText(v[size_t(c)]);
    return out + ")";
}

std::string outputText(const Program& p, std::string_view name, std::string_view otherwise) {
    for (size_t k = 0; k < p.outputs.size(); ++k)
        if (p.outputs[k].name == name) return fmt::format("m.o{}", k);
    return std::string(otherwise);
}

std::string emitMaterial(const Program& program, const UniformLayout& layout) {
    return Emitter(program, layout, Emitter::Of::Pixels).run();
}
std::string emitVertices(const Program& program, const UniformLayout& layout) {
    return Emitter(program, layout, Emitter::Of::Vertices).run();
}

std::string flatVertexStage() {
    return std::string(kGlslVersion) +
           "void main() { gl_Position = vec4(gl_VertexID == 1 ? 3.0 : -1.0, gl_VertexID == 2 ? 3.0 : -1.0, 0.0, 1.0); }\n";
}

std::string flatFragmentStage(const Program& p, const UniformLayout& layout, std::string_view output) {
    std::string out(kGlslVersion);
    out += emitMaterial(p, layout);
    const int32_t value = p.output(output);
    const int width = value < 0 ? 1 : p.code[size_t(value)].width;
    static constexpr std::string_view rest[] = {", 0.0, 0.0, 1.0", ", 0.0, 1.0", ", 1.0", ""};
    out += fmt::format(R"(uniform vec2 u_size;
layout(location = 0) out vec4 o_value;
void main() {{
  vec2 uv = gl_FragCoord.xy / u_size;
  hs_Point p = hs_Point(uv, uv, vec4(1.0), vec3(uv.x, 1.0 - uv.y, 0.0), vec3(uv.x, 1.0 - uv.y, 0.0), vec3(0.0, 0.0, 1.0), vec3(0.0, 0.0, 1.0),
                        vec3(1.0, 0.0, 0.0), vec3(0.0, 1.0, 0.0), vec3(0.0, 0.0, 1.0), uv, 1000.0, 1.0{}{});
  hs_Outputs m = hs_material(p);
  o_value = vec4({}{});
}}
)",
                       p.reads(Attribute::Painted) ? ", vec4(0.0)" : "", p.reads(Attribute::PaintedSecond) ? ", vec4(0.0)" : "",
                       outputText(p, output, "0.0"), rest[width - 1]);
    return out;
}

std::string surfaceFunctionStage(const Program& p, const SurfaceNames& names) {
    UniformLayout none;
    none.slots.assign(p.code.size(), -1);
    Emitter emitter(p, none, Emitter::Of::Alone);
    emitter.setNames(names);
    std::string out = "#version 450 core\n";
    out += emitter.run();
    // What the mesh gives: only what is read.
    std::string inputs, fields;
    int location = 0;
    for (uint32_t a = 0; a < uint32_t(Attribute::Count); ++a) {
        const auto attribute = Attribute(a);
        const std::string_view type = typeOf(widthOf(attribute));
        const bool read = p.reads(attribute);
        if (!read && standsWhereRead(attribute)) continue;
        if (attribute == Attribute::Side) {
            fields += ", gl_FrontFacing ? 1.0 : -1.0";
            continue;
        }
        if (read) inputs += fmt::format("layout(location = {}) in {} i_{};\n", location++, type, nameOf(attribute));
        fields += fmt::format("{}{}", a ? ", " : "", read ? fmt::format("i_{}", nameOf(attribute)) : fmt::format("{}(0.0)", type));
    }
    // Channels side by side in targets of four components.
    struct Target {
        std::string comment, value;
        int width = 0;
    };
    std::vector<Target> targets;
    for (size_t k = 0; k < p.outputs.size(); ++k) {
        const int width = p.code[size_t(p.outputs[k].value)].width;
        auto target = std::find_if(targets.begin(), targets.end(), [&](const Target& t) { return t.width + width <= 4; });
        if (target == targets.end()) target = targets.insert(targets.end(), Target{});
        target->comment += fmt::format("{}{}", target->width ? ", " : "", p.outputs[k].name);
        target->value += fmt::format("{}m.o{}", target->width ? ", " : "", k);
        target->width += width;
    }
    std::string writes;
    for (size_t t = 0; t < targets.size(); ++t) {
        inputs += fmt::format("layout(location = {}) out {} o_target{}; // {}\n", t, typeOf(targets[t].width), t, targets[t].comment);
        writes += targets[t].width == 1 ? fmt::format("  o_target{} = {};\n", t, targets[t].value)
                                        : fmt::format("  o_target{} = {}({});\n", t, typeOf(targets[t].width), targets[t].value);
    }
    return out + inputs + fmt::format("void main() {{\n  hs_Outputs m = hs_material(hs_Point({}));\n{}}}\n", fields, writes);
}

} // namespace hue
