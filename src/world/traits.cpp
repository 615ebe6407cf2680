#include "world/traits.hpp"

#include <functional>
#include <utility>

namespace ambulon {
namespace {

/// Hashes numbers, one after the other.
struct Hashed {
  std::size_t sum = 0;

  template <class... Numbers>
  void add(const Numbers&... numbers) {
    ((sum = 31 * (sum ^ (sum >> 29U)) + std::hash<Numbers>()(numbers)), ...);
  }
};

}  // namespace

std::size_t TraitsPool::Hash::operator()(const Traits& traits) const {
  // A structured binding, so that a new member is not forgotten here.
  const auto& [speed, acceleration, braking, turn_rate, turn_first, slowing, floor, stride, clearance,
               bend_distance, rounding, uphill, downhill, mass, patience] = traits.gait;
  const auto& [takes_part, horizon, sight, side, priority] = traits.avoidance;
  const auto& [radius, height, step_up, jump_up, drop_down, leap, deck, passes] = traits.body;
  Hashed hashed;
  hashed.add(speed, acceleration, braking, turn_rate, turn_first, slowing, floor, stride, clearance,
             bend_distance, rounding, uphill, downhill, mass, patience, takes_part, horizon, sight, side,
             priority, radius, height, step_up, jump_up, drop_down, leap, deck.x, deck.y, passes.bits,
             traits.tags.bits);
  return hashed.sum;
}

const Traits* TraitsPool::acquire(const Traits& traits) {
  const auto entry = all_.try_emplace(traits).first;
  ++entry->second.count;
  return &entry->first;
}

void TraitsPool::release(const Traits* traits) {
  Users& users = all_.find(*traits)->second;
  if (--users.count == 0 && !std::exchange(users.idle, true)) idle_.push_back(traits);
}

void TraitsPool::clean_up() {
  for (const Traits* traits : idle_) {
    const auto entry = all_.find(*traits);
    entry->second.idle = false;
    if (entry->second.count == 0) all_.erase(entry);
  }
  idle_.clear();
}

}  // namespace ambulon
