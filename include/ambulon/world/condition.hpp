#pragma once

#include <optional>

#include "ambulon/errand/errand.hpp"

namespace ambulon {

class World;

/// Something about one NPC that a script can wait for. Made by `Npc::until_near` and its like.
class Condition {
 public:
  enum class Kind : std::uint8_t { near, apart, signal };

  Condition(World* world, Kind kind, NpcId who, NpcId other, float metres, Signal signal)
      : world_(world), who_(who), other_(other), kind_(kind), metres_(metres), signal_(signal) {}

  /// `done` when it holds now, `gone` when an NPC it is about is no longer there; nothing otherwise.
  std::optional<Outcome> check() const;

 private:
  World* world_;
  NpcId who_, other_;
  Kind kind_;
  float metres_;
  Signal signal_;
};

}  // namespace ambulon
