#pragma once
// The one way to work in the background. A task has an owner, a kind, a cancel flag and progress. What it returns comes back on the
// interface thread, or not at all: not when its owner has gone, when a newer task of its kind took its place, or when all is closing.
#include "core/base/work.h"

#include <QObject>
#include <QString>
#include <functional>
#include <memory>
#include <type_traits>
#include <vector>

namespace hue {

/// What becomes of a task that runs when a newer one of its kind is started.
enum class Newer {
    Waits,   ///< it ends as it likes and delivers; of those that wait only the newest is kept
    Replaces ///< it is cancelled, and what it returns is dropped
};
/// How soon something is wanted.
enum class Pace {
    Soon, ///< a screen waits for it
    Long, ///< a job that people start, or that may take its time
    Kept  ///< work that is put in safety; it is short and waits for nothing else
};

struct Task {
    QObject* owner = nullptr; ///< on the interface thread; its tasks are cancelled when it goes
    QString kind;             ///< of the owner's tasks; an empty one stands beside all others
    Newer newer = Newer::Replaces;
    Pace pace = Pace::Soon;
    int priority = 0;                         ///< higher first, among those of one pace
    bool outlives = false;                    ///< goes on when another project is opened
    std::function<void(float)> progress = {}; ///< 0..1, on the interface thread
};

/// Belongs to the interface thread, as do all its calls.
class Runner : public QObject {
    Q_OBJECT

  public:
    explicit Runner(QObject* parent = nullptr);
    /// Cancels everything. Waits no longer than people notice; see abandoned().
    ~Runner() override;

    /// `work` runs on a thread of its own and must hold on to all that it reads: snapshots, shared files. `done` gets what it
    /// returned.
    template <class Make, class Take> void run(Task task, Make work, Take done) {
        using R = std::invoke_result_t<Make, const Work&>;
        start(std::move(task),
              [work = std::move(work), done = std::move(done)](const Work& w, const Tell&) mutable -> std::function<void()> {
                  auto result = std::make_shared<R>(work(w));
                  return [result, done = std::move(done)]() mutable { done(std::move(*result)); };
              });
    }
    /// Has a call made on the interface thread, in turn with others and before the end is told; for what comes piece by piece.
    using Tell = std::function<void(std::function<void()>)>;
    /// The same for who is no task and may outlive the runner: a call from any thread, made on the interface thread while the runner is
    /// there.
    Tell teller() const;
    /// For work that says itself what is to be done when it has ended.
    using Step = std::function<std::function<void()>(const Work&, const Tell&)>;
    void start(Task task, Step step);
    /// Whether a task of that kind runs or waits.
    bool running(const QObject* owner, const QString& kind) const;
    /// Nothing runs and nothing waits.
    bool idle() const;
    void cancel(const QObject* owner, const QString& kind);
    void cancelAll();
    /// Cancels, and nothing of it comes back. Of everything that does not outlive the project.
    void dropProject();
    /// Whether threads were left at work when the last runner went: then the process has to end without taking anything down that
    /// they may still read.
    static bool abandoned();

  Q_SIGNALS:
    /// Something has begun, or all has ended.
    void idleChanged();

  private:
    struct Job;
    struct Shared;
    /// Of what threads posted, the first.
    Q_INVOKABLE void callNext();
    void launch(const std::shared_ptr<Job>& job);
    /// On a thread of a pool.
    static void perform(const std::shared_ptr<Shared>& shared, const Job* key);
    void finish(const std::shared_ptr<Job>& job, const std::function<void()>& deliver);
    void forget(QObject* owner);
    static void drop(Job& job);

    std::shared_ptr<Shared> m_shared;
    std::vector<std::shared_ptr<Job>> m_jobs; ///< at work or waiting for their turn
    std::vector<std::shared_ptr<Job>> m_next; ///< wait for one of their kind to end
};

} // namespace hue
