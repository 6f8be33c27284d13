#include "core/measure/driver.h"

#include "core/base/files.h"

#include <algorithm>
#include <atomic>
#include <cerrno>
#include <chrono>
#include <csignal>
#include <cstring>
#include <fcntl.h>
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <nlohmann/json.hpp>
#include <poll.h>
#include <spawn.h>
#include <sys/socket.h>
#include <sys/wait.h>
#include <unistd.h>

extern char** environ;

namespace hue {
namespace {

namespace fs = std::filesystem;
using Json = nlohmann::json;
using Clock = std::chrono::steady_clock;

constexpr const char* kPackage = "mesa-vulkan-drivers";

fs::path programAt(const DriverPlace& place) {
    if (!place.program.empty()) return place.program;
    if (const char* named = std::getenv("HUESTACK_MEASURE")) return named;
    std::error_code none;
    return fs::read_symlink("/proc/self/exe", none).parent_path() / "huestack-measure";
}

/// The package names its description after the machine's processor.
fs::path driverAt(const DriverPlace& place) {
    if (!place.driver.empty()) return place.driver;
    std::error_code none;
    for (const auto& entry : fs::directory_iterator("/usr/share/vulkan/icd.d", none))
        if (entry.path().filename().string().starts_with("radeon_icd.") && entry.path().extension() == ".json") return entry.path();
    return {};
}

Error lost(const char* code, const Family& family, std::string_view why) {
    return {code, fmt::format("The driver's compiler for {} {}. The counted figures stay.", family.key, why), {}};
}

/// The process, and a line to it.
class Child {
  public:
    Child() = default;
    Child(const Child&) = delete;
    Child& operator=(const Child&) = delete;
    ~Child() { end(); }

    bool running() const { return m_pid > 0; }

    bool start(const fs::path& program, const fs::path& driver, const Family& family) {
        int ends[2];
        if (socketpair(AF_UNIX, SOCK_STREAM | SOCK_CLOEXEC, 0, ends)) return false;
        std::vector<std::string> variables{fmt::format("RADV_FORCE_FAMILY={}", family.key), "VK_ICD_FILENAMES=" + driver.string(),
                                           "VK_DRIVER_FILES=" + driver.string(), "VK_LOADER_LAYERS_DISABLE=*",
                                           "MESA_SHADER_CACHE_DISABLE=true"};
        // What the driver compiles for itself when it starts is kept for each family apart: it has one file for all.
        if (const fs::path cache = cacheFolder("driver"); !cache.empty()) {
            std::error_code none;
            fs::create_directories(cache / family.key, none);
            if (!none) variables.push_back("XDG_CACHE_HOME=" + (cache / family.key).string());
        }
        const size_t own = variables.size();
        for (char** e = environ; *e; ++e) {
            const std::string_view entry = *e, name = entry.substr(0, entry.find('='));
            if (std::none_of(variables.begin(), variables.begin() + long(own),
                             [&](const std::string& v) { return v.starts_with(std::string(name) + "="); }))
                variables.emplace_back(entry);
        }
        std::vector<char*> environment;
        for (std::string& v : variables) environment.push_back(v.data());
        environment.push_back(nullptr);
        posix_spawn_file_actions_t files;
        posix_spawn_file_actions_init(&files);
        posix_spawn_file_actions_adddup2(&files, ends[1], 0);
        posix_spawn_file_actions_adddup2(&files, ends[1], 1);
        posix_spawn_file_actions_addopen(&files, 2, "/dev/null", O_WRONLY, 0);
        std::string name = program.string();
        char* arguments[] = {name.data(), nullptr};
        const int failed = posix_spawn(&m_pid, name.c_str(), &files, nullptr, arguments, environment.data());
        posix_spawn_file_actions_destroy(&files);
        close(ends[1]);
        m_line = ends[0];
        if (failed) {
            m_pid = 0;
            close(m_line);
            m_line = -1;
        }
        return !failed;
    }

