// The window is killed at any moment while its project is edited and saved: the file is whole, and no older than what was saved last; and
// what was not saved is in the journal two seconds after it was done.
#include "app/window/main_window.h"
#include "core/edits/edits.h"
#include "core/project/store.h"
#include "tests/app/killed.h"
#include "tests/app/patience.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"

#include <QElapsedTimer>
#include <QTest>
#include <csignal>
#include <fcntl.h>
#include <poll.h>
#include <random>
#include <sys/prctl.h>

namespace hue::test {
namespace {

constexpr int kTold = 3; // the handle on which the killed one tells what it has done

void tell(char what, int number) {
    const std::string line = what + std::to_string(number) + "\n";
    if (::write(kTold, line.data(), line.size()) < 0) ::_exit(1);
}

int numberOf(const Project& p) {
    const auto& constants = p.masters.at(0)->graph.channelConstants;
    const auto it = constants.find("roughness");
    return it == constants.end() ? 0 : int(std::lround(it->second[0] * 4096));
}

/// Another process with the window, which edits and saves, and what it has told.
class Killed {
  public:
    Killed(const std::filesystem::path& file, const char* how) {
        int ends[2];
        if (::pipe(ends) != 0) return;
        m_child = ::fork();
        if (m_child == 0) {
            ::prctl(PR_SET_PDEATHSIG, SIGKILL); // it does not outlive the test
            const int quiet = ::open("/dev/null", O_WRONLY);
            ::dup2(quiet, 1), ::dup2(quiet, 2), ::dup2(ends[1], kTold);
            ::execl("/proc/self/exe", "app_tests", kUntilKilled, file.c_str(), how, nullptr);
            ::_exit(127);
        }
        ::close(ends[1]);
        m_told = ends[0];
    }
    ~Killed() {
        kill();
        ::close(m_told);
    }
    /// Waits for its first edit. False: it never came.
    bool begun() { return hear(30000 * test::kPatience); }
    /// Listens so long.
    void listen(int ms) {
        QElapsedTimer t;
        for (t.start(); t.elapsed() < ms;) hear(ms - int(t.elapsed()));
    }
    void kill() {
        if (m_child <= 0) return;
        ::kill(m_child, SIGKILL);
        m_killedAt = m_clock.elapsed();
        ::waitpid(m_child, nullptr, 0);
        m_child = 0;
        while (hear(0)) {}
    }
    int edited = 0, saved = 0;
    /// The last edit more than `ms` before the end.
    int editedBefore(qint64 ms) const {
        int last = 0;
        for (const auto& [when, number] : m_edits)
            if (when + ms < m_killedAt) last = number;
        return last;
    }
    /// The longest that it did not come to an edit, which are told all the time: so long the machine was busy elsewhere.
    qint64 longestStill() const {
        qint64 longest = m_edits.empty() ? 0 : m_killedAt - m_edits.back().first;
        for (size_t i = 1; i < m_edits.size(); ++i) longest = std::max(longest, m_edits[i].first - m_edits[i - 1].first);
        return longest;
    }
    QElapsedTimer m_clock;

  private:
    bool hear(int ms) {
        if (!m_clock.isValid()) m_clock.start();
        pollfd p{m_told, POLLIN, 0};
        std::array<char, 4096> buffer;
        ssize_t n = 0;
        if (::poll(&p, 1, ms) <= 0 || (n = ::read(m_told, buffer.data(), buffer.size())) <= 0) return false;
        m_rest.append(buffer.data(), size_t(n));
        for (size_t end; (end = m_rest.find('\n')) != std::string::npos; m_rest.erase(0, end + 1)) {
            const int number = std::stoi(m_rest.substr(1, end - 1));
            if (m_rest[0] == 's') saved = number;
            else m_edits.emplace_back(m_clock.elapsed(), edited = number);
        }
        return true;
    }
    pid_t m_child = 0;
    qint64 m_killedAt = 0;
    int m_told = -1;
    std::string m_rest;
    std::vector<std::pair<qint64, int>> m_edits;
};

class KilledWindow : public InFolder {
  protected:
    void SetUp() override {
        InFolder::SetUp();
        ::setenv("XDG_STATE_HOME", (folder / "state").c_str(), 1);
        file = folder / "p.huestack";
        ASSERT_TRUE(saveProject(bareProject(), file));
    }
    std::filesystem::path file;
};

// HUE_KILL_ROUNDS: how often.
TEST_F(KilledWindow, LeavesAWholeProjectThatHoldsWhatWasSaved) {
    std::mt19937 random(3);
    const int rounds = killRounds();
    int saves = 0;
    for (int round = 0; round < rounds; ++round) {
        Killed window(file, "saving");
        ASSERT_TRUE(window.begun()) << "round " << round;
        window.listen(int(random() % 250));
        window.kill();
        const auto loaded = loadProject(file);
        ASSERT_TRUE(loaded) << "round " << round << ": " << loaded.error().sentence;
        EXPECT_GE(numberOf(loaded->project), window.saved) << "round " << round << ": what was saved is gone";
        EXPECT_LE(numberOf(loaded->project), window.edited + 1) << "round " << round;
        saves += window.saved > 0;
        for (int seat = 0; seat < Seat::kSeats; ++seat) dropJournal(file, seat);
        ASSERT_TRUE(saveProject(bareProject(), file));
    }
    EXPECT_GT(saves, rounds / 8) << "else nothing was tried";
}

TEST_F(KilledWindow, LosesAtMostTwoSecondsOfWork) {
    for (int round = 0; round < 3; ++round) {
        Killed window(file, "editing");
        ASSERT_TRUE(window.begun()) << "round " << round;
        window.listen(3500 + 700 * round);
        window.kill();
        EXPECT_EQ(numberOf(loadProject(file)->project), 0) << "nothing was saved";
        const auto journal = readJournal(file, 0);
        ASSERT_TRUE(journal) << "round " << round;
        EXPECT_GE(numberOf(*journal), window.editedBefore(2000 + window.longestStill())) << "round " << round;
        EXPECT_LE(numberOf(*journal), window.edited + 1) << "round " << round;
        EXPECT_GT(window.editedBefore(2000 + window.longestStill()), 10) << "else nothing was tried";
        dropJournal(file, 0);
    }
}

} // namespace

int editUntilKilled(const QString& file, bool saves) {
    MainWindow window;
    window.setAsksBeforeClosing(false);
    window.show();
    if (!window.openFile(file)) return 1;
    Session& session = window.session();
    QElapsedTimer sinceStart;
    for (sinceStart.start(); sinceStart.elapsed() < 30000;) {
        const int number = numberOf(session.project()) + 1;
        const bool done = session.apply("set", [&](const Project& p) {
            return edit::setChannelConstant(p, session.masterId(), "roughness", Value::number(float(number % 4096) / 4096));
        });
        if (!done) return 1;
        tell('e', number);
        if (saves && number % 2 == 0) {
            if (!window.saveTo(file)) return 1;
            tell('s', number);
        }
        QTest::qWait(saves ? 1 : 20);
    }
    return 1;
}

} // namespace hue::test
