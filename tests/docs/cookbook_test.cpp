// Plays the cookbook's scenes; compiles and runs its code and that of game-loop.md and reference.md.

#include <algorithm>
#include <cstdio>
#include <filesystem>
#include <fstream>
#include <functional>
#include <map>
#include <span>
#include <sstream>
#include <unordered_set>

#include <glm/ext/vector_double3.hpp>
#include <glm/geometric.hpp>
#include <gtest/gtest.h>

#include "ambulon/ambulon.hpp"
#include "ambulon/draw/world_chart.hpp"
#include "ambulon/motion/steering.hpp"
#include "ambulon/scene/scene_player.hpp"

#include "scene/check.hpp"
#include "scene/play.hpp"

namespace ambulon {
namespace {

float flat_distance(vec3 a, vec3 b) { return glm::length(flat(b) - flat(a)); }

struct Recipe {
  std::string_view heading;
  void (*run)(World&, Npc, Npc);
};
#include "recipes.inc"
// clang-format off
#include "game_loop.inc"
#include "reference.inc"
// clang-format on

/// `top`: the lines above it that belong to the top of a scene.
struct Block {
  std::string heading, text, top;
};

/// The blocks of the cookbook in that language, with their headings.
std::vector<Block> blocks(const std::string& language) {
  std::ifstream book(AMBULON_SOURCE_DIR "/docs/cookbook.md");
  std::vector<Block> all;
  std::string heading, top;
  bool inside = false;
  for (std::string line; std::getline(book, line);) {
    if (line.starts_with("### ")) heading = line.substr(4);
    if (line.starts_with("    ") && line.ends_with("# at the top of a scene")) top = line + "\n";
    if (line == "```" + language) {
      inside = true;
      all.push_back({heading, "", std::exchange(top, "")});
    } else if (line == "```") {
      inside = false;
    } else if (inside) {
      all.back().text += line + "\n";
    }
  }
  return all;
}

/// The result of 30 s in a world that follows a recipe.
struct Shown {
  World& world;
  bool scene;     // or code
  int block = 0;  // its number under the heading among those of its kind, from 1
  Npc npc(const char* name) const { return world.find(name); }
  float apart(const char* a, const char* b) const {
    return flat_distance(npc(a).position(), npc(b).position());
  }
  float off(const char* name, vec3 place) const { return flat_distance(npc(name).position(), place); }
  std::vector<Note> notes(Event event) const {
    std::vector<Note> all;
    for (auto number = world.journal().first(); number < world.journal().next(); ++number)
      if (world.journal()[number].event == event) all.push_back(world.journal()[number]);
    return all;
  }
  std::size_t count(Event event) const { return notes(event).size(); }
  /// How the latest order of that name ended.
  Outcome ended(std::string_view errand) const {
    std::optional<Outcome> last;
    for (const Note& note : notes(Event::ended))
      if (note.errand == errand) last = note.outcome;
    EXPECT_TRUE(last) << errand << " has not ended";
    return last.value_or(Outcome{.ending = Ending::blocked});
  }
  void go_on(float seconds) const {
    for (float t = 0; t < seconds; t += 1.f / 60) ASSERT_TRUE(world.tick(1.f / 60));
  }
};

/// The promise of a recipe, for its scene and its code alike.
struct Promise {
  std::string_view heading;
  std::function<void(const Shown&)> check;
};

const Promise promises[] = {
    {"Send somebody to a point",
     [](const Shown& it) {
       EXPECT_EQ(it.ended("go_to").ending, Ending::arrived);
       EXPECT_LE(it.off("cat", {6.5f, 3, 0}), 0.51f);
     }},
    {"Be there in fourteen seconds, facing the canal; go to somebody who moves",
     [](const Shown& it) {
       EXPECT_EQ(it.ended("go_to").ending, Ending::arrived);
       EXPECT_LE(it.off("cat", {6.5f, 3, 0}), 0.31f);
       EXPECT_NEAR(it.npc("cat").heading(), radians(90), 0.01f);
       EXPECT_EQ(it.npc("courier").statistics().endings[static_cast<std::size_t>(Ending::arrived)], 1U);
     }},
    {"Turn to something, wait a moment, go on",
     [](const Shown& it) {
       EXPECT_EQ(it.ended("turn_to").ending, Ending::done);
       EXPECT_EQ(it.ended("pause").ending, Ending::done);
       EXPECT_LE(it.off("cat", {2, 3, 0}), 0.31f);
       double began = 0;
       for (const Note& note : it.notes(Event::ordered))
         if (note.errand == "pause") began = note.time;
       for (const Note& note : it.notes(Event::ended))
         if (note.errand == "pause") {
           EXPECT_NEAR(note.time - began, 2, 1.02);
         }
     }},
    {"Stop it in the middle, let it go on, put it elsewhere",
     [](const Shown& it) {
       ASSERT_EQ(it.count(Event::suspended) * it.count(Event::resumed) * it.count(Event::teleported), 1U);
       EXPECT_LE(it.off("cat", {17, 6, 0}), 0.31f);
       const Order order = it.npc("cat").go_to({400, 0, 0});  // the limit also holds while it is suspended
       order.time_limit(30);
       it.npc("cat").suspend();
       it.go_on(31);
       EXPECT_EQ(order.outcome()->ending, Ending::timed_out);
     }},
    {"If no route leads there: the nearest spot, or wait for one",
     [](const Shown& it) {
       EXPECT_EQ(it.ended("go_to").ending, Ending::arrived);
       EXPECT_LE(it.off("cat", {12, 3.5f, 0}), 0.31f);
     }},
    {"A player, or whatever else the game moves by itself",
     [](const Shown& it) { EXPECT_LE(it.apart("cat", "player"), 1.6f); }},
    {"Walk round and round, with pauses",
     [](const Shown& it) {
       EXPECT_GE(it.npc("cat").statistics().arrivals, 4U);
       EXPECT_GE(it.count(Event::pausing), 4U);
       EXPECT_TRUE(it.npc("cat").busy());
     }},
    {"A smooth lap that takes forty seconds",
     [](const Shown& it) {
       it.go_on(80);
       ASSERT_GE(it.count(Event::lap), 1U);
       for (const Note& lap : it.notes(Event::lap)) EXPECT_NEAR(lap.value, 40, 0.4);
       EXPECT_EQ(it.count(Event::late), 0U);
     }},
    {"A beat that changes while it is walked",
     [](const Shown& it) {
       it.go_on(30);
       std::map<float, int> third;
       for (const Note& note : it.notes(Event::reached))
         if (note.number == 3) ++third[note.where.x];
       EXPECT_GE(third[6.5f], 1);
       EXPECT_GE(third[2], 1);
       EXPECT_EQ(third.size(), 2U);
     }},
    {"Roam about home",
     [](const Shown& it) {
       ASSERT_GE(it.count(Event::visited), 2U);
       for (const Note& visit : it.notes(Event::visited)) {
         EXPECT_GE(flat_distance(visit.where, {2, 3, 0}), 2);
         EXPECT_LE(flat_distance(visit.where, {2, 3, 0}), 8);
       }
     }},
    {"Hop among favourite places, one of them more often",
     [](const Shown& it) {
       it.go_on(600);
       std::map<float, int> visits;
       for (const Note& visit : it.notes(Event::visited)) ++visits[visit.where.x];
       for (const auto& [x, count] : visits) EXPECT_LE(count, visits[6.5f]) << x;
     }},
    {"Follow somebody without jittering",
     [](const Shown& it) {
       int starts = 0;
       float before = 1;
       for (int second = 0; second < 60; ++second) {
         it.go_on(1);
         EXPECT_LE(it.apart("cat", "courier"), 3.3f);
         const float speed = it.npc("cat").motion().speed();
         starts += before < 0.01f && speed > 0.01f;
         before = speed;
       }
       EXPECT_LE(starts, 8);
     }},
    {"Walk behind and to the left; the further behind, the faster",
     [](const Shown& it) {
       const Motion& ahead = it.npc("courier").motion();
       const vec2 left(-ahead.facing.y, ahead.facing.x);
       EXPECT_LE(it.off("cat", ahead.position + lift(left - ahead.facing)), 0.55f);
     }},
    {"Follow whichever of a group is nearest",
     [](const Shown& it) {
       float nearest = 1000;
       it.world.each([&](Npc npc) {
         if (npc.name() != "cat") nearest = std::min(nearest, it.off("cat", npc.position()));
       });
       EXPECT_LE(nearest, 2.5f);
     }},
    {"Chase, strike when near, give up when it gets away",
     [](const Shown& it) {
       EXPECT_EQ(it.ended("chase").ending, Ending::arrived);
       EXPECT_GE(it.count(Event::came_near), 1U);
     }},
    {"When two bodies touch",
     [](const Shown& it) {
       ASSERT_EQ(it.count(Event::touched), 1U);
       EXPECT_GT(it.notes(Event::touched).front().value, 1.3f);
       EXPECT_LE(it.off("courier", {2, 3, 0}), 0.31f);
       if (it.scene) {
         EXPECT_GE(it.apart("cat", "courier"), 5.9f);
       } else {
         EXPECT_LE(it.off("cat", {2, 9, 0}), 0.31f);
       }
     }},
    {"Run away", [](const Shown& it) { EXPECT_GE(it.apart("cat", "courier"), 10.9f); }},
    {"Companions that keep near a leader, each in a place of its own",
     [](const Shown& it) {
       EXPECT_LE(it.off("courier", {17, 6, 0}), 0.31f);
       EXPECT_LE(it.apart("cat", "courier"), 4.1f);
     }},
    {"Keep a distance",
     [](const Shown& it) {
       EXPECT_GE(it.apart("cat", "courier"), 2.9f);
       EXPECT_LE(it.apart("cat", "courier"), 5.1f);
     }},
    {"A platform that carries whoever stands on it",
     [](const Shown& it) {
       EXPECT_GE(it.count(Event::boarded), 1U);
       EXPECT_EQ(it.count(Event::left_deck), 0U);
       const vec3 before = it.npc("raft").position();
       const Npc rider = it.npc("raft").world()->find("cat").alive() ? it.npc("cat") : it.npc("courier");
       const vec3 stood = rider.position();
       it.go_on(4);
       EXPECT_LE(glm::distance(rider.position() - stood, it.npc("raft").position() - before), 0.01f);
     }},
    {"Slide a cart to a place in three seconds",
     [](const Shown& it) {
       EXPECT_EQ(it.ended("ease_to").ending, Ending::arrived);
       ASSERT_EQ(it.count(Event::ended), 1U);
       EXPECT_NEAR(it.notes(Event::ended).front().time, 3, 0.02);
     }},
    {"To and fro between obstacles, in side view",
     [](const Shown& it) { EXPECT_GE(it.count(Event::turned_around), 1U); }},
    {"Slow down softly, or late; weigh more",
     [](const Shown& it) {
       EXPECT_LE(it.off("cat", {17, 6, 0}), 0.31f);
       EXPECT_LE(it.off("courier", {17, 8, 0}), 0.31f);
     }},
    {"Walk, and run when somebody comes near or a bell rings",
     [](const Shown& it) {
       ASSERT_GE(it.count(Event::new_gait), 1U);
       EXPECT_EQ(it.notes(Event::new_gait).front().value, 3);
       EXPECT_EQ(it.ended("go_to").ending, Ending::arrived);
     }},
    {"An order that does not get on",
     [](const Shown& it) { EXPECT_GE(it.npc("cat").statistics().arrivals, 1U); }},
    {"A flock",
     [](const Shown& it) {
       const char* other = it.scene ? "gnat" : "courier";
       const char* first = it.scene ? "hawk-moth" : "cat";
       for (int second = 0; second < 30; ++second) {
         it.go_on(1);
         EXPECT_LE(it.apart(first, other), 8);
         EXPECT_GE(it.npc(first).motion().speed(), 0.39f);
       }
     }},
    {"Walls, and a cart in the way",
     [](const Shown& it) {
       EXPECT_LE(it.off("cat", {2, 3, 0}), 0.31f);
       EXPECT_EQ(it.npc("cat").statistics().endings[static_cast<std::size_t>(Ending::arrived)], 2U);
     }},
    {"A plan instead of tiles",
     [](const Shown& it) {
       it.go_on(10);
       EXPECT_EQ(it.ended("go_to").ending, Ending::arrived);
       if (it.scene) {
         EXPECT_EQ(it.npc("cat").statistics().endings[static_cast<std::size_t>(Ending::arrived)], 2U);
       } else {
         EXPECT_LE(it.off("cat", {9, 7.7f, 0}), 0.31f);  // at the wall
       }
     }},
    {"A level of several floors",
     [](const Shown& it) { EXPECT_LE(it.off("cat", it.block == 1 ? vec3(7, 3, 0) : vec3(6, 2, 0)), 0.61f); }},
    {"Far from the origin", [](const Shown& it) { EXPECT_LE(it.off("cat", {6.5f, 3, 0}), 0.31f); }},
    {"Leaps, ladders, and a door that can be shut",
     [](const Shown& it) {
       if (!it.scene) {
         EXPECT_LE(it.off("cat", {16, 3, 0}), 0.61f);
         return;
       }
       EXPECT_LE(it.off("cat", {18, 4, 0}), 0.31f);
       EXPECT_EQ(it.count(Event::crosses), 1U);
       it.go_on(60);
       EXPECT_LE(it.off("cat", {2, 3, 0}), 0.31f);
       EXPECT_EQ(it.count(Event::crosses), 2U);
     }},
    {"Mud, with a cost",
     [](const Shown& it) {
       const Statistics statistics = it.npc("cat").statistics();
       const auto times = statistics.endings[static_cast<std::size_t>(Ending::arrived)];
       EXPECT_EQ(times, it.block == 1 ? 2U : 1U);
       EXPECT_GE(statistics.metres, 10.2 * times);  // the straight line is 10 m
       EXPECT_LE(statistics.metres, 14. * times);
     }},
    {"Everybody to the nearest exit, and a crab through a maze",
     [](const Shown& it) {
       EXPECT_EQ(it.ended("flow").ending, Ending::arrived);
       EXPECT_LE(it.off("porter", {0.5f, 0.5f, 0}), 0.51f);
       EXPECT_GE(it.npc("crab").statistics().metres, 20);
     }},
    {"Click, and it goes there",
     [](const Shown& it) {
       EXPECT_EQ(it.ended("click_to_move").ending, Ending::arrived);
       EXPECT_LE(it.off("cat", {6, 3, 0}), 0.31f);
     }},
    {"Hold the pointer, select several",
     [](const Shown& it) {
       if (it.scene) {
         EXPECT_LE(it.off("porter", {6.5f, 3, 0}), 0.51f);
         return;
       }
       const vec3 middle = 0.5f * (it.npc("cat").position() + it.npc("courier").position());
       EXPECT_LE(flat_distance(middle, {4, 4, 0}), 0.5f);
       EXPECT_NEAR(it.apart("cat", "courier"), 10, 1);  // as they stood before
     }},
    {"The same script for fifty",
     [](const Shown& it) {
       it.go_on(60);
       EXPECT_EQ(it.world.size(), 52U);
       it.world.each([](Npc npc) {
         if (npc.directed()) {
           EXPECT_GE(npc.statistics().arrivals, 2U);
         }
       });
     }},
    {"Avoidance",
     [](const Shown& it) {
       if (it.scene) {
         float min = 10;
         it.world.each([&](Npc a) {
           EXPECT_FALSE(a.busy()) << a.name();
           it.world.each([&](Npc b) {
             if (a != b) min = std::min(min, flat_distance(a.position(), b.position()));
           });
         });
         EXPECT_GE(min, 0.59f);
       } else if (it.block == 1) {
         EXPECT_LE(it.off("cat", {6, 3, 0}), 0.61f);
       } else {
         EXPECT_LE(it.apart("cat", "courier"), 3.1f);
       }
     }},
    {"In formation",
     [](const Shown& it) {
       it.go_on(30);
       if (it.scene) {
         it.world.each(
             [&](Npc npc) { EXPECT_LE(flat_distance(npc.position(), {17, 6, 0}), 4) << npc.name(); });
         return;
       }
       EXPECT_NEAR(it.apart("cat", "courier"), it.block == 1 ? 1.5f : 1.2f, 0.35f);
       if (it.block == 2) {
         EXPECT_LE(it.off("courier", {12, 9, 0}), 0.31f);
       }
     }},
    {"Thousands of NPCs, most of them far away",
     [](const Shown& it) { EXPECT_LE(it.off("cat", {12, 9, 0}), 0.31f); }},
    {"An order of your own, for thousands",
     [](const Shown& it) {
       EXPECT_EQ(it.ended("circle").ending, Ending::done);
       EXPECT_NEAR(it.notes(Event::ended).front().time, 20, 0.02);
       EXPECT_LE(it.off("moth", {2, 3, 0}), 0.31f);
     }},
};

/// Checks that a recipe did what it shows.
void expect_kept(std::string_view heading, const Shown& shown) {
  SCOPED_TRACE(heading);
  const auto promise = std::ranges::find(promises, heading, &Promise::heading);
  if (promise != std::end(promises))
    promise->check(shown);
  else
    ADD_FAILURE() << "promises nothing";
}

TEST(Cookbook, PromisesAreThoseOfRecipes) {
  for (const Promise& promise : promises) {
    const auto is_its = [&](const Block& block) { return block.heading == promise.heading; };
    EXPECT_TRUE(std::ranges::any_of(blocks("cpp"), is_its) || std::ranges::any_of(blocks("toml"), is_its))
        << promise.heading;
  }
}

/// No order may end in one of these ways.
void expect_no_failures(const Statistics& statistics, const std::string& where) {
  for (const Ending bad :
       {Ending::refused, Ending::stuck, Ending::off_ground, Ending::no_route, Ending::blocked})
    EXPECT_EQ(statistics.endings[static_cast<std::size_t>(bad)], 0U) << name(bad) << "\n" << where;
}

TEST(Cookbook, EverySceneIsPlayedAndMovesItsCharacters) {
  const std::string format = "format = \"ambulon-scene/1\"\n", open = "ground = { open = true }\n";
  const std::string places =
      "[place]\ngate = [2, 3]\nlamp-1 = [6.5, 3]\nlamp-2 = [12, 3.5]\nlamp-3 = [17, 6]\n";
  const auto scenes = blocks("toml");
  EXPECT_GT(scenes.size(), 15U);
  std::map<std::string, int> numbers;
  for (const auto& [heading, text, first] : scenes) {
    const bool own_ground = text.find("[ground") != std::string::npos;
    const std::string top = (own_ground ? format : format + open) + first;
    const auto scene = read_scene_text(top + places + text, "cookbook.md");
    ASSERT_TRUE(scene) << scene.error().text << "\n" << text;
    for (const Finding& finding : check(*scene))
      if (!finding.what.starts_with("the place")) ADD_FAILURE() << finding.what << "\n" << text;
    const auto play = Play::start(*scene).value();
    while (play->world().time() < 30) play->tick();
    double walked = 0;
    for (std::size_t i = 0; i < play->npcs().size(); ++i) {
      expect_no_failures(play->statistics(i), text);
      walked += play->statistics(i).metres;
    }
    EXPECT_GT(walked, 2) << text;
    expect_kept(heading, {play->world(), true, ++numbers[heading]});
  }
}

TEST(Cookbook, AllCodeRuns) {
  EXPECT_EQ(std::size(recipes), blocks("cpp").size());
  std::map<std::string_view, int> numbers;
  for (std::size_t i = 0; i < std::size(recipes); ++i) {
    World world({.seed = 20});
    const Npc cat = *world.add({.name = "cat", .at = {2, 3, 0}, .gait = {.speed = 2}});
    const Npc courier = *world.add({.name = "courier", .at = {12, 3.5f, 0}});
    recipes[i].run(world, cat, courier);
    double walked = 0;
    for (int tick = 0; tick < 1800; ++tick) ASSERT_TRUE(world.tick(1.f / 60.f));
    world.each([&](Npc npc) {
      expect_no_failures(npc.statistics(), "recipe " + std::to_string(i + 1));
      walked += npc.statistics().metres;
    });
    const int number = ++numbers[recipes[i].heading];
    if (i + 1 < std::size(recipes)) {  // the last recipe only asks
      expect_kept(recipes[i].heading, {world, false, number});
      EXPECT_GT(walked, 2) << "recipe " << i + 1;
    }
  }
}

/// Runs the code of a page, and then the world for 10 s.
void run_all(std::span<const Recipe> page) {
  for (const Recipe& block : page) {
    World world({.seed = 20});
    const Npc cat = *world.add({.name = "cat", .at = {2, 3, 0}});
    const Npc courier = *world.add({.name = "courier", .at = {12, 3.5f, 0}});
    block.run(world, cat, courier);
    for (int tick = 0; tick < 600; ++tick) ASSERT_TRUE(world.tick(1.f / 60.f));
    world.each([&](Npc npc) { expect_no_failures(npc.statistics(), std::string(block.heading)); });
  }
}

TEST(GameLoop, AllCodeRuns) {
  EXPECT_GE(std::size(game_loop), 12U);
  run_all(game_loop);
}

TEST(Reference, TheExampleOfEachRoomRuns) {
  EXPECT_EQ(std::size(reference), 9U);
  run_all(reference);
}

}  // namespace
}  // namespace ambulon
