// Where cards lie, and ways for wires.
#include "core/board/route.h"
#include "core/board/tidy.h"
#include "core/document/bays.h"
#include "tests/test_graphs.h"

#include <cmath>
#include <gtest/gtest.h>

namespace hue {
namespace {

using namespace test;

/// A random graph with cards of random heights at random places; every third one in bays, one of them within another.
struct RandomBoard {
    Project p;
    std::map<Id, Box> boxes;
    explicit RandomBoard(uint32_t seed, int nodes = 24) : p(randomGraph(seed, nodes)) {
        std::mt19937 random(seed);
        std::vector<Id> ids;
        for (const auto& [id, node] : masterOf(p).graph.nodes) {
            const float x = float(random() % 900), y = float(random() % 900), h = 70 + float(random() % 90);
            boxes[id] = {x, y, x + 166, y + h};
            ids.push_back(id);
        }
        std::shuffle(ids.begin(), ids.end(), random);
        p = *edit::addBay(p, "m", "outer", {ids.begin(), ids.begin() + 7});
        p = *edit::addBay(p, "m", "inner", {ids.begin(), ids.begin() + 3});
        p = *edit::addBay(p, "m", "other", {ids.begin() + 8, ids.begin() + 11});
    }
    const Graph& graph() const { return masterOf(p).graph; }
};

std::map<Id, Box> at(std::map<Id, Box> boxes, const std::map<Id, Point>& places) {
    for (const auto& [id, to] : places) boxes[id] = {to.x, to.y, to.x + boxes[id].width(), to.y + boxes[id].height()};
    return boxes;
}

Box bayBox(const Graph& g, const Bay& bay, const std::map<Id, Box>& boxes) {
    Box out;
    for (const Id& n : bay.nodes) out = around(out, boxes.at(n));
    for (const Bay& b : g.bays)
        if (b.inside == bay.id) out = around(out, bayBox(g, b, boxes));
    return {out.left - kBayMargin, out.top - kBayHead, out.right + kBayMargin, out.bottom + kBayMargin};
}

TEST(Tidying, PutsEveryCardLeftOfItsReadersAndNoneUponAnother) {
    for (uint32_t seed = 1; seed <= 30; ++seed) {
        const RandomBoard b(seed);
        const auto places = tidied(b.graph(), b.boxes, {});
        ASSERT_EQ(places.size(), b.boxes.size());
        const auto now = at(b.boxes, places);
        for (const auto& [id, node] : b.graph().nodes) {
            for (const auto& [port, wire] : node->wires) EXPECT_LE(now.at(wire.node).right + 20, now.at(id).left) << seed;
            for (const auto& [other, box] : now)
                if (other != id) { EXPECT_FALSE(now.at(id).grown(4).meets(box)) << seed << ": " << id << " lies upon " << other; }
        }
    }
}

TEST(Tidying, KeepsBaysTogetherAndEverythingElseOut) {
    for (uint32_t seed = 1; seed <= 30; ++seed) {
        const RandomBoard b(seed);
        const auto now = at(b.boxes, tidied(b.graph(), b.boxes, {}));
        for (const Bay& bay : b.graph().bays) {
            const Box box = bayBox(b.graph(), bay, now);
            const std::vector<Id> within = cardsWithin(b.graph(), bay.id);
            for (const auto& [id, card] : now)
                if (!holds(within, id)) { EXPECT_FALSE(box.meets(card)) << seed << ": " << id << " lies in " << bay.name; }
            for (const Bay& other : b.graph().bays)
                if (other.id != bay.id && other.inside != bay.id && bay.inside != other.id) {
                    EXPECT_FALSE(box.meets(bayBox(b.graph(), other, now))) << seed;
                }
        }
    }
}

TEST(Tidying, LeavesWhatIsTidyWhereItIs) {
    for (uint32_t seed = 1; seed <= 30; ++seed) {
        const RandomBoard b(seed);
        const auto once = tidied(b.graph(), b.boxes, {});
        EXPECT_EQ(tidied(b.graph(), at(b.boxes, once), {}), once) << seed;
    }
}

TEST(Tidying, NeverAddsCrossingsToAnOrderThatCouldStay) {
    int before = 0, after = 0;
    for (uint32_t seed = 1; seed <= 30; ++seed) {
        const RandomBoard b(seed);
        // The columns alone, in the order that there was.
        const int had = crossingsOf(b.graph(), b.boxes), has = crossingsOf(b.graph(), at(b.boxes, tidied(b.graph(), b.boxes, {})));
        before += had, after += has;
    }
    EXPECT_LT(after, before * 3 / 4) << "random places cross much more";
}

TEST(Tidying, KeepsTheOrderOfRowsWhereNothingCrosses) {
    // Three noises into three sines: whatever the order is, nothing crosses; so it stays.
    Project p = bareProject();
    std::map<Id, Box> boxes;
    std::vector<Id> noises, sines;
    for (int k = 0; k < 3; ++k) {
        noises.push_back(add(p, "noise_2d")), sines.push_back(add(p, "sine"));
        wire(p, {noises.back(), "out", ""}, sines.back(), "in");
    }
    const std::array<int, 3> order{2, 0, 1};
    for (int row = 0; row < 3; ++row) {
        const size_t k = size_t(order[size_t(row)]);
        boxes[noises[k]] = {0, float(row) * 130, 166, float(row) * 130 + 80};
        boxes[sines[k]] = {260, float(row) * 130 + 9, 426, float(row) * 130 + 80};
    }
    const auto places = tidied(masterOf(p).graph, boxes, {});
    for (int row = 0; row + 1 < 3; ++row)
        EXPECT_LT(places.at(noises[size_t(order[size_t(row)])]).y, places.at(noises[size_t(order[size_t(row) + 1])]).y);
    EXPECT_EQ(crossingsOf(masterOf(p).graph, at(boxes, places)), 0);
}

TEST(Tidying, OfASelectionMovesNothingElseAndLandsOnNothing) {
    for (uint32_t seed = 1; seed <= 30; ++seed) {
        const RandomBoard b(seed);
        std::set<Id> chosen;
        for (const auto& [id, box] : b.boxes)
            if (chosen.size() < 8) chosen.insert(id);
        const auto places = tidied(b.graph(), b.boxes, chosen);
        ASSERT_EQ(places.size(), chosen.size());
        const auto now = at(b.boxes, places);
        for (const Id& id : chosen)
            for (const auto& [other, box] : now)
                if (!chosen.contains(other)) { EXPECT_FALSE(now.at(id).meets(box)) << seed; }
    }
}

TEST(Tidying, TakesAFoldedBayAsOneCard) {
    for (uint32_t seed = 1; seed <= 20; ++seed) {
        RandomBoard b(seed);
        const Id outer = b.graph().bays[0].id;
        b.p = *edit::foldBay(b.p, "m", outer, true);
        const std::vector<Id> within = cardsWithin(b.graph(), outer);
        Box box = b.boxes.at(within[0]);
        for (const Id& card : within) {
            b.p = *edit::moveNodes(b.p, "m", {{card, {b.boxes.at(card).left, b.boxes.at(card).top}}});
            b.boxes.erase(card);
        }
        b.boxes[outer] = box;
        const auto places = tidiedAsSeen(b.graph(), b.boxes, {});
        EXPECT_EQ(places.size(), b.graph().nodes.size());
        // What lies within moved as the box did.
        const Node& first = *b.graph().find(within[0]);
        const Point by{places.at(within[0]).x - first.position.x, places.at(within[0]).y - first.position.y};
        for (const Id& card : within) {
            EXPECT_FLOAT_EQ(places.at(card).x - b.graph().find(card)->position.x, by.x) << seed;
            EXPECT_FLOAT_EQ(places.at(card).y - b.graph().find(card)->position.y, by.y) << seed;
        }
        // And the box lies upon no card.
        const Box now{box.left + by.x, box.top + by.y, box.right + by.x, box.bottom + by.y};
        for (const auto& [id, to] : places)
            if (!holds(within, id)) {
                EXPECT_FALSE(now.meets({to.x, to.y, to.x + b.boxes.at(id).width(), to.y + b.boxes.at(id).height()})) << seed;
            }
    }
}

/// Pins as on a board: outputs at the right, inputs spread over the left edge.
std::vector<WireEnds> pinsOf(const Graph& g, const std::map<Id, Box>& boxes) {
    std::vector<WireEnds> out;
    std::map<Id, int> net;
    for (const auto& [id, node] : g.nodes) {
        float y = boxes.at(id).top + 38;
        for (const auto& [port, wire] : node->wires) {
            const Box& from = boxes.at(wire.node);
            net.emplace(wire.node, int(net.size()));
            out.push_back({{from.right + 6, from.top + 16}, {boxes.at(id).left - 6, y}, net.at(wire.node)});
            y += 19;
        }
    }
    return out;
}

bool liesBeneath(Point a, Point b, const Box& card) {
    const Box run{std::min(a.x, b.x), std::min(a.y, b.y), std::max(a.x, b.x) + 1e-3f, std::max(a.y, b.y) + 1e-3f};
    return run.meets(card);
}

TEST(Ways, AreTheSameWhereTheCardsAreSortedOnce) {
    for (uint32_t seed = 1; seed <= 12; ++seed) {
        RandomBoard b(seed);
        std::mt19937 random(seed);
        Router router;
        for (int step = 0; step < 25; ++step) {
            // One card moves, a little or far; now and then it is gone for a step, as while it is dragged.
            auto& box = std::next(b.boxes.begin(), long(random() % b.boxes.size()))->second;
            const float dx = float(random() % 401) - 200, dy = float(random() % 401) - 200;
            box = {box.left + dx, box.top + dy, box.right + dx, box.bottom + dy};
            std::vector<Box> cards;
            for (const auto& [id, its] : b.boxes)
                if (&its != &box || step % 3) cards.push_back(its);
            const auto wires = pinsOf(b.graph(), b.boxes);
            router.setCards(cards);
            ASSERT_EQ(router.ways(wires), waysOfWires(wires, cards)) << "seed " << seed << ", step " << step;
            const std::vector<WireEnds> few(wires.begin(), wires.begin() + long(std::min<size_t>(3, wires.size())));
            ASSERT_EQ(router.ways(few), waysOfWires(few, cards)) << "others beside them";
        }
    }
}

TEST(Ways, LeadFromPinToPinInLevelAndUprightRuns) {
    for (uint32_t seed = 1; seed <= 20; ++seed) {
        const RandomBoard b(seed);
        const auto wires = pinsOf(b.graph(), b.boxes);
        std::vector<Box> cards;
        for (const auto& [id, box] : b.boxes) cards.push_back(box);
        const auto ways = waysOfWires(wires, cards);
        ASSERT_EQ(ways.size(), wires.size());
        for (size_t i = 0; i < ways.size(); ++i) {
            EXPECT_EQ(ways[i].front(), wires[i].from);
            EXPECT_EQ(ways[i].back(), wires[i].to);
            for (size_t k = 0; k + 1 < ways[i].size(); ++k)
                EXPECT_TRUE(ways[i][k].x == ways[i][k + 1].x || ways[i][k].y == ways[i][k + 1].y) << seed;
            EXPECT_GE(ways[i][1].x, ways[i][0].x) << "leaves to the right";
            EXPECT_LE(ways[i][ways[i].size() - 2].x, ways[i].back().x) << "arrives from the left";
        }
    }
}

TEST(Ways, OfATidyBoardLieBeneathNoCardAndSideBySide) {
    int upon = 0, runs = 0;
    for (uint32_t seed = 1; seed <= 20; ++seed) {
        const RandomBoard b(seed, 40);
        const auto boxes = at(b.boxes, tidied(b.graph(), b.boxes, {}));
        const auto wires = pinsOf(b.graph(), boxes);
        std::vector<Box> cards;
        for (const auto& [id, box] : boxes) cards.push_back(box);
        const auto ways = waysOfWires(wires, cards);
        for (size_t i = 0; i < ways.size(); ++i)
            for (size_t k = 0; k + 1 < ways[i].size(); ++k) {
                for (const Box& card : cards) EXPECT_FALSE(liesBeneath(ways[i][k], ways[i][k + 1], card)) << seed << ", wire " << i;
                if (ways[i][k].x != ways[i][k + 1].x) continue;
                ++runs;
                for (size_t j = 0; j < i; ++j)
                    for (size_t l = 0; l + 1 < ways[j].size(); ++l)
                        if (wires[i].net != wires[j].net && ways[j][l].x == ways[j][l + 1].x && ways[i][k].x == ways[j][l].x &&
                            std::max(std::min(ways[i][k].y, ways[i][k + 1].y), std::min(ways[j][l].y, ways[j][l + 1].y)) <
                                std::min(std::max(ways[i][k].y, ways[i][k + 1].y), std::max(ways[j][l].y, ways[j][l + 1].y)))
                            ++upon;
            }
    }
    EXPECT_GT(runs, 500);
    EXPECT_EQ(upon, 0) << "upright runs of two outputs lie upon each other";
}

TEST(Ways, GoAroundACardThatLiesBetween) {
    const std::vector<Box> cards{{200, 0, 366, 300}};
    for (const float y : {20.f, 150.f, 280.f}) {
        const std::vector<WireEnds> wires{{{100, y}, {500, y}, 0}};
        const auto ways = waysOfWires(wires, cards);
        for (size_t k = 0; k + 1 < ways[0].size(); ++k) EXPECT_FALSE(liesBeneath(ways[0][k], ways[0][k + 1], cards[0]));
        // By the nearer side.
        float highest = y, lowest = y;
        for (const Point& p : ways[0]) highest = std::min(highest, p.y), lowest = std::max(lowest, p.y);
        EXPECT_EQ(highest < 0, y < 150 || (y == 150 && lowest <= 300)) << y;
    }
    // Straight where nothing does.
    const std::vector<WireEnds> straight{{{100, 400}, {500, 400}, 0}};
    EXPECT_EQ(waysOfWires(straight, cards)[0].size(), 2u);
}

TEST(Ways, LeadBackwardsAround) {
    // The target lies left of the source.
    const std::vector<Box> cards{{300, 0, 466, 100}, {0, 0, 166, 100}};
    const std::vector<WireEnds> back{{{472, 16}, {-6, 38}, 0}};
    const auto way = waysOfWires(back, cards)[0];
    for (size_t k = 0; k + 1 < way.size(); ++k)
        for (const Box& card : cards) EXPECT_FALSE(liesBeneath(way[k], way[k + 1], card));
}

} // namespace
} // namespace hue
