#include "errand/target_tracker.hpp"

#include <cmath>

#include "base/circle.hpp"
#include "base/geometry.hpp"

namespace ambulon {
namespace {

constexpr double choice_every = 0.5;    // seconds
constexpr float worth_changing = 0.7f;  // of the distance to the present target

}  // namespace

Stretch beside(const View& see, const Other& other, vec2 offset) {
  return see.ground.straight(see.spot_at(other.position), offset);
}

tl::expected<Other, Outcome> TargetTracker::look(const View& see) {
  const auto chosen = see.others.find(now_);
  const bool group = !target_.tags.empty();
  if (!group) {
    if (!chosen) return tl::unexpected(Outcome{.ending = Ending::gone, .cause = Cause::target_gone});
    if (now_ == see.who) return tl::unexpected(refusal(Cause::after_itself));
    return *chosen;
  }
  if (chosen && (target_.pick == Pick::any || see.time < next_choice_)) return *chosen;
  next_choice_ = see.time + choice_every;
  const auto better = target_.pick == Pick::any
                          ? see.others.any(target_.tags, see.random, see.who)
                          : see.others.nearest(target_.tags, see.me.position, see.body.height, see.who);
  if (!better) return tl::unexpected(Outcome{.ending = Ending::gone, .cause = Cause::nobody_to_choose});
  const bool change = !chosen || see.metres_to(*better) < worth_changing * see.metres_to(*chosen);
  if (!change || better->id == now_) return *chosen;
  now_ = better->id;
  near_ = false;
  see.tell({.event = Event::new_target, .whom = now_});
  return *better;
}

void TargetTracker::watch_distance(const View& see, const Other& target, float metres) {
  if (metres <= 0.f) return;
  const float away = see.metres_to(target);
  if (near_ ? away <= 1.1f * metres : away > metres) return;
  near_ = !near_;
  see.tell({.event = near_ ? Event::came_near : Event::moved_away, .whom = target.id, .value = away});
}

}  // namespace ambulon
