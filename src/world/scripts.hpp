#pragma once

#include <memory>
#include <vector>

#include "ambulon/world/script.hpp"

#include "world/world_state.hpp"

namespace ambulon {

/// The scripts of NPCs.
class Scripts {
 public:
  explicit Scripts(WorldState& state)
      : state_(state), scripts_(&state.pool), dismissed_(state.memory), running_(state.memory) {}

  void start(std::uint32_t slot, std::unique_ptr<Script> script);
  /// Ends the script of an NPC, if any. It may be running, so `destroy_dismissed` destroys it.
  void dismiss(std::uint32_t slot);
  /// Resumes the script of an NPC, if any.
  void proceed(std::uint32_t slot);
  /// Destroys dismissed scripts. Their destructors may call the world, and dismiss others.
  void destroy_dismissed();
  bool any_dismissed() const { return !dismissed_.empty(); }
  /// Destroys all scripts, one by one, since a script cancels its orders as it is destroyed.
  void destroy_all();

  /// Lists the NPCs whose scripts run in this tick: those that are given with `add_running`, and sleeping
  /// ones.
  void clear_running() { running_.clear(); }
  void add_running(std::uint32_t slot) { running_.push_back(slot); }
  void add_sleeping();
  std::span<const std::uint32_t> running() const { return running_; }

 private:
  WorldState& state_;
  BySlot<std::unique_ptr<Script>> scripts_;
  std::pmr::vector<std::unique_ptr<Script>> dismissed_;
  std::pmr::vector<std::uint32_t> running_;  // slots, ascending
};

}  // namespace ambulon
