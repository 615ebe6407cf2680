#include "errand/go_to_npc.hpp"

#include <algorithm>

#include "ambulon/base/angle.hpp"
#include "ambulon/motion/steering.hpp"

#include "base/geometry.hpp"
#include "errand/go_to.hpp"
#include "errand/turn_to.hpp"

namespace ambulon {
namespace {

constexpr float replan_distance = 0.5f;  // metres that the target moves

}  // namespace

Step GoToNpc::step(const View& see, float seconds) {
  if (!begun_)
    if (const auto why = mistake(options_)) return ended(*why);
  begun_ = true;
  const auto target = tracker_.look(see);
  if (!target) return ended(target.error());
  goal_ = target->position;
  there_ = there_ || see.reaches(*target, reach_of(see, *target));
  if (!there_) return walk(see, *target, seconds);
  if (const auto turn = turn_to_facing(see, options_.facing)) return {.intent = *turn};
  return ended(Ending::arrived);
}

/// Returns the distance of the centres that counts as arrived, metres.
float GoToNpc::reach_of(const View& see, const Other& target) const {
  return std::max(options_.within, see.touching(target));
}

Step GoToNpc::walk(const View& see, const Other& target, float seconds) {
  const float reach = reach_of(see, target);
  const vec2 offset = flat(target.position - see.me.position), towards = direction(offset);
  const float off = glm::length(offset);
  const float speed = time_.speed(see, std::max(off, follower_.left(see.me.position)) - reach);
  if (auto step = follower_.go_on(see, target.position, reach, speed, replan_distance, seconds)) return *step;
  // On the last straight leg: it closes the gap in the frame of the target.
  const vec2 leaving = std::max(0.f, glm::dot(target.velocity, towards)) * towards;
  const float gap = std::max(0.f, off - 0.9f * reach);  // slightly inside the circle, so that it is reached
  return {.intent = {.velocity = follow_offset(see.me, see.gait, gap * towards, leaving, speed, seconds)}};
}

}  // namespace ambulon
