#pragma once

#include "ambulon/base/public.hpp"

namespace AMBULON_PUBLIC ambulon {

/// What gives one NPC its orders, one after another. The room `script` makes one from a coroutine;
/// a game with a script language of its own derives one from this.
class Script {
 public:
  virtual ~Script() = default;

  /// Called once a tick, when all NPCs have moved, and again when an order of this NPC ended and
  /// there is time left in the tick. May do anything to the world. True: the script has ended.
  virtual bool proceed() = 0;
};

}  // namespace ambulon
