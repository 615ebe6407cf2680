#pragma once

#include <functional>
#include <memory_resource>
#include <vector>

#include "ambulon/world/npc.hpp"

#include "world/by_slot.hpp"
#include "world/clock.hpp"
#include "world/npcs.hpp"

namespace ambulon {

/// The callbacks of orders and of removals: `Order::on_end`, `Order::on_act`, `Npc::on_removed`. What happens
/// is collected during a tick, and told to the game at its end.
class Callbacks {
 public:
  using OnEnd = std::function<void(Npc, const Outcome&)>;
  using OnAct = std::function<void(Npc, Npc, bool)>;
  using OnRemoved = std::function<void(Npc)>;

  /// All must outlive it.
  Callbacks(World& world, Npcs& npcs, Clock& clock, std::pmr::memory_resource* memory,
            std::pmr::memory_resource* pool);

  void on_end(std::uint32_t slot, OnEnd then) { orders_[slot].on_end = std::move(then); }
  void on_act(std::uint32_t slot, OnAct then) { orders_[slot].on_act = std::move(then); }
  void on_removed(std::uint32_t slot, OnRemoved then);

  /// Calls `then` at the next occasion, for an order that has ended already.
  void call_later(Npc npc, const Outcome& outcome, OnEnd then);

  void order_begins(std::uint32_t slot);
  void order_ends(std::uint32_t slot, const Outcome& outcome);
  /// The target of an order came near, or left.
  void target_moved(const Note& note);
  void npc_removed(NpcId id);

  /// Calls the callbacks of targets that came near or left.
  void call_acts();
  /// Calls the callbacks of removed NPCs, and those of ended orders.
  void call_ends();
  bool any_ends() const { return !ended_.empty() || !removed_.empty(); }

  /// Sets aside the callbacks of orders that have ended.
  void clean_up();
  void destroy_dismissed();
  /// Destroys all, one by one, while they may still call the world. Returns false if there is nothing left.
  bool destroy_some();

 private:
  struct OfOrder {
    OnEnd on_end;
    OnAct on_act;
  };
  struct Ended {
    Npc npc;
    Outcome outcome;
    OnEnd on_end;
  };
  struct Act {
    Npc npc, whom;
    bool near;
  };
  struct Removal {
    Npc npc;
    OnRemoved then;
  };
  void call(const Act& act);

  World& world_;
  Npcs& npcs_;
  Clock& clock_;
  Closures<OfOrder> orders_;
  Closures<OnRemoved> removals_;
  // What is to be told; the second of each pair is being told.
  std::pmr::vector<Ended> ended_, telling_ended_;
  std::pmr::vector<Act> acts_, telling_acts_;
  std::pmr::vector<Removal> removed_, telling_removed_;
  bool some_ended_ = false;  // since the last `clean_up`
};

}  // namespace ambulon
