#include "ambulon/crowd/avoidance.hpp"

#include <algorithm>

#include "ambulon/motion/steering.hpp"

#include "base/geometry.hpp"
#include "crowd/encounters.hpp"
#include "crowd/neighbour_index.hpp"
#include "generate.hpp"
#include "quay.hpp"

namespace ambulon {
namespace {

vec2 any_of_length(float max) { return {between(-max, max), between(-max, max)}; }

float against(std::span<const HalfPlane> planes, vec2 velocity) {
  float max = 0.f;
  for (const HalfPlane& plane : planes) max = std::max(max, glm::dot(plane.at - velocity, plane.inward));
  return max;
}

RC_GTEST_PROP(Avoidance, ThePermittedVelocityIsTheBestOfAll, ()) {
  std::vector<HalfPlane> planes(static_cast<std::size_t>(*rc::gen::inRange(0, 9)));
  for (HalfPlane& plane : planes) plane = {any_of_length(1.5f), unit(between(0, 6.28f))};
  const vec2 wanted = any_of_length(2);
  const float speed = between(0, 2);
  const vec2 found = nearest_permitted(planes, wanted, speed);
  RC_ASSERT(glm::length(found) < speed + 1e-4f);
  // Compared with all velocities of a fine grid, and those on the speed limit.
  float min_against = against(planes, found), nearest = std::numeric_limits<float>::infinity();
  const auto consider = [&](vec2 velocity) {
    const float gives_up = against(planes, velocity);
    min_against = std::min(min_against, gives_up);
    if (gives_up <= 0.f) nearest = std::min(nearest, glm::distance(velocity, wanted));
  };
  for (int x = -40; x <= 40; ++x)
    for (int y = -40; y <= 40; ++y)
      if (const vec2 v = speed / 40.f * vec2(static_cast<float>(x), static_cast<float>(y));
          glm::length(v) <= speed)
        consider(v);
  for (int i = 0; i < 300; ++i) consider(speed * unit(0.0209f * static_cast<float>(i)));
  RC_ASSERT(against(planes, found) < min_against + 1e-3f);
  if (nearest < 99.f)
    RC_ASSERT(against(planes, found) < 1e-4f && glm::distance(found, wanted) < nearest + 1e-4f);
}

TEST(Avoidance, WhoIsSqueezedFromBothSidesGoesOnBetweenThem) {
  const std::vector<HalfPlane> squeeze = {{{0.2f, 0.1f}, {0, 1}}, {{-3, -0.1f}, {0, -1}}};
  const vec2 found = nearest_permitted(squeeze, {1, 0.7f}, 2);
  EXPECT_NEAR(found.x, 1, 1e-4f);
  EXPECT_NEAR(found.y, 0, 1e-4f) << "it gives up as much on each side";
}

RC_GTEST_PROP(Avoidance, TwoWhoKeepToTheirShareDoNotTouchWithinTheHorizon, ()) {
  const float radius = between(0.1f, 0.5f), other_radius = between(0.1f, 0.5f), horizon = between(0.5f, 4);
  const float share = *rc::gen::element(0.5f, 0.f, 1.f, between(0, 1));
  const vec2 offset = any_of_length(4), velocity = any_of_length(2), others = any_of_length(2);
  if (glm::length(offset) <= radius + other_radius) RC_DISCARD("they touch");
  const HalfPlane mine = keep_clear_of({{}, offset, others, other_radius}, velocity, radius, horizon, share);
  const HalfPlane its =
      keep_clear_of({{}, -offset, velocity, radius}, others, other_radius, horizon, 1.f - share);
  RC_ASSERT(std::abs(glm::length(mine.inward) - 1.f) < 1e-5f);
  const vec2 me = nearest_permitted(std::span(&mine, 1), any_of_length(3), 9.f),
             it = nearest_permitted(std::span(&its, 1), any_of_length(3), 9.f);
  // Returns the minimum distance of two moving points during that time.
  const vec2 apart = nearest_on(offset, offset + horizon * (it - me), vec2(0.f));
  RC_ASSERT(glm::length(apart) > radius + other_radius - 2e-3f);
}

RC_GTEST_PROP(Avoidance, WhoTouchesComesApartInTime, ()) {
  const float radius = between(0.2f, 0.5f);
  const vec2 offset = between(0.f, 1.9f * radius) * unit(between(0, 6.28f));
  const vec2 velocity = any_of_length(2), others = any_of_length(2);
  const HalfPlane mine = keep_clear_of({{}, offset, others, radius}, velocity, radius, 2.f);
  const HalfPlane its = keep_clear_of({{}, -offset, velocity, radius}, others, radius, 2.f);
  const vec2 me = nearest_permitted(std::span(&mine, 1), velocity, 30.f),
             it = nearest_permitted(std::span(&its, 1), others, 30.f);
  if (glm::length(offset) < 1e-3f) RC_DISCARD("from the same place there is no direction for both");
  RC_ASSERT(glm::length(offset + 0.4f * (it - me)) > 2.f * radius - 5e-3f);
}

RC_GTEST_PROP(Avoidance, ManyAtOnceAreKeptClearOfAsOneByOne, ()) {
  const float radius = between(0.f, 0.5f), horizon = between(0.5f, 4);
  const vec2 velocity = any_of_length(2);
  Encounters encounters;
  std::vector<HalfPlane> one_by_one;
  for (std::size_t left = *rc::gen::inRange<std::size_t>(0, Encounters::max + 1); left > 0; --left) {
    // Some are at the same place, some have the same velocity, and some have share 0 or 1.
    const Neighbour other{.offset = *rc::gen::element(any_of_length(4), any_of_length(0.3f), vec2(0.f)),
                          .velocity = *rc::gen::element(any_of_length(2), velocity, vec2(0.f)),
                          .radius = between(0.f, 0.5f)};
    const float share = *rc::gen::element(0.f, 0.5f, 1.f);
    encounters.add(other.offset, other.velocity, radius + other.radius, share);
    if (share > 0.f) one_by_one.push_back(keep_clear_of(other, velocity, radius, horizon, share));
  }
  std::array<HalfPlane, Encounters::max> planes;
  encounters.keep_clear(velocity, horizon, planes);
  RC_ASSERT(encounters.count() == one_by_one.size());
  for (std::size_t i = 0; i < one_by_one.size(); ++i) {
    RC_ASSERT(planes[i].at == one_by_one[i].at && planes[i].inward == one_by_one[i].inward);
    RC_ASSERT(std::abs(glm::length(planes[i].inward) - 1.f) < 1e-4f);
  }
}

TEST(Avoidance, StraightAtEachOtherBothGoToTheRight) {
  const HalfPlane mine = keep_clear_of({{}, {4, 0}, {-1, 0}, 0.3f}, {1, 0}, 0.3f, 3.f);
  const vec2 velocity = nearest_permitted(std::span(&mine, 1), {1, 0}, 1.f);
  EXPECT_LT(velocity.y, -0.02f);
  EXPECT_GT(velocity.x, 0.9f);  // and hardly more slowly
  const HalfPlane far = keep_clear_of({{}, {40, 0}, {-1, 0}, 0.3f}, {1, 0}, 0.3f, 3.f);
  EXPECT_EQ(nearest_permitted(std::span(&far, 1), {1, 0}, 1.f), vec2(1, 0));  // not yet
}

/// NPCs that cross a circle to the opposite side, with these functions only.
struct Circle {
  std::vector<vec2> at, velocity, goal;
  float deepest = 0.f, longest = 0.f;  // overlap in metres; the longest way

