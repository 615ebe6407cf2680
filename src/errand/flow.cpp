#include "errand/flow.hpp"

#include <algorithm>

#include "ambulon/ground/field/flow_field.hpp"
#include "ambulon/motion/steering.hpp"

#include "base/allowed.hpp"
#include "base/circle.hpp"
#include "base/geometry.hpp"

namespace ambulon {

namespace {

constexpr float look_ahead = 0.15f;  // seconds

/// Returns `along`, turned away from a wall straight ahead. The field leads from cell centre to cell centre,
/// and the body has a width.
vec2 past_walls(const View& see, vec2 along) {
  const Stretch ahead = see.ground.straight(see.spot(), look_ahead * see.gait.speed * along);
  if (ahead.free) return along;
  return direction(along - std::min(0.f, glm::dot(along, ahead.inward)) * ahead.inward, along);
}

}  // namespace

Step Flow::step(const View& see, float seconds) {
  if (!goal_)
    if (const auto why = mistake()) return ended(*why);
  const vec3 here = see.me.position;
  const std::uint16_t number = field_.nearest_goal(here);
  if (number == FlowField::nowhere) {
    const Outcome why{.ending = Ending::no_route, .cause = Cause::no_goal_of_field, .where = here};
    if (options_.unreachable == Unreachable::refuse) return ended(why);
    if (!retry_.waits()) retry_.put_off(see, why);  // the field is read in each step, which is cheap
    return {};
  }
  retry_.over(see);
  if (!goal_) whole_ = field_.distance(here);
  goal_ = field_.goal(number).position;
  const vec2 goal = flat(*goal_), target = goal - flat(here);
  if (came_by(see.was, flat(here), goal, options_.within)) return ended(Ending::arrived);
  const vec2 along = past_walls(see, field_.direction(here));
  const float left = glm::length(target);
  if (glm::dot(along, target) > 0.999f * left) {  // straight ahead
    const Approach approach =
        arrive(see.me, see.gait, target, left, options_.within, see.gait.speed, seconds);
    return {.intent = {.velocity = approach.velocity, .lasts = approach.lasts, .stop = approach.stop}};
  }
  return {.intent = {.velocity = seek(see.me, see.gait, along, see.gait.speed)}};
}

std::optional<Outcome> Flow::mistake() const {
  if (options_.unreachable == Unreachable::nearest) return refusal(Cause::nearest_of_field);
  return refusal({{"within", options_.within, allowed::arrival_distances}});
}

std::optional<float> Flow::left(const View& see) const { return field_.distance(see.me.position); }

Progress Flow::progress(const View& see) const {
  if (whole_ <= 0.f) return {};
  const float gone = std::clamp(whole_ - field_.distance(see.me.position), 0.f, whole_);
  return {.metres = gone, .of_metres = whole_, .fraction = gone / whole_};
}

}  // namespace ambulon
