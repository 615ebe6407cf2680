#include "errand/escort.hpp"

#include <algorithm>

#include "ambulon/motion/steering.hpp"

#include "base/allowed.hpp"
#include "base/geometry.hpp"

namespace ambulon {
namespace {

constexpr int draws = 12;  // attempts to find a free place

}  // namespace

Step Escort::step(const View& see, float seconds) {
  if (!begun_)
    if (const auto why = mistake(see)) return ended(*why);
  begun_ = true;
  const auto leader = see.others.find(leader_);
  if (!leader) return ended({.ending = Ending::gone, .cause = Cause::target_gone});
  const vec2 offset = flat(leader->position - see.me.position);
  const bool level = see.level_with(*leader);  // false: it is on another storey
  if (!goal_) {
    if (level && glm::length(offset) <= options_.leash)
      return {.intent = {.facing = direction(offset, see.me.facing)}};
    choose_place(see, *leader);
  }
  goal_ = beside(see, *leader, place_).end.position;
  const vec2 slot = flat(*goal_ - see.me.position);
  const bool leader_stands = stands(*leader);
  if (!leader_stands) stall_.reset();
  const bool there = glm::length(slot) <= options_.within ||
                     (glm::length(offset) <= options_.leash && stall_.by_others(see, glm::length(slot)));
  if (leader_stands && level && there) {
    goal_.reset();
    stall_.reset();
    return {.intent = {.facing = direction(offset, see.me.facing)}};
  }
  if (auto step =
          follower_.go_on(see, *goal_, options_.within, see.gait.speed, options_.replan_distance, seconds))
    return *step;
  const vec2 velocity = leader_stands ? vec2(0.f) : leader->velocity;
  return {.intent = {.velocity = follow_offset(see.me, see.gait, slot, velocity, see.gait.speed, seconds)}};
}

std::optional<Outcome> Escort::mistake(const View& see) const {
  if (leader_ == see.who) return refusal(Cause::after_itself);
  return refusal({{"the nearer end of ring", options_.ring.min, {0.1f, 1000.f}},
                  {"the further end of ring", options_.ring.max, {options_.ring.min, 1000.f}},
                  {"leash", options_.leash, {options_.ring.max, allowed::lengths.max}},
                  {"within", options_.within, {0.01f, 100.f}},
                  {"replan_distance", options_.replan_distance, {0.01f, 1000.f}}});
}

/// Each companion has its own sector of the ring, so places do not depend on the order of choice. If another
/// NPC stands at the drawn place, it draws again.
void Escort::choose_place(const View& see, const Other& leader) {
  const auto all = see.others.companions(leader_);
  const auto rank = static_cast<float>(std::ranges::find(all, see.who) - all.begin());
  const float sector = 2.f * pi / static_cast<float>(std::max<std::size_t>(1, all.size()));
  for (int draw = 0; draw < draws; ++draw) {
    // Neighbours do not touch, since the outer quarters of each sector stay empty.
    const float heading = sector * (rank + see.random.within({0.25f, 0.75f}));
    place_ = see.random.within(options_.ring) * unit(heading);
    const Stretch stretch = beside(see, leader, place_);
    if (stretch.metres >= options_.ring.min && !taken(see, stretch.end.position)) break;
  }
  see.tell({.event = Event::sets_out, .whom = leader_, .where = leader.position + lift(place_)});
}

bool Escort::taken(const View& see, vec3 place) const { return !see.near(place, see.body.radius).empty(); }

}  // namespace ambulon
