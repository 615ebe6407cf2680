#pragma once

#include <optional>

#include "ambulon/base/public.hpp"
#include "ambulon/errand/errand.hpp"

namespace AMBULON_PUBLIC ambulon {

class World;

/// A condition that a script can wait for, made by `Npc::until_near` and similar functions.
class Condition {
 public:
  /// What a condition tests.
  enum class Kind : std::uint8_t { near, apart, signal, arrived, stuck };

  /// `metres` is for `near` and `apart`, `signal` for `signal`. `arrived` and `stuck` count from now on.
  Condition(World* world, Kind kind, NpcId who, NpcId other, float metres = 0.f, Signal signal = {});

  /// Returns `done` if the condition is true now, `gone` if one of its NPCs was removed; otherwise nothing.
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
