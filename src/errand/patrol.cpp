#include "errand/patrol.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include <fmt/format.h>

#include "ambulon/motion/steering.hpp"

#include "base/allowed.hpp"
#include "base/circle.hpp"
#include "base/geometry.hpp"
#include "errand/pacing.hpp"
#include "errand/turn_to.hpp"
#include "route/curve.hpp"

namespace ambulon {
namespace {

constexpr float curve_part = 0.5f;    // metres between two checks that a curve is on the ground
constexpr float off_curve = 0.05f;    // metres from the curve that count as on it
constexpr float rejoin_within = 1.f;  // metres off a changed curve from which it walks straight on

/// Returns the look-ahead distance on a curve, metres. It grows with the speed, to prevent oscillation.
float look_ahead(float speed) { return std::clamp(0.2f * speed, 0.15f, 3.f); }

}  // namespace

Patrol::Patrol(BeatPtr beat, PatrolOptions options, std::pmr::memory_resource* memory)
    : unreachable_(options.unreachable),
      from_first_(options.start == PatrolStart::first),
      back_(options.from.reversed),
      beat_(std::move(beat)),
      within_(options.within),
      target_(options.from.waypoint) {
  if (options.lap != 0.f || options.leg_time != 0.f) times_.make(memory, options.lap, options.leg_time);
}

Step Patrol::step(const View& see, float seconds) {
  if (seen_revision_ == 0) {
    if (const auto why = mistake()) return ended(*why);
    if (const auto why = begin(see)) return wait_for_route(see, *why);
  } else {
    const bool waited = follower_.is_planning();
    if (phase_ == Phase::waiting && seen_revision_ == beat_->revision()) {
      if (beat_->size() == 0 || !trouble()->retry.due(see)) return {};
      trouble()->skipped_in_a_row = 0;
      phase_ = Phase::walking;
      if (const auto why = target_ == reached_ ? head_for_next(see) : head_for(see, index_))
        return wait_for_route(see, *why);
    } else if (seen_revision_ != beat_->revision() || disturbed(see)) {
      if (const auto why = take_in_edits(see)) return wait_for_route(see, *why);
    } else if (waited && !follower_.is_planning()) {  // now the leg begins
      if (trouble()) trouble()->skipped_in_a_row = 0;
      if (trouble() && target_ != reached_) trouble()->retry.over(see);
      measure_leg(see);
      if (lap_running_) return {.intent = walk(see, seconds)};
    }
  }

  if (phase_ == Phase::walking) {
    if (!at_waypoint(see)) {
      if (leg_is_over(see)) return give_up_leg(see, seconds);
      return {.intent = walk(see, seconds)};
    }
    if (trouble() && trouble()->from == target_)
      return wait_for_route(see, trouble()->why);  // it has not moved
    if (trouble()) trouble()->retry.over(see);
    if (trouble()) extras_->trouble.reset();
    reach(see);
    phase_ = Phase::facing;
  }
  if (phase_ == Phase::facing) {
    const Waypoint& here = (*beat_)[index_];
    if (const auto turn = turn_to_facing(see, here.facing)) return {.intent = *turn};
    phase_ = Phase::pausing;
    rest_ = Rest::drawn(see, here.pause);
  }
  if (auto rest = rest_.go_on(seconds)) return {.intent = *rest};
  if (beat_->order() == BeatOrder::once && index_ + 1 == beat_->size()) return ended(Ending::arrived);
  const vec2 now = flat(see.me.position);
  if (beat_->size() == 1 && came_by(now, now, flat((*beat_)[0].position), within())) return {};
  phase_ = Phase::walking;
  if (const auto why = head_for_next(see)) return wait_for_route(see, *why);
  return {.intent = walk(see, seconds)};
}

/// Stands until there is a route to a waypoint, or until there is a waypoint. Ends if the beat is finished.
Step Patrol::wait_for_route(const View& see, const Outcome& why) {
  const bool may_change = why.ending == Ending::no_route || why.ending == Ending::off_ground;
  if (!may_change || unreachable_ == Unreachable::refuse) return ended(why);
  if (!trouble()) extras(see).trouble.emplace(Retry(), why, reached_);
  trouble()->retry.put_off(see, why);
  phase_ = Phase::waiting;
  return {};
}

std::optional<Intent> Patrol::keep_on(const View& see, float seconds) {
  if (seen_revision_ == 0 || seen_revision_ != beat_->revision() || !follower_.up_to_date(see))
    return std::nullopt;
  if (phase_ == Phase::pausing) return rest_.go_on(seconds);
  if (phase_ != Phase::walking || curving() || leg_is_over(see) || !follower_.can_go_on(see, within()))
    return std::nullopt;
  return walk(see, seconds);
}

/// Returns true, once for each change, if the route is outdated. While walking, this includes being pushed
/// aside.
bool Patrol::disturbed(const View& see) {
  const bool on_way = phase_ == Phase::walking && (!curving() || follower_.is_planning());
  return (on_way || !follower_.up_to_date(see)) && follower_.update(see) == RouteFollower::Status::must_plan;
}

/// Time limit of a leg: goes on with the next one.
Step Patrol::give_up_leg(const View& see, float seconds) {
  const Outcome late{.ending = Ending::timed_out, .cause = Cause::time_up, .value = leg_time()};
  if (beat_->order() == BeatOrder::once && index_ + 1 == beat_->size()) return ended(late);
  see.tell({.event = Event::gave_up, .where = (*beat_)[index_].position, .outcome = late});
  ++legs_done_;
  if (const auto why = head_for_next(see)) return wait_for_route(see, *why);
  return {.intent = walk(see, seconds)};
}

std::optional<Outcome> Patrol::mistake() const {
  const bool shuffled = beat_ && beat_->order() == BeatOrder::shuffled;
  if (!beat_ || beat_->size() == 0) return refusal(Cause::no_waypoints);
  if (const auto why = refusal({{"lap", lap(), allowed::durations},
                                {"within", within_, allowed::arrival_distances},
                                {"leg_time", leg_time(), allowed::durations}}))
    return why;
  if (shuffled && lap() > 0.f) return refusal(Cause::lap_of_shuffled);
  if (shuffled && beat_->path() == BeatPath::curve) return refusal(Cause::curve_of_shuffled);
  return std::nullopt;
}

/// Notes the state of the beat.
void Patrol::note_beat() {
  seen_revision_ = beat_->revision();
  own_within_ = false;
  for (std::size_t i = 0; i < beat_->size(); ++i) own_within_ |= (*beat_)[i].within > 0.f;
}

std::optional<Outcome> Patrol::begin(const View& see) {
  note_beat();
  const auto from = beat_->find(target_);
  std::size_t start = from.value_or(0);
  back_ = back_ && from;
  if (!from_first_ && !from)
    for (std::size_t i = 1; i < beat_->size(); ++i)
      if (glm::distance((*beat_)[i].position, see.me.position) <
          glm::distance((*beat_)[start].position, see.me.position))
        start = i;
  first_index_ = static_cast<std::uint32_t>(start);
  return head_for(see, start);
}

std::optional<Outcome> Patrol::take_in_edits(const View& see) {
  note_beat();
  if (beat_->size() == 0) return Outcome{.ending = Ending::no_route, .cause = Cause::no_waypoints};
  const auto last = static_cast<std::uint32_t>(beat_->size()) - 1;
  const auto found = beat_->find(target_);
  const auto index = found ? static_cast<std::uint32_t>(*found) : std::min(index_, last);
  first_index_ = std::min(first_index_, last);
  if (times_) times_->lap_metres = lap_length(see);
  if (phase_ != Phase::walking && found) {  // it stands at its waypoint and may finish there
    follower_.bring_up_to_date(see);
    index_ = index;
    return std::nullopt;
  }
  phase_ = Phase::walking;
  const auto from = curving() ? beat_->find(curving()->from) : std::nullopt;
  if (const auto why = head_for(see, index)) return why;
  if (from && *from != index_) {
    follow_curve_from(see, *from);
    if (!curving()) return std::nullopt;
    const vec3 off = beat_->curve().position(curving()->along) - see.me.position;
    if (metres_apart(off, see.body.height, see.body.height) > rejoin_within) extras_->curving.reset();
  }
  return std::nullopt;
}

std::optional<Outcome> Patrol::head_for(const View& see, std::size_t index) {
  for (;;) {
    index_ = static_cast<std::uint32_t>(index);
    target_ = beat_->id(index);
    if (times_) times_->leg_began = see.time;
    if (curving()) extras_->curving.reset();
    auto failed =
        follower_.plan(see, (*beat_)[index].position, within(),
                       unreachable_ == Unreachable::nearest ? Unreachable::nearest : Unreachable::refuse);
    if (!failed) {
      if (trouble() && !follower_.is_planning()) trouble()->skipped_in_a_row = 0;
      stops_ = stops_at(index);
      leg_between_ = 0.f;
      measure_leg(see);
      if (lap() > 0.f) sum_stops_ahead();
      return std::nullopt;
    }
    // Only the first of several attempts is recorded.
    if (!trouble() || !trouble()->retry.waits())
      see.tell({.event = Event::skipped,
                .number = static_cast<std::uint32_t>(index + 1),
                .of = static_cast<std::uint32_t>(beat_->size()),
                .value = failed->value,
                .where = failed->where,
                .outcome = *failed});
    if (!trouble()) extras(see).trouble.emplace(Retry(), *failed, reached_);
    trouble()->why = *failed;
    ++legs_done_;
    if (++trouble()->skipped_in_a_row >= beat_->size()) {
      if (failed->ending == Ending::off_ground) failed->cause = Cause::none_on_ground;
      return failed;
    }
    const auto next = next_index(see.random);
    if (!next) return failed;
    index = *next;
  }
}

std::optional<Outcome> Patrol::head_for_next(const View& see) {
  const std::size_t here = index_;
  const auto next = next_index(see.random);
  if (!next) return Outcome{.ending = Ending::arrived};
  if (const auto why = head_for(see, *next)) return why;
  // The NPC sets off slightly before the waypoint; the leg is measured from the waypoint.
  leg_between_ = lap() > 0.f ? leg_length(see, here, index_)
                             : flat_distance((*beat_)[here].position, (*beat_)[index_].position);
  measure_leg(see);
  if (beat_->path() == BeatPath::curve && beat_->size() > 1) follow_curve_from(see, here);
  return std::nullopt;
}

/// Computes the length of the leg and the speed at its end. Called again when a requested route is found.
void Patrol::measure_leg(const View& see) {
  end_speed_ = stops_ ? 0.f : passing_speed(see);
  if (curving()) return;
  const bool known = lap() > 0.f && leg_between_ > 0.f;
  leg_metres_ = known ? leg_between_ : std::max(leg_between_, follower_.length());
}

void Patrol::follow_curve_from(const View& see, std::size_t index) {
  const Curve& curve = beat_->curve();
  const float start = curve.metres_to(index);
  float goal = curve.metres_to(index_);
  if (curve.closed() && goal <= start) goal += curve.length();
  extras(see).curving.emplace(curve.nearest(see.me.position, std::min(start, goal), std::max(start, goal)),
                              goal, beat_->id(index));
  leg_metres_ = std::abs(goal - start);
  if (!on_ground(see, *curving())) extras_->curving.reset();  // then it follows the route
}

/// Returns true if the rest of a leg on the curve is walkable.
bool Patrol::on_ground(const View& see, const Curving& leg) const {
  const float metres = std::abs(leg.goal_along - leg.along);
  const auto parts = static_cast<int>(std::clamp(std::ceil(metres / curve_part), 1.f, 10'000.f));
  std::optional<Spot> before;
  for (int i = 0; i <= parts; ++i) {
    const float along =
        glm::mix(leg.along, leg.goal_along, static_cast<float>(i) / static_cast<float>(parts));
    const vec3 at = beat_->curve().position(along);
    const Snap here = see.ground.snap(at, std::numeric_limits<float>::infinity(), see.body);
    if (flat_distance(here.spot.position, at) > off_curve ||
        (before && !see.ground.sight(*before, here.spot)))
      return false;
    before = here.spot;
  }
  return true;
}

float Patrol::left_of_leg(const View& see) const {
  return curving() ? std::abs(curving()->goal_along - curving()->along) : follower_.left(see.me.position);
}

bool Patrol::at_waypoint(const View& see) {
  if (!curving()) {
    if (!follower_.at_end(see, within())) return false;
    const vec2 out = onward();
    return out == vec2(0.f) || follower_.passed_end(see, within(), out);
  }
  // Searches only the reachable stretch, so that the order is kept on a curve that crosses itself.
  const float reach = 2.f * look_ahead(see.me.speed()) + glm::length(flat(see.me.position) - see.was);
  auto& [along, goal, from] = *curving();
  along = goal >= along ? beat_->curve().nearest(see.me.position, along, std::min(along + reach, goal))
                        : beat_->curve().nearest(see.me.position, std::max(along - reach, goal), along);
  return left_of_leg(see) <= within() + 1e-3f;
}

void Patrol::reach(const View& see) {
  reached_ = target_;
  see.tell({.event = Event::reached,
            .number = index_ + 1,
            .of = static_cast<std::uint32_t>(beat_->size()),
            .where = (*beat_)[index_].position});
  count_lap(see);
}

/// Returns the direction of the leg after the next waypoint; zero if it stops there, or chooses only then.
vec2 Patrol::onward() const {
  if (stops_ || beat_->order() == BeatOrder::shuffled) return vec2(0.f);
  const vec3 here = follower_.end().value_or((*beat_)[index_].position);
  return direction(flat((*beat_)[following(index_, back_)].position - here));
}

/// Returns the maximum speed at the next waypoint, from which it can still turn to the leg after it.
float Patrol::passing_speed(const View& see) const {
  const vec2 in = follower_.end_direction(), out = onward();
  // A shuffled patrol chooses later, so it must be able to turn in any direction.
  return RouteFollower::passing_speed(see.gait, within(), out == vec2(0.f) ? pi : angle_between(in, out));
}

/// Returns true if it has to slow down or turn at the end of the leg by the next step. Most steps are far
/// from there.
bool Patrol::nears_end(const View& see, float speed, float seconds) const {
  if (stops_ || !follower_.on_last_leg()) return false;
  const float slowing = std::max(0.f, speed * speed - end_speed_ * end_speed_) / (2.f * see.gait.braking);
  const float near = within() + slowing + 2.f * std::max(speed, see.me.speed()) * seconds;
  const vec2 left = flat(*follower_.end() - see.me.position);
  return glm::dot(left, left) <= near * near;
}

Intent Patrol::walk(const View& see, float seconds) {
  const float wanted = speed(see);
  if (curving()) return walk_curve(see, wanted, seconds);
  const vec2 out = nears_end(see, wanted, seconds) ? onward() : vec2(0.f);
  return out == vec2(0.f) ? follower_.go_on(see, within(), wanted, end_speed_, seconds)
                          : follower_.pass_end(see, within(), wanted, out, seconds);
}

Intent Patrol::walk_curve(const View& see, float speed, float seconds) {
  const float left = left_of_leg(see), ahead = look_ahead(speed);
  const float onward = curving()->goal_along >= curving()->along ? 1.f : -1.f;
  const float reach = stops_ ? std::min(ahead, left) : ahead;
  const vec2 target =
      flat(beat_->curve().position(curving()->along + onward * reach)) - flat(see.me.position);
  if (!stops_) return {.velocity = seek(see.me, see.gait, target, speed)};
  const Approach approach = arrive(see.me, see.gait, target, left, within(), speed, seconds);
  return {.velocity = approach.velocity, .lasts = approach.lasts, .stop = approach.stop};
}

bool Patrol::stops_at(std::size_t index) const {
  const Waypoint& waypoint = (*beat_)[index];
  if (!waypoint.pause.empty() || waypoint.facing || beat_->size() == 1) return true;
  const bool end = index == 0 || index + 1 == beat_->size();
  if (beat_->order() == BeatOrder::once) return index + 1 == beat_->size();
  return beat_->order() == BeatOrder::back_and_forth && end;
}

/// Returns the waypoint after `index` in order. A back_and_forth beat reverses at its ends.
std::size_t Patrol::following(std::size_t index, bool back) const {
  const std::size_t count = beat_->size();
  if (count == 1) return 0;
  if (beat_->order() != BeatOrder::back_and_forth) return (index + 1) % count;
  if (index == 0) return 1;
  if (index + 1 == count) return count - 2;
  return back ? index - 1 : index + 1;
}

std::optional<std::size_t> Patrol::next_index(Random& random) {
  const auto count = static_cast<std::uint32_t>(beat_->size());
  if (beat_->order() == BeatOrder::once && index_ + 1 == count) return std::nullopt;
  if (beat_->order() == BeatOrder::shuffled && count > 1) {
    const std::uint32_t drawn = random.below(count - 1);  // of the others
    return drawn < index_ ? drawn : drawn + 1;
  }
  const std::size_t next = following(index_, back_);
  back_ = next < index_;
  return next;
}

std::size_t Patrol::legs_in_lap() const {
  const std::size_t count = beat_->size();
  if (beat_->order() == BeatOrder::once) return count - 1 - first_index_;
  return beat_->order() == BeatOrder::back_and_forth ? 2 * (count - 1) : count;
}

float Patrol::leg_length(const View& see, std::size_t from, std::size_t to) const {
  if (beat_->path() == BeatPath::curve) {
    const float metres = beat_->curve().metres_to(to) - beat_->curve().metres_to(from);
    return beat_->curve().closed() && metres <= 0.f ? metres + beat_->curve().length() : std::abs(metres);
  }
  const float anywhere = std::numeric_limits<float>::infinity();
  const Snap a = see.ground.snap((*beat_)[from].position, anywhere, see.body),
             b = see.ground.snap((*beat_)[to].position, anywhere, see.body);
  const float metres = see.ground.distance(a.spot, b.spot);
  return std::isfinite(metres) ? metres : 0.f;  // a leg without a route is skipped
}

float Patrol::lap_length(const View& see) const {
  if (beat_->order() == BeatOrder::shuffled || beat_->size() < 2) return 0.f;
  float metres = 0.f;
  bool back = false;
  std::size_t from = first_index_;
  for (std::size_t leg = 0; leg < legs_in_lap(); ++leg) {
    const std::size_t to = following(from, back);
    metres += leg_length(see, from, to);
    back = to < from;
    from = to;
  }
  return metres;
}

void Patrol::count_lap(const View& see) {
  if (lap_running_) {
    ++legs_done_;
    metres_done_ += leg_metres_;
    if (legs_done_ < legs_in_lap()) return;
    const auto took = static_cast<float>(see.time - lap_began_);
    const bool late = lap() > 0.f && took > 1.02f * lap();
    see.tell({.event = late ? Event::late : Event::lap, .value = took, .other = lap()});
  }
  lap_running_ = true;
  first_index_ = index_;
  lap_began_ = see.time;
  legs_done_ = 0;
  metres_done_ = 0.f;
  if (lap() > 0.f) times_->lap_metres = lap_length(see);
}

/// Sums the pauses and counts the stops of the rest of the lap.
void Patrol::sum_stops_ahead() {
  Times& times = *times_;
  times.pauses_ahead = 0.f;
  times.starts_ahead = 0;
  times.stops_ahead = stops_ ? 1 : 0;
  std::size_t index = index_;
  bool back = back_;
  // The pause at the last waypoint of the lap belongs to the next lap.
  for (std::size_t leg = legs_done_ + 1; leg < legs_in_lap(); ++leg) {
    times.pauses_ahead += (*beat_)[index].pause.middle();
    times.starts_ahead += stops_at(index) ? 1 : 0;
    const std::size_t next = following(index, back);
    back = next < index;
    index = next;
    times.stops_ahead += stops_at(index) ? 1 : 0;
  }
}

/// Returns the seconds of the rest of the lap that are not walked at `pace`: pauses, and the time that
/// braking and accelerating at stops cost.
float Patrol::expected_stop_seconds(const View& see, float pace) const {
  return times_->pauses_ahead + static_cast<float>(times_->stops_ahead) * seconds_of_stop(see.gait, pace) +
         static_cast<float>(times_->starts_ahead) * seconds_of_start(see.gait, pace);
}

float Patrol::speed(const View& see) {
  if (lap() <= 0.f || !lap_running_ || times_->lap_metres <= 0.f) return see.gait.speed;
  auto& pace = times_->pace;
  // While it brakes for a stop, the pace stays.
  if (stops_ && pace > 0.f && left_of_leg(see) < see.gait.slowing_distance + within()) return pace;
  const float left = times_->lap_metres - metres_done_ - leg_metres_ + left_of_leg(see) - within();
  const auto gone = static_cast<float>(see.time - lap_began_);
  const float mean = times_->lap_metres / lap();
  const float seconds = lap() - gone - expected_stop_seconds(see, pace > 0.f ? pace : mean);
  // If late, it goes faster, by at most twice the mean speed of the lap.
  pace = pace_for(left, seconds, mean);
  return pace;
}

std::optional<vec3> Patrol::goal() const {
  if (seen_revision_ == 0 || index_ >= beat_->size()) return std::nullopt;
  return (*beat_)[index_].position;
}

std::optional<float> Patrol::left(const View& see) const {
  return phase_ == Phase::walking ? std::optional(left_of_leg(see)) : std::nullopt;
}

Progress Patrol::progress(const View& see) const {
  if (!lap_running_ || index_ >= beat_->size()) return {};
  if (beat_->order() == BeatOrder::shuffled)
    return {.metres = metres_done_ + leg_metres_ - left_of_leg(see),
            .fraction = static_cast<float>(legs_done_) / static_cast<float>(legs_in_lap())};
  const float all = lap_length(see);
  const float there = phase_ == Phase::walking ? leg_metres_ - left_of_leg(see) : 0.f;
  const float metres = std::clamp(metres_done_ + there, 0.f, all);
  return {.metres = metres, .of_metres = all, .fraction = all > 0.f ? metres / all : 0.f};
}

std::string Patrol::doing() const {
  if (seen_revision_ == 0) return "about to patrol";
  const char* phase = phase_ == Phase::waiting   ? "waiting for a way to"
                      : phase_ == Phase::walking ? "walking to"
                      : phase_ == Phase::facing  ? "turning at"
                                                 : "pausing at";
  if (beat_->size() == 0) return "waiting for waypoints";
  return fmt::format("{} waypoint {} of {}", phase, index_ + 1, beat_->size());
}

}  // namespace ambulon
