#include "preview/egl_context.h"

#include <epoxy/egl.h>
#include <fmt/format.h>

namespace hue {

Result<std::unique_ptr<EglContext>> EglContext::create(const EglContext* shareWith) {
    auto fail = [](std::string_view what) {
        return Error{
            "gl.no-context",
            fmt::format("Pictures cannot be rendered: {}. Install a driver with OpenGL 4.1, such as the package libgl1-mesa-dri.", what),
            {}};
    };
    std::unique_ptr<EglContext> out(new EglContext);
    // Without any driver there is not even this function.
    if (epoxy_has_egl_extension(EGL_NO_DISPLAY, "EGL_EXT_platform_base"))
        out->m_display = eglGetPlatformDisplayEXT(EGL_PLATFORM_SURFACELESS_MESA, EGL_DEFAULT_DISPLAY, nullptr);
    if (!out->m_display || !eglInitialize(out->m_display, nullptr, nullptr)) {
        // Drivers without Mesa's platform give the default display instead.
        out->m_display = eglGetDisplay(EGL_DEFAULT_DISPLAY);
        if (!out->m_display || !eglInitialize(out->m_display, nullptr, nullptr)) return fail("there is no EGL display");
    }
    if (!eglBindAPI(EGL_OPENGL_API)) return fail("the driver has no desktop OpenGL");
    const EGLint configWanted[] = {EGL_SURFACE_TYPE, EGL_DONT_CARE, EGL_RENDERABLE_TYPE, EGL_OPENGL_BIT, EGL_NONE};
    EGLConfig config = nullptr;
    EGLint count = 0;
    eglChooseConfig(out->m_display, configWanted, &config, 1, &count);
    const EGLint wanted[] = {EGL_CONTEXT_MAJOR_VERSION,           4,       EGL_CONTEXT_MINOR_VERSION, 1, EGL_CONTEXT_OPENGL_PROFILE_MASK,
                             EGL_CONTEXT_OPENGL_CORE_PROFILE_BIT, EGL_NONE};
    out->m_context =
        eglCreateContext(out->m_display, count ? config : EGL_NO_CONFIG_KHR, shareWith ? shareWith->m_context : EGL_NO_CONTEXT, wanted);
    if (!out->m_context) return fail("the driver has no OpenGL 4.1 core profile");
    return out;
}

EglContext::~EglContext() {
    if (!m_context) return;
    // Another context of this thread stays current.
    if (eglGetCurrentContext() == m_context) eglMakeCurrent(m_display, EGL_NO_SURFACE, EGL_NO_SURFACE, EGL_NO_CONTEXT);
    eglDestroyContext(m_display, m_context);
}

void EglContext::makeCurrent() { eglMakeCurrent(m_display, EGL_NO_SURFACE, EGL_NO_SURFACE, m_context); }
void EglContext::release() { eglMakeCurrent(m_display, EGL_NO_SURFACE, EGL_NO_SURFACE, EGL_NO_CONTEXT); }

} // namespace hue
