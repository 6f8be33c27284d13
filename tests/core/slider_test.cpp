// Where values lie on sliders, and looking things up by their ids.
#include "core/document/parameter_kinds.h"
#include "core/document/slider.h"
#include "core/edits/edits.h"
#include "core/instances/value_words.h"
#include "core/instances/variations.h"
#include "tests/test_graphs.h"

#include <cmath>
#include <gtest/gtest.h>
#include <random>
#include <thread>

namespace hue {
namespace {

using namespace test;

TEST(Slider, GoesThereAndBack) {
    for (const Slider& s : {Slider{0, 1}, Slider{-3, 7}, Slider{2, 50, 0, SliderCurve::FineBelow},
                            Slider{0.01f, 1000, 0, SliderCurve::Decades}, Slider{-1, 1, 0, SliderCurve::Decades}}) {
        float before = -INFINITY;
        for (int k = 0; k <= 200; ++k) {
            const float place = float(k) / 200, value = valueAt(s, place);
            EXPECT_NEAR(placeOn(s, value), place, 2e-5f);
            EXPECT_GT(value, before) << "to the right it only grows";
            before = value;
        }
        EXPECT_EQ(valueAt(s, 0), s.low);
        EXPECT_NEAR(valueAt(s, 1), s.high, std::fabs(s.high) * 1e-5f);
        EXPECT_EQ(placeOn(s, s.low - 5), 0);
        EXPECT_EQ(placeOn(s, s.high + 5), 1);
    }
    // Half of the way of one that is fine below is for a quarter; decades are of equal length.
    EXPECT_FLOAT_EQ(valueAt({0, 8, 0, SliderCurve::FineBelow}, 0.5f), 2);
    const Slider decades{0.01f, 100, 0, SliderCurve::Decades};
    EXPECT_NEAR(placeOn(decades, 0.1f), 0.25f, 1e-6f);
    EXPECT_NEAR(placeOn(decades, 10), 0.75f, 1e-6f);
    EXPECT_EQ(placeOn({3, 3}, 3), 0) << "one without a length";
}

TEST(Slider, StopsAtItsSteps) {
    const Slider quarters{0.5f, 2.1f, 0.25f};
    for (int k = 0; k <= 100; ++k) {
        const float x = (valueAt(quarters, float(k) / 100) - 0.5f) / 0.25f;
        EXPECT_TRUE(std::fabs(x - std::round(x)) < 1e-5f || valueAt(quarters, float(k) / 100) == 2.1f);
    }
    EXPECT_EQ(stepped(quarters, 1, 1), 1.25f);
    EXPECT_EQ(stepped(quarters, 0.5f, -1), 0.5f);
    Parameter count;
    count.type = ParameterType::Integer, count.softMin = 0.5f, count.softMax = 9.5f;
    const Slider whole = sliderOf(count);
    for (int k = 0; k <= 100; ++k) {
        const float x = valueAt(whole, float(k) / 100);
        EXPECT_EQ(x, std::round(x));
        EXPECT_TRUE(x >= 1 && x <= 9) << x;
    }
    EXPECT_EQ(stepped(whole, 4, 1), 5);
    EXPECT_NEAR(stepped({0, 10}, 4, 1), 4.1f, 1e-5f);
    EXPECT_NEAR(stepped({0, 10}, 4, 1, true), 4.01f, 1e-5f);
}

Parameter of(ParameterType type, std::vector<std::string> options = {}) {
    Parameter p;
    p.id = p.codeName = "p", p.name = "P", p.type = type, p.options = std::move(options);
    return p;
}

TEST(ParameterKinds, TakeWhatTheyCanHold) {
    const auto number = [](float x) { return ParameterValue{Value::number(x), {}}; };
    EXPECT_EQ(limited(of(ParameterType::OnOff), number(0.6f)).value[0], 1);
    EXPECT_EQ(limited(of(ParameterType::OnOff), number(-4)).value[0], 0);
    EXPECT_EQ(limited(of(ParameterType::Choice, {"a", "b", "c"}), number(7)).value[0], 2);
    EXPECT_EQ(limited(of(ParameterType::Integer), number(2.5f)).value[0], 3);
    EXPECT_FALSE(std::signbit(limited(of(ParameterType::Integer), number(-0.2f)).value[0]));
    Parameter between = of(ParameterType::Integer);
    between.hardMin = 0.5f, between.hardMax = 3.5f;
    EXPECT_EQ(limited(between, number(-9)).value[0], 1);
    EXPECT_EQ(limited(between, number(9)).value[0], 3);
    EXPECT_EQ(limited(of(ParameterType::OnOff), number(NAN)).value[0], 0);

    const Project p = bareProject();
    const Parameter livery = of(ParameterType::Choice, {"plain", "2"}), moss = of(ParameterType::OnOff);
    EXPECT_EQ(valueFrom(p, livery, "plain")->value[0], 0);
    EXPECT_EQ(valueFrom(p, livery, "2")->value[0], 1) << "a name comes before a place";
    EXPECT_EQ(valueFrom(p, livery, "1")->value[0], 1);
    EXPECT_FALSE(valueFrom(p, livery, "3"));
    EXPECT_NE(valueFrom(p, livery, "stripes").error().sentence.find("plain, 2"), std::string::npos) << "says what it takes";
    EXPECT_EQ(valueFrom(p, moss, " on ")->value[0], 1);
    EXPECT_FALSE(valueFrom(p, moss, "0.5"));
    EXPECT_EQ(wordsOf(p, moss, number(1)), "on");
    EXPECT_EQ(wordsOf(p, livery, number(0)), "plain");
    EXPECT_FALSE(valueFrom(p, of(ParameterType::Integer), "2.5"));
    const ParameterValue four = number(4);
    EXPECT_EQ(valueFrom(p, of(ParameterType::Integer), "+3", &four)->value[0], 7);
}

TEST(ParameterKinds, VaryOverAllTheirOptionsAlike) {
    Project p = bareProject();
    Result<Project> with = edit::addParameter(p, "m", of(ParameterType::Choice, {"a", "b", "c", "d"}));
    ASSERT_TRUE(with);
    const Result<Varied> varied = variedFrom(*with, *masterOf(*with).parameter("p"), "a..d");
    ASSERT_TRUE(varied) << varied.error().sentence;
    for (const bool gradual : {true, false}) {
        std::vector<Id> made;
        const Result<Project> many = withVariations(*with, {"m", "V", 40, gradual, 3, {*varied}}, &made);
        ASSERT_TRUE(many);
        std::array<int, 4> counts{};
        for (const Id& id : made) ++counts[size_t(many->instance(id)->own.at("p").value[0])];
        for (const int n : counts) EXPECT_EQ(n, 10) << gradual;
    }
}

TEST(ParameterKinds, ShowOneAnother) {
    Project p = bareProject();
    Parameter moss = of(ParameterType::OnOff), height = of(ParameterType::Number);
    height.id = "h", height.name = "Moss height", height.shownWhen = {"p", {1}};
    p = *edit::addParameter(p, "m", moss);
    p = *edit::addParameter(p, "m", height);
    const auto shown = [](const Project& q) { return isShown(masterOf(q), *masterOf(q).parameter("h"), resolve(q, "m")); };
    EXPECT_FALSE(shown(p));
    EXPECT_TRUE(shown(*edit::setOwn(p, "m", "p", {Value::number(1), {}})));
    EXPECT_TRUE(shown(*edit::removeParameter(p, "m", "p"))) << "what asks for nothing is shown";
}

TEST(ParameterKinds, SayWhichValuesChangeWithThem) {
    Project p = bareProject();
    Parameter wear = of(ParameterType::Number);
    p = *edit::addParameter(p, "m", wear);
    for (const auto& [name, x] : {std::pair{"Ochre", 0.45f}, {"Teal", 1.f}}) {
        Instance i;
        i.id = i.name = name, i.parent = "m", i.own["p"] = {Value::number(x), {}};
        p = *edit::addInstance(p, i);
    }
    wear.type = ParameterType::Integer;
    const Project next = *edit::changeParameter(p, "m", wear);
    EXPECT_EQ(changedValues(p, next, "p"), std::vector<std::string>{"Ochre: 0.45 becomes 0"});
    EXPECT_TRUE(changedValues(p, p, "p").empty());
}

TEST(Lookup, FindsTheSameAsGoingThroughAll) {
    std::mt19937 random(7);
    Project p = bareProject();
    const auto fresh = [&] {
        auto i = std::make_shared<Instance>();
        i->id = "i" + std::to_string(random() % 120), i->parent = "m";
        return i;
    };
    for (int round = 0; round < 4000; ++round) {
        // Changed in every way that edits change lists, asked in between, and copied.
        switch (random() % 5) {
        case 0: p.instances.push_back(fresh()); break;
        case 1:
            if (!p.instances.empty()) p.instances.erase(p.instances.begin() + long(random() % p.instances.size()));
            break;
        case 2:
            if (!p.instances.empty()) p.instances[random() % p.instances.size()] = fresh();
            break;
        case 3: std::shuffle(p.instances.begin(), p.instances.end(), random); break;
        default: p = Project(p); break;
        }
        const Id wanted = "i" + std::to_string(random() % 120);
        const Instance* first = nullptr;
        for (const InstancePtr& i : p.instances)
            if (!first && i->id == wanted) first = i.get();
        const Instance* found = p.instance(wanted);
        ASSERT_EQ(found != nullptr, first != nullptr);
        if (found) { ASSERT_EQ(found->id, wanted); }
    }
}

TEST(Lookup, IsAskedByManyAtATime) {
    Project p = bareProject();
    for (int k = 0; k < 500; ++k) {
        auto i = std::make_shared<Instance>();
        i->id = "i" + std::to_string(k), i->parent = k % 7 ? "i" + std::to_string(k - 1) : "m";
        p.instances.push_back(i);
    }
    std::vector<std::thread> threads;
    std::atomic<int> wrong = 0;
    for (int t = 0; t < 4; ++t)
        threads.emplace_back([&, t] {
            for (int k = t; k < 500; ++k) {
                const Project copy = p;
                const Id id = "i" + std::to_string(k);
                if (!copy.instance(id) || copy.instance(id)->id != id || p.chainOf(id).size() != size_t(k % 7 + 1)) ++wrong;
            }
        });
    for (std::thread& t : threads) t.join();
    EXPECT_EQ(wrong, 0);
}

} // namespace
} // namespace hue
