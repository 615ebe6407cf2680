#include "errand/click_to_move.hpp"

#include <fmt/format.h>

#include "base/allowed.hpp"
#include "base/geometry.hpp"
#include "base/written.hpp"

namespace ambulon {
namespace {

constexpr float resume_part = 1.5f;  // of `within`: the pointer distance at which it starts again
constexpr float same_place = 1e-3f;  // metres
constexpr float on_ground = 0.01f;   // metres from the ground that count as on it

}  // namespace

Expected<void> Clicks::set(vec3 at, bool held) {
  if (!finite(at)) return problem("the place clicked is not finite; nothing was changed");
  if (held && held_ && places_.front() == at) return {};
  places_.assign(1, at);
  held_ = held;
  ++revision_;
  return {};
}

Expected<void> Clicks::add(vec3 at) {
  if (places_.empty() || held_ || !finite(at)) return set(at, false);
  places_.push_back(at);
  ++revision_;
  return {};
}

void Clicks::release() {
  if (held_) ++revision_;
  held_ = false;
}

void Clicks::done() {
  if (places_.empty()) return;
  places_.erase(places_.begin());
  ++revision_;
}

Step ClickToMove::step(const View& see, float seconds) {
  for (;;) {
    if (const auto failed = plan(see)) return ended(*failed);
    if (!goal_) return {};  // the pointer is held over unreachable ground
    const bool held = clicks_->held();
    const float off = glm::distance(*goal_, see.me.position);
    if (held && standing_ && off <= resume_part * options_.within) return {};
    standing_ = false;
    if (!follower_.at_end(see, options_.within))
      return {.intent = follower_.go_on(see, options_.within, see.gait.speed, 0.f, seconds)};
    if (held) {
      standing_ = true;
      return {};
    }
    if (const auto end = arrive(see)) return ended(*end);  // else one place less is left
  }
}

std::optional<Outcome> ClickToMove::mistake() const {
  if (!clicks_ || clicks_->places().empty()) return refusal(Cause::no_spots);
  return refusal(
      {{"within", options_.within, allowed::arrival_distances}, {"every", options_.every, {0.f, 10.f}}});
}

/// Plans the route to the present place. Places that are refused are dropped.
std::optional<Outcome> ClickToMove::plan(const View& see) {
  const bool first = planned_revision_ == 0;
  if (first)
    if (const auto why = mistake()) return why;
  const bool moved = planned_revision_ != clicks_->revision();
  const bool holds = goal_ && follower_.update(see) != RouteFollower::Status::must_plan;
  if (moved && clicks_->held() && see.time < next_plan_) {
    if (holds) move_goal(see);
    return std::nullopt;
  }
  if (!moved && (!goal_ || holds)) return std::nullopt;
  next_plan_ = see.time + options_.every;
  for (;;) {
    if (clicks_->places().empty()) return refusal(Cause::no_spots);
    const vec3 place = clicks_->places().front();
    planned_revision_ = clicks_->revision();
    const bool as_before = holds && planned_goal_ && !follower_.ends_elsewhere() &&
                           glm::distance(place, *planned_goal_) < same_place;
    const auto failed = as_before ? std::nullopt : lay(see, place);
    if (!failed && moved && !first && !clicks_->held()) see.tell({.event = Event::sets_out, .where = *goal_});
    if (!failed || clicks_->held()) return std::nullopt;
    see.tell({.event = Event::gave_up, .where = place, .outcome = *failed});
    clicks_->done();
    if (clicks_->places().empty()) return failed;
  }
}

/// Between two plans the goal moves with the pointer, if that place is in sight on the last leg. Otherwise
/// the NPC would slow down for each place.
void ClickToMove::move_goal(const View& see) {
  const vec3 place = clicks_->places().front();
  if (!follower_.on_last_leg() || follower_.ends_elsewhere() || follower_.is_planning()) return;
  const Snap to = see.ground.snap(place, on_ground, see.body);
  if (!to || glm::distance(to.spot.position, place) > see.body.height ||
      !see.ground.sight(see.spot(), to.spot))
    return;
  follower_.move_end(to.spot.position);
  goal_ = place;
}

/// Plans the route to a place. Returns the reason if it is refused. While the pointer is held, the previous
/// route then stays.
std::optional<Outcome> ClickToMove::lay(const View& see, vec3 place) {
  if (options_.unreachable == Unreachable::refuse && clicks_->held()) {
    const auto to = spot_of_goal(see, place, options_.within);
    if (!to) return to.error();
    if (!see.ground.reachable(see.spot(), *to)) return no_route(see, place);
  }
  if (const auto failed = follower_.plan(see, place, options_.within, options_.unreachable)) {
    goal_.reset();
    return failed;
  }
  goal_ = planned_goal_ = follower_.destination().value_or(place);
  return std::nullopt;
}

/// Drops the reached place. Returns the outcome if it was the last one.
std::optional<Outcome> ClickToMove::arrive(const View& see) {
  see.tell({.event = Event::visited, .number = ++visits_, .where = *goal_});
  clicks_->done();
  if (clicks_->places().empty()) return follower_.arrival(see, options_.within);
  goal_.reset();
  return std::nullopt;
}

/// Stuck on the way: tries the next place if there is one.
bool ClickToMove::give_up(const View& see, const Outcome& why) {
  if (clicks_->held() || clicks_->places().size() < 2) return false;
  see.tell({.event = Event::gave_up, .where = *goal_, .outcome = why});
  clicks_->done();
  goal_.reset();
  return true;
}

std::optional<vec3> ClickToMove::goal() const {
  if (goal_ || planned_revision_ > 0 || !clicks_ || clicks_->places().empty()) return goal_;
  return clicks_->places().front();  // it has not set out yet
}

std::optional<float> ClickToMove::left(const View& see) const {
  return goal_ && !clicks_->held() ? std::optional(follower_.left(see.me.position)) : std::nullopt;
}

Progress ClickToMove::progress(const View& see) const {
  return goal_ ? follower_.progress(see.me.position) : Progress();
}

std::string ClickToMove::doing() const {
  if (clicks_->held() && (standing_ || !goal_)) return "standing where the pointer is held";
  if (!goal_) return "about to set out";
  std::string text = (follower_.is_stranded() ? "waiting for a way to " : "walking to ") + written(*goal_, 1);
  if (clicks_->held()) return text + ", after the pointer";
  if (clicks_->places().size() > 1)
    text += fmt::format(", {} places more after that", clicks_->places().size() - 1);
  if (follower_.ends_elsewhere()) text += ", the nearest spot to where was clicked";
  return text;
}

}  // namespace ambulon