    bool send(const void* data, size_t bytes) {
        const char* at = static_cast<const char*>(data);
        while (bytes) {
            const ssize_t sent = ::send(m_line, at, bytes, MSG_NOSIGNAL);
            if (sent < 0 && errno == EINTR) continue;
            if (sent <= 0) return false;
            at += sent, bytes -= size_t(sent);
        }
        return true;
    }

    enum class Came { Line, Nothing, Late, Stopped };
    Came line(std::string& out, double patience, const Work& work) {
        const auto end = Clock::now() + std::chrono::duration<double>(patience);
        for (;;) {
            if (const size_t at = m_read.find('\n'); at != m_read.npos) {
                out = m_read.substr(0, at);
                m_read.erase(0, at + 1);
                return Came::Line;
            }
            if (work.stopped()) return Came::Stopped;
            const double left = std::chrono::duration<double>(end - Clock::now()).count();
            if (left <= 0) return Came::Late;
            pollfd waits{m_line, POLLIN, 0};
            const int ready = poll(&waits, 1, int(std::min(left, 0.05) * 1000) + 1);
            if (ready < 0 && errno != EINTR) return Came::Nothing;
            if (ready <= 0) continue;
            char buffer[4096];
            const ssize_t got = recv(m_line, buffer, sizeof buffer, 0);
            if (got < 0 && errno == EINTR) continue;
            if (got <= 0) return Came::Nothing;
            m_read.append(buffer, size_t(got));
        }
    }

    /// Has it end by itself, so that the driver can keep what it is ready with; not for long.
    void leave() {
        if (m_line < 0 || m_pid <= 0) return;
        shutdown(m_line, SHUT_WR);
        for (int tries = 0; tries < 50; ++tries) {
            int status = 0;
            if (waitpid(m_pid, &status, WNOHANG) == m_pid) {
                m_pid = 0;
                break;
            }
            poll(nullptr, 0, 5);
        }
        end();
    }

    void end() {
        if (m_line >= 0) close(m_line);
        m_line = -1;
        m_read.clear();
        if (m_pid <= 0) return;
        // What was asked for has been answered, or is wanted no more.
        kill(m_pid, SIGKILL);
        int status = 0;
        while (waitpid(m_pid, &status, 0) < 0 && errno == EINTR) {}
        m_pid = 0;
    }

