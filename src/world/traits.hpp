#pragma once

#include <memory_resource>
#include <unordered_map>
#include <vector>

#include "ambulon/base/body.hpp"
#include "ambulon/base/tags.hpp"
#include "ambulon/crowd/avoidance.hpp"
#include "ambulon/motion/gait.hpp"

namespace ambulon {

/// The properties of an NPC that seldom change.
struct Traits {
  Gait gait = {};
  Avoidance avoidance = {};
  Body body = {};
  Tags tags = {};  ///< groups that it belongs to

  friend bool operator==(const Traits&, const Traits&) = default;
};

/// Stores each distinct `Traits` once (flyweight). Most NPCs share their traits, so a crowd takes less
/// memory, and the tick reads fewer cache lines.
class TraitsPool {
 public:
  explicit TraitsPool(std::pmr::memory_resource* memory) : all_(memory), idle_(memory) {}

  /// Returns the stored copy, and counts one more user.
  const Traits* acquire(const Traits& traits);
  /// Counts one user less. The copy stays valid until `clean_up`.
  void release(const Traits* traits);
  /// Frees copies without users.
  void clean_up();
  std::size_t size() const { return all_.size(); }

 private:
  struct Hash {
    std::size_t operator()(const Traits& traits) const;
  };
  struct Users {
    std::uint32_t count = 0;
    bool idle = false;  // it is in that list
  };
  std::pmr::unordered_map<Traits, Users, Hash> all_;
  std::pmr::vector<const Traits*> idle_;  // without users, each once
};

}  // namespace ambulon
