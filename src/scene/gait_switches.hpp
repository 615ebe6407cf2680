#pragma once

#include <span>
#include <vector>

#include "ambulon/base/public.hpp"

#include "scene/scene.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The conditional changes of gaits of a scene.
class GaitSwitches {
 public:
  /// Watches those of a scene, which must outlive it. `npcs`: of the scene, in its order.
  void watch(const Scene& scene, std::span<const Npc> npcs);
  /// Switches gaits when their conditions become true. A condition counts again after a tick in which it was
  /// false.
  void apply();

 private:
  struct Switch {
    Npc npc;
    const GaitSwitch* how;
    Condition condition;
    bool held = false;
  };
  std::vector<Switch> switches_;
};

}  // namespace ambulon