  explicit Circle(int count, float radius) {
    for (int i = 0; i < count; ++i) {
      at.push_back(radius * unit(2.f * pi * static_cast<float>(i) / static_cast<float>(count)));
      goal.push_back(-at.back());
    }
    velocity.resize(at.size());
  }
  /// Seconds until all have come to within 0.2 m of their goals.
  float cross(float body, float max) {
    constexpr float tick = 1.f / 30.f, speed = 1.4f, sight = 6.f, change = 6.f * tick;
    NeighbourIndex index;
    for (float time = 0; time < max; time += tick) {
      std::vector<NeighbourIndex::Entry> entries;
      for (std::uint32_t i = 0; i < at.size(); ++i) entries.push_back({at[i], i});
      index.build(entries, sight);
      std::vector<vec2> next(at.size());
      bool all = true;
      for (std::uint32_t i = 0; i < at.size(); ++i) {
        std::vector<HalfPlane> planes;
        index.near(at[i], sight, [&](std::uint32_t number, vec2 there) {
          const std::uint32_t name = index.name(number);
          if (name == i) return;
          const Neighbour other{{}, there - at[i], velocity[name], body};
          planes.push_back(keep_clear_of(other, velocity[i], body, 2.f));
          deepest = std::max(deepest, 2.f * body - glm::length(other.offset));
        });
        const vec2 way = goal[i] - at[i];
        all = all && glm::length(way) < 0.2f;
        const vec2 right = direction(way - (planes.empty() ? 0.f : 0.3f) * vec2(-way.y, way.x));
        next[i] = nearest_permitted(planes, std::min(speed, glm::length(way)) * right, speed);
      }
      if (all) return time;
      for (std::size_t i = 0; i < at.size(); ++i) {
        const vec2 turn = next[i] - velocity[i];
        velocity[i] += glm::length(turn) > change ? change * glm::normalize(turn) : turn;
        at[i] += tick * velocity[i];
      }
    }
    return max;
  }
};

TEST(Avoidance, AcrossACircleEverybodyArrivesAndHardlyAnybodyTouches) {
  for (const auto& [count, radius] : {std::pair{2, 5.f}, {8, 6.f}, {50, 14.f}}) {
    Circle circle(count, radius);
    const float straight = 2.f * radius / 1.4f, took = circle.cross(0.3f, 5.f * straight);
    EXPECT_LT(took, 1.5f * straight) << count;
    EXPECT_LT(circle.deepest, 0.05f * 0.3f) << count;
  }
}

}  // namespace
}  // namespace ambulon
