#include "errand/follow.hpp"

#include <algorithm>

#include "ambulon/motion/steering.hpp"

#include "base/allowed.hpp"
#include "base/geometry.hpp"

namespace ambulon {
namespace {

constexpr float crowd = 3.f;  // metres further than wanted at which it stops behind others

}  // namespace

Step Follow::step(const View& see, float seconds) {
  if (!begun_)
    if (const auto why = mistake()) return ended(*why);
  begun_ = true;
  const auto target = tracker_.look(see);
  if (!target) return ended(target.error());
  tracker_.watch_distance(see, *target, options_.act_within);

  goal_ = place_by(see, *target);
  const float off = flat_distance(*goal_, see.me.position);
  const bool level = see.level_with(*target);  // false: it is on another storey
  const float stop = stop_by(see, *target);
  const bool target_stands = stands(*target);
  if (!target_stands) stall_.reset();
  const bool there = off <= stop || (off <= stop + crowd && target_stands && stall_.by_others(see, off));
  if (level && target_stands && there && !standing_) {
    standing_ = true;
    behind_ = std::max(0.f, off - stop);
  }
  if (standing_ && level && off <= std::max(options_.resume, stop) + behind_)
    return {.intent = {.facing = direction(flat(target->position - see.me.position), see.me.facing)}};
  standing_ = false;
  return walk(see, *target, off, seconds);
}

std::optional<Outcome> Follow::mistake() const {
  if (!std::isfinite(options_.offset.x) || !std::isfinite(options_.offset.y))
    return refusal(Cause::not_finite, "the offset");
  return refusal(
      {{"stop", options_.stop, {0.05f, 1000.f}},
       {"resume", options_.resume, {options_.stop, allowed::lengths.max}},
       {"the nearer of distances", options_.distances.min, allowed::lengths},
       {"the further of distances", options_.distances.max, {options_.distances.min, allowed::lengths.max}},
       {"the first of speeds", options_.speeds.min, allowed::speeds},
       {"the second of speeds", options_.speeds.max, allowed::speeds},
       {"replan_distance", options_.replan_distance, {0.01f, 1000.f}},
       {"act_within", options_.act_within, allowed::lengths}});
}

/// Returns the wanted place: the target, or the offset from it, limited to the ground.
vec3 Follow::place_by(const View& see, const Other& target) const {
  if (options_.offset == vec2(0.f)) return target.position;
  vec2 offset = options_.offset;
  if (options_.frame == OffsetFrame::target)
    offset = offset.x * target.facing + offset.y * vec2(-target.facing.y, target.facing.x);
  return beside(see, target, offset).end.position;
}

/// Returns the stopping distance. It is at least the contact distance of both bodies.
float Follow::stop_by(const View& see, const Other& target) const {
  return options_.offset != vec2(0.f) ? options_.stop : std::max(options_.stop, see.touching(target));
}

Step Follow::walk(const View& see, const Other& target, float off, float seconds) {
  float speed = see.gait.speed;
  if (options_.speeds.min > 0.f || options_.speeds.max > 0.f)
    speed = speed_by_distance(off, options_.distances, options_.speeds);
  if (auto step =
          follower_.go_on(see, *goal_, stop_by(see, target), speed, options_.replan_distance, seconds))
    return *step;
  return {.intent = {.velocity = keep_up(see, target, off, speed, seconds)}};
}

/// On a straight line to the target: the target's speed plus a speed in proportion to the gap.
vec2 Follow::keep_up(const View& see, const Other& target, float off, float speed, float seconds) const {
  const vec2 towards = direction(flat(*goal_ - see.me.position));
  if (options_.offset != vec2(0.f))
    return follow_offset(see.me, see.gait, off * towards, target.velocity, speed, seconds);
  const float leaving = std::max(0.f, glm::dot(target.velocity, towards));
  const float gap = off - 0.95f * options_.stop;  // slightly inside the circle, so that it is reached
  const vec2 slot_velocity = leaving * towards;
  if (gap > 0.f) return follow_offset(see.me, see.gait, gap * towards, slot_velocity, speed, seconds);
  // Closer than wanted: it walks more slowly, never backwards.
  return std::min(speed, leaving * std::max(0.f, 1.f + gap / options_.stop)) * towards;
}

std::string Follow::doing() const {
  if (follower_.is_stranded()) return "waiting for a way";
  return standing_ ? "standing near" : "following";
}

}  // namespace ambulon
