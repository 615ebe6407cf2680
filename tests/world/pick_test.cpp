// Cameras, and what their rays hit.

#include "ambulon/world/pick.hpp"

#include <glm/ext/matrix_clip_space.hpp>
#include <glm/ext/matrix_projection.hpp>
#include <glm/ext/matrix_transform.hpp>

#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/ground/tiles/tile_ground.hpp"
#include "ambulon/world/camera.hpp"

#include "base/geometry.hpp"
#include "base/ray_hits.hpp"
#include "first_along.hpp"
#include "generate.hpp"
#include "level_maker.hpp"
#include "map_of.hpp"
#include "quay.hpp"
#include "random_level.hpp"

namespace ambulon {
namespace {

using Depth = ClipSpace::Depth;

vec3 point_around(float reach) {
  return {between(-reach, reach), between(-reach, reach), between(-reach, reach)};
}

struct Convention {
  const char* name;
  ClipSpace clip;
  bool left_handed, endless;
};
constexpr Convention conventions[] = {
    {"depth -1 to 1", {Depth::minus_one_to_one, false}, false, false},
    {"depth -1 to 1, left-handed", {Depth::minus_one_to_one, false}, true, false},
    {"depth 0 to 1", {Depth::zero_to_one, false}, false, false},
    {"depth 0 to 1, left-handed", {Depth::zero_to_one, false}, true, false},
    {"depth 0 to 1, y down", {Depth::zero_to_one, true}, false, false},
    {"reversed", {Depth::one_to_zero, false}, false, false},
    {"reversed, endless", {Depth::one_to_zero, false}, false, true},
    {"reversed, left-handed, y down", {Depth::one_to_zero, true}, true, false},
};

/// The projection matrix of a game with that convention.
glm::mat4 projection_of(const Convention& of, bool perspective, float angle, float ratio) {
  const float near = 0.1f, far = 500.f, half = 6.f;
  glm::mat4 matrix;
  if (of.clip.depth == Depth::minus_one_to_one) {
    matrix = perspective
                 ? (of.left_handed ? glm::perspectiveLH_NO(angle, ratio, near, far)
                                   : glm::perspectiveRH_NO(angle, ratio, near, far))
                 : (of.left_handed ? glm::orthoLH_NO(-half * ratio, half * ratio, -half, half, near, far)
                                   : glm::orthoRH_NO(-half * ratio, half * ratio, -half, half, near, far));
  } else {
    const bool reversed = of.clip.depth == Depth::one_to_zero;
    const float from = reversed ? far : near, to = reversed ? near : far;
    matrix = perspective
                 ? (of.left_handed ? glm::perspectiveLH_ZO(angle, ratio, from, to)
                                   : glm::perspectiveRH_ZO(angle, ratio, from, to))
                 : (of.left_handed ? glm::orthoLH_ZO(-half * ratio, half * ratio, -half, half, from, to)
                                   : glm::orthoRH_ZO(-half * ratio, half * ratio, -half, half, from, to));
    if (of.endless && perspective) {  // depth is near / distance
      matrix[2][2] = 0.f;
      matrix[3][2] = near;
    }
  }
  if (of.clip.y_down)
    for (int column = 0; column < 4; ++column) matrix[column][1] = -matrix[column][1];
  return matrix;
}

RC_GTEST_PROP(Camera, WhatIsSeenAtAPointLiesOnItsRayInAllConventions, ()) {
  const Convention& of =
      *rc::gen::elementOf(std::vector<Convention>(std::begin(conventions), std::end(conventions)));
  const auto axes = static_cast<Axes>(*rc::gen::inRange(0, 4));
  const bool perspective = *rc::gen::arbitrary<bool>();
  const Screen screen{.size = {between(300, 2000), between(300, 2000)},
                      .corner = {between(-50, 50), between(0, 90)},
                      .y_down = *rc::gen::arbitrary<bool>()};
  const vec3 eye = point_around(20), target = eye + point_around(1) + vec3(0.f, 0.f, 1.1f);
  const vec3 up(0.03f, 1.f, 0.05f);
  const glm::mat4 view = of.left_handed ? glm::lookAtLH(eye, target, up) : glm::lookAtRH(eye, target, up);
  const glm::mat4 projection =
      projection_of(of, perspective, between(0.3f, 2.f), screen.size.x / screen.size.y);
  const auto camera = Camera::of_matrices(view, projection, screen, of.clip, axes);
  RC_ASSERT(camera.has_value());

  // A point in front of the camera, in the game's axes, and its projection by the game's matrices.
  const vec3 ahead = glm::normalize(target - eye);
  const vec3 place = eye + between(1, 60) * ahead + point_around(3);
  const glm::vec4 clip = projection * view * glm::vec4(place, 1.f);
  if (glm::dot(place - eye, ahead) < 0.5f) RC_DISCARD("behind");
  vec2 part = 0.5f + 0.5f * vec2(clip) / clip.w;
  if (!of.clip.y_down) part.y = 1.f - part.y;  // from the top
  vec2 pixel = screen.corner + part * screen.size;
  if (!screen.y_down) pixel.y = screen.corner.y + (1.f - part.y) * screen.size.y;

  const vec3 ours = from_axes(axes, place);
  const auto seen = camera->point_of(ours);
  RC_ASSERT(seen.has_value());
  RC_ASSERT(glm::distance(*seen, pixel) < 0.05f + 2e-4f * glm::length(pixel));
  const auto ray = camera->ray(*seen);
  RC_ASSERT(ray.has_value());
  const vec3 off = ours - ray->from;
  RC_ASSERT(glm::dot(off, ray->direction) > 0);  // in front of the camera
  RC_ASSERT(glm::length(glm::cross(off, ray->direction)) < 2e-3f + 2e-4f * glm::length(off));
}

RC_GTEST_PROP(Camera, OfEyeAndTargetSeesTheTargetInTheMiddleAndUpAbove, ()) {
  const Screen screen{.size = {between(300, 2000), between(300, 2000)},
                      .y_down = *rc::gen::arbitrary<bool>()};
  const Camera::Look look{.eye = point_around(50), .target = point_around(50)};
  if (flat_distance(look.eye, look.target) < 1.f) RC_DISCARD("straight down");
  const auto camera = *rc::gen::arbitrary<bool>() ? Camera::perspective(look, between(0.2f, 2.f), screen)
                                                  : Camera::orthographic(look, between(1, 40), screen);
  RC_ASSERT(camera.has_value());
  const auto middle = camera->point_of(look.target), above = camera->point_of(look.target + vec3(0, 0, 0.1f));
  RC_ASSERT(middle && glm::distance(*middle, 0.5f * screen.size) < 0.05f);
  RC_ASSERT(above && (above->y < middle->y) == screen.y_down);
  const Ray ray = *camera->ray(0.5f * screen.size);
  RC_ASSERT(glm::length(glm::cross(ray.direction, glm::normalize(look.target - look.eye))) < 1e-4f);
}

TEST(Camera, FlatIsAPlainScaleAndOffset) {
  const Camera camera = *Camera::flat(40.f, {100.f, 500.f});
  const Picked picked = pick(OpenGround(), *camera.ray({140.f, 420.f}));
  ASSERT_TRUE(picked);
  EXPECT_NEAR(picked.at.x, 1.f, 1e-4);
  EXPECT_NEAR(picked.at.y, 2.f, 1e-4);
  EXPECT_NEAR(camera.point_of({-2.f, 0.5f, 0.f})->x, 20.f, 1e-3);
  EXPECT_NEAR(camera.point_of({-2.f, 0.5f, 0.f})->y, 480.f, 1e-3);
}

TEST(Camera, SaysWhatIsWrongWithIt) {
  const float nan = std::numeric_limits<float>::quiet_NaN();
  const auto text = [](const Expected<Camera>& camera) { return camera ? "" : camera.error().text; };
  EXPECT_TRUE(
      contains(text(Camera::perspective({.eye = vec3(1), .target = vec3(1)}, 1.f)), "is at its target"));
  EXPECT_TRUE(contains(text(Camera::perspective({.eye = {nan, 0, 0}}, 1.f)), "not finite"));
  EXPECT_TRUE(contains(text(Camera::perspective({}, 3.2f)), "3.2; it must lie between 0.01 and 3"));
  EXPECT_TRUE(contains(text(Camera::perspective({}, 1.f, {.size = {0, 5}})), "a side of the screen is 0"));
  EXPECT_TRUE(contains(text(Camera::orthographic({}, -1.f)), "is -1"));
  EXPECT_TRUE(contains(text(Camera::flat(nan, {0, 0})), "nan"));
  EXPECT_TRUE(
      contains(text(Camera::of_matrices(glm::mat4(1.f), glm::mat4(0.f))), "the same of different points"));
  EXPECT_TRUE(contains(text(Camera::of_matrices(glm::mat4(nan), glm::mat4(1.f))), "not finite"));
  EXPECT_FALSE(Camera::perspective({}, 1.f)->ray({nan, 0.f}));
  EXPECT_FALSE(Camera::perspective({}, 1.f)->point_of({0, 0, 11}));  // behind the camera
}

RC_GTEST_PROP(Pick, MeetsWhatIsSeenFirstFromAnyCamera, ()) {
  const Level level = random_level();
  const auto made = MeshGround::make(level);
  RC_ASSERT(made.has_value());
  const MeshGround& ground = **made;
  for (int i = 0; i < 5; ++i) {
    const vec3 eye(between(-8, 14), between(-8, 14), between(-1, 12));
    const auto camera = Camera::perspective({.eye = eye, .target = vec3(3.f, 3.f, 1.f) + point_around(3)},
                                            between(0.4f, 1.5f));
    if (!camera) continue;
    const Ray ray = *camera->ray({between(0, 1280), between(0, 800)});
    const Picked picked = pick(ground, ray, {.radius = 0.2f});
    const auto [min, max] = first_along_about(level, ray.from, ray.direction);
    if (picked.what == Picked::What::sky) {
      RC_ASSERT(max > 90.f);
      continue;
    }
    RC_ASSERT(picked.metres > min - 0.03f && picked.metres < max + 0.03f);
    RC_ASSERT(glm::distance(picked.at, along(ray, picked.metres)) < 1e-3f);
    RC_ASSERT(!picked.nearest.found ||
              std::abs(glm::distance(picked.at, picked.nearest.spot.position) - picked.nearest.off) < 0.01f);
    RC_ASSERT((picked.what == Picked::What::ground) == (picked.nearest.found && picked.nearest.off <= 0.5f));
  }
}

TEST(Pick, GoesThroughDecorAndNotThroughWalls) {
  Level level = quay_stones(20.f);
  add_box(level, {10, 10}, 0.f, {1, 8, 3});                             // a wall
  add_box(level, {4, 10}, 0.f, {0.2f, 8, 3}, 0.f, Level::Kind::decor);  // an awning in front of it
  const auto ground = *MeshGround::make(level);
  const Ray ray{{1, 10, 1.5f}, {1, 0, -0.1f}};
  const Picked wall = pick(*ground, ray);
  EXPECT_EQ(wall.what, Picked::What::off_ground);
  EXPECT_NEAR(wall.at.x, 9.5f, 0.002);
  EXPECT_NEAR(wall.nearest.spot.position.x, 9.2f, 0.01);  // as near as a body can stand
  EXPECT_TRUE(contains(wall.why(), "is off the ground; the nearest spot is (9.20, 10.00), "));
  const Picked floor = pick(*ground, {{1, 10, 1.5f}, {1, 0, -0.5f}});
  EXPECT_TRUE(floor);
  EXPECT_NEAR(floor.at.x, 4.f, 0.002);  // below the awning
  // A barrier with a height range blocks the ray as well, until it is removed.
  const BarrierId crate = ground->put(Barrier::box({6, 10}, {1, 1})->between(0.f, 2.f));
  EXPECT_NEAR(pick(*ground, ray).at.x, 5.5f, 0.001);
  ASSERT_TRUE(ground->remove(crate));
  EXPECT_NEAR(pick(*ground, ray).at.x, 9.5f, 0.002);
}

TEST(Pick, AnswersWhateverTheRay) {
  Level level = quay_stones(20.f);
  add_box(level, {10, 10}, 0.f, {2, 2, 2});
  const auto ground = *MeshGround::make(level);
  EXPECT_EQ(pick(*ground, {{1, 1, 1}, {0, 0, 1}}).why(), "there is nothing but sky");
  EXPECT_EQ(pick(*ground, {{1, 1, 1}, {0, 0, 0}}).what, Picked::What::nonsense);
  EXPECT_EQ(pick(*ground, {{1, std::nanf(""), 1}, {0, 0, -1}}).what, Picked::What::nonsense);
  // From inside a crate: its wall.
  EXPECT_NEAR(pick(*ground, {{10, 10, 1}, {1, 0, 0}}).at.x, 11.f, 1e-3);
  // Grazing the stones: 19 m along for a millimetre down.
  const Picked grazing = pick(*ground, {{0.5f, 1, 0.001f}, {19, 0, -0.001f}});
  EXPECT_TRUE(grazing);
  EXPECT_NEAR(grazing.at.x, 19.5f, 0.01);
  EXPECT_EQ(pick(*ground, {{0.5f, 1, 0.001f}, {1, 0, 0}}).what, Picked::What::sky);
  // From very far above, and with a tiny direction.
  EXPECT_NEAR(pick(*ground, {{5, 5, 9e5f}, {0, 0, -1e-20f}}).at.z, 0.f, 1e-3);
  EXPECT_EQ(pick(OpenGround({0, 0}, {4, 4}), {{9, 2, 3}, {0, 0, -1}}).what, Picked::What::off_ground);
  TileGround tiles(map_of({"..#", "..."}));
  EXPECT_TRUE(pick(tiles, {{0.5f, 0.5f, 3}, {0, 0, -1}}, {.radius = 0.3f}));
  EXPECT_NEAR(pick(tiles, {{2.5f, 1.5f, 3}, {0, 0, -1}}, {.radius = 0.3f}).nearest.off, 0.8f, 0.02);
}

TEST(Pick, FindsTheCharacterInFrontAndNoneBehindAWall) {
  Level level = quay_stones(20.f);
  add_box(level, {10, 10}, 0.f, {1, 8, 3});
  const auto ground = *MeshGround::make(level);
  World world({.ground = ground.get()});
  const Npc porter = *world.add({.name = "porter", .at = {6, 10, 0}});
  const Npc cat = *world.add({.name = "cat", .at = {4, 10, 0}, .body = {.radius = 0.15f, .height = 0.3f}});
  (void)*world.add({.name = "crab", .at = {14, 10, 0}});
  EXPECT_EQ(pick_npc(world, {{1, 10, 1}, {1, 0, 0}}), porter);  // above the cat
  EXPECT_EQ(pick_npc(world, {{1, 10, 0.2f}, {1, 0, 0}}), cat);
  EXPECT_EQ(pick_npc(world, {{18, 10, 1}, {-1, 0, 0}}).name(), "crab");
  EXPECT_FALSE(pick_npc(world, {{8, 10, 1}, {1, 0, 0}}).alive());  // behind the wall
  EXPECT_FALSE(pick_npc(world, {{4.3f, 10, 5}, {0, 0, -1}}).alive());
  EXPECT_EQ(pick_npc(world, {{4.3f, 10, 5}, {0, 0, -1}}, 0.2f), cat);
}

}  // namespace
}  // namespace ambulon
