#include "preview/build_service.h"

#include "core/surface/channel_targets.h"
#include "preview/gl_objects.h"

namespace hue {

std::unique_ptr<BuildService> BuildService::create(const EglContext& shareWith) {
    auto context = EglContext::create(&shareWith);
    if (!context) return nullptr;
    return std::unique_ptr<BuildService>(new BuildService(std::move(*context)));
}

BuildService::BuildService(std::unique_ptr<EglContext> context) : m_context(std::move(context)), m_thread([this] { run(); }) {}

BuildService::~BuildService() {
    {
        const std::lock_guard lock(m_mutex);
        m_quit = true;
    }
    m_wake.notify_all();
    m_thread.join();
}

void BuildService::onDone(std::function<void()> call) {
    const std::lock_guard lock(m_mutex);
    m_done = std::move(call);
}

int BuildService::links() const {
    const std::lock_guard lock(m_mutex);
    return m_links;
}

BuildService::State BuildService::want(const std::string& vertexStage, const std::string& fragmentStage, bool full,
                                       std::shared_ptr<GlProgram>* program, std::string* problem) {
    const std::lock_guard lock(m_mutex);
    auto [it, fresh] = m_builds.try_emplace(fragmentStage);
    Build& b = it->second;
    if (fresh) {
        b.vertexStage = vertexStage;
        b.full = full;
        m_queue.push_back(fragmentStage);
        m_wake.notify_all();
    }
    if (b.state == State::Ready) *program = b.program;
    if (b.state == State::Failed) *problem = b.problem;
    return b.state;
}

void BuildService::run() {
    m_context->makeCurrent();
    // The driver compiles at the first draw, for the targets that are bound; so the first draw happens here. Its shader
    // cache then serves the renderer's context.
    GLuint array = 0, buffers[2] = {}, textures[8] = {};
    glGenVertexArrays(1, &array);
    glGenFramebuffers(2, buffers);
    for (int i = 0; i < kAllTargets; ++i) textures[i] = plainTexture(GL_RGBA32UI, 4, 4);
    const GLuint depth = plainTexture(GL_DEPTH_COMPONENT32F, 4, 4);
    for (int full = 0; full < 2; ++full) {
        glBindFramebuffer(GL_FRAMEBUFFER, buffers[full]);
        GLenum attachments[8];
        const int count = full ? kAllTargets : kCoreTargets;
        for (int i = 0; i < count; ++i) {
            attachments[i] = GLenum(GL_COLOR_ATTACHMENT0 + i);
            glFramebufferTexture2D(GL_FRAMEBUFFER, attachments[i], GL_TEXTURE_2D, textures[i], 0);
        }
        glFramebufferTexture2D(GL_FRAMEBUFFER, GL_DEPTH_ATTACHMENT, GL_TEXTURE_2D, depth, 0);
        glDrawBuffers(count, attachments);
    }
    while (true) {
        std::string fragment, vertex;
        bool full = false;
        {
            std::unique_lock lock(m_mutex);
            m_wake.wait(lock, [&] { return m_quit || !m_queue.empty(); });
            if (m_quit) break;
            fragment = m_queue.back();
            m_queue.pop_back();
            vertex = m_builds[fragment].vertexStage;
            full = m_builds[fragment].full;
        }
        const auto linked = GlProgram::link(vertex, fragment);
        if (linked) {
            glBindFramebuffer(GL_FRAMEBUFFER, buffers[full]);
            glViewport(0, 0, 4, 4);
            glEnable(GL_DEPTH_TEST);
            glBindVertexArray(array);
            (*linked)->use();
            glDrawArrays(GL_TRIANGLES, 0, 3);
            glFinish();
            glUseProgram(0);
        }
        std::function<void()> done;
        {
            const std::lock_guard lock(m_mutex);
            Build& b = m_builds[fragment];
            b.state = linked ? State::Ready : State::Failed;
            if (linked) b.program = *linked;
            else b.problem = linked.error().sentence;
            ++m_links;
            done = m_done;
            // What nobody draws any more goes; it would be linked again, from the driver's cache.
            if (m_builds.size() > 96)
                std::erase_if(m_builds, [](const auto& entry) {
                    return entry.second.state == State::Ready && entry.second.program.use_count() <= 1;
                });
        }
        if (done) done();
    }
    {
        const std::lock_guard lock(m_mutex);
        m_builds.clear();
    }
    glDeleteFramebuffers(2, buffers);
    glDeleteTextures(8, textures);
    glDeleteTextures(1, &depth);
    glDeleteVertexArrays(1, &array);
    m_context->release();
}

} // namespace hue
