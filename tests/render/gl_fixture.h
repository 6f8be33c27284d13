#pragma once
#include "preview/egl_context.h"
#include "preview/renderer.h"

#include <gtest/gtest.h>

namespace hue::test {

/// One context and renderer for all tests of the process.
class Gl {
  public:
    static Renderer& renderer() { return *instance().m_renderer; }
    /// After a test that made a context of its own current.
    static void makeCurrent() { instance().m_context->makeCurrent(); }

  private:
    static Gl& instance() {
        static Gl gl;
        return gl;
    }
    Gl() {
        auto context = EglContext::create();
        if (!context) {
            ADD_FAILURE() << context.error().sentence;
            std::abort();
        }
        m_context = std::move(*context);
        m_context->makeCurrent();
        m_renderer = std::make_unique<Renderer>();
    }
    std::unique_ptr<EglContext> m_context;
    std::unique_ptr<Renderer> m_renderer;
};

} // namespace hue::test
