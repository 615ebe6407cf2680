// Contacts between bodies, for NPCs with an `on_touch` callback.

#include <algorithm>
#include <cmath>

#include "base/geometry.hpp"
#include "world/world_impl.hpp"

namespace ambulon {
namespace {

constexpr float touching = 0.01f;     // metres: tolerance of a contact, on the plan and in height
constexpr float parted = 0.05f;       // metres between bodies: the contact has ended
constexpr float longest_walk = 10.f;  // metres in a tick: a body that moved further was put elsewhere
constexpr float usual_stride =
    0.5f;  // metres in a tick: bodies that move further search for contacts themselves

/// Returns the parameter in [0, 1] at which the segment from `from` to `from + by` enters the circle of
/// `radius` around the origin, 0 if it begins inside; nothing if it does not enter it.
std::optional<float> first_within(vec2 from, vec2 by, float radius) {
  if (glm::dot(from, from) <= radius * radius) return 0.f;
  const float outside = glm::dot(from, from) - radius * radius;
  const float way = glm::dot(by, by), towards = -glm::dot(from, by);
  const float square = towards * towards - way * outside;
  if (towards <= 0.f || square < 0.f) return std::nullopt;
  const float part = outside / (towards + std::sqrt(square));
  return part <= 1.f ? std::optional(part) : std::nullopt;
}

/// Returns true if two bodies share height by more than the tolerance: a body that stands on another does not
/// touch it.
bool at_one_height(float up, float height, float others) {
  return share_height(up, height - touching, others - touching);
}

}  // namespace

bool World::Impl::Touches::has(NpcId other) const {
  return std::ranges::binary_search(touched, other.slot, {}, &NpcId::slot);
}

/// Finds the contacts that began in the previous tick. Each pair is found by the search of the body that
/// moved further, so one fast body does not widen the searches of all others.
void World::Impl::find_contacts() {
  if (touches_.empty()) return earlier_.clear();
  surroundings_.index();
  earlier_.resize(movers_.size());
  for (auto& [slot, mine] : touches_) {
    const float gone = metres_moved(slot);
    const float radius = movers_[slot].traits->body.radius + touching + gone + std::max(gone, usual_stride);
    surroundings_.each_near(
        flat(movers_[slot].motion.position), radius,
        [&](std::uint32_t, vec2, std::uint32_t other) { record_contact(slot, mine, other); });
  }
  for (const std::uint32_t slot : surroundings_.awake()) {
    const float gone = metres_moved(slot);
    if (gone <= usual_stride) continue;
    const float radius = movers_[slot].traits->body.radius + touching + 2.f * gone;
    surroundings_.each_near(flat(movers_[slot].motion.position), radius,
                            [&](std::uint32_t, vec2, std::uint32_t other) {
                              if (const auto its = touches_.find(other); its != touches_.end())
                                record_contact(other, its->second, slot);
                            });
  }
  for (auto& [slot, mine] : touches_) forget_parted(slot, mine);
  for (std::uint32_t slot = 0; slot < movers_.size(); ++slot) {
    const Mover& mover = movers_[slot];
    earlier_[slot] = {mover.motion.position, mover.motion.velocity, mover.jumps, mover.generation};
  }
}

/// Returns the distance in metres that the body moved in the previous tick; 0 if it was put where it is.
float World::Impl::metres_moved(std::uint32_t slot) const {
  const Mover& mover = movers_[slot];
  const Earlier& before = earlier_[slot];
  if (before.generation != mover.generation || before.jumps != mover.jumps) return 0.f;
  const float gone = flat_distance(mover.motion.position, before.at);
  return gone <= longest_walk ? gone : 0.f;
}

/// Records the contact of `slot` with the body `other` if it is new.
void World::Impl::record_contact(std::uint32_t slot, Touches& mine, std::uint32_t other) {
  const Mover &me = movers_[slot], &it = movers_[other];
  const NpcId whom = it.id(other);
  if (other == slot || !it.alive || (!mine.tags.empty() && !it.traits->tags.meet(mine.tags)) ||
      passes(me.traits->body, other) || mine.has(whom))
    return;
  const vec3 my_start = metres_moved(slot) > 0.f ? earlier_[slot].at : me.motion.position;
  const vec3 its_start = metres_moved(other) > 0.f ? earlier_[other].at : it.motion.position;
  const vec3 from = its_start - my_start, by = it.motion.position - me.motion.position - from;
  const auto part =
      first_within(flat(from), flat(by), me.traits->body.radius + it.traits->body.radius + touching);
  if (!part || !at_one_height(from.z + *part * by.z, me.traits->body.height, it.traits->body.height)) return;
  const vec2 apart = direction(flat(from + *part * by));
  // Bodies that push each other are slower after the contact, so the velocity before it counts as well.
  const vec2 velocity = earlier_[other].velocity - earlier_[slot].velocity;
  const vec2 mean = last_seconds_ > 0.f ? flat(by) / last_seconds_ : velocity;
  const float speed = std::max({0.f, -glm::dot(velocity, apart), -glm::dot(mean, apart)});
  mine.touched.insert(std::ranges::lower_bound(mine.touched, whom.slot, {}, &NpcId::slot), whom);
  contacts_.push_back({Npc(world_, me.id(slot)), Npc(world_, whom), speed});
  const auto its = touches_.find(other);
  if (its != touches_.end() && its->second.has(me.id(slot))) return;  // the pair is in the journal already
  take({.event = Event::touched,
        .who = me.id(slot),
        .whom = whom,
        .value = speed,
        .where = me.motion.position,
        .time = time_});
}

/// Forgets the bodies that it no longer touches.
void World::Impl::forget_parted(std::uint32_t slot, Touches& mine) {
  const Mover& me = movers_[slot];
  std::erase_if(mine.touched, [&](NpcId whom) {
    if (!knows(whom)) return true;
    const Mover& it = movers_[whom.slot];
    const vec3 off = it.motion.position - me.motion.position;
    return glm::length(flat(off)) > me.traits->body.radius + it.traits->body.radius + parted ||
           !at_one_height(off.z, me.traits->body.height, it.traits->body.height);
  });
}

}  // namespace ambulon
