// Worlds whose ticks use several threads.

#include <thread>

#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "errand/go_to.hpp"
#include "errand/patrol.hpp"
#include "errand/roam.hpp"
#include "ground_behind.hpp"
#include "quay.hpp"

namespace ambulon {
namespace {

/// Jobs on some threads; each thread takes every n-th job, the last ones first.
Jobs on_threads(std::size_t threads) {
  return [threads](std::size_t count, const std::function<void(std::size_t)>& job) {
    std::vector<std::thread> all;
    for (std::size_t first = 0; first < threads; ++first)
      all.emplace_back([&, first] {
        for (std::size_t i = count; i-- > 0;)
          if (i % threads == first) job(i);
      });
    for (std::thread& thread : all) thread.join();
  };
}

/// A full market square with a row of stalls after some seconds: all positions, and the journal.
std::pair<std::vector<vec3>, std::string> after_a_while(const Ground& ground, const Jobs& jobs) {
  World world({.ground = &ground, .avoid = true, .jobs = jobs});
  const Tags cats = *world.tag("cats");
  Random random(3, 1);
  for (int i = 0; i < 900; ++i) {
    const float x = 0.5f + static_cast<float>(i % 38), y = 0.5f + static_cast<float>(i / 38) * 0.9f;
    const auto npc = world.add({.at = {x, y, 0},
                                .body = {.radius = 0.2f},
                                .avoidance = {.takes_part = i % 50 != 7, .priority = i % 7 == 0 ? 1 : 0},
                                .tags = i % 5 == 0 ? cats : Tags()});
    if (!npc) continue;  // inside a stall
    if (i % 3 == 0)
      npc->roam({.radius = 8, .pause = {0, 0.5f}});
    else if (i % 11 == 0)
      npc->follow(World::one_of(cats));
    else if (i % 4 == 0)
      npc->patrol(std::vector{npc->position(), npc->position() + vec3(2, 1, 0)});
    else
      npc->go_to({random.within({1, 38}), random.within({1, 21}), 0});
  }
  EXPECT_GT(world.size(), 800U);
  pass(world, 1.5);
  std::vector<vec3> places;
  world.each([&](Npc npc) { places.push_back(npc.position()); });
  return {places, told(world)};
}

std::unique_ptr<MeshGround> market() {
  Plan plan{.outlines = {{{0, 0}, {40, 0}, {40, 22}, {0, 22}}}};
  for (float x = 6; x < 36; x += 6) plan.holes.push_back({{x, 8}, {x, 13}, {x + 2, 13}, {x + 2, 8}});
  return *MeshGround::make(plan);
}

TEST(Threads, AnyNumberOfThemMakesTheSameWorldToTheBit) {
  const auto ground = market();
  const auto alone = after_a_while(*ground, {});
  for (const std::size_t threads : {std::size_t{2}, std::size_t{7}}) {
    const auto [places, journal] = after_a_while(*ground, on_threads(threads));
    EXPECT_EQ(places, alone.first) << threads;
    EXPECT_EQ(journal, alone.second) << threads;
  }
}

/// An errand that is updated on one thread, always.
template <class E>
class OneByOne final : public Errand {
 public:
  template <class... Args>
  explicit OneByOne(Args&&... args) : errand_(std::forward<Args>(args)...) {}
  std::string_view name() const override { return errand_.name(); }
  std::optional<vec3> goal() const override { return errand_.goal(); }
  Step step(const View& see, float seconds) override { return errand_.step(see, seconds); }
  bool give_up(const View& see, const Outcome& why) override { return errand_.give_up(see, why); }
  Progress progress(const View& see) const override { return errand_.progress(see); }
  std::optional<float> left(const View& see) const override { return errand_.left(see); }

 private:
  E errand_;
};

template <template <class> class As>
std::pair<std::vector<vec3>, std::string> after_a_while_as() {
  const auto ground = market();
  World world({.ground = ground.get(), .avoid = true});
  Random random(5, 1);
  for (int i = 0; i < 300; ++i) {
    const auto npc =
        world.add({.at = {random.within({1, 39}), random.within({1, 21}), 0}, .body = {.radius = 0.2f}});
    if (!npc) continue;  // inside a stall
    const vec3 goal(random.within({1, 39}), random.within({1, 7}), 0);
    if (i % 3 == 0)
      npc->order<As<Roam>>(RoamOptions{.radius = 4, .pause = {0, 1}, .leg_time = 2});
    else if (i % 3 == 1)
      npc->order<As<GoTo>>(goal, GoToOptions{});
    else
      npc->order<As<Patrol>>(*make_beat(std::vector{npc->position(), goal}),
                             PatrolOptions{.lap = i % 2 == 0 ? 12.f : 0.f, .leg_time = 5}, world.memory());
  }
  pass(world, 4);
  ground->put(*Barrier::box({20, 4}, {6, 3}));
  pass(world, 8);
  std::vector<vec3> places;
  world.each([&](Npc npc) { places.push_back(npc.position()); });
  return {places, told(world)};
}

template <class E>
using AsItIs = E;

TEST(Threads, WhoKeepsOnDoesWhatItsStepWouldSay) {
  const auto [places, journal] = after_a_while_as<AsItIs>();
  const auto one_by_one = after_a_while_as<OneByOne>();
  EXPECT_EQ(places, one_by_one.first);
  EXPECT_EQ(journal, one_by_one.second);
  for (const char* what : {"reached", "pauses", "arrived", "gave up"})
    EXPECT_NE(journal.find(what), std::string::npos) << what;
}

TEST(Clearance, IsLookedForAgainWhenTheGroundChanges) {
  const auto ground = market();
  World world({.ground = ground.get()});
  const Npc cat = *world.add({.at = {4, 3, 0}});
  const auto blend = std::make_shared<Blend>();
  ASSERT_TRUE(blend->add({.at = vec3(30, 3, 0)}));
  cat.steer(blend);
  pass(world, 1);
  const float here = cat.position().x;
  EXPECT_GT(here, 4.5f);
  ground->put(*Barrier::box({here + 1, 3}, {0.4f, 4}));
  pass(world, 3);
  EXPECT_GT(cat.position().x, here + 0.3f);
  EXPECT_LT(cat.position().x, here + 0.55f);  // 0.2 m of barrier and 0.3 m of cat before its centre
}

TEST(Clearance, OnlySavesLookingForEdges) {
  const auto ground = market();
  const GroundBehind unknown(*ground);
  EXPECT_EQ(after_a_while(unknown, {}), after_a_while(*ground, {}));
}

}  // namespace
}  // namespace ambulon
