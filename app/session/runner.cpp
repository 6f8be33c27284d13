#include "app/session/runner.h"

#include <QThreadPool>
#include <algorithm>
#include <deque>
#include <mutex>

namespace hue {
namespace {

std::atomic<bool> g_abandoned = false;
constexpr int kPatience = 300; ///< milliseconds that closing waits for what does not look at its flag at once

} // namespace

struct Runner::Job {
    Task task;
    const QObject* owner = nullptr; ///< to compare only; may have gone
    Step step;
    std::atomic<bool> cancelled = false;
    std::atomic<bool> dropped = false; ///< what it returns is not wanted
};

/// What threads see of the runner: the way back to it while it is there.
struct Runner::Shared {
    std::mutex mutex;
    Runner* runner = nullptr;
    QThreadPool soon, lengthy, kept;
    QThreadPool& of(Pace pace) { return pace == Pace::Soon ? soon : pace == Pace::Long ? lengthy : kept; }
    std::deque<std::function<void(Runner&)>> calls; ///< in the order in which they came; each has woken the interface thread

    std::vector<std::shared_ptr<Job>> handed; ///< to a pool, whose threads have not taken them yet

    std::shared_ptr<Job> taken(const Job* key) {
        const std::lock_guard lock(mutex);
        const auto it = std::find_if(handed.begin(), handed.end(), [key](const auto& j) { return j.get() == key; });
        std::shared_ptr<Job> job = std::move(*it);
        handed.erase(it);
        return job;
    }

    /// Has `call` made on the interface thread, if anybody is there.
    void post(std::function<void(Runner&)> call) {
        const std::lock_guard lock(mutex);
        if (!runner) return;
        calls.push_back(std::move(call));
        QMetaObject::invokeMethod(runner, "callNext", Qt::QueuedConnection);
    }
};

void Runner::callNext() {
    std::function<void(Runner&)> call;
    {
        const std::lock_guard lock(m_shared->mutex);
        call = std::move(m_shared->calls.front());
        m_shared->calls.pop_front();
    }
    call(*this);
}

void Runner::drop(Job& job) {
    job.dropped = true;
    job.cancelled = true;
}

Runner::Runner(QObject* parent) : QObject(parent), m_shared(std::make_shared<Shared>()) {
    m_shared->runner = this;
    // Two of each, so that one that takes long never holds up the others, on however few cores.
    m_shared->soon.setMaxThreadCount(std::max(2, QThread::idealThreadCount() - 1));
    m_shared->lengthy.setMaxThreadCount(2);
    m_shared->kept.setMaxThreadCount(1);
}

Runner::~Runner() {
    cancelAll();
    std::deque<std::function<void(Runner&)>> unheard; // what they hold goes here, on the interface thread
    {
        const std::lock_guard lock(m_shared->mutex);
        m_shared->runner = nullptr;
        unheard.swap(m_shared->calls);
    }
    m_shared->soon.clear();
    m_shared->lengthy.clear();
    m_shared->kept.clear();
    if (m_shared->soon.waitForDone(kPatience) && m_shared->lengthy.waitForDone(kPatience) && m_shared->kept.waitForDone(kPatience)) return;
    g_abandoned = true;
    // The pools' destructors would wait for their threads, so they are kept until the process ends.
    static auto* const kept = new std::vector<std::shared_ptr<Shared>>;
    kept->push_back(m_shared);
}

Runner::Tell Runner::teller() const {
    return [shared = m_shared](std::function<void()> call) { shared->post([call = std::move(call)](Runner&) { call(); }); };
}

bool Runner::abandoned() { return g_abandoned; }

void Runner::start(Task task, Step step) {
    const bool wasIdle = idle();
    auto job = std::make_shared<Job>();
    job->owner = task.owner;
    job->task = std::move(task);
    job->step = std::move(step);
    const auto same = [&](const std::shared_ptr<Job>& other) {
        return !job->task.kind.isEmpty() && other->owner == job->owner && other->task.kind == job->task.kind;
    };
    if (job->task.owner) connect(job->task.owner, &QObject::destroyed, this, &Runner::forget, Qt::UniqueConnection);
    std::erase_if(m_next, same);
    const auto busy = std::find_if(m_jobs.begin(), m_jobs.end(), same);
    if (busy != m_jobs.end() && job->task.newer == Newer::Waits) {
        m_next.push_back(job);
    } else {
        for (const auto& j : m_jobs)
            if (same(j)) drop(*j);
        launch(job);
    }
    if (wasIdle) Q_EMIT idleChanged();
}

void Runner::forget(QObject* owner) {
    for (const auto& j : m_jobs)
        if (j->owner == owner) drop(*j);
    std::erase_if(m_next, [owner](const auto& j) { return j->owner == owner; });
}

void Runner::launch(const std::shared_ptr<Job>& job) {
    m_jobs.push_back(job);
    {
        const std::lock_guard lock(m_shared->mutex);
        m_shared->handed.push_back(job);
    }
    m_shared->of(job->task.pace).start([shared = m_shared, key = job.get()] { perform(shared, key); }, job->task.priority);
}

void Runner::perform(const std::shared_ptr<Shared>& shared, const Job* key) {
    const std::shared_ptr<Job> job = shared->taken(key);
    Work work;
    work.cancelled = &job->cancelled;
    if (job->task.progress)
        work.progress = [job, shared](float part) {
            shared->post([job, part](Runner&) {
                if (!job->dropped) job->task.progress(part);
            });
        };
    const Tell tell = [job, shared](std::function<void()> call) {
        shared->post([job, call = std::move(call)](Runner&) {
            if (!job->dropped) call();
        });
    };
    std::function<void()> deliver;
    if (!job->dropped) deliver = job->step(work, tell);
    // What the step holds on to may be large; it goes before anybody is told.
    job->step = {};
    shared->post([job, deliver = std::move(deliver)](Runner& r) { r.finish(job, deliver); });
}

void Runner::finish(const std::shared_ptr<Job>& job, const std::function<void()>& deliver) {
    std::erase(m_jobs, job);
    // The next of its kind goes first, so that what is delivered may ask for another.
    const auto next =
        std::find_if(m_next.begin(), m_next.end(), [&](const auto& j) { return j->owner == job->owner && j->task.kind == job->task.kind; });
    if (next != m_next.end()) {
        const auto waiting = *next;
        m_next.erase(next);
        launch(waiting);
    }
    if (!job->dropped && deliver) deliver();
    if (idle()) Q_EMIT idleChanged();
}

bool Runner::running(const QObject* owner, const QString& kind) const {
    const auto is = [&](const auto& j) { return j->owner == owner && j->task.kind == kind && !j->dropped; };
    return std::any_of(m_jobs.begin(), m_jobs.end(), is) || std::any_of(m_next.begin(), m_next.end(), is);
}

bool Runner::idle() const { return m_jobs.empty() && m_next.empty(); }

void Runner::cancel(const QObject* owner, const QString& kind) {
    for (const auto& j : m_jobs)
        if (j->owner == owner && j->task.kind == kind) j->cancelled = true;
    std::erase_if(m_next, [&](const auto& j) { return j->owner == owner && j->task.kind == kind; });
}

void Runner::dropProject() {
    for (const auto& j : m_jobs)
        if (!j->task.outlives) drop(*j);
    std::erase_if(m_next, [](const auto& j) { return !j->task.outlives; });
}

void Runner::cancelAll() {
    for (const auto& j : m_jobs) drop(*j);
    m_next.clear();
}

} // namespace hue
