#include "world/likeness.hpp"

#include <functional>
#include <utility>

namespace ambulon {
namespace {

/// A hash of numbers, one after the other.
struct Hashed {
  std::size_t sum = 0;

  template <class... Numbers>
  void add(const Numbers&... numbers) {
    ((sum = 31 * (sum ^ (sum >> 29U)) + std::hash<Numbers>()(numbers)), ...);
  }
};

}  // namespace

std::size_t Likenesses::Hash::operator()(const Likeness& likeness) const {
  // Taken apart, so that whatever is added to them is not left out here.
  const auto& [speed, acceleration, braking, turn_rate, turn_first, slowing, floor, stride, clearance,
               rounding, mass, patience] = likeness.gait;
  const auto& [takes_part, horizon, sight, side, priority] = likeness.avoidance;
  const auto& [radius, height, step_up, jump_up, drop_down, leap, deck, passes] = likeness.body;
  Hashed hashed;
  hashed.add(speed, acceleration, braking, turn_rate, turn_first, slowing, floor, stride, clearance, rounding,
             mass, patience, takes_part, horizon, sight, side, priority, radius, height, step_up, jump_up,
             drop_down, leap, deck.x, deck.y, passes.bits, likeness.tags.bits);
  return hashed.sum;
}

const Likeness* Likenesses::take(const Likeness& likeness) {
  const auto entry = all_.try_emplace(likeness).first;
  ++entry->second.count;
  return &entry->first;
}

void Likenesses::give_back(const Likeness* likeness) {
  Users& users = all_.find(*likeness)->second;
  if (--users.count == 0 && !std::exchange(users.idle, true)) idle_.push_back(likeness);
}

void Likenesses::tidy() {
  for (const Likeness* likeness : idle_) {
    const auto entry = all_.find(*likeness);
    entry->second.idle = false;
    if (entry->second.count == 0) all_.erase(entry);
  }
  idle_.clear();
}

}  // namespace ambulon
