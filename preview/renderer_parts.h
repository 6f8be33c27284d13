#pragma once
// The inside of renderer.h. Not for use elsewhere.
#include "core/base/matrix.h"
#include "core/picture/view.h"
#include "core/surface/picture_channels.h"
#include "preview/build_service.h"
#include "preview/gl_objects.h"
#include "preview/renderer.h"

namespace hue {

enum class ThingsTo { Radiance, CoreChannels, AllChannels };

/// What a shadow map or a local capture was made of; while it stays, so do they.
struct Surrounded {
    std::weak_ptr<const Mesh> mesh; ///< not kept: displaced meshes are new in every frame
    std::vector<Thing> things;
    Rgb sun{}, light{};
    std::string lightKey;
    uint32_t casting = 0; ///< bits of the slots that cast a shadow
    bool operator==(const Surrounded& o) const {
        return mesh.lock() == o.mesh.lock() && things == o.things && sun == o.sun && light == o.light && lightKey == o.lightKey &&
               casting == o.casting;
    }
};

struct Renderer::Impl {
    BuildService* builds = nullptr;
    bool evaluatorOnly = false;
    std::map<std::string, std::shared_ptr<GlProgram>> programs; ///< by fragment stage
    std::map<MeshPtr, std::unique_ptr<GlMesh>> meshes;
    std::map<std::string, MeshPtr> lastOf; ///< the mesh that was drawn last, by lineage
    size_t meshBytes = 0;                  ///< of vertices and triangles that were sent to the card so far
    std::map<MapPtr, std::unique_ptr<GlMap>> maps;
    std::map<std::pair<int, int>, std::unique_ptr<GlTargets>> targets;
    std::map<std::string, GLuint> environments;
    GLuint splitSumTexture = 0, shadowTexture = 0, shadowBuffer = 0, emptyArray = 0, query = 0;
    GLuint localTexture = 0, localBuffer = 0, localDepth = 0;
    GLuint attributeBuffer = 0, attributes[AttributePicture::kPlanes] = {}, attributeDepth = 0, rejected = 0;
    std::pair<int, int> attributeSize{0, 0};
    int links = 0;
    std::optional<Surrounded> shadowOf, localOf;

    // Objects (renderer_scene.cpp)
    Result<GlProgram*> program(const std::string& vertexStage, const std::string& fragmentStage);
    /// Null when it is being linked in the background.
    Result<GlProgram*> surfaceProgram(const LookPtr& look, bool full);
    /// `lineage`: of the specimen; a mesh that follows the one that was drawn of it last is made of that by what differs.
    const GlMesh& mesh(const MeshPtr& mesh, const std::string& lineage = {});
    void bindMap(const MapPtr& map, int unit);
    GlTargets& target(int width, int height);
    GLuint environment(const ReadyLight& light);
    GLuint splitSumMap();
    void setFrame(GlProgram& program, const Frame& frame);
    /// What has not been drawn for a while leaves the graphics card.
    void trim();

    // Scene (renderer_scene.cpp)
    Outcome drawShadow(const DressedSpecimen& specimen, const View& view);
    /// Light, eye, ground for a lit stage, on texture units 8 and up.
    void setScene(GlProgram& program, const View& view, const RenderSettings& settings);
    /// Radiance of the things as seen from the specimen's place; false when there are none.
    Result<bool> captureLocal(const DressedSpecimen& specimen, const View& view, const RenderSettings& settings);
    Outcome drawThings(const DressedSpecimen& specimen, const View& view, const Matrix4& clip, const Rgb& eye, ThingsTo to,
                       const RenderSettings& settings);
    void fullScreen();

    // Channels by the CPU (renderer_cpu.cpp)
    struct Region {
        int x = 0, y = 0, width = 0, height = 0; ///< from the bottom left
    };
    /// Attributes of a region; slots that let light through only when asked for.
    Result<AttributePicture> rasterise(const DressedSpecimen& specimen, const View& view, GLuint depth, const Region& region,
                                       bool useRejected, bool seeThrough);
    Outcome channelsByEvaluator(const DressedSpecimen& specimen, const View& view, GlTargets& to, bool full);
    void ensureAttributes(int width, int height);

    // Mesh views (renderer_views.cpp)
    Outcome drawMeshView(const DressedSpecimen& specimen, const RenderSettings& settings, const View& view, GlTargets& to, float* peak);
};

std::string thingsFragmentStage(ThingsTo to);
std::string attributesFragmentStage();

} // namespace hue
