#include "world/surroundings.hpp"

#include <algorithm>
#include <bit>
#include <cmath>
#include <ranges>

#include "base/geometry.hpp"
#include "base/in_parts.hpp"
#include "base/prefetch.hpp"
#include "base/trig.hpp"
#include "crowd/neighbour_index.hpp"

namespace ambulon {
namespace {

constexpr float cell = 2.f;          // metres: a part of the usual query radius
constexpr float min_course = 0.01f;  // metres per second: of an NPC that waits; it counts as standing

constexpr std::size_t few = 64;          // NPCs with a tag: up to that many are visited one by one
constexpr float furthest_circle = 32.f;  // metres
constexpr std::size_t many_at_a_time = 2048, few_at_a_time = 256;  // NPCs in a batch
constexpr std::uint32_t soon = 4;                                  // NPCs whose data is prefetched

void insert(std::pmr::vector<std::uint32_t>& sorted, std::uint32_t slot) {
  sorted.insert(std::ranges::lower_bound(sorted, slot), slot);
}

}  // namespace

template <class Visit>
void Surroundings::each_tagged(Tags tags, Visit&& visit) const {
  for (std::uint64_t bits = tags.bits; bits != 0; bits &= bits - 1) {
    const auto bit = static_cast<std::size_t>(std::countr_zero(bits));
    if (bit >= tagged_.size()) return;
    for (const std::uint32_t slot : tagged_[bit]) {
      // An NPC with several of the tags is visited for the first one only.
      const std::uint64_t both = movers_[slot].traits->tags.bits & tags.bits;
      if (static_cast<std::size_t>(std::countr_zero(both)) == bit) visit(slot);
    }
  }
}

void Surroundings::reserve(std::size_t slots) {
  seen_.reserve(slots);
  awake_.reserve(slots);
  attention_.reserve(slots);
  places_.reserve(slots);
  neighbour_states_.reserve(slots);
}

void Surroundings::add(std::uint32_t slot) {
  if (slot >= seen_.size()) {
    seen_.resize(slot + 1);
    attention_.resize(slot + 1);
    places_.resize(slot + 1);
  }
  see(slot);
  include_radius(movers_[slot].traits->body.radius);
  attention_[slot] = Attention::awake;
  awake_known_ = false;
  retag(slot, {});
  indexed_ = false;
}

void Surroundings::retag(std::uint32_t slot, Tags before) {
  const std::uint64_t tags = movers_[slot].traits->tags.bits;
  while (tagged_.size() < static_cast<std::size_t>(std::bit_width(tags))) tagged_.emplace_back();
  for (std::size_t bit = 0; bit < tagged_.size(); ++bit) {
    const bool had = (before.bits >> bit & 1U) != 0, has = (tags >> bit & 1U) != 0;
    if (had && !has) std::erase(tagged_[bit], slot);
    if (has && !had) insert(tagged_[bit], slot);
  }
}

void Surroundings::see(std::uint32_t slot) {
  const Motion& motion = movers_[slot].motion;
  seen_[slot] = {movers_[slot].shown_position(), motion.velocity, motion.facing};
}

void Surroundings::begin_tick() {
  const auto slots = awake();
  in_parts(
      jobs_, slots.size(), [this, slots = slots.data()](std::size_t i) { see(slots[i]); }, many_at_a_time);
  indexed_ = false;
}

void Surroundings::remove(std::uint32_t slot) {
  wake(slot);
  attention_[slot] = Attention::gone;
  awake_known_ = false;
  for (std::size_t bit = 0; bit < tagged_.size(); ++bit)
    if ((movers_[slot].traits->tags.bits >> bit & 1U) != 0) std::erase(tagged_[bit], slot);
  if (slot < companions_.size()) companions_[slot].companions.clear();
  indexed_ = false;
}

void Surroundings::fall_asleep(std::span<const std::uint32_t> slots) {
  if (slots.empty()) return;
  for (const std::uint32_t slot : slots) attention_[slot] = Attention::asleep;
  awake_known_ = asleep_indexed_ = indexed_ = false;
}

void Surroundings::wake(std::uint32_t slot) {
  if (!asleep(slot)) return;
  attention_[slot] = Attention::awake;
  awake_known_ = indexed_ = false;
  if (!asleep_indexed_) return;
  const std::uint32_t place = places_[slot];
  asleep_index_.forget(place);
}

std::span<const std::uint32_t> Surroundings::awake() const {
  if (!awake_known_) gather(Attention::awake, awake_);
  awake_known_ = true;
  return awake_;
}

/// Writes the slots with that attention, ascending.
void Surroundings::gather(Attention attention, std::pmr::vector<std::uint32_t>& slots) const {
  slots.clear();
  for (std::uint32_t slot = 0; slot < attention_.size(); ++slot)
    if (attention_[slot] == attention) slots.push_back(slot);
}

void Surroundings::join(NpcId leader, NpcId companion) {
  while (companions_.size() <= leader.slot)
    companions_.push_back({{}, std::pmr::vector<NpcId>(companions_.get_allocator().resource())});
  Party& party = companions_[leader.slot];
  if (party.leader != leader) party.companions.clear();
  party.leader = leader;
  party.companions.insert(std::ranges::lower_bound(party.companions, companion.slot, {}, &NpcId::slot),
                          companion);
}

void Surroundings::leave(NpcId leader, NpcId companion) {
  if (leader.slot < companions_.size() && companions_[leader.slot].leader == leader)
    std::erase(companions_[leader.slot].companions, companion);
}

std::optional<Other> Surroundings::find(NpcId id) const {
  // Several threads may call it, each for its own NPCs.
  const bool there =
      id.slot < attention_.size() && attention_[id.slot] != Attention::gone && this->id(id.slot) == id;
  return there ? std::optional(other(id.slot)) : std::nullopt;
}

Other Surroundings::other(std::uint32_t slot) const {
  const Seen& seen = seen_[slot];
  const Traits& like = *movers_[slot].traits;
  return {.id = id(slot),
          .position = seen.position,
          .velocity = seen.velocity,
          .facing = seen.facing,
          .course = course_of(slot),
          .radius = like.body.radius,
          .height = like.body.height,
          .tags = like.tags};
}

std::optional<Other> Surroundings::nearest(Tags tags, vec3 from, float height, NpcId except) const {
  std::optional<std::uint32_t> best;
  float min = std::numeric_limits<float>::infinity();
  const auto look_at = [&](std::uint32_t slot) {
    if (id(slot) == except) return;
    const vec3 off = seen_[slot].position - from;  // as in `metres_apart`, but squared
    const float between = std::max({off.z - height, -off.z - movers_[slot].traits->body.height, 0.f});
    const float square = glm::dot(flat(off), flat(off)) + between * between;
    if (square > min || (square == min && best && *best < slot)) return;
    min = square;
    best = slot;
  };
  const auto found = [&] { return best ? std::optional(other(*best)) : std::nullopt; };
  // Many NPCs: searches growing circles first, if the index exists.
  if (indexed_ && count_tagged(tags) > few)
    for (float radius = cell; radius <= furthest_circle; radius *= 2.f) {
      each_near(flat(from), radius, [&](std::uint32_t, vec2, std::uint32_t slot) {
        if (movers_[slot].traits->tags.meet(tags)) look_at(slot);
      });
      if (min <= radius * radius) return found();
    }
  each_tagged(tags, look_at);
  return found();
}

/// Counts an NPC once for each of its tags.
std::size_t Surroundings::count_tagged(Tags tags) const {
  std::size_t count = 0;
  for (std::size_t bit = 0; bit < tagged_.size(); ++bit)
    if ((tags.bits >> bit & 1U) != 0) count += tagged_[bit].size();
  return count;
}

std::optional<Other> Surroundings::any(Tags tags, Random& random, NpcId except) const {
  std::uint32_t count = 0;
  each_tagged(tags, [&](std::uint32_t slot) { count += id(slot) == except ? 0U : 1U; });
  if (count == 0) return std::nullopt;
  std::uint32_t drawn = random.below(count), chosen = 0;
  each_tagged(tags, [&](std::uint32_t slot) {
    if (id(slot) != except && drawn-- == 0) chosen = slot;
  });
  return other(chosen);
}

std::span<const Neighbour> Surroundings::near(vec3 from, const NearQuery& query) const {
  latest_ = (latest_ + 1) % near_.size();
  auto& found = near_[latest_];
  found.clear();
  index();
  each_near(flat(from), query.radius, [&](std::uint32_t place, vec2 offset, std::uint32_t slot) {
    const Tags its = movers_[slot].traits->tags;
    if (id(slot) == query.except || its.meet(query.without) || (!query.tags.empty() && !its.meet(query.tags)))
      return;
    const NeighbourState& state = neighbour_states_[place];
    if (!share_height(state.z - from.z, query.height, state.height)) return;
    found.push_back({.id = id(slot),
                     .offset = offset,
                     .velocity = velocities_.velocity(place),
                     .radius = velocities_.radius[place]});
  });
  return found;
}

std::span<const Neighbour> Surroundings::in_cone(vec3 from, vec2 ahead, float half_angle,
                                                 const NearQuery& query) const {
  near(from, query);
  const float min = cosine(half_angle);
  auto& found = near_[latest_];
  std::erase_if(found, [&](const Neighbour& other) {
    return glm::dot(other.offset, ahead) < min * glm::length(other.offset);
  });
  return found;
}

std::span<const NpcId> Surroundings::companions(NpcId leader) const {
  if (leader.slot >= companions_.size() || companions_[leader.slot].leader != leader) return {};
  return companions_[leader.slot].companions;
}

void Surroundings::index() const {
  if (indexed_) return;
  indexed_ = true;
  if (!asleep_indexed_) {
    asleep_indexed_ = true;
    std::pmr::vector<std::uint32_t> sleepers(seen_.get_allocator());
    gather(Attention::asleep, sleepers);
    index(asleep_index_, sleepers);
    line_up(asleep_index_, 0);
  }
  index(index_, awake());
  line_up(index_, first_awake());
}

void Surroundings::index(NeighbourIndex& index, std::span<const std::uint32_t> slots) const {
  index.build(slots | std::views::transform([this](std::uint32_t slot) {
                return NeighbourIndex::Entry{flat(seen_[slot].position), slot};
              }),
              cell);
}

/// Assigns places from `from` on to the NPCs of the index, and writes their avoidance state.
void Surroundings::line_up(const NeighbourIndex& index, std::uint32_t from) const {
  const std::uint32_t count = from + index.size();
  neighbour_states_.resize(count);
  for (auto* values : {&velocities_.velocity_x, &velocities_.velocity_y, &velocities_.radius})
    values->resize(count + NeighbourIndex::lanes);
  const struct {
    const NeighbourIndex& index;
    std::uint32_t from;
  } those{index, from};
  in_parts(
      jobs_, index.size(),
      [this, &those](std::size_t i) {
        const auto number = static_cast<std::uint32_t>(i);
        if (number + soon < those.index.size())
          prefetch<sizeof(Mover)>(&movers_[those.index.name(number + soon)]);
        line_up(those.index.name(number), those.from + number);
      },
      few_at_a_time);
  float square = 0.f;
  for (std::uint32_t place = from; place < count; ++place) {
    const vec2 velocity = velocities_.velocity(place);
    square = std::max(square, glm::dot(velocity, velocity));
  }
  fastest_ = std::sqrt(square);  // sleeping NPCs stand
}

/// Several threads may call it, for different NPCs.
void Surroundings::line_up(std::uint32_t slot, std::uint32_t place) const {
  const Seen& seen = seen_[slot];
  const Body& body = movers_[slot].traits->body;
  places_[slot] = place;
  neighbour_states_[place] = {
      .z = seen.position.z, .height = body.height, .manner = avoidance_state_of(movers_[slot])};
  velocities_.velocity_x[place] = seen.velocity.x;
  velocities_.velocity_y[place] = seen.velocity.y;
  velocities_.radius[place] = body.radius;
}

/// Returns the direction in which an NPC wants to go, as of the last `index`; zero if it was not there.
vec2 Surroundings::course_of(std::uint32_t slot) const {
  const std::uint32_t place = slot < places_.size() ? places_[slot] : 0;
  if (place >= neighbour_states_.size() || this->slot(place) != slot) return vec2(0.f);
  return direction(neighbour_states_[place].manner.course);
}

/// Returns the state that others need to avoid it.
Surroundings::AvoidanceState Surroundings::avoidance_state_of(const Mover& mover) {
  if (mover.drive != Drive::own || mover.crossing)
    return {.wanted = mover.motion.velocity, .course = Course(mover.motion.velocity)};
  const bool ends = mover.intent.edge_radius >= 0.f;
  const vec2 course = mover.intent.course;
  return {.wanted = mover.wanted,
          .course = Course(course != vec2(0.f) ? std::max(min_course, glm::length(mover.wanted)) * course
                                               : mover.wanted),
          .held = mover.held,
          .to_go = ends ? glm::distance(flat(mover.motion.position), mover.intent.edge_centre)
                        : std::numeric_limits<float>::infinity(),
          .rank = mover.traits->avoidance.takes_part && !mover.suspended ? mover.traits->avoidance.priority
                                                                         : never_yields};
}

}  // namespace ambulon
