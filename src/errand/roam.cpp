#include "errand/roam.hpp"

#include "base/allowed.hpp"
#include "base/geometry.hpp"

namespace ambulon {
namespace {

constexpr int draws = 64;           // attempts to draw a spot in the ring; then the best one is used
constexpr float home_reach = 0.5f;  // metres that `home` may be off the ground

}  // namespace

std::optional<Outcome> Roam::mistake(const View& see) {
  if (!finite(home_.position)) return refusal(Cause::not_finite, "a coordinate of home");
  if (const auto why = refusal({{"radius", radius_, {0.1f, allowed::lengths.max}},
                                {"not_nearer", not_nearer_, {0.f, 0.99f * radius_}},
                                {"pause", pause().min, allowed::durations},
                                {"pause", pause().max, {pause().min, allowed::durations.max}},
                                {"leg_time", limits().leg_time, allowed::durations},
                                {"within", limits().within, allowed::arrival_distances}}))
    return why;
  const Snap home = home_given_
                        ? see.ground.snap(home_.position, home_reach, see.body)
                        : see.ground.snap(see.me.position, std::numeric_limits<float>::infinity(), see.body);
  if (!home)
    return Outcome{.ending = Ending::off_ground,
                   .cause = Cause::goal_off_ground,
                   .value = home.off,
                   .where = home.spot.position};
  home_ = home.spot;
  return std::nullopt;
}

std::optional<Outcome> Roam::choose(const View& see, Stop& next) {
  const Spot centre = from_where_it_stands_ ? see.spot() : home_;
  float best = -1.f;
  // Rejection sampling: uniform in the circle, accepted in the ring. If almost no ground lies in the ring,
  // the furthest spot drawn is used.
  for (int draw = 0; draw < draws && best < not_nearer_; ++draw) {
    const vec3 spot = see.ground.random_spot(see.random, centre, radius_).position;
    const float away = glm::distance(spot, centre.position);
    if (away <= best) continue;
    best = away;
    next.position = spot;
  }
  return std::nullopt;
}

}  // namespace ambulon
