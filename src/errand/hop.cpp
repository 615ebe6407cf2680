#include "errand/hop.hpp"

#include "base/allowed.hpp"

namespace ambulon {

std::optional<Outcome> Hop::mistake(const View&) {
  if (!points_ || points_->size() == 0) return refusal(Cause::no_spots);
  return refusal({{"leg_time", limits().leg_time, allowed::durations},
                  {"within", limits().within, allowed::arrival_distances}});
}

std::optional<Outcome> Hop::choose(const View& see, Stop& next) {
  const auto weight = [this](std::size_t i) {
    return !repeats_ && points_->id(i) == here_ ? 0.f : (*points_)[i].weight;
  };
  seen_revision_ = points_->revision();
  float all = 0.f;
  for (std::size_t i = 0; i < points_->size(); ++i) all += weight(i);
  if (points_->size() == 0) return Outcome{.ending = Ending::no_route, .cause = Cause::no_spots};
  if (all <= 0.f) return Outcome{.ending = Ending::no_route, .cause = Cause::only_one_spot};
  float drawn = see.random.fraction() * all;
  std::size_t chosen = points_->size();
  for (std::size_t i = 0; i < points_->size() && drawn >= 0.f; ++i) {
    if (weight(i) <= 0.f) continue;
    chosen = i;  // the last one, if rounding leaves a rest
    drawn -= weight(i);
  }
  here_ = points_->id(chosen);
  const Waypoint& point = (*points_)[chosen];
  next = {.position = point.position, .pause = point.pause};
  set_within(point.within > 0.f ? point.within : within_);
  return std::nullopt;
}

}  // namespace ambulon
