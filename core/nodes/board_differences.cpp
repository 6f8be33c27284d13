#include "core/nodes/board_differences.h"

#include "core/nodes/assembly_card.h"

#include <algorithm>
#include <fmt/format.h>
#include <set>

namespace hue {
namespace {

std::string textOf(const Value& v) {
    std::string out;
    for (int c = 0; c < v.width; ++c) out += fmt::format("{}{:g}", c ? " " : "", v[c]);
    return out;
}

class Differences {
  public:
    Differences(const Project& before, const Master& was, const Project& after, const Master& is)
        : m_before(before), m_was(was), m_after(after), m_is(is) {}

    std::vector<BoardDifference> run() {
        using How = BoardDifference::How;
        std::set<Id> ids;
        for (const auto& [id, node] : m_was.graph.nodes) ids.insert(id);
        for (const auto& [id, node] : m_is.graph.nodes) ids.insert(id);
        for (const Id& id : ids) {
            const Node *old = m_was.graph.find(id), *now = m_is.graph.find(id);
            if (!old) m_out.push_back({How::Added, id, {}, {}});
            else if (!now) m_out.push_back({How::Removed, id, {}, {}});
            else if (old != now)
                if (std::vector<std::string> what = between(*old, *now); !what.empty())
                    m_out.push_back({How::Changed, id, {}, std::move(what)});
        }
        std::set<std::string> channels;
        for (const Graph* g : {&m_was.graph, &m_is.graph}) {
            for (const auto& [key, wire] : g->channelWires) channels.insert(key);
            for (const auto& [key, value] : g->channelConstants) channels.insert(key);
            channels.insert(g->mutedChannels.begin(), g->mutedChannels.end());
        }
        for (const std::string& key : channels) {
            std::vector<std::string> what;
            wire({}, key, m_was.graph.channelWires, m_is.graph.channelWires, what);
            if (!m_is.graph.channelWires.contains(key)) value({}, key, m_was.graph.channelConstants, m_is.graph.channelConstants, what);
            const auto muted = [&](const Graph& g) {
                return std::find(g.mutedChannels.begin(), g.mutedChannels.end(), key) != g.mutedChannels.end();
            };
            if (muted(m_was.graph) != muted(m_is.graph)) what.emplace_back(muted(m_is.graph) ? "muted" : "no longer muted");
            if (!what.empty()) m_out.push_back({How::Changed, {}, key, std::move(what)});
        }
        return std::move(m_out);
    }

  private:
    static std::string sourceText(const Project& p, const Master& m, const Source& s) {
        std::string out = cardTitle(p, m, s.node);
        if (s.port != "out") out += " " + s.port;
        if (!s.take.empty()) out += " ." + s.take;
        return s.perVertex ? out + " per vertex" : out;
    }

    using Wires = std::map<std::string, Source>;
    void wire(const std::string& before, const std::string& port, const Wires& was, const Wires& is, std::vector<std::string>& out) const {
        const auto old = was.find(port), now = is.find(port);
        if (old == was.end() && now == is.end()) return;
        const std::string from = now == is.end() ? "" : sourceText(m_after, m_is, now->second);
        const std::string had = old == was.end() ? "" : sourceText(m_before, m_was, old->second);
        const bool same = old != was.end() && now != is.end() && old->second.node == now->second.node &&
                          old->second.port == now->second.port && old->second.take == now->second.take &&
                          old->second.perVertex == now->second.perVertex;
        if (same) return;
        const std::string name = before.empty() ? "wire" : fmt::format("wire into {}", before);
        out.push_back(now == is.end()    ? fmt::format("{} is gone, was from {}", name, had)
                      : old == was.end() ? fmt::format("{} from {}", name, from)
                                         : fmt::format("{} from {}, was from {}", name, from, had));
    }

    using Values = std::map<std::string, Value>;
    void value(const std::string& name, const std::string& key, const Values& was, const Values& is, std::vector<std::string>& out) const {
        const auto old = was.find(key), now = is.find(key);
        const std::string had = old == was.end() ? "as it comes" : textOf(old->second),
                          has = now == is.end() ? "as it comes" : textOf(now->second);
        if (had != has) out.push_back(fmt::format("{}{}, was {}", name.empty() ? "" : name + " ", has, had));
    }

    std::vector<std::string> between(const Node& old, const Node& now) const {
        std::vector<std::string> out;
        if (old.kind != now.kind || assemblyOf(old) != assemblyOf(now)) {
            const NodeDef *was = nodeDefOf(m_before, old), *is = nodeDefOf(m_after, now);
            out.push_back(fmt::format("{}, was {}", is ? is->name : now.kind, was ? was->name : old.kind));
        }
        if (old.title != now.title)
            out.push_back(fmt::format("called {}, was {}", cardTitle(m_after, m_is, now), cardTitle(m_before, m_was, old)));
        if (old.locked != now.locked) out.emplace_back(now.locked ? "locked" : "no longer locked");
        if (old.muted != now.muted) out.emplace_back(now.muted ? "muted" : "no longer muted");
        std::set<std::string> keys;
        for (const Node* n : {&old, &now}) {
            for (const auto& [key, w] : n->wires) keys.insert(key);
            for (const auto& [key, v] : n->constants) keys.insert(key);
        }
        for (const std::string& key : keys) {
            wire(key, key, old.wires, now.wires, out);
            if (!now.wires.contains(key)) value(key, key, old.constants, now.constants, out);
        }
        keys.clear();
        for (const Node* n : {&old, &now})
            for (const auto& [key, v] : n->settings) keys.insert(key);
        for (const std::string& key : keys) {
            if (key == kAssemblySetting) continue;
            const auto was = old.settings.find(key), is = now.settings.find(key);
            const std::string had = was == old.settings.end() ? "as it comes" : was->second,
                              has = is == now.settings.end() ? "as it comes" : is->second;
            if (had == has) continue;
            // Texts of several lines, and ids of maps and parameters, say nothing here.
            const bool plain = had.size() + has.size() < 60 && had.find('\n') == std::string::npos && has.find('\n') == std::string::npos &&
                               key != "parameter" && !m_after.map(has) && !m_before.map(had);
            out.push_back(plain ? fmt::format("{} {}, was {}", key, has, had) : fmt::format("another {}", key));
        }
        return out;
    }

    const Project& m_before;
    const Master& m_was;
    const Project& m_after;
    const Master& m_is;
    std::vector<BoardDifference> m_out;
};

} // namespace

std::vector<BoardDifference> boardDifferences(const Project& before, const Master& was, const Project& after, const Master& is) {
    return Differences(before, was, after, is).run();
}

} // namespace hue
