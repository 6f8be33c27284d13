// Comparisons and choices. A number counts as yes above one half; answers are 0 and 1.
#include "core/nodes/finish.h"
#include "core/nodes/port_makers.h"

#include <algorithm>
#include <iterator>

namespace hue {
namespace {

Val yes(Lowering& l, std::string_view port) { return l.b.greater(l.in(port), l.b.number(0.5f)); }

constexpr std::string_view kChosen[] = {"in1", "in2", "in3", "in4", "in5", "in6", "in7", "in8"};
static_assert(std::size(kChosen) == Parameter::kMostOptions);

int valuesOf(const Lowering& l) { return std::clamp(l.setting("values")[0] - '0', 2, Parameter::kMostOptions); }

/// By what is known when compiling, one input alone; else all of them, and one is taken.
void choose(Lowering& l) {
    Builder& b = l.b;
    const int values = valuesOf(l);
    const Val which = l.in("which");
    bool finishes = false;
    for (int k = 0; k < values; ++k) finishes = finishes || l.bringsFinish(kChosen[k]);
    if (const std::optional<Value> fixed = b.constantValue(which)) {
        const std::string_view port = kChosen[size_t(std::clamp((*fixed)[0], 0.f, float(values - 1)))];
        if (finishes) l.outFinish("out", l.finish(port));
        else l.out("out", l.in(port));
        return;
    }
    if (finishes) {
        Finish chosen = l.finish(kChosen[0]);
        for (int k = 1; k < values; ++k) {
            const Val reached = b.oneMinus(b.op(Op::Less, which, b.number(float(k))));
            chosen = mixed(b, chosen, l.finish(kChosen[k]), reached);
        }
        return l.outFinish("out", chosen);
    }
    Val chosen = l.in(kChosen[values - 1]);
    for (int k = values - 1; k-- > 0;) chosen = b.op(Op::Select, b.op(Op::Less, which, b.number(float(k + 1))), l.in(kChosen[k]), chosen);
    l.out("out", chosen);
}

NodeDef chooseNode() {
    NodeDef def{"choose",
                "Choose",
                "Ranges and masks",
                "build choice option variant switch pick select",
                "One of two to eight values or finishes, by a build choice: the others are not in that build. By a value that stays open, "
                "all of them are computed.",
                {numberIn("which", 0, "A build choice; 0 is the first", 0, Parameter::kMostOptions - 1)},
                {withFinishes(anyOut())},
                {{"values", {"2", "3", "4", "5", "6", "7", "8"}, "2", "How many values"}},
                choose,
                [](const Node& node, std::string_view port) {
                    const auto values = node.settings.find("values");
                    const char most = values == node.settings.end() || values->second.empty() ? '2' : values->second[0];
                    return port == "which" || port.back() <= most;
                }};
    for (size_t k = 0; k < std::size(kChosen); ++k)
        def.inputs.push_back(withFinishes(anyIn(kChosen[k], k == 0 ? 0 : 1,
                                                k == 0   ? "At 0, or off"
                                                : k == 1 ? "At 1, or on"
                                                         : "At the next")));
    return def;
}

} // namespace

void addLogicNodes(std::vector<NodeDef>& list) {
    const std::string_view family = "Ranges and masks";
    list.push_back({"if_greater",
                    "If greater",
                    family,
                    "compare condition branch select choose >",
                    "in1 where value1 is greater than value2, else in2.",
                    {numberIn("value1", 1, "Compared"), numberIn("value2", 0, "Compared with"), anyIn("in1", 1, "Where value1 is greater"),
                     anyIn("in2", 0, "Elsewhere")},
                    {anyOut()},
                    {},
                    [](Lowering& l) {
                        const Val greater = l.b.op(Op::Less, l.in("value2"), l.in("value1"));
                        l.out("out", l.b.op(Op::Select, greater, l.in("in1"), l.in("in2")));
                    }});
    list.push_back(
        {"if_equal",
         "If equal",
         family,
         "compare condition same choose match id == branch",
         "in1 where value1 and value2 are the same, else in2.",
         {numberIn("value1", 0, "Compared"), numberIn("value2", 0, "Compared with"), anyIn("in1", 1, "Where they are the same"),
          anyIn("in2", 0, "Elsewhere"), numberIn("tolerance", 0.001f, "How far apart they may be and still count as the same", 0, 0.5f)},
         {anyOut()},
         {},
         [](Lowering& l) {
             Builder& b = l.b;
             const Val apart = b.op(Op::Abs, b.sub(l.in("value1"), l.in("value2")));
             l.out("out", b.op(Op::Select, b.greater(apart, l.in("tolerance")), l.in("in2"), l.in("in1")));
         }});
    const auto two = [&](std::string_view key, std::string_view name, std::string_view words, std::string_view help,
                         void (*lower)(Lowering&)) {
        list.push_back({key,
                        name,
                        family,
                        words,
                        help,
                        {numberIn("in1", 0, "Yes above one half"), numberIn("in2", 0, "Yes above one half")},
                        {numberOut()},
                        {},
                        lower});
    };
    two("and", "And", "both logic boolean intersect &", "1 where both are yes, that is above one half; else 0.",
        [](Lowering& l) { l.out("out", l.b.mul(yes(l, "in1"), yes(l, "in2"))); });
    two("or", "Or", "either logic boolean union |", "1 where at least one is yes, that is above one half; else 0.",
        [](Lowering& l) { l.out("out", l.b.op(Op::Max, yes(l, "in1"), yes(l, "in2"))); });
    list.push_back({"not",
                    "Not",
                    family,
                    "negate logic boolean opposite !",
                    "0 where the value is yes, that is above one half; else 1.",
                    {numberIn("in", 0, "Yes above one half")},
                    {numberOut()},
                    {},
                    [](Lowering& l) { l.out("out", l.b.oneMinus(yes(l, "in"))); }});
    list.push_back({"switch",
                    "Switch",
                    family,
                    "select choose pick index case multiple",
                    "One of two to five values, by number: from 0 on the first, from 1 on the second, and so on. All of them are computed.",
                    {numberIn("which", 0, "0 is the first", 0, 4), anyIn("in1", 0, "The first value"), anyIn("in2", 1, "The second"),
                     anyIn("in3", 0, "The third, when there is one"), anyIn("in4", 0, "The fourth, when there is one"),
                     anyIn("in5", 0, "The fifth, when there is one")},
                    {anyOut()},
                    {{"values", {"2", "3", "4", "5"}, "3", "How many values"}},
                    [](Lowering& l) {
                        static constexpr std::string_view ports[] = {"in1", "in2", "in3", "in4", "in5"};
                        const int values = l.setting("values")[0] - '0';
                        const Val which = l.in("which");
                        Val chosen = l.in(ports[values - 1]);
                        for (int k = values - 1; k-- > 0;)
                            chosen = l.b.op(Op::Select, l.b.op(Op::Less, which, l.b.number(float(k + 1))), l.in(ports[k]), chosen);
                        l.out("out", chosen);
                    },
                    [](const Node& node, std::string_view port) {
                        const auto values = node.settings.find("values");
                        const char most = values == node.settings.end() || values->second.empty() ? '3' : values->second[0];
                        return port == "which" || port.back() <= most;
                    }});
    list.push_back(chooseNode());
}

} // namespace hue
