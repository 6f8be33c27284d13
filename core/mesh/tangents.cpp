#include "core/base/vectors.h"
#include "core/mesh/mesh.h"

#include <algorithm>
#include <cmath>
#include <string_view>
#include <unordered_map>

namespace hue {
namespace {

using V3 = glm::vec3;
bool toUnit(V3& v) {
    const float length = glm::length(v);
    if (!(length > 1e-12f)) return false;
    v /= length;
    return true;
}

} // namespace

void makeNormals(Mesh& mesh) {
    std::vector<V3> sums(mesh.vertices.size());
    for (size_t t = 0; t + 2 < mesh.indices.size(); t += 3) {
        const uint32_t* i = &mesh.indices[t];
        const V3 a = vectorOf(mesh.vertices[i[0]].position);
        const V3 n = cross(vectorOf(mesh.vertices[i[1]].position) - a, vectorOf(mesh.vertices[i[2]].position) - a);
        for (int k = 0; k < 3; ++k) sums[i[k]] += n;
    }
    for (size_t v = 0; v < sums.size(); ++v) mesh.vertices[v].normal = arrayOf(toUnit(sums[v]) ? sums[v] : V3{0, 1, 0});
}

namespace {

/// Tangents as MikkTSpace defines them (Mikkelsen, "Simulation of Wrinkled Surfaces Revisited", 2008): per corner of a
/// face, averaged by angle over the faces around a vertex that hang together and have their UVs the same way round.
class TangentMaker {
  public:
    explicit TangentMaker(Mesh& mesh) : m(mesh), m_faces(mesh.indices.size() / 3) {}

    void run() {
        weld();
        faces();
        neighbours();
        m_groupOf.assign(m_faces.size() * 3, -1);
        for (size_t f = 0; f < m_faces.size(); ++f)
            for (int i = 0; i < 3; ++i) startGroup(f, i);
        corners();
        store();
    }

  private:
    struct Face {
        V3 s{0}, t{0};                                ///< unit directions of growing U and V
        bool upright = true;                          ///< the UVs have the orientation of the face
        bool any = true;                              ///< without an area in UV: goes with any group
        bool flat = false;                            ///< without an area in space
        std::array<int32_t, 3> neighbour{-1, -1, -1}; ///< over the edge from corner i to the next
    };
    struct Group {
        uint32_t vertex;
        bool upright;
        std::vector<uint32_t> faces;
    };

    Mesh& m;
    std::vector<Face> m_faces;
    std::vector<uint32_t> m_welded; ///< by vertex
    std::vector<Group> m_groups;
    std::vector<int32_t> m_groupOf; ///< by corner
    std::vector<std::array<float, 4>> m_corner;

    uint32_t at(size_t face, int corner) const { return m_welded[m.indices[face * 3 + size_t(corner)]]; }
    V3 position(size_t face, int corner) const { return vectorOf(m.vertices[m.indices[face * 3 + size_t(corner)]].position); }

    /// Vertices that agree in position, normal and UV are one.
    void weld() {
        std::unordered_map<std::string_view, uint32_t> seen;
        std::vector<std::array<float, 8>> keys(m.vertices.size());
        seen.reserve(m.vertices.size());
        m_welded.resize(m.vertices.size());
        for (size_t v = 0; v < m.vertices.size(); ++v) {
            const Vertex& x = m.vertices[v];
            // Adding 0 turns a negative zero into a plain one.
            keys[v] = {x.position[0] + 0.f, x.position[1] + 0.f, x.position[2] + 0.f, x.normal[0] + 0.f,
                       x.normal[1] + 0.f,   x.normal[2] + 0.f,   x.uv0[0] + 0.f,      x.uv0[1] + 0.f};
            m_welded[v] = seen.try_emplace({reinterpret_cast<const char*>(&keys[v]), sizeof keys[v]}, uint32_t(v)).first->second;
        }
    }

    void faces() {
        for (size_t f = 0; f < m_faces.size(); ++f) {
            Face& face = m_faces[f];
            const uint32_t* i = &m.indices[f * 3];
            const Vertex &a = m.vertices[i[0]], &b = m.vertices[i[1]], &c = m.vertices[i[2]];
            face.flat = a.position == b.position || b.position == c.position || a.position == c.position;
            const V3 e = vectorOf(b.position) - vectorOf(a.position), g = vectorOf(c.position) - vectorOf(a.position);
            const float du1 = b.uv0[0] - a.uv0[0], dv1 = b.uv0[1] - a.uv0[1], du2 = c.uv0[0] - a.uv0[0], dv2 = c.uv0[1] - a.uv0[1];
            const float area = du1 * dv2 - dv1 * du2;
            face.upright = area > 0;
            if (!(std::fabs(area) > 1.1754944e-38f)) continue;
            V3 s = dv2 * e - dv1 * g, t = -du2 * e + du1 * g;
            const float turn = face.upright ? 1.f : -1.f;
            const bool hasS = toUnit(s), hasT = toUnit(t);
            face.s = hasS ? s * turn : V3(0);
            face.t = hasT ? t * turn : V3(0);
            face.any = !(hasS && hasT);
        }
    }

