#pragma once

#include <span>
#include <vector>

#include "world/world_state.hpp"

namespace ambulon {

/// Level of detail: which NPCs decide in a tick, and which sleep.
class LevelOfDetail {
 public:
  explicit LevelOfDetail(WorldState& state)
      : state_(state), viewers_(state.memory), waking_(state.memory), tired_(state.memory) {}

  Expected<void> set_viewers(std::span<const vec3> viewers, const Detail& detail);
  /// Sets the distance within which all NPCs decide in each tick: `near`, or less to meet the budget.
  void update_near_distance();
  /// Returns the ticks between two decisions. The phase depends on the slot, so that the load is even.
  std::uint32_t ticks_between(std::uint32_t slot) const;

  /// Wakes that NPC at the next `wake_up`.
  void wake_later(std::uint32_t slot) { waking_.push_back(slot); }
  /// Wakes, at the next `wake_up`, sleeping NPCs that are within `reach` metres of this one.
  void wake_in_the_way(std::uint32_t slot, float reach);
  /// Returns true if there was an NPC to be woken.
  bool wake_up();
  /// Lets NPCs sleep that stand and have nothing to do.
  void fall_asleep();
  std::size_t sleeping() const { return state_.npcs.size() - state_.surroundings.awake().size(); }

 private:
  bool may_sleep(std::uint32_t slot) const;

  WorldState& state_;
  std::pmr::vector<vec3> viewers_;
  Detail detail_;
  float near_square_ = 0.f;  // metres squared: within this distance all decide in each tick
  std::pmr::vector<std::uint32_t> waking_, tired_;
};

}  // namespace ambulon
