#pragma once
// What a node is: defined once, read by the board, the add line, the checker, the file reader and the docs.
// Threads: plain values; each thread has its own.
#include "core/document/project.h"
#include "core/program/builder.h"

#include <functional>
#include <string_view>
#include <vector>

namespace hue {

constexpr int kAnyWidth = 0;    ///< follows the other ports of any width of the same node
constexpr int kMapPort = -1;    ///< carries a map, not numbers
constexpr int kFinishPort = -2; ///< carries a finish: a whole surface
constexpr bool carriesNumbers(int width) { return width >= kAnyWidth; }

/// What an unwired input reads; Sight: the direction from the eye to the point, world space.
enum class Unwired { Constant, Uv, NormalWorld, PositionObject, Sight };

struct PortDef {
    std::string_view key;
    int width = kAnyWidth;
    Meaning meaning = Meaning::Any;
    Value standard;          ///< default of an unwired input; a number spreads
    float low = 0, high = 1; ///< comfortable range for dragging
    std::string_view help;
    std::string_view unit;
    Unwired unwired = Unwired::Constant;
    bool apart = false;    ///< of any width, and has one of its own
    bool finishes = false; ///< of any width, and takes or gives finishes as well

    /// Whether a wire of that many components, of a map or of a finish leads what the port is for.
    bool takes(int wire) const {
        if (wire == kMapPort || width == kMapPort) return wire == width;
        if (wire == kFinishPort || width == kFinishPort) return wire == width || (wire == kFinishPort && width == kAnyWidth && finishes);
        return true;
    }
};

/// A choice that is compiled in. Without `choices` it is free text (an id).
struct SettingDef {
    std::string_view key;
    std::vector<std::string_view> choices;
    std::string_view standard;
    std::string_view help;
    bool ofFinishes = false; ///< is shown only where a finish comes in
};

struct Finish; // core/nodes/finish.h

/// What a definition sees of the graph while it lowers one node.
class Lowering {
  public:
    explicit Lowering(Builder& builder) : b(builder) {}
    virtual ~Lowering() = default;

    virtual Val in(std::string_view port) = 0;
    /// The input evaluated as if the mesh's UVs were moved by `offset` (width 2).
    virtual Val inAtShiftedUv(std::string_view port, Val offset) = 0;
    /// A UV set with the shift that is in force.
    virtual Val uv(int set) = 0;
    virtual bool wired(std::string_view port) const = 0;
    /// What the normal channel of the surface shows; the mesh's normal where that shows none, or needs this card itself.
    virtual Val mappedNormal() = 0;
    /// Map slot of a map port, or -1 when nothing gives a map.
    virtual int mapSlot(std::string_view port) = 0;
    /// The steps along U and V of the mesh (width 2) that move what is read behind the input by one texel of its first map, however the
    /// map is tiled, placed or turned; a 1024th where the input reads no map.
    virtual Val texelStep(std::string_view port) = 0;
    /// The same for a map that is read at the UV that an input brings.
    virtual Val texelStep(int slot, std::string_view uvPort) = 0;
    /// Whether the input changes when the mesh's UVs are moved.
    virtual bool followsUv(std::string_view port) = 0;
    /// Whether a finish comes in at a port of any width.
    virtual bool bringsFinish(std::string_view port) = 0;
    /// The finish at a port; a plain one, and a word about it, where none comes.
    virtual Finish finish(std::string_view port) = 0;
    /// What the master or instance looks like that a Finish of card names.
    virtual Finish wornFinish() = 0;
    virtual void outFinish(std::string_view port, Finish finish) = 0;
    /// A word to the artist about this card.
    virtual void caution(std::string_view code, std::string_view port, const std::string& sentence) = 0;
    /// An error of this card; what it gives does not count any more.
    virtual void fail(std::string_view code, std::string_view port, const std::string& sentence) = 0;
    virtual std::string_view setting(std::string_view key) const = 0;
    virtual const Parameter* parameter() const = 0;
    virtual void out(std::string_view port, Val value) = 0;
    virtual void outMap(std::string_view port, int slot) = 0;

    Builder& b;
};

struct NodeDef {
    std::string_view key;  ///< in files
    std::string_view name; ///< for people
    std::string_view family;
    std::string_view words; ///< further search words, separated by blanks
    std::string_view help;
    std::vector<PortDef> inputs;
    std::vector<PortDef> outputs;
    std::vector<SettingDef> settings;
    void (*lower)(Lowering&) = nullptr;
    /// Whether a card reads an input, as its choices are; null: all of them.
    bool (*readsInput)(const Node&, std::string_view port) = nullptr;
    /// Whether a card shows an output while no wire starts there; null: all of them.
    bool (*showsOutput)(const Node&, std::string_view port) = nullptr;

    const PortDef* input(std::string_view port) const;
    const PortDef* output(std::string_view port) const;
    const SettingDef* setting(std::string_view key) const;
};

} // namespace hue
