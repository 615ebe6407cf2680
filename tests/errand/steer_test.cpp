#include <algorithm>

#include "ambulon/errand/order_options.hpp"

#include "base/geometry.hpp"
#include "quay.hpp"

namespace ambulon {
namespace {

BlendPtr blend_of(std::vector<Term> terms) {
  auto blend = std::make_shared<Blend>();
  for (Term& term : terms) EXPECT_TRUE(blend->add(std::move(term)));
  return blend;
}

TEST(Steer, FlocksStayTogetherKeepApartAndGoTheSameWay) {
  World world({.seed = 9});
  const Tags moths = *world.tag("moth");
  const BlendPtr flock =
      blend_of({{.behaviour = Behaviour::separation, .weight = 2, .tags = moths, .within = 0.6f},
                {.behaviour = Behaviour::alignment, .tags = moths, .within = 6},
                {.behaviour = Behaviour::cohesion, .tags = moths, .within = 12},
                {.behaviour = Behaviour::wander, .weight = 0.3f}});
  std::vector<Npc> all;
  for (int i = 0; i < 20; ++i) {
    const vec3 at(static_cast<float>(i % 5), static_cast<float>(i / 5), 0);
    all.push_back(*world.add({.at = at,
                              .heading = static_cast<float>(i),
                              .body = {.radius = 0.05f},
                              .gait = {.speed = 1},
                              .tags = moths}));
    all.back().steer(flock, {.min_speed = 0.6f});
  }
  pass(world, 30);
  vec2 middle(0.f), velocity(0.f);
  for (const Npc npc : all) middle += flat(npc.position()) / 20.f, velocity += npc.velocity() / 20.f;
  EXPECT_GT(glm::length(velocity), 0.4f);  // without a common heading it would be near 0
  for (const Npc npc : all) {
    EXPECT_LT(glm::length(flat(npc.position()) - middle), 5.f);
    EXPECT_GT(npc.motion().speed(), 0.5f);
    for (const Npc other : all)
      if (other != npc) {
        EXPECT_GT(flat_distance(npc.position(), other.position()), 0.1f);
      }
  }
}

TEST(Steer, FlocksMindWhomTheySee) {
  // One that flies before a moth and one that flies behind it, both away from its way.
  const auto turned_by = [](vec3 other, float view_angle) {
    World world;
    const Npc moth = *world.add({.gait = {.speed = 1}});
    world.add({.at = other});
    moth.steer(
        blend_of({{.behaviour = Behaviour::own, .own = [](const View&, float) { return Wish{{1, 0}, 1.f}; }},
                  {.behaviour = Behaviour::cohesion, .within = 6, .view_angle = view_angle}}));
    pass(world, 0.5);
    return moth.velocity().y;
  };
  EXPECT_GT(turned_by({3, 3, 0}, radians(120.f)), 0.1f);
  EXPECT_GT(turned_by({-2, 4, 0}, 2.f * pi), 0.1f);
  EXPECT_EQ(turned_by({-2, 4, 0}, radians(220.f)), 0.f);
  Blend blend;
  EXPECT_FALSE(blend.add({.behaviour = Behaviour::cohesion, .view_angle = 7.f}));
}

TEST(Steer, GoesRoundAnObstacleByPriorityAndAlongAUsersOwnBehaviour) {
  World world;
  const Npc crate = *world.add({.at = {6, 0.05f, 0}, .body = {.radius = 0.8f}});
  const Npc porter = *world.add({.gait = {.acceleration = 8}});
  porter.steer(
      blend_of({{.behaviour = Behaviour::avoid_obstacles, .every = 3},
                {.behaviour = Behaviour::own, .own = [](const View&, float) { return Wish{{2, 0}, 1.f}; }}}),
      {.mode = BlendMode::priority});
  float nearest = 99.f;
  pass(world, 12, 1.f / 60.f, [&] {
    nearest = std::min(nearest, flat_distance(porter.position(), crate.position()));
    return false;
  });
  EXPECT_GT(nearest, 1.05f);
  EXPECT_GT(porter.position().x, 10.f);
}

TEST(Steer, BehavioursAboutATargetDoAsTheirNamesSay) {
  const auto distance_after = [](Term term, float seconds) {
    World world;
    const Npc thief = *world.add({.at = {8, 0, 0}});
    const Npc npc = *world.add({.gait = {.speed = 2}});
    term.target = thief.id();
    npc.steer(blend_of({term}));
    pass(world, seconds);
    return flat_distance(npc.position(), thief.position());
  };
  EXPECT_LT(distance_after({.behaviour = Behaviour::seek}, 4), 1.f);
  EXPECT_LT(distance_after({.behaviour = Behaviour::pursue}, 4), 1.f);
  EXPECT_NEAR(distance_after({.behaviour = Behaviour::arrive, .within = 2}, 10), 2.f, 0.25f);
  EXPECT_NEAR(distance_after({.behaviour = Behaviour::flee, .within = 12}, 10), 12.f, 0.5f);
  EXPECT_NEAR(distance_after({.behaviour = Behaviour::evade, .within = 12}, 10), 12.f, 0.5f);
  EXPECT_EQ(distance_after({.behaviour = Behaviour::flee, .within = 6}, 10), 8.f);  // too far away to react
  EXPECT_NEAR(distance_after({.behaviour = Behaviour::keep_distance, .band = {3, 5}}, 10), 5.f, 0.1f);
  EXPECT_NEAR(distance_after({.behaviour = Behaviour::follow_offset, .offset = {-3, 0}}, 10), 3.f, 0.1f);
}

TEST(Steer, EdgesTurnItAwayAndPathsLeadIt) {
  const OpenGround quay(vec2(0), vec2(20, 10));
  World world({.ground = &quay});
  const Npc cat = *world.add({.at = {10, 5, 0}, .gait = {.speed = 1}});
  cat.steer(blend_of({{.behaviour = Behaviour::avoid_edges, .weight = 2, .within = 2},
                      {.behaviour = Behaviour::wander}}),
            {.mode = BlendMode::priority});
  bool touched = false;
  pass(world, 120, 1.f / 30.f, [&] {
    const vec3 at = cat.position();
    touched = touched || at.x < 0.05f || at.x > 19.95f || at.y < 0.05f || at.y > 9.95f;
    return false;
  });
  EXPECT_FALSE(touched);
  const Npc courier = *world.add({.at = {1, 1, 0}});
  courier.steer(
      blend_of({{.behaviour = Behaviour::follow_path, .within = 0.8f, .path = {{1, 1}, {15, 1}, {15, 8}}}}));
  float off = 0.f;
  pass(world, 14, 1.f / 60.f, [&] {
    const vec3 at = courier.position();
    off = std::max(off, std::min(std::abs(at.y - 1), std::abs(at.x - 15)));
    return false;
  });
  EXPECT_LT(off, 0.7f);
  EXPECT_GT(courier.position().y, 4.f);
}

TEST(Steer, ABlendThatMakesNoSenseIsNamed) {
  Blend blend;
  EXPECT_EQ(blend.add({.behaviour = Behaviour::separation, .within = -1}).error().text,
            "within of separation is -1; it must lie between 0.01 and 100000");
  EXPECT_EQ(blend.add({.behaviour = Behaviour::own}).error().text, "own has no function to ask");
  EXPECT_EQ(blend.add({.behaviour = Behaviour::follow_path, .path = {{1, 1}}}).error().text,
            "follow_path needs a path of two points or more");
  World world;
  const Npc npc = *world.add({});
  const Order empty = npc.steer(std::make_shared<Blend>());
  pass(world, 0.05);
  EXPECT_EQ(empty.outcome()->why(), "the blend has no behaviours; give it at least one");
}

}  // namespace
}  // namespace ambulon
