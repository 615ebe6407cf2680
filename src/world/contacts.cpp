#include "world/contacts.hpp"

#include <algorithm>
#include <cmath>

#include "base/geometry.hpp"

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

bool Contacts::Watched::has(NpcId other) const {
  return std::ranges::binary_search(touched, other.slot, {}, &NpcId::slot);
}

/// Finds the contacts that began in the previous tick. Each pair is found by the search of the body that
/// moved further, so one fast body does not widen the searches of all others.
void Contacts::find() {
  if (watched_.empty()) return earlier_.clear();
  state_.surroundings.index();
  earlier_.resize(state_.npcs.slots());
  for (auto& [slot, mine] : watched_) {
    const float gone = metres_moved(slot);
    const float radius =
        state_.npcs[slot].traits->body.radius + touching + gone + std::max(gone, usual_stride);
    state_.surroundings.each_near(
        flat(state_.npcs[slot].motion.position), radius,
        [&](std::uint32_t, vec2, std::uint32_t other) { record(slot, mine, other); });
  }
  for (const std::uint32_t slot : state_.surroundings.awake()) {
    const float gone = metres_moved(slot);
    if (gone <= usual_stride) continue;
    const float radius = state_.npcs[slot].traits->body.radius + touching + 2.f * gone;
    state_.surroundings.each_near(flat(state_.npcs[slot].motion.position), radius,
                                  [&](std::uint32_t, vec2, std::uint32_t other) {
                                    if (Watched* its = watched_.find(other)) record(other, *its, slot);
                                  });
  }
  for (auto& [slot, mine] : watched_) forget_parted(slot, mine);
  for (std::uint32_t slot = 0; slot < state_.npcs.slots(); ++slot) {
    const Mover& mover = state_.npcs[slot];
    earlier_[slot] = {mover.motion.position, mover.motion.velocity, mover.jumps, mover.generation};
  }
}

/// Returns the distance in metres that the body moved in the previous tick; 0 if it was put where it is.
float Contacts::metres_moved(std::uint32_t slot) const {
  const Mover& mover = state_.npcs[slot];
  const Earlier& before = earlier_[slot];
  if (before.generation != mover.generation || before.jumps != mover.jumps) return 0.f;
  const float gone = flat_distance(mover.motion.position, before.at);
  return gone <= longest_walk ? gone : 0.f;
}

/// Records the contact of `slot` with the body `other` if it is new.
void Contacts::record(std::uint32_t slot, Watched& mine, std::uint32_t other) {
  const Mover &me = state_.npcs[slot], &it = state_.npcs[other];
  const NpcId whom = it.id(other);
  if (other == slot || !it.alive || (!mine.tags.empty() && !it.traits->tags.meet(mine.tags)) ||
      state_.npcs.passes(me.traits->body, other) || mine.has(whom))
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
  const vec2 mean = state_.clock.last_seconds > 0.f ? flat(by) / state_.clock.last_seconds : velocity;
  const float speed = std::max({0.f, -glm::dot(velocity, apart), -glm::dot(mean, apart)});
  mine.touched.insert(std::ranges::lower_bound(mine.touched, whom.slot, {}, &NpcId::slot), whom);
  contacts_.push_back({Npc(state_.world, me.id(slot)), Npc(state_.world, whom), speed});
  const Watched* its = watched_.find(other);
  if (its != nullptr && its->has(me.id(slot))) return;  // the pair is in the journal already
  state_.take({.event = Event::touched,
               .who = me.id(slot),
               .whom = whom,
               .value = speed,
               .where = me.motion.position,
               .time = state_.clock.time});
}

/// Forgets the bodies that it no longer touches.
void Contacts::forget_parted(std::uint32_t slot, Watched& mine) {
  const Mover& me = state_.npcs[slot];
  std::erase_if(mine.touched, [&](NpcId whom) {
    if (!state_.npcs.knows(whom)) return true;
    const Mover& it = state_.npcs[whom.slot];
    const vec3 off = it.motion.position - me.motion.position;
    return glm::length(flat(off)) > me.traits->body.radius + it.traits->body.radius + parted ||
           !at_one_height(off.z, me.traits->body.height, it.traits->body.height);
  });
}

void Contacts::on_touch(std::uint32_t slot, OnTouch then, Tags tags) {
  if (!then) {
    watched_.extract(slot);  // taken out first, since its destructor may call back
    return;
  }
  Watched* mine = watched_.find(slot);
  if (mine == nullptr) mine = &watched_.add(slot, Watched{{}, tags, std::pmr::vector<NpcId>(&state_.pool)});
  mine->tags = tags;
  mine->on_touch.swap(then);
}

void Contacts::call() {
  std::swap(contacts_, telling_);
  for (const Contact& contact : telling_) call(contact);
  telling_.clear();
}

void Contacts::call(const Contact& contact) {
  if (!contact.npc.alive()) return;
  const std::uint32_t slot = contact.npc.id().slot;
  state_.clock.called_at = state_.moment(slot);
  Watched* told = watched_.find(slot);
  if (told == nullptr || !told->on_touch) return;
  // The callback may replace or remove itself.
  auto on_touch = std::exchange(told->on_touch, nullptr);
  on_touch(contact.npc, contact.whom, contact.speed);
  Watched* now = contact.npc.alive() ? watched_.find(slot) : nullptr;
  if (now != nullptr && !now->on_touch) now->on_touch = std::move(on_touch);
}

bool Contacts::destroy_some() {
  if (watched_.empty()) return false;
  watched_.dismiss_any();
  watched_.destroy_dismissed();
  return true;
}

}  // namespace ambulon
