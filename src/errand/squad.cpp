#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "base/geometry.hpp"
#include "errand/route_follower.hpp"
#include "errand/squad_impl.hpp"
#include "route/shape.hpp"

namespace ambulon {
namespace {

constexpr float ease = 0.85f;         // of the slowest member's speed, so that others can catch up
constexpr float patient_from = 0.5f;  // metres that a member may be behind before the guide slows down
constexpr float waits_from = 2.f;     // and at which it stops
constexpr float look_ahead = 2.f;     // metres, for narrow places
constexpr float opening = 0.5f;       // of the width per second by which ranks close and open
constexpr float longest_wait = 64.f;  // seconds between two checks for a shorter route
constexpr float trail_step = 0.25f;   // metres between the points of a trail
constexpr float smooth = 0.6f;        // metres on both sides over which the direction of the path is averaged

/// Returns the length in metres below which a new route replaces one with `left` metres left. Routes of
/// squads keep clear of corners, so they are longer than the shortest.
float worth_walking(float left) { return left - std::max(1.f, 0.1f * left); }

}  // namespace

Expected<void> Squad::Impl::go_to(vec3 goal) {
  if (!finite(goal)) return problem("a coordinate of the squad's goal is not a finite number");
  leads_ = Leads::goal;
  goal_ = goal;
  planned_ = false;
  failed_.reset();
  return {};
}

void Squad::Impl::follow(NpcId leader) {
  planned_ = planned_ && leads_ == Leads::npc && leader_ == leader;
  leads_ = Leads::npc;
  leader_ = leader;
  failed_.reset();
  asked_.withdraw();
}

Expected<void> Squad::Impl::follow(vec3 point) {
  if (!finite(point))
    return problem("a coordinate of the point that the squad follows is not a finite number");
  planned_ = planned_ && leads_ == Leads::point;
  leads_ = Leads::point;
  goal_ = point;
  failed_.reset();
  asked_.withdraw();
  return {};
}

void Squad::Impl::join(NpcId who) {
  if (find(who) != nullptr) return;
  members_.push_back({.who = who});
  planned_ = false;
  failed_.reset();
}

void Squad::Impl::leave(NpcId who) {
  const bool settled = at_goal();
  if (std::erase_if(members_, [&](const Member& member) { return member.who == who; }) > 0)
    planned_ = settled;
  if (who == asker_) asked_.withdraw();
}

const Squad::Impl::Member* Squad::Impl::find(NpcId who) const {
  const auto found = std::ranges::find(members_, who, &Member::who);
  return found != members_.end() ? &*found : nullptr;
}

std::optional<Outcome> Squad::Impl::go_on(const View& see) {
  next_pace_ = std::min(next_pace_, see.gait.speed);
  const auto leader = leads_ == Leads::npc ? see.others.find(leader_) : std::nullopt;
  if (leads_ == Leads::nobody) return refusal(Cause::no_target);
  if (leads_ == Leads::npc && leader_ == see.who) return refusal(Cause::after_itself);
  if (leads_ == Leads::npc && !leader) return Outcome{.ending = Ending::gone, .cause = Cause::target_gone};
  if (see.time <= seen_at_) {  // asked within the tick, a member may be behind the one before
    if (!asked_.ready()) return failed_;
    try_to_plan(see);  // its route was found in this tick
    if (!failed_) line_up(see, 0.f);
    return failed_;
  }
  const auto seconds = static_cast<float>(seen_at_ < 0 ? 0 : see.time - seen_at_);
  seen_at_ = see.time;
  pace_ = next_pace_;
  lag_ = next_lag_;
  next_pace_ = see.gait.speed;
  next_lag_ = 0.f;
  if (ground_revision_ != see.ground_revision) {
    if (planned_ && leads_ == Leads::goal && !at_goal()) {
      opened_ = opened_ || see.ground.may_shorten(point_at(guide_), goal_, worth_walking(length_ - guide_),
                                                  see.body, ground_revision_);
      planned_ = !see.ground.changed_along(path_, see.body, ground_revision_);
    }
    ground_revision_ = see.ground_revision;
  }
  if (planned_ && opened_ && see.time >= next_opening_look_) look_for_opening(see);
  if (waits() && retry_.due(see)) failed_.reset();
  if (!planned_ && !failed_) try_to_plan(see);
  if (failed_ || path_.empty()) return failed_;
  if (leads_ == Leads::goal)
    walk_on(seconds);
  else
    trail(leader ? leader->position : goal_);
  line_up(see, seconds);
  return std::nullopt;
}

void Squad::Impl::try_to_plan(const View& see) {
  failed_ = plan(see);
  const bool off_ground = failed_ && failed_->ending == Ending::off_ground;
  if (failed_ && options_.unreachable != Unreachable::refuse &&
      (failed_->ending == Ending::no_route || (off_ground && !path_.empty())))
    retry_.put_off(see, *failed_);
  if (planned_) retry_.over(see);
}

/// Plans again if a shorter route may have opened.
void Squad::Impl::look_for_opening(const View& see) {
  opened_ = false;
  if (leads_ != Leads::goal || at_goal()) return;
  const float left = length_ - guide_,
              now = see.ground.distance(see.spot_at(point_at(guide_)), see.spot_at(goal_));
  planned_ = now >= worth_walking(left);
  opening_wait_ = planned_ ? std::min(2.f * opening_wait_, longest_wait) : 1.f;
  next_opening_look_ = see.time + opening_wait_;
  if (!planned_)
    see.tell({.event = Event::route_opened, .value = now, .other = left, .where = see.me.position});
}

/// Plans the route, and assigns the places when it is there.
std::optional<Outcome> Squad::Impl::plan(const View& see) {
  vec3 middle(0.f);
  std::erase_if(members_, [&](const Member& member) { return !see.others.find(member.who); });
  for (const Member& member : members_)
    middle += see.others.find(member.who)->position / static_cast<float>(members_.size());
  if (leads_ == Leads::goal) {
    if (const auto why = plan_route(see, middle)) return why;
    if (asked_) return std::nullopt;
  } else if (path_.empty()) {
    const auto leader = see.others.find(leader_);
    const bool npc = leads_ == Leads::npc;
    path_ = {npc ? leader->position - lift(look_ahead * leader->facing) : middle,
             npc ? leader->position : goal_};
  }
  measure();
  take_places(see);
  planned_ = true;
  return std::nullopt;
}

/// Plans the squad's route from the centre of its members. Returns the reason if there is none.
std::optional<Outcome> Squad::Impl::plan_route(const View& see, vec3 middle) {
  auto to = spot_of_goal(see, goal_, 0.f);
  if (options_.unreachable == Unreachable::nearest && !(to && see.ground.reachable(see.spot(), *to)))
    if (const Snap nearest = see.ground.nearest_reachable(see.spot(), goal_); nearest.found)
      to = nearest.spot;
  if (!to) return to.error();
  Route route;
  if (!see.ground.reachable(see.spot(), *to)) return no_route(see, goal_);
  if (!find_route(see, middle, *to, route)) return std::nullopt;
  if (route.bends.empty()) return no_route(see, goal_);
  // The route keeps half the squad's width from corners, so that ranks need not close up there.
  float half = 0.f;
  for (const vec2 place : places()) half = std::max(half, std::abs(place.y));
  keep_clear(see.ground, see.body, std::min(half + 0.1f, 100.f), route);
  path_.assign(route.bends.begin(), route.bends.end());
  guide_ = 0.f;
  return std::nullopt;
}

/// Fills in the route. Returns false while it is requested.
bool Squad::Impl::find_route(const View& see, vec3 middle, const Spot& to, Route& route) {
  const Spot from = see.ground.nearest_reachable(see.spot(), middle).spot;
  if (see.routes == nullptr) {
    see.ground.route(from, to, route);
    return true;
  }
  if (asked_.leads_to(to)) {
    asked_.start_from(from);
    return asked_.take(route);
  }
  asked_ = see.routes->ask(
      {.from = from, .to = to, .priority = see.route_priority, .time = see.time, .asker = see.who.slot});
  asker_ = see.who;
  return false;
}

/// Computes the arc length of each point of the path.
void Squad::Impl::measure() {
  along_.assign(1, 0.f);
  for (std::size_t i = 1; i < path_.size(); ++i)
    along_.push_back(along_.back() + flat_distance(path_[i - 1], path_[i]));
  length_ = along_.back();
}

std::vector<vec2> Squad::Impl::places() const {
  std::vector<vec2> places = places_in(options_.formation, members_.size(), options_.spacing);
  std::copy_n(options_.offsets.begin(), std::min(places.size(), options_.offsets.size()), places.begin());
  return places;
}

/// Assigns the places by the members' positions relative to the guide.
void Squad::Impl::take_places(const View& see) {
  std::vector<vec2> places = this->places();
  if (leads_ != Leads::goal && options_.offsets.empty()) {  // it forms behind the followed NPC
    float front = 0.f;
    for (const vec2 place : places) front = std::max(front, place.x);
    for (vec2& place : places) place.x -= front + options_.spacing;
  }
  const vec2 ahead = direction_along(guide_), left(-ahead.y, ahead.x), here = flat(point_at(guide_));
  std::vector<vec2> from;
  for (const Member& member : members_) {
    const vec2 off = flat(see.others.find(member.who)->position) - here;
    from.push_back({glm::dot(off, ahead), glm::dot(off, left)});
  }
  const auto taken = assign(from, places);
  left_ = right_ = 0.f;
  for (std::size_t i = 0; i < members_.size(); ++i) {
    members_[i].offset = places[taken[i]];
    members_[i].placed = true;
    left_ = std::max(left_, members_[i].offset.y);
    right_ = std::max(right_, -members_[i].offset.y);
  }
  std::ranges::stable_sort(members_, {}, [](const Member& member) {
    return std::tuple(-member.offset.x, std::abs(member.offset.y), member.who.slot);
  });
}

/// Advances the guide, unless it has to wait.
void Squad::Impl::walk_on(float seconds) {
  const float ready = std::clamp((waits_from - lag_) / (waits_from - patient_from), 0.f, 1.f);
  guide_ = std::min(length_, guide_ + ease * pace_ * ready * seconds);
}

/// Appends the leader's position to the path, and drops the part behind the last place.
void Squad::Impl::trail(vec3 at) {
  float behind = 0.f;
  for (const Member& member : members_) behind = std::max(behind, guide_ - member.along);
  // The last point moves with the leader until it is far enough from the one before.
  if (path_.size() > 1 && flat_distance(path_[path_.size() - 2], path_.back()) < trail_step) {
    path_.back() = at;
  } else if (flat_distance(path_.back(), at) > 0.01f) {
    path_.push_back(at);
  }
  std::size_t first = 0;
  float length = 0.f;
  for (std::size_t i = path_.size(); i-- > 1;) {
    length += flat_distance(path_[i - 1], path_[i]);
    first = i - 1;
    if (length > behind + 2.f * look_ahead) break;
  }
  path_.erase(path_.begin(), path_.begin() + static_cast<std::ptrdiff_t>(first));
  measure();
  guide_ = length_;
}

/// Returns the point at an arc length in metres. The path continues straight beyond its ends.
vec3 Squad::Impl::point_at(float along) const {
  if (path_.size() < 2) return path_.front() + vec3(along, 0.f, 0.f);
  const auto after = std::upper_bound(along_.begin() + 1, along_.end() - 1, along) - along_.begin();
  const auto i = static_cast<std::size_t>(after);
  const float leg = std::max(1e-6f, along_[i] - along_[i - 1]);
  return glm::mix(path_[i - 1], path_[i], (along - along_[i - 1]) / leg);
}

vec2 Squad::Impl::direction_along(float along) const {
  return direction(flat(point_at(along + smooth) - point_at(along - smooth)), vec2(1.f, 0.f));
}

/// Returns how the widest rank fits the ground over the next metres: it first moves to the side that has
/// room, and then narrows.
Squad::Impl::Fit Squad::Impl::fit_at(const View& see, float along) const {
  const float width = left_ + right_;
  if (width <= 0.f) return {};
  float left_room = width, right_room = width;  // metres
  for (float ahead = 0.f; ahead <= look_ahead; ahead += 0.5f * look_ahead) {
    const float at = std::clamp(along + ahead, 0.f, length_);
    const vec2 onward = direction_along(at), left(-onward.y, onward.x);
    const Spot middle = see.spot_at(point_at(at));
    left_room = see.ground.straight(middle, left_room * left).metres;
    right_room = see.ground.straight(middle, -right_room * left).metres;
  }
  const float part = std::min(1.f, (left_room + right_room) / width);
  const float over_left = part * left_ - left_room, over_right = part * right_ - right_room;
  return {.part = part, .shift = std::max(0.f, over_right) - std::max(0.f, over_left)};
}

/// Computes each member's place along the path: at the rank distance, or behind one another where the path is
/// narrow.
void Squad::Impl::line_up(const View& see, float seconds) {
  const float step = at_goal() ? 1.f : opening * seconds;
  for (std::size_t i = 0; i < members_.size(); ++i) {
    Member& member = members_[i];
    const float rank = i > 0 ? members_[i - 1].offset.x - member.offset.x : 0.f;
    member.along = i > 0 ? members_[i - 1].along - std::lerp(options_.spacing, rank, member.abreast)
                         : guide_ + member.offset.x;
    const Fit fit = fit_at(see, member.along);
    member.abreast = std::clamp(fit.part, member.abreast - 2.f * step, member.abreast + step);
    const float metres = 2.f * step * (left_ + right_);
    member.shift = std::clamp(fit.shift, member.shift - metres, member.shift + metres);
  }
}

vec3 Squad::Impl::place_of(const View& see) {
  const Member* me = find(see.who);
  if (me == nullptr || !me->placed) return see.me.position;
  const vec2 onward = direction_along(me->along);
  const vec2 aside = (me->abreast * me->offset.y + me->shift) * vec2(-onward.y, onward.x);
  const vec3 place = see.ground.straight(see.spot_at(point_at(me->along)), aside).end.position;
  next_lag_ = std::max(next_lag_, flat_distance(place, see.me.position));
  return place;
}

vec2 Squad::Impl::direction_at(const View& see) const {
  const Member* me = find(see.who);
  return me != nullptr && me->placed ? direction_along(me->along) : see.me.facing;
}

// --- The public functions ---------------------------------------------------------------------

Squad::Squad(const SquadOptions& options) : impl_(std::make_unique<Impl>(options)) {}

Squad::~Squad() = default;

Expected<std::shared_ptr<Squad>> Squad::make(const SquadOptions& options) {
  if (!Range{0.1f, 100.f}.holds(options.spacing))
    return problem(fmt::format("the spacing of a squad is {:g}; it must lie between 0.1 and 100 metres",
                               options.spacing));
  if (options.formation == Formation::as_they_are)
    return problem(
        "a squad marches in line, column, wedge, ring or block; as they are is no formation to march in");
  if (!std::ranges::all_of(options.offsets, [](vec2 each) { return finite(lift(each)); }))
    return problem("an offset of the squad is not a finite number");
  return std::shared_ptr<Squad>(new Squad(options));
}

Expected<void> Squad::go_to(vec3 goal) { return impl_->go_to(goal); }

void Squad::follow(NpcId leader) { impl_->follow(leader); }

Expected<void> Squad::follow(vec3 point) { return impl_->follow(point); }

std::size_t Squad::size() const { return impl_->size(); }

}  // namespace ambulon
