// Goes before the C library (LD_PRELOAD) and makes the n-th call of one kind fail: HUE_FAULT=write:3. Kinds: write (of files, not of what
// is printed), flush, rename, allocate. HUE_FAULT_LOG names a file that receives a letter when the call was reached.
#include <atomic>
#include <cerrno>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <dlfcn.h>
#include <fcntl.h>
#include <new>
#include <unistd.h>

namespace {

enum class Kind { None, Write, Flush, Rename, Allocate };

struct Plan {
    Kind kind = Kind::None;
    long at = 0;
    Plan() {
        const char* text = std::getenv("HUE_FAULT");
        const char* colon = text ? std::strchr(text, ':') : nullptr;
        if (!colon) return;
        at = std::strtol(colon + 1, nullptr, 10);
        const auto named = [&](const char* name) { return std::strncmp(text, name, size_t(colon - text)) == 0; };
        kind = named("write") ? Kind::Write : named("flush") ? Kind::Flush : named("rename") ? Kind::Rename : Kind::Allocate;
    }
};

const Plan& plan() {
    static const Plan one;
    return one;
}

std::atomic<long> g_calls = 0;

void tell() {
    if (const char* log = std::getenv("HUE_FAULT_LOG")) {
        const int handle = ::open(log, O_WRONLY | O_CREAT | O_APPEND, 0600);
        if (handle < 0) return;
        static const auto real = reinterpret_cast<ssize_t (*)(int, const void*, size_t)>(dlsym(RTLD_NEXT, "write"));
        (void)!real(handle, "x", 1);
        ::close(handle);
    }
}

/// Whether this call is the one that fails.
bool fails(Kind kind) {
    if (plan().kind != kind || g_calls.fetch_add(1) + 1 != plan().at) return false;
    tell();
    return true;
}

template <class F> F next(const char* name) { return reinterpret_cast<F>(dlsym(RTLD_NEXT, name)); }

} // namespace

/// Allocations count from here on: what libraries do before it is theirs.
std::atomic<bool> g_began = false;
int (*g_main)(int, char**, char**) = nullptr;
int begin(int argc, char** argv, char** environment) {
    g_began = true;
    const int code = g_main(argc, argv, environment);
    g_began = false;
    return code;
}

extern "C" {

int __libc_start_main(int (*main)(int, char**, char**), int argc, char** argv, void (*init)(), void (*fini)(), void (*loader)(),
                      void* end) {
    g_main = main;
    using Start = int (*)(int (*)(int, char**, char**), int, char**, void (*)(), void (*)(), void (*)(), void*);
    return next<Start>("__libc_start_main")(begin, argc, argv, init, fini, loader, end);
}

ssize_t write(int handle, const void* data, size_t size) {
    static const auto real = next<ssize_t (*)(int, const void*, size_t)>("write");
    if (handle > 2 && fails(Kind::Write)) return errno = ENOSPC, -1;
    return real(handle, data, size);
}

size_t fwrite(const void* data, size_t size, size_t count, FILE* to) {
    static const auto real = next<size_t (*)(const void*, size_t, size_t, FILE*)>("fwrite");
    if (to != stdout && to != stderr && fails(Kind::Write)) return errno = ENOSPC, 0;
    return real(data, size, count, to);
}

int fsync(int handle) {
    static const auto real = next<int (*)(int)>("fsync");
    if (fails(Kind::Flush)) return errno = EIO, -1;
    return real(handle);
}

int rename(const char* from, const char* to) {
    static const auto real = next<int (*)(const char*, const char*)>("rename");
    if (fails(Kind::Rename)) return errno = EIO, -1;
    return real(from, to);
}

} // extern "C"

void* operator new(size_t size) {
    const bool refused = g_began && fails(Kind::Allocate);
    if (void* p = refused ? nullptr : std::malloc(size ? size : 1)) return p;
    // As the standard has it; a handler that has nothing to give away throws.
    if (const std::new_handler handler = std::get_new_handler()) handler();
    throw std::bad_alloc();
}
void operator delete(void* p) noexcept { std::free(p); }
void operator delete(void* p, size_t) noexcept { std::free(p); }
