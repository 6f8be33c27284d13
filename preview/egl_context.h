#pragma once
#include "core/base/result.h"

#include <memory>

namespace hue {

/// An OpenGL 4.1 core context without any display. A host with a context of its own (a Qt widget) does not need it:
/// Renderer only asks that some context is current on its thread.
class EglContext {
  public:
    /// Error: gl.no-context.
    static Result<std::unique_ptr<EglContext>> create(const EglContext* shareWith = nullptr);
    ~EglContext();
    EglContext(const EglContext&) = delete;
    EglContext& operator=(const EglContext&) = delete;
    /// On the calling thread; a context is current on one thread at a time.
    void makeCurrent();
    void release();

  private:
    EglContext() = default;
    void* m_display = nullptr;
    void* m_context = nullptr;
};

} // namespace hue