  private:
    pid_t m_pid = 0;
    int m_line = -1;
    std::string m_read;
};

Reading readingOf(const Json& j) {
    Reading out;
    for (const Json& stage : j.at("stages")) {
        StageFigures its{stage.at("name").get<std::string>(), {}};
        for (const auto& [name, value] : stage.at("statistics").items())
            if (value.is_number()) its.figures[name] = value.get<double>();
        out.stages.push_back(std::move(its));
    }
    return out;
}

} // namespace

std::span<const Family> families() {
    static constexpr Family all[] = {
        {"polaris10", "GCN 4, 2016"}, {"vega10", "GCN 5, 2017"}, {"navi10", "RDNA, 2019"}, {"navi21", "RDNA 2, 2020"}};
    return all;
}

Result<Family> findFamily(const std::string& key) {
    std::vector<std::string_view> known;
    for (const Family& f : families()) {
        if (f.key == key) return f;
        known.push_back(f.key);
    }
    return Error{"measure.family", fmt::format("There is no family {}. Take one of {}.", key, fmt::join(known, ", ")), {}};
}

const StageFigures* Reading::stage(std::string_view name) const {
    const auto it = std::find_if(stages.begin(), stages.end(), [&](const StageFigures& s) { return s.name.find(name) != s.name.npos; });
    return it == stages.end() ? nullptr : &*it;
}
double Reading::pixel(const std::string& figure) const {
    const StageFigures* s = stage("Fragment");
    const auto it = s ? s->figures.find(figure) : std::map<std::string, double>::const_iterator{};
    return s && it != s->figures.end() ? it->second : 0;
}
double Reading::vertex(const std::string& figure) const {
    const StageFigures* s = stage("Vertex");
    const auto it = s ? s->figures.find(figure) : std::map<std::string, double>::const_iterator{};
    return s && it != s->figures.end() ? it->second : 0;
}

std::string whyNotMeasured(const DriverPlace& place) {
    std::error_code none;
    const fs::path driver = driverAt(place);
    if (driver.empty() || !fs::exists(driver, none))
        return fmt::format("There is no driver to measure with. Install the package {}; until then figures are counted.", kPackage);
    if (const fs::path program = programAt(place); !fs::exists(program, none))
        return fmt::format("The program {} is missing, which asks the driver. Install Hue Stack anew; until then figures are counted.",
                           program.string());
    return {};
}

std::vector<Result<Reading>> compiledFor(const Family& family, std::span<const StagePair> pairs, const DriverPlace& place,
                                         const Work& work) {
    std::vector<Result<Reading>> out;
    const auto allFail = [&](Error e) {
        while (out.size() < pairs.size()) out.emplace_back(e);
        return std::move(out);
    };
    if (const std::string why = whyNotMeasured(place); !why.empty()) {
        std::error_code none;
        const bool program = fs::exists(driverAt(place), none);
        return allFail({program ? "measure.no-program" : "measure.no-driver", why, {}});
    }
    Child child;
    for (const StagePair& pair : pairs) {
        if (work.stopped()) return allFail({"stopped", "Measuring was stopped.", {}});
        std::string line;
        if (!child.running()) {
            if (!child.start(programAt(place), driverAt(place), family))
                return allFail({"measure.no-program",
                                fmt::format("{} cannot be started. Install Hue Stack anew; until then figures are counted.",
                                            programAt(place).string()),
                                {}});
            const Child::Came came = child.line(line, place.patience, work);
            if (came == Child::Came::Stopped) return allFail({"stopped", "Measuring was stopped.", {}});
            const Json greeting = came == Child::Came::Line ? Json::parse(line, nullptr, false) : Json();
            // A driver that does not know the family ends itself at once.
            if (!greeting.is_object() || !greeting.contains("device"))
                return allFail(lost("measure.family", family,
                                    greeting.is_object() && greeting.contains("error")
                                        ? fmt::format("does not start: {}", greeting["error"].dump())
                                    : came == Child::Came::Late ? "does not answer"
                                                                : "does not know that family, or broke off"));
        }
        const uint32_t counts[] = {uint32_t(pair.vertex.size()), uint32_t(pair.fragment.size())};
        const bool sent = child.send(counts, sizeof counts) && child.send(pair.vertex.data(), pair.vertex.size() * 4) &&
                          child.send(pair.fragment.data(), pair.fragment.size() * 4);
        const Child::Came came = sent ? child.line(line, place.patience, work) : Child::Came::Nothing;
        if (came == Child::Came::Line) {
            const Json answer = Json::parse(line, nullptr, false);
            try {
                if (answer.is_object() && answer.contains("stages")) out.emplace_back(readingOf(answer));
                else
                    out.emplace_back(lost("measure.refused", family,
                                          fmt::format("refuses it: {}", answer.is_object() ? answer.value("error", "no reason")
                                                                                           : "no answer that can be read")));
            } catch (const Json::exception& e) {
                out.emplace_back(lost("measure.refused", family, fmt::format("answers what cannot be read: {}", e.what())));
            }
        } else {
            child.end();
            out.emplace_back(came == Child::Came::Stopped ? Error{"stopped", "Measuring was stopped.", {}}
                             : came == Child::Came::Late
                                 ? lost("measure.slow", family, fmt::format("took more than {:g} s over it", place.patience))
                                 : lost("measure.died", family, "broke off over it"));
        }
        if (work.progress) work.progress(float(out.size()) / float(pairs.size()));
    }
    child.leave();
    return out;
}

std::string readingText(const Reading& r) {
    Json stages = Json::array();
    for (const StageFigures& s : r.stages) stages.push_back({{"name", s.name}, {"statistics", s.figures}});
    return Json{{"stages", std::move(stages)}}.dump();
}

Result<Reading> readingFrom(const std::string& text) {
    const Json j = Json::parse(text, nullptr, false);
    try {
        if (j.is_object()) return readingOf(j);
    } catch (const Json::exception&) {}
    return Error{"measure.unreadable", "What was measured before cannot be read.", {}};
}

} // namespace hue
