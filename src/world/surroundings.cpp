#include "ambulon/world/surroundings.hpp"

#include <algorithm>
#include <bit>
#include <cmath>

namespace ambulon {
namespace {

constexpr float cell = 2.f;  // metres: some of them make up the circle in which people look after each other

constexpr std::size_t few = 64;          // with a tag: so many are gone through one by one
constexpr float furthest_circle = 32.f;  // metres

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
      // Who has several of the tags is visited for the first of them only.
      const auto first = static_cast<std::size_t>(std::countr_zero(seen_[slot].tags.bits & tags.bits));
      if (first == bit) visit(seen_[slot]);
    }
  }
}

void Surroundings::reserve(std::size_t slots) {
  seen_.reserve(slots);
  manners_.reserve(slots);
  awake_.reserve(slots);
  stirred_.reserve(slots);
  asleep_.reserve(slots);
  entries_.reserve(slots);
  passers_.reserve(slots);
}

void Surroundings::appear(const Other& other) {
  const std::uint32_t slot = other.id.slot;
  if (slot >= seen_.size()) {
    seen_.resize(slot + 1);
    manners_.resize(slot + 1);
    asleep_.resize(slot + 1);
  }
  seen_[slot] = other;
  manners_[slot] = {};
  stirred_.push_back(slot);
  widest_ = std::max(widest_, other.radius);
  const auto bits = static_cast<std::size_t>(std::bit_width(other.tags.bits));
  while (tagged_.size() < bits) tagged_.emplace_back();
  for (std::size_t bit = 0; bit < bits; ++bit)
    if ((other.tags.bits >> bit & 1U) != 0) insert(tagged_[bit], slot);
  indexed_ = false;
}

void Surroundings::vanish(NpcId id) {
  Other& other = seen_[id.slot];
  wake(id.slot);
  stirred_.push_back(id.slot);
  for (std::size_t bit = 0; bit < tagged_.size(); ++bit)
    if ((other.tags.bits >> bit & 1U) != 0) std::erase(tagged_[bit], id.slot);
  if (id.slot < companions_.size()) companions_[id.slot].companions.clear();
  other = {};
  indexed_ = false;
}

void Surroundings::resize(NpcId id, float radius, float height) {
  seen_[id.slot].radius = radius;
  seen_[id.slot].height = height;
  widest_ = std::max(widest_, radius);
}

void Surroundings::fall_asleep(std::span<const std::uint32_t> slots) {
  if (slots.empty()) return;
  for (const std::uint32_t slot : slots) asleep_[slot] = 1;
  std::erase_if(awake_, [this](std::uint32_t slot) { return asleep(slot); });
  asleep_indexed_ = indexed_ = false;
}

void Surroundings::wake(std::uint32_t slot) {
  if (!asleep(slot)) return;
  asleep_[slot] = 0;
  stirred_.push_back(slot);
  indexed_ = false;
  if (!asleep_indexed_) return;
  const std::uint32_t place = asleep_place_[slot];
  asleep_index_.forget(place);
  if (place < courses_.x.size()) courses_.x[place] = std::numeric_limits<float>::quiet_NaN();
}

