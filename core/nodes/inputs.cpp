// Where values come from: constants, parameters, maps and the mesh.
#include "core/document/parameter_kinds.h"
#include "core/nodes/port_makers.h"
#include "core/nodes/spaces.h"

namespace hue {

void addInputNodes(std::vector<NodeDef>& list) {
    const std::string_view family = "Inputs";
    list.push_back({"constant",
                    "Constant",
                    family,
                    "value number color vector float",
                    "One to four numbers that stay as they are.",
                    {anyIn("value", 0, "The constant")},
                    {anyOut()},
                    {},
                    [](Lowering& l) { l.out("out", l.in("value")); }});
    list.push_back({"parameter",
                    "Parameter",
                    family,
                    "exposed uniform property input",
                    "A named value that instances can set.",
                    {},
                    {anyOut()},
                    {{"parameter", {}, "", "Which parameter of the master"}},
                    [](Lowering& l) {
                        const Parameter* p = l.parameter();
                        if (!p) return;
                        if (p->leadsMap()) l.outMap("out", l.b.mapSlot({p->id, {}, slotKindOf(*p)}));
                        else if (p->isBuildChoice()) l.out("out", l.b.constant({1, {p->standard.value[0]}}));
                        else l.out("out", l.b.parameter(p->id, p->width()));
                    }});
    list.push_back(
        {"image",
         "Image",
         family,
         "texture picture map bitmap sample fetch file",
         "A map read at a UV. Only color maps are decoded from sRGB, and never their alpha.",
         {{"map", kMapPort, Meaning::Any, {}, 0, 1, "A map parameter; or choose a map on the card", {}}, uvIn()},
         {out(3, Meaning::Color, "color", "Red, green and blue"), numberOut("alpha", "The fourth channel; 1 where the map has none")},
         {{"map", {}, "", "A map of the project"}},
         [](Lowering& l) {
             const int slot = l.mapSlot("map");
             if (slot < 0) return;
             const Val rgba = l.b.sample(slot, l.in("uv"));
             l.out("color", l.b.swizzle(rgba, {0, 1, 2}));
             l.out("alpha", l.b.component(rgba, 3));
         }});
    list.push_back({"texcoord",
                    "Texcoord",
                    family,
                    "uv coordinates st",
                    "The mesh's UVs. V grows downward, as in glTF.",
                    {},
                    {out(2, Meaning::Uv)},
                    {{"set", {"0", "1"}, "0", "UV set"}},
                    [](Lowering& l) { l.out("out", l.uv(l.setting("set") == "1" ? 1 : 0)); }});
    list.push_back({"geometric_color",
                    "Geometric color",
                    family,
                    "vertex color paint painted mesh",
                    "The colors painted on the mesh's vertices; white where there are none.",
                    {},
                    {out(3, Meaning::Color, "color"), numberOut("alpha")},
                    {},
                    [](Lowering& l) {
                        const Val c = l.b.attribute(Attribute::Color);
                        l.out("color", l.b.swizzle(c, {0, 1, 2}));
                        l.out("alpha", l.b.component(c, 3));
                    }});
    list.push_back(
        {"painted",
         "Painted channel",
         family,
         "paint brush vertex color mask wear rust dirt blend by hand",
         "One channel of what is painted on the mesh's vertices; its title is the channel's name. 0 on a mesh that has no paint.",
         {},
         {numberOut()},
         {{"channel",
           {"1", "2", "3", "4", "5", "6", "7", "8"},
           "1",
           "Which of the eight channels; 5 to 8 cost a second set of vertex colors"}},
         [](Lowering& l) {
             const int channel = l.setting("channel")[0] - '1';
             const Val set = l.b.attribute(channel < 4 ? Attribute::Painted : Attribute::PaintedSecond);
             l.out("out", l.b.component(set, channel % 4));
         }});
    list.push_back({"position",
                    "Position",
                    family,
                    "world object location point",
                    "Where the point lies, in metres.",
                    {},
                    {out(3, Meaning::Position)},
                    {{"space",
                      {"object", "world", "object, moved", "world, before"},
                      "object",
                      "Of the object as it was before the vertex offset moved it, of the world as it is drawn; or the other way around"}},
                    [](Lowering& l) {
                        const std::string_view space = l.setting("space");
                        const bool drawn = space == "world" || space == "object, moved";
                        const Val point = l.b.attribute(drawn ? Attribute::PositionWorld : Attribute::PositionObject);
                        l.out("out", space == "object, moved"   ? pointFromWorld(l.b, point, Space::Object)
                                     : space == "world, before" ? pointToWorld(l.b, point, Space::Object)
                                                                : point);
                    }});
    list.push_back({"normal",
                    "Normal",
                    family,
                    "direction face geometric",
                    "The direction the surface looks, unit length: of the mesh, or as the normal channel bends it.",
                    {},
                    {out(3, Meaning::Normal)},
                    {{"space", {"object", "world"}, "world", "Space"},
                     {"of", {"mesh", "mapped"}, "mesh", "Of the mesh alone, or with what is wired to the channel Normal"}},
                    [](Lowering& l) {
                        const bool world = l.setting("space") == "world";
                        if (l.setting("of") == "mesh")
                            return l.out("out", l.b.attribute(world ? Attribute::NormalWorld : Attribute::NormalObject));
                        const Val mapped = l.b.normalize(l.mappedNormal());
                        l.out("out", world ? mapped : l.b.normalize(vectorFromWorld(l.b, mapped, Space::Object)));
                    }});
    list.push_back({"tangent",
                    "Tangent",
                    family,
                    "direction u along frame anisotropy brushed",
                    "The direction on the surface along which U grows; world space, unit length.",
                    {},
                    {out(3, Meaning::Direction)},
                    {},
                    [](Lowering& l) { l.out("out", l.b.attribute(Attribute::TangentWorld)); }});
    list.push_back({"bitangent",
                    "Bitangent",
                    family,
                    "direction v binormal across frame",
                    "The direction on the surface at right angles to the tangent, up a map; world space, unit length.",
                    {},
                    {out(3, Meaning::Direction)},
                    {},
                    [](Lowering& l) { l.out("out", l.b.attribute(Attribute::BitangentWorld)); }});
    list.push_back(
        {"random_vertex_offset",
         "Random vertex offset",
         family,
         "jitter wobble crumple noise displace uneven",
         "A random direction for each vertex, for the vertex offset: dents and bumps that stay. Vertices at one place move together.",
         {numberIn("amount", 0.01f, "The farthest that a vertex moves along each axis", 0, 0.1f, "m"),
          numberIn("seed", 0, "Another whole number moves vertices in another way", 0, 100)},
         {out(3, Meaning::Vector)},
         {},
         [](Lowering& l) {
             Builder& b = l.b;
             // Cells of a tenth of a millimetre, so that each vertex has one of its own.
             const Val at = b.mul(b.attribute(Attribute::PositionObject), b.number(10000));
             const Val seed = b.mul(b.op(Op::Floor, l.in("seed")), b.number(37));
             const auto chance = [&](float shift) { return b.cell3(b.add(at, b.add(seed, b.number(shift)))); };
             const Val random = b.compose({chance(0.5f), chance(4001.5f), chance(-7993.5f)});
             l.out("out", b.mul(b.sub(b.mul(random, b.number(2)), b.number(1)), l.in("amount")));
         }});
    list.push_back({"random_per_placement",
                    "Random per placement",
                    family,
                    "seed variation object each copy vary",
                    "A number that differs for each placed copy of a mesh and stays with it.",
                    {numberIn("low", 0, "Smallest"), numberIn("high", 1, "Largest")},
                    {numberOut()},
                    {},
                    [](Lowering& l) { l.out("out", l.b.mix(l.in("low"), l.in("high"), l.b.placementRandom())); }});
    list.push_back({"dot",
                    "Dot",
                    family,
                    "pass through lead around",
                    "Passes a value on unchanged, to lead a wire around.",
                    {anyIn("in", 0, "Any value")},
                    {anyOut()},
                    {},
                    [](Lowering& l) { l.out("out", l.in("in")); }});
}

void addNoteNode(std::vector<NodeDef>& list) {
    list.push_back({"note",
                    "Note",
                    "Notes",
                    "comment remark text label explain",
                    "Words on the board. They cost nothing and travel with the cards.",
                    {},
                    {},
                    {{"text", {}, "", "What it says"}},
                    [](Lowering&) {}});
    list.push_back({"output",
                    "Output",
                    "Assemblies",
                    "assembly result give gives return",
                    "What an assembly gives. Its title is the name of the port; outputs stand on the card in the order of their height.",
                    {withFinishes(anyIn("in", 0, "Any value"))},
                    {},
                    {},
                    [](Lowering&) {}});
}

} // namespace hue
