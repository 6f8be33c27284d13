#include "core/check/loop_advice.h"

#include "core/compile/opened_graph.h"
#include "core/edits/edits.h"
#include "core/nodes/catalogue.h"

#include <algorithm>
#include <cctype>
#include <cmath>
#include <fmt/format.h>

namespace hue {
namespace {

constexpr std::string_view kCode = "advice.no-return";

/// The input in turns a second of a card that moves; empty for others.
std::string_view rateOf(const Node& card) {
    const NodeDef* def = findNodeDef(card.kind);
    if (!def) return {};
    if (card.kind == "scroll") return "speed";
    if (card.kind == "wave" && settingOf(card, *def, "of") == "time") return "frequency";
    return def->setting("points") && settingOf(card, *def, "points") == "moving" ? "rate" : "";
}

class Loops {
  public:
    Loops(const Project& project, const Master& master) : m_project(project), m_master(master), m_opened(openedGraph(project, master)) {}

    std::vector<Diagnostic> run() {
        const Graph& graph = m_opened.opened ? *m_opened.opened : m_master.graph;
        std::vector<Diagnostic> out;
        for (const auto& [way, card] : graph.nodes) {
            const std::string port(rateOf(*card));
            if (port.empty()) continue;
            const std::optional<Chosen> rate = chosen(graph, way, port);
            const std::optional<Value> whole = rate ? wholeTurns(rate->value) : std::nullopt;
            if (whole) out.push_back(told(way, port, *rate, *whole));
        }
        return out;
    }

  private:
    struct Chosen {
        Value value;
        const Parameter* parameter = nullptr; ///< of the master; null where a card holds it
        Place place;                          ///< of the value, where a card holds it
    };

    Place placeOf(const Id& way, const std::string& port) const {
        const auto home = m_opened.homes.find(way);
        return home == m_opened.homes.end() ? Place{m_master.id, way, port} : Place{home->second.first, home->second.second, port};
    }

    /// Goes back through what hands values into assemblies, to where somebody chose the value; nothing where nobody did, or where it is
    /// computed.
    std::optional<Chosen> chosen(const Graph& graph, Id way, std::string port) const {
        while (const Node* card = graph.find(way)) {
            const auto wire = card->wires.find(port);
            if (wire == card->wires.end()) {
                const auto own = card->constants.find(port);
                if (own == card->constants.end()) return {};
                const auto input = m_opened.inputs.find(way);
                return Chosen{own->second, nullptr,
                              input == m_opened.inputs.end() ? placeOf(way, port) : placeOf(input->second.first, input->second.second)};
            }
            if (!wire->second.take.empty()) return {};
            const Node* from = graph.find(wire->second.node);
            if (from && from->kind == "parameter") {
                const auto setting = from->settings.find("parameter");
                const Parameter* parameter = setting == from->settings.end() ? nullptr : m_master.parameter(setting->second);
                if (!parameter || !parameter->width()) return {};
                return Chosen{parameter->standard.value, parameter, {}};
            }
            if (!from || !m_opened.inputs.contains(from->id)) return {};
            way = from->id, port = "in";
        }
        return {};
    }

    /// The nearest rate that comes back after the loop; nothing where this one does.
    std::optional<Value> wholeTurns(Value rate) const {
        bool returns = true;
        for (int c = 0; c < rate.width; ++c) {
            const float turns = rate[c] * m_project.loopSeconds, near = std::round(turns);
            if (std::fabs(turns - near) < 1e-3f) continue;
            returns = false;
            rate[c] = (near == 0 ? std::copysign(1.f, turns) : near) / m_project.loopSeconds;
        }
        return returns ? std::nullopt : std::optional(rate);
    }

    Diagnostic told(const Id& way, const std::string& port, const Chosen& rate, const Value& whole) const {
        std::string figures;
        for (int c = 0; c < whole.width; ++c) figures += fmt::format("{}{:.4g}", c ? " " : "", whole[c]);
        const Place moving = placeOf(way, port);
        const Master& board = *m_project.board(moving.master);
        std::string what = rate.parameter ? rate.parameter->name : fmt::format("{} of {}", port, cardTitle(m_project, board, moving.node));
        what[0] = char(std::toupper(static_cast<unsigned char>(what[0])));
        if (board.id != m_master.id) what = fmt::format("In {}, as {} uses it: {}", board.name, m_master.name, what);
        Fix take{"Take " + figures, {}};
        if (rate.parameter)
            take.edit = [master = m_master.id, p = *rate.parameter, whole](const Project& project) {
                Parameter changed = p;
                changed.standard.value = whole;
                return edit::changeParameter(project, master, changed);
            };
        else
            take.edit = [at = rate.place, whole](const Project& project) {
                return edit::setConstant(project, at.master, at.node, at.port, whole);
            };
        Fix silence{fmt::format("Silence for {}", m_master.name),
                    [master = m_master.id](const Project& p) { return edit::silenceAdvice(p, master, std::string(kCode), true); }};
        return {Severity::Advice,
                std::string(kCode),
                moving,
                fmt::format("{} does not return after the loop of {:g} s; {} does.", what, m_project.loopSeconds, figures),
                {std::move(take), std::move(silence)}};
    }

    const Project& m_project;
    const Master& m_master;
    const OpenedGraph m_opened;
};

} // namespace

std::vector<Diagnostic> loopAdvice(const Project& project, const Master& master) {
    const auto& silent = master.silencedAdvice;
    if (!(project.loopSeconds > 0) || std::find(silent.begin(), silent.end(), kCode) != silent.end()) return {};
    return Loops(project, master).run();
}

} // namespace hue
