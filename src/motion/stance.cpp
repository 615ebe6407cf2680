#include "ambulon/motion/stance.hpp"

#include <algorithm>
#include <cmath>
#include <optional>

#include "ambulon/motion/motion.hpp"

#include "base/geometry.hpp"
#include "motion/reversing.hpp"

namespace ambulon {
namespace {

constexpr float standing = 0.02f;    // metres per second, at most half of the gait's: slower is a stand
constexpr float rounding = 1e-6f;    // radians: less is no turn
constexpr float up_to_speed = 0.9f;  // part of the wanted speed at which a start ends
// Sine of the angle between velocity and facing from which it steps aside, and to which it goes on doing so.
constexpr float aside_from = 0.1f, aside_to = 0.03f;
constexpr float back_from = -0.5f;  // cosine of it

bool stands(Stance stance) {
  return stance == Stance::idle || stance == Stance::turning_left || stance == Stance::turning_right;
}

/// Returns the stance of one that goes another way than it faces, or nothing.
std::optional<Stance> step_aside(const Motion& motion, const Intent& intent, Stance before) {
  const bool starts = stands(before) || before == Stance::starting;
  if (starts && intent.facing == vec2(0.f) && !intent.direct) return std::nullopt;  // it turns to its way
  const float speed = motion.speed();
  const float ahead = glm::dot(motion.facing, motion.velocity), left = cross(motion.facing, motion.velocity);
  if (ahead > 0.f && std::abs(left) < (steps_aside(before) ? aside_to : aside_from) * speed)
    return std::nullopt;
  if (ahead < back_from * speed) return Stance::stepping_back;
  return left > 0.f ? Stance::sidestepping_left : Stance::sidestepping_right;
}

}  // namespace

float run_speed(const Body& body) {
  constexpr float gravity = 9.81f, leg_part_of_height = 0.53f, froude = 0.5f;
  return std::sqrt(froude * gravity * leg_part_of_height * body.height);
}

void take_stance(Motion& motion, const Motion& before, const Gait& gait, const Intent& intent,
                 const Footing& footing, float run_speed, float metres) {
  const float cycles = motion.stride_phase + metres / footing.stride;
  motion.stride_phase = cycles < 1.f ? cycles : cycles - std::floor(cycles);
  motion.stride = footing.stride;
  motion.turn = motion.stop = 0.f;
  const float speed = motion.speed(), wanted = glm::length(intent.velocity);
  const bool brakes = wanted == 0.f || is_reversing(motion, intent);
  if (speed <= std::min(standing, 0.5f * gait.speed)) {
    const float turned = cross(before.facing, motion.facing);
    if (std::abs(turned) < rounding) {
      motion.stance = Stance::idle;
      return;
    }
    const vec2 look = intent.facing != vec2(0.f) ? intent.facing : direction(intent.velocity, motion.facing);
    motion.turn = angle_between(motion.facing, look);
    motion.stance = turned > 0.f ? Stance::turning_left : Stance::turning_right;
  } else if (const auto aside = step_aside(motion, intent, before.stance); aside) {
    motion.stance = *aside;
  } else if (!intent.direct && (brakes || std::isfinite(intent.stop))) {
    motion.stance = Stance::stopping;
    motion.stop = brakes ? speed * speed / (2.f * gait.braking) : std::max(0.f, intent.stop - metres);
  } else if ((stands(before.stance) || before.stance == Stance::starting) && speed < up_to_speed * wanted) {
    motion.stance = Stance::starting;
  } else {
    motion.stance = speed > run_speed ? Stance::running : footing.walking;
  }
}

bool steps_aside(Stance stance) {
  return stance == Stance::sidestepping_left || stance == Stance::sidestepping_right ||
         stance == Stance::stepping_back;
}

std::string_view name(Stance stance) {
  switch (stance) {
    case Stance::idle:
      return "idle";
    case Stance::turning_left:
      return "turning_left";
    case Stance::turning_right:
      return "turning_right";
    case Stance::starting:
      return "starting";
    case Stance::walking:
      return "walking";
    case Stance::running:
      return "running";
    case Stance::stopping:
      return "stopping";
    case Stance::sidestepping_left:
      return "sidestepping_left";
    case Stance::sidestepping_right:
      return "sidestepping_right";
    case Stance::stepping_back:
      return "stepping_back";
    case Stance::stairs_up:
      return "stairs_up";
    case Stance::stairs_down:
      return "stairs_down";
    case Stance::jumping:
      return "jumping";
    case Stance::dropping:
      return "dropping";
    case Stance::climbing:
      return "climbing";
  }
  return "";
}

}  // namespace ambulon
