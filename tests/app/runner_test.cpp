// Work in the background: who gets what back, and when.
#include "app/session/runner.h"

#include <QElapsedTimer>
#include <QTest>
#include <gtest/gtest.h>
#include <thread>

namespace hue {
namespace {

/// Work that goes on until it is let go or cancelled.
struct Gate {
    std::atomic<bool> open = false, entered = false;
    bool pass(const Work& work) {
        entered = true;
        while (!open && !work.stopped()) std::this_thread::sleep_for(std::chrono::milliseconds(1));
        return open;
    }
};

bool until(const std::function<bool()>& what) { return QTest::qWaitFor(what, 5000); }

TEST(Background, DeliversOnTheInterfaceThread) {
    Runner runner;
    QObject owner;
    std::thread::id worked, delivered;
    int got = 0;
    runner.run(
        {.owner = &owner, .kind = "a"},
        [&](const Work&) {
            worked = std::this_thread::get_id();
            return 7;
        },
        [&](int x) {
            delivered = std::this_thread::get_id();
            got = x;
        });
    ASSERT_TRUE(until([&] { return got == 7; }));
    EXPECT_EQ(delivered, std::this_thread::get_id());
    EXPECT_NE(worked, delivered);
    EXPECT_TRUE(runner.idle());
}

TEST(Background, ANewerTaskOfAKindTakesThePlaceOfTheOlder) {
    Runner runner;
    QObject owner;
    Gate gate;
    std::vector<int> got;
    runner.run(
        {.owner = &owner, .kind = "a"}, [&](const Work& w) { return gate.pass(w) ? 1 : -1; }, [&](int x) { got.push_back(x); });
    ASSERT_TRUE(until([&] { return gate.entered.load(); }));
    runner.run(
        {.owner = &owner, .kind = "a"}, [](const Work&) { return 2; }, [&](int x) { got.push_back(x); });
    ASSERT_TRUE(until([&] { return runner.idle(); }));
    EXPECT_EQ(got, std::vector<int>{2}) << "the older one was cancelled, and nothing of it came back";
}

TEST(Background, WhatMayNotBeCutOffEndsAndOnlyTheNewestFollows) {
    Runner runner;
    QObject owner;
    Gate gate;
    std::vector<int> got;
    const auto ask = [&](int n) {
        runner.run(
            {.owner = &owner, .kind = "a", .newer = Newer::Waits}, [&, n](const Work& w) { return n == 0 ? (gate.pass(w) ? 0 : -1) : n; },
            [&](int x) { got.push_back(x); });
    };
    ask(0);
    ASSERT_TRUE(until([&] { return gate.entered.load(); }));
    for (int n = 1; n <= 5; ++n) ask(n);
    gate.open = true;
    ASSERT_TRUE(until([&] { return runner.idle(); }));
    EXPECT_EQ(got, (std::vector<int>{0, 5}));
}

TEST(Background, NothingComesBackToAnOwnerThatHasGone) {
    Runner runner;
    auto owner = std::make_unique<QObject>();
    Gate gate;
    bool delivered = false;
    runner.run(
        {.owner = owner.get(), .kind = "a"}, [&](const Work& w) { return gate.pass(w); }, [&](bool) { delivered = true; });
    ASSERT_TRUE(until([&] { return gate.entered.load(); }));
    owner.reset();
    ASSERT_TRUE(until([&] { return runner.idle(); })) << "its flag was set, so it ended";
    EXPECT_FALSE(delivered);
}

TEST(Background, AnotherProjectLeavesOnlyWhatOutlivesIt) {
    Runner runner;
    QObject owner;
    Gate gate;
    std::vector<QString> got;
    for (const char* kind : {"thumbnail", "dispatch"})
        runner.run(
            {.owner = &owner, .kind = kind, .pace = Pace::Long, .outlives = QString(kind) == "dispatch"},
            [&](const Work& w) { return gate.pass(w); }, [&, kind](bool) { got.push_back(kind); });
    ASSERT_TRUE(until([&] { return gate.entered.load(); }));
    runner.dropProject();
    gate.open = true;
    ASSERT_TRUE(until([&] { return runner.idle(); }));
    EXPECT_EQ(got, std::vector<QString>{"dispatch"});
}

TEST(Background, ATaskThatTakesLongHoldsUpNoOther) {
    Runner runner;
    QObject owner;
    Gate gate;
    int got = 0;
    for (int n = 0; n < 6; ++n)
        runner.run(
            {.owner = &owner, .kind = QString::number(n), .pace = Pace::Long}, [&](const Work& w) { return gate.pass(w); }, [](bool) {});
    ASSERT_TRUE(until([&] { return gate.entered.load(); }));
    runner.run(
        {.owner = &owner, .kind = "soon"}, [](const Work&) { return 1; }, [&](int x) { got = x; });
    EXPECT_TRUE(until([&] { return got == 1; }));
    gate.open = true;
    ASSERT_TRUE(until([&] { return runner.idle(); }));
}

TEST(Background, WhatIsPutInSafetyWaitsForNothingElse) {
    Runner runner;
    QObject owner;
    Gate gate;
    int got = 0;
    for (int n = 0; n < 40; ++n)
        runner.run(
            {.owner = &owner, .kind = QString::number(n), .pace = n % 2 ? Pace::Long : Pace::Soon},
            [&](const Work& w) { return gate.pass(w); }, [](bool) {});
    ASSERT_TRUE(until([&] { return gate.entered.load(); }));
    runner.run(
        {.owner = &owner, .kind = "journal", .pace = Pace::Kept}, [](const Work&) { return 1; }, [&](int x) { got = x; });
    EXPECT_TRUE(until([&] { return got == 1; }));
    gate.open = true;
    ASSERT_TRUE(until([&] { return runner.idle(); }));
}

TEST(Background, ProgressAndPiecesComeInOrderBeforeTheEnd) {
    Runner runner;
    QObject owner;
    std::vector<std::string> got;
    runner.start({.owner = &owner, .kind = "a", .progress = [&](float p) { got.push_back("at " + std::to_string(int(p * 100))); }},
                 [&](const Work& w, const Runner::Tell& tell) -> std::function<void()> {
                     w.progress(0.5f);
                     tell([&] { got.push_back("piece"); });
                     w.progress(1);
                     return [&] { got.push_back("end"); };
                 });
    ASSERT_TRUE(until([&] { return runner.idle(); }));
    EXPECT_EQ(got, (std::vector<std::string>{"at 50", "piece", "at 100", "end"}));
}

TEST(Background, CancellingIsToldToTheOwner) {
    Runner runner;
    QObject owner;
    Gate gate;
    std::optional<bool> passed;
    runner.run(
        {.owner = &owner, .kind = "a", .pace = Pace::Long}, [&](const Work& w) { return gate.pass(w); }, [&](bool x) { passed = x; });
    ASSERT_TRUE(until([&] { return gate.entered.load(); }));
    EXPECT_TRUE(runner.running(&owner, "a"));
    runner.cancel(&owner, "a");
    ASSERT_TRUE(until([&] { return passed.has_value(); }));
    EXPECT_FALSE(*passed);
}

TEST(Background, GoingDoesNotWaitForWhatDoesNotLook) {
    auto runner = std::make_unique<Runner>();
    QObject owner;
    auto stubborn = std::make_shared<std::atomic<bool>>(false);
    auto entered = std::make_shared<std::atomic<bool>>(false);
    bool delivered = false;
    runner->run(
        {.owner = &owner, .kind = "a", .pace = Pace::Long},
        [=](const Work&) {
            *entered = true;
            while (!*stubborn) std::this_thread::sleep_for(std::chrono::milliseconds(1));
            return 0;
        },
        [&](int) { delivered = true; });
    ASSERT_TRUE(until([&] { return entered->load(); }));
    QElapsedTimer clock;
    clock.start();
    runner.reset();
    EXPECT_LT(clock.elapsed(), 3000) << "however long the work would still take";
    EXPECT_TRUE(Runner::abandoned()) << "the process must end without taking down what the thread reads";
    *stubborn = true;
    QTest::qWait(30);
    EXPECT_FALSE(delivered);
}

} // namespace
} // namespace hue
