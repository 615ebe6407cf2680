// An order with any numbers is refused with a reason or carried out; no NPC gets a position that is not
// finite.

#include <limits>

#include "base/geometry.hpp"
#include "generate.hpp"
#include "quay.hpp"

namespace ambulon {
namespace {

/// A number of any kind: usual, zero, tiny, enormous, negative, infinite, NaN.
float any_number() {
  constexpr float limit = std::numeric_limits<float>::max();
  constexpr float odd[] = {0.f,
                           1e-30f,
                           1e-3f,
                           1e9f,
                           limit,
                           -1.f,
                           -limit,
                           std::numeric_limits<float>::infinity(),
                           std::numeric_limits<float>::quiet_NaN()};
  const int which = *rc::gen::inRange(0, 20);
  return which < 9 ? odd[which] : between(0.05f, 20);
}

vec3 any_point() { return {any_number(), any_number(), 0.f}; }
Range any_range() { return {any_number(), any_number()}; }

/// Gives any order with any numbers.
Order any_order(Npc me, Npc other) {
  switch (*rc::gen::inRange(0, 13)) {
    case 0:
      return me.go_to(any_point(), {.within = any_number()});
    case 1:
      return me.turn_to_heading(any_number());
    case 2:
      return me.pause(any_number());
    case 3:
      return me.roam({.radius = any_number(),
                      .not_nearer = any_number(),
                      .pause = any_range(),
                      .leg_time = any_number()});
    case 4:
      return me.follow(other, {.stop = any_number(),
                               .resume = any_number(),
                               .offset = flat(any_point()),
                               .distances = any_range(),
                               .speeds = any_range(),
                               .act_within = any_number()});
    case 5:
      return me.chase(other, {.reach = any_number(), .give_up = any_number(), .foresight = any_number()});
    case 6:
      return me.flee(other, {.reach = any_number(), .foresight = any_number()});
    case 7:
      return me.escort(other, {.leash = any_number(), .ring = any_range(), .within = any_number()});
    case 8:
      return me.ease_to(any_point(), {.seconds = any_number(), .anywhere = *rc::gen::arbitrary<bool>()});
    case 9:
      return me.sway(
          {.axis = any_point(), .across = any_point(), .frequency = any_number(), .phase = any_number()});
    case 10:
      return me.pace({.heading = any_number(), .gap = any_number(), .pause = any_range()});
    case 11:
      return me.wander(
          {.turn = any_number(), .every = any_number(), .speed = any_number(), .radius = any_number()});
    default: {
      auto blend = std::make_shared<Blend>();
      const auto behaviour = static_cast<Behaviour>(*rc::gen::inRange(0, static_cast<int>(Behaviour::own)));
      (void)blend->add({.behaviour = behaviour,
                        .weight = any_number(),
                        .target = other.id(),
                        .within = any_number(),
                        .band = any_range(),
                        .offset = flat(any_point()),
                        .every = any_number(),
                        .path = {flat(any_point()), flat(any_point())}});
      return me.steer(blend, {.budget = any_number(), .speed = any_number(), .min_speed = any_number()});
    }
  }
}

RC_GTEST_PROP(Nonsense, IsRefusedOrCarriedOutButNobodyEndsUpNowhere, ()) {
  const OpenGround quay(vec2(-50), vec2(50));
  World world({.ground = *rc::gen::arbitrary<bool>() ? &quay : nullptr});
  const Npc thief = *world.add({.at = {3, 0, 0}}), cat = *world.add({});
  thief.wander();
  for (int i = 0; i < 3; ++i) {
    const Order order = any_order(cat, thief);
    const bool eases = cat.errand().name == "ease_to" || cat.errand().name == "sway";
    for (int tick = 0; tick < 40; ++tick) {
      RC_ASSERT(world.tick(1.f / 20.f).has_value());
      RC_ASSERT(finite(cat.position()) && finite(lift(cat.velocity())) && finite(lift(cat.motion().facing)));
      RC_ASSERT(std::abs(glm::length(cat.motion().facing) - 1.f) < 1e-3f);
      if (!eases) RC_ASSERT(cat.motion().speed() <= 100.f);
    }
    if (const auto outcome = order.outcome(); outcome && outcome->ending == Ending::refused)
      RC_ASSERT(!outcome->why().empty());
    if (!quay.snap(cat.position(), 1.f)) return;  // eased off to where there is no ground
  }
}

}  // namespace
}  // namespace ambulon
