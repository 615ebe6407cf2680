#include "errand/chase.hpp"

#include <algorithm>

#include "ambulon/motion/steering.hpp"

#include "base/allowed.hpp"
#include "base/geometry.hpp"

namespace ambulon {

Step Chase::step(const View& see, float seconds) {
  if (!begun_)
    if (const auto why = mistake()) return ended(*why);
  begun_ = true;
  const auto look = tracker_.look(see);
  if (!look) return ended(look.error());
  const Other& target = *look;
  tracker_.watch_distance(see, target, options_.act_within);
  goal_ = target.position;
  if (see.reaches(target, options_.reach)) return ended(Ending::arrived);
  if (const float away = see.metres_to(target); options_.give_up > 0.f && away > options_.give_up)
    return ended({.ending = Ending::gone, .cause = Cause::got_away, .value = away});
  return run(see, target, seconds);
}

std::optional<Outcome> Chase::mistake() const {
  const Range away = options_.give_up == 0.f ? Range{0.f, 0.f} : Range{options_.reach, allowed::lengths.max};
  return refusal({{"reach", options_.reach, {0.01f, 1000.f}},
                  {"give_up", options_.give_up, away},
                  {"foresight", options_.foresight, {0.f, 60.f}},
                  {"replan_distance", options_.replan_distance, {0.01f, 1000.f}},
                  {"act_within", options_.act_within, allowed::lengths}});
}

Step Chase::run(const View& see, const Other& target, float seconds) {
  const float reach = std::max(options_.reach, see.touching(target));
  if (auto step =
          follower_.go_on(see, target.position, reach, see.gait.speed, options_.replan_distance, seconds))
    return *step;
  const vec2 offset = flat(target.position - see.me.position);
  vec2 lead = meeting_point(offset, target.velocity, see.gait.speed, options_.foresight) - offset;
  // The predicted place is limited to the ground that the target stands on.
  if (const Stretch stretch = beside(see, target, lead); !stretch.free)
    lead = stretch.metres * direction(lead);
  // A predicted place behind a wall is not used.
  const bool free = see.ground.straight(see.spot(), offset + lead).free;
  return {.intent = {.velocity = seek(see.me, see.gait, free ? offset + lead : offset, see.gait.speed)}};
}

}  // namespace ambulon