    void neighbours() {
        std::unordered_map<uint64_t, std::vector<std::pair<uint32_t, int>>> open;
        open.reserve(m_faces.size() * 2);
        for (size_t f = 0; f < m_faces.size(); ++f) {
            if (m_faces[f].flat) continue;
            for (int i = 0; i < 3; ++i) {
                const uint64_t from = at(f, i), to = at(f, (i + 1) % 3);
                // The neighbour runs along the edge the other way.
                if (auto it = open.find(to << 32 | from); it != open.end() && !it->second.empty()) {
                    const auto [g, j] = it->second.front();
                    it->second.erase(it->second.begin());
                    m_faces[f].neighbour[size_t(i)] = int32_t(g);
                    m_faces[g].neighbour[size_t(j)] = int32_t(f);
                } else {
                    open[from << 32 | to].emplace_back(uint32_t(f), i);
                }
            }
        }
    }

    void startGroup(size_t f, int i) {
        if (m_faces[f].any || m_faces[f].flat || m_groupOf[f * 3 + size_t(i)] >= 0) return;
        const auto index = int32_t(m_groups.size());
        m_groups.push_back({at(f, i), m_faces[f].upright, {}});
        std::vector<int32_t> open{int32_t(f)};
        while (!open.empty()) {
            const int32_t g = open.back();
            open.pop_back();
            if (g < 0) continue;
            Group& group = m_groups[size_t(index)];
            Face& face = m_faces[size_t(g)];
            int corner = 0;
            while (corner < 3 && at(size_t(g), corner) != group.vertex) ++corner;
            if (corner == 3 || m_groupOf[size_t(g) * 3 + size_t(corner)] >= 0) continue;
            if (face.any) {
                const int32_t* own = &m_groupOf[size_t(g) * 3];
                if (own[0] < 0 && own[1] < 0 && own[2] < 0) face.upright = group.upright;
            }
            if (face.upright != group.upright) continue;
            m_groupOf[size_t(g) * 3 + size_t(corner)] = index;
            group.faces.push_back(uint32_t(g));
            open.push_back(face.neighbour[size_t(corner > 0 ? corner - 1 : 2)]);
            open.push_back(face.neighbour[size_t(corner)]);
        }
    }

    static V3 across(V3 v, const V3& n) {
        v -= dot(v, n) * n;
        toUnit(v);
        return v;
    }

    void corners() {
        m_corner.assign(m_faces.size() * 3, {0, 0, 0, 0});
        for (Group& group : m_groups) {
            const V3 n = vectorOf(m.vertices[group.vertex].normal);
            std::sort(group.faces.begin(), group.faces.end());
            V3 sum(0);
            for (uint32_t f : group.faces) {
                if (m_faces[f].any) continue;
                int corner = 0;
                while (corner < 3 && at(f, corner) != group.vertex) ++corner;
                const V3 middle = position(f, corner), next = position(f, (corner + 1) % 3), before = position(f, (corner + 2) % 3);
                const V3 v1 = across(before - middle, n), v2 = across(next - middle, n);
                const float angle = std::acos(std::clamp(dot(v1, v2), -1.f, 1.f));
                sum += across(m_faces[f].s, n) * angle;
            }
            toUnit(sum);
            // glTF's V grows downward and green points up, so the sign turns.
            for (uint32_t f : group.faces)
                for (int i = 0; i < 3; ++i)
                    if (at(f, i) == group.vertex) m_corner[f * 3 + size_t(i)] = {sum.x, sum.y, sum.z, group.upright ? -1.f : 1.f};
        }
    }

    /// Vertices whose corners disagree are split.
    void store() {
        std::vector<char> taken(m.vertices.size(), 0);
        std::unordered_map<uint32_t, std::vector<uint32_t>> copies;
        for (size_t c = 0; c < m.indices.size(); ++c) {
            const uint32_t v = m.indices[c];
            std::array<float, 4> t = m_corner[c];
            if (t[3] == 0) continue; // decided below
            if (!taken[v]) {
                taken[v] = 1;
                m.vertices[v].tangent = t;
                continue;
            }
            if (m.vertices[v].tangent == t) continue;
            auto& list = copies[v];
            auto same = std::find_if(list.begin(), list.end(), [&](uint32_t copy) { return m.vertices[copy].tangent == t; });
            if (same != list.end()) {
                m.indices[c] = *same;
                continue;
            }
            list.push_back(uint32_t(m.vertices.size()));
            m.indices[c] = list.back();
            Vertex copy = m.vertices[v];
            copy.tangent = t;
            m.vertices.push_back(copy);
        }
        for (size_t v = 0; v < taken.size(); ++v) {
            if (taken[v]) continue;
            const V3 n = vectorOf(m.vertices[v].normal);
            V3 t = std::fabs(n.y) < 0.9f ? cross(V3(0, 1, 0), n) : cross(V3(0, 0, 1), n);
            if (!toUnit(t)) t = {1, 0, 0};
            m.vertices[v].tangent = {t.x, t.y, t.z, 1};
        }
    }
};

} // namespace

void makeTangents(Mesh& mesh) { TangentMaker(mesh).run(); }

} // namespace hue
