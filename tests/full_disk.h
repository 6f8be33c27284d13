#pragma once
// A disk that takes no more: within its scope no file grows beyond some bytes.
#include <csignal>
#include <cstddef>
#include <sys/resource.h>

namespace hue {

class FullDisk {
  public:
    explicit FullDisk(size_t bytes) {
        ::getrlimit(RLIMIT_FSIZE, &m_before);
        m_handler = std::signal(SIGXFSZ, SIG_IGN);
        const rlimit small{bytes, m_before.rlim_max};
        ::setrlimit(RLIMIT_FSIZE, &small);
    }
    ~FullDisk() {
        ::setrlimit(RLIMIT_FSIZE, &m_before);
        std::signal(SIGXFSZ, m_handler);
    }
    FullDisk(const FullDisk&) = delete;

  private:
    rlimit m_before{};
    void (*m_handler)(int) = nullptr;
};

} // namespace hue
