#pragma once
// Links builds in the background, on a context of its own that shares objects with the renderer's, so that no picture
// waits for the driver.
#include "preview/egl_context.h"

#include <condition_variable>
#include <functional>
#include <map>
#include <memory>
#include <mutex>
#include <string>
#include <thread>
#include <vector>

namespace hue {

class GlProgram;

class BuildService {
  public:
    /// Null when the driver gives no second context; then the renderer links itself.
    static std::unique_ptr<BuildService> create(const EglContext& shareWith);
    ~BuildService();

    enum class State { Unknown, Waiting, Ready, Failed };
    /// Asks for a build, once; `program` is set when it is ready, `problem` when it failed.
    State want(const std::string& vertexStage, const std::string& fragmentStage, bool full, std::shared_ptr<GlProgram>* program,
               std::string* problem);
    /// Called from the service's thread whenever a build is done.
    void onDone(std::function<void()> call);
    int links() const;

  private:
    explicit BuildService(std::unique_ptr<EglContext> context);
    void run();

    struct Build {
        std::string vertexStage;
        bool full = false;
        State state = State::Waiting;
        std::shared_ptr<GlProgram> program;
        std::string problem;
    };
    mutable std::mutex m_mutex;
    std::condition_variable m_wake;
    std::map<std::string, Build> m_builds; ///< by fragment stage
    std::vector<std::string> m_queue;      ///< the newest wish is linked first
    std::function<void()> m_done;
    int m_links = 0;
    bool m_quit = false;
    std::unique_ptr<EglContext> m_context;
    std::thread m_thread;
};

} // namespace hue
