#pragma once

#include <optional>

#include "ambulon/errand/errand.hpp"

namespace ambulon {

class World;

/// Something about NPCs that a script can wait for. Made by `Npc::until_near` and its like.
class Condition {
 public:
  enum class Kind : std::uint8_t { near, apart, signal, arrived, stuck };

  /// `other`: the NPC it is about; `metres`: of near and apart; `signal`: of signal. What arrived and
  /// stuck hold for happens after the condition was made.
  Condition(World* world, Kind kind, NpcId who, NpcId other, float metres = 0.f, Signal signal = {});

  /// `done` when it holds now, `gone` when an NPC it is about is no longer there; nothing otherwise.
  std::optional<Outcome> check() const;

 private:
  std::uint32_t count() const;

  World* world_;
  NpcId who_, other_;
  Kind kind_;
  float metres_;
  Signal signal_;
  std::uint32_t before_ = 0;  // how often it had happened when the condition was made
};

}  // namespace ambulon
