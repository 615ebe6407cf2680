#pragma once

#include <memory_resource>
#include <unordered_map>
#include <vector>

#include "ambulon/base/body.hpp"
#include "ambulon/base/tags.hpp"
#include "ambulon/crowd/avoidance.hpp"
#include "ambulon/motion/gait.hpp"

namespace ambulon {

/// What an NPC is like, for as long as nobody says otherwise.
struct Traits {
  Gait gait = {};
  Avoidance avoidance = {};
  Body body = {};
  Tags tags = {};  ///< the groups it belongs to

  friend bool operator==(const Traits&, const Traits&) = default;
};

/// TraitsPool of any number of NPCs. Most are like many others, so each traits is kept once, for all who
/// have it: a crowd takes less memory, and what each tick reads of it stays in the cache.
class TraitsPool {
 public:
  explicit TraitsPool(std::pmr::memory_resource* memory) : all_(memory), idle_(memory) {}

  /// One more has this traits: the place where it is kept.
  const Traits* take(const Traits& traits);
  /// One fewer has it. It stays where it is until `clean_up`.
  void give_back(const Traits* traits);
  /// Forgets those that nobody has any more.
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
  std::pmr::vector<const Traits*> idle_;  // given back by the last who had it, each once
};

}  // namespace ambulon