std::span<const std::uint32_t> Surroundings::awake() const {
  if (stirred_.empty()) return awake_;
  std::ranges::sort(stirred_);
  // Merged from the back, which needs no other memory.
  std::size_t before = awake_.size(), fresh = stirred_.size();
  awake_.resize(before + fresh);
  for (std::size_t place = awake_.size(); fresh > 0;)
    awake_[--place] =
        before > 0 && awake_[before - 1] > stirred_[fresh - 1] ? awake_[--before] : stirred_[--fresh];
  awake_.erase(std::ranges::unique(awake_).begin(), awake_.end());
  std::erase_if(awake_,
                [this](std::uint32_t slot) { return seen_[slot].id.generation == 0 || asleep(slot); });
  stirred_.clear();
  return awake_;
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

const Other* Surroundings::find(NpcId id) const {
  const bool there = id.generation != 0 && id.slot < seen_.size() && seen_[id.slot].id == id;
  return there ? &seen_[id.slot] : nullptr;
}

const Other* Surroundings::nearest(Tags tags, vec3 from, NpcId except) const {
  const Other* best = nullptr;
  float least = std::numeric_limits<float>::infinity();
  const auto look_at = [&](const Other& other) {
    const vec2 off = flat(other.position - from);
    const float square = glm::dot(off, off);
    if (other.id == except || square > least) return;
    if (square == least && best != nullptr && best->id.slot < other.id.slot) return;
    least = square;
    best = &other;
  };
  // Of many, first in circles around, each with four times as many; where the index is there already.
  if (indexed_ && count_tagged(tags) > few)
    for (float radius = cell; radius <= furthest_circle; radius *= 2.f) {
      each_near(flat(from), radius, [&](std::uint32_t, vec2, std::uint32_t slot) {
        if (seen_[slot].tags.meet(tags)) look_at(seen_[slot]);
      });
      if (least <= radius * radius) return best;
    }
  each_tagged(tags, look_at);
  return best;
}

/// Who has several of the tags counts as often.
std::size_t Surroundings::count_tagged(Tags tags) const {
  std::size_t count = 0;
  for (std::size_t bit = 0; bit < tagged_.size(); ++bit)
    if ((tags.bits >> bit & 1U) != 0) count += tagged_[bit].size();
  return count;
}

const Other* Surroundings::any(Tags tags, Random& random, NpcId except) const {
  std::uint32_t count = 0;
  each_tagged(tags, [&](const Other& other) { count += other.id == except ? 0U : 1U; });
  if (count == 0) return nullptr;
  std::uint32_t drawn = random.below(count);
  const Other* chosen = nullptr;
  each_tagged(tags, [&](const Other& other) {
    if (other.id != except && drawn-- == 0) chosen = &other;
  });
  return chosen;
}

std::span<const Neighbour> Surroundings::near(vec3 from, float radius, NpcId except, Tags tags,
                                              Tags without) const {
  near_.clear();
  index();
  each_near(flat(from), radius, [&](std::uint32_t, vec2 offset, std::uint32_t slot) {
    const Other& other = seen_[slot];
    if (other.id == except || other.tags.meet(without) || (!tags.empty() && !other.tags.meet(tags))) return;
    near_.push_back({.id = other.id, .offset = offset, .velocity = other.velocity, .radius = other.radius});
  });
  return near_;
}

std::span<const Neighbour> Surroundings::in_cone(vec3 from, vec2 ahead, float half_angle, float radius,
                                                 NpcId except, Tags tags, Tags without) const {
  near(from, radius, except, tags, without);
  const float least = std::cos(half_angle);
  std::erase_if(near_, [&](const Neighbour& other) {
    return glm::dot(other.offset, ahead) < least * glm::length(other.offset);
  });
  return near_;
}

std::span<const NpcId> Surroundings::companions(NpcId leader) const {
  if (leader.slot >= companions_.size() || companions_[leader.slot].leader != leader) return {};
  return companions_[leader.slot].companions;
}

void Surroundings::index() const {
  if (indexed_) return;
  indexed_ = true;
  const auto add = [this](std::uint32_t slot) { entries_.push_back({flat(seen_[slot].position), slot}); };
  if (!asleep_indexed_) {
    asleep_indexed_ = true;
    entries_.clear();
    for (std::uint32_t slot = 0; slot < asleep_.size(); ++slot)
      if (asleep(slot)) add(slot);
    asleep_index_.build(entries_, cell);
    passers_.clear();
    note(asleep_index_);
    asleep_place_.resize(asleep_.size());
    for (std::uint32_t place = 0; place < first_awake(); ++place)
      asleep_place_[asleep_index_.sorted()[place].name] = place;
  }
  passers_.resize(first_awake());
  entries_.clear();
  for (const std::uint32_t slot : awake()) add(slot);
  index_.build(entries_, cell);
  note(index_);
  line_up();
}

/// Writes down what is asked of those in the index when others keep out of their way.
void Surroundings::note(const NeighbourIndex& index) const {
  for (const NeighbourIndex::Entry& entry : index.sorted()) {
    const Other& other = seen_[entry.name];
    passers_.push_back({.velocity = other.velocity,
                        .z = other.position.z,
                        .radius = other.radius,
                        .height = other.height,
                        .manner = manners_[entry.name],
                        .tags = other.tags});
  }
}

void Surroundings::line_up() const {
  const auto count = static_cast<std::uint32_t>(passers_.size());
  for (auto* values :
       {&courses_.x, &courses_.y, &courses_.velocity_x, &courses_.velocity_y, &courses_.radius})
    values->resize(count + Courses::lanes);
  float square = 0.f;
  for (std::uint32_t place = 0; place < count; ++place) {
    const Passer& passer = passers_[place];
    const vec2 at = entry(place).at;
    courses_.x[place] = at.x;
    courses_.y[place] = at.y;
    courses_.velocity_x[place] = passer.velocity.x;
    courses_.velocity_y[place] = passer.velocity.y;
    courses_.radius[place] = passer.radius;
    square = std::max(square, glm::dot(passer.velocity, passer.velocity));
  }
  fastest_ = std::sqrt(square);
}

}  // namespace ambulon
