#include "core/check/unknown_words.h"

#include "core/base/words.h"
#include "core/mesh/mesh.h"
#include "core/mesh/things.h"
#include "core/nodes/assembly_card.h"
#include "core/nodes/catalogue.h"
#include "core/nodes/finish.h"
#include "core/surface/channels.h"
#include "core/surface/environment.h"
#include "core/surface/tone.h"
#include "core/surface/views.h"

#include <algorithm>
#include <fmt/format.h>

namespace hue {
namespace {

class WordCheck {
  public:
    explicit WordCheck(const Project& project) : m_project(project) {}

    std::vector<Diagnostic> run() {
        for (const Master* board : m_project.boards()) checkGraph(*board);
        checkLineup();
        return std::move(m_out);
    }

  private:
    const Project& m_project;
    std::vector<Diagnostic> m_out;

    void say(std::string_view code, Place place, std::string_view where, std::string_view what, std::string_view word,
             const std::vector<std::string_view>& known) {
        m_out.push_back({Severity::Caution,
                         std::string(code),
                         std::move(place),
                         fmt::format("{} names {} {}, which this version does not know; it is kept and counts for nothing.{}", where, what,
                                     word, nearestSentence(word, known)),
                         {}});
    }

    void checkGraph(const Master& m) {
        std::vector<std::string_view> keys;
        for (const ChannelDef& c : channels()) keys.push_back(c.key);
        const auto channel = [&](const std::string& key) {
            if (!findChannel(key) && key != kWholeSurface) say("unknown.channel", {m.id, {}, key}, m.name, "the channel", key, keys);
        };
        for (const auto& [key, wire] : m.graph.channelWires) channel(key);
        for (const auto& [key, value] : m.graph.channelConstants)
            if (!m.graph.channelWires.contains(key)) channel(key);
        std::vector<std::string_view> layerKeys;
        for (const LayerDef& l : layers()) layerKeys.push_back(l.key);
        for (const std::string& layer : m.otherLayers) say("unknown.layer", {m.id, {}, {}}, m.name, "the layer", layer, layerKeys);
        for (const std::string& key : m.graph.mutedChannels)
            if (!m.graph.channelWires.contains(key) && !m.graph.channelConstants.contains(key)) channel(key);
        for (const auto& card : m.graph.nodes) {
            const Id& id = card.first;
            const NodePtr& node = card.second;
            const NodeDef* def = nodeDefOf(m_project, *node);
            if (!def) continue;
            const std::string where = cardTitle(m_project, m, *node);
            std::vector<std::string_view> ports, settings;
            for (const PortDef& p : def->inputs) ports.push_back(p.key);
            for (const SettingDef& s : def->settings) settings.push_back(s.key);
            const auto port = [&](const std::string& key) {
                if (!def->input(key)) say("unknown.port", {m.id, id, key}, where, "the input", key, ports);
            };
            for (const auto& [key, wire] : node->wires) port(key);
            for (const auto& [key, value] : node->constants)
                if (!node->wires.contains(key) && !(node->kind == "constant" && key == "value")) port(key);
            for (const auto& [name, value] : node->settings) {
                const std::string& key = name;
                const auto setting =
                    std::find_if(def->settings.begin(), def->settings.end(), [&](const SettingDef& s) { return s.key == key; });
                if (setting == def->settings.end()) say("unknown.setting", {m.id, id, key}, where, "the setting", key, settings);
                else if (!setting->choices.empty() &&
                         std::find(setting->choices.begin(), setting->choices.end(), value) == setting->choices.end())
                    say("unknown.choice", {m.id, id, key}, where, fmt::format("for {} the choice", key), value, setting->choices);
            }
        }
    }

    bool isMesh(const Id& id) const { return id.starts_with("shape:") ? shapeById(id) != nullptr : m_project.mesh(id) != nullptr; }

    void checkLineup() {
        const Lineup& l = m_project.lineup;
        std::vector<std::string_view> lightIds, viewKeys, tones, kinds, meshes, paintworks, backdrops{"surround", "environment", "depot"};
        for (const LightDef& d : lights()) lightIds.push_back(d.id);
        for (const ToneCurveDef& d : toneCurves()) tones.push_back(d.key);
        for (const ThingKind& d : thingKinds()) kinds.push_back(d.key);
        for (const auto& [id, name] : shapes()) meshes.push_back(id);
        for (const auto& m : m_project.meshes) meshes.push_back(m->id);
        for (const auto& w : m_project.paintworks) paintworks.push_back(w->id);
        for (const auto& w : m_project.paintworks)
            if (!isMesh(w->mesh))
                say("unknown.mesh", {{}, {}, w->id}, fmt::format("The paintwork {}", w->name), "the mesh", w->mesh, meshes);
        const auto light = [&](const std::string& id, const std::string& where) {
            // With a dot or a slash it is a file, of which the lights' own findings tell.
            if (!id.empty() && !findLight(id) && id.find_first_of("./") == std::string::npos)
                say("unknown.light", {}, where, "the light", id, lightIds);
        };
        for (const ViewDef& d : views()) viewKeys.push_back(d.key);
        if (findView(l.view) < 0) say("unknown.view", {}, "The lineup", "the view", l.view, viewKeys);
        light(l.light, "The lineup");
        if (std::find(tones.begin(), tones.end(), l.tone) == tones.end())
            say("unknown.tone", {}, "The lineup", "the tone curve", l.tone, tones);
        if (std::find(backdrops.begin(), backdrops.end(), l.backdrop) == backdrops.end())
            say("unknown.backdrop", {}, "The lineup", "the backdrop", l.backdrop, backdrops);
        for (size_t i = 0; i < l.specimens.size(); ++i) {
            const Specimen& s = l.specimens[i];
            const std::string where = fmt::format("Specimen {}", i + 1);
            light(s.light, where);
            if (!isMesh(s.mesh)) say("unknown.mesh", {}, where, "the mesh", s.mesh, meshes);
            if (!s.paintwork.empty() && !m_project.paintwork(s.paintwork))
                say("unknown.paintwork", {}, where, "the paintwork", s.paintwork, paintworks);
            for (const Thing& t : s.things)
                if (!thingMesh(t.kind)) say("unknown.thing", {}, where, "the thing", t.kind, kinds);
        }
    }
};

} // namespace

std::vector<Diagnostic> unknownWords(const Project& project) { return WordCheck(project).run(); }

} // namespace hue
