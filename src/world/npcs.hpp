#pragma once

#include <memory_resource>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "ambulon/base/problem.hpp"
#include "ambulon/base/random.hpp"
#include "ambulon/world/world.hpp"

#include "world/by_slot.hpp"
#include "world/mover.hpp"
#include "world/traits.hpp"

namespace ambulon {

/// State of each NPC that few phases of a tick need.
struct NpcState {
  Random random{};
  double held_seconds = 0;
  std::uint32_t serial = 0;  // of its last order
  std::uint32_t arrivals = 0;
};

/// Stores the NPCs of a world, by slot. The slot of a removed NPC is used again, with the next generation.
class Npcs {
 public:
  /// `pool`: for what is added and removed often.
  Npcs(std::uint64_t seed, std::pmr::memory_resource* memory, std::pmr::memory_resource* pool);

  /// Adds an NPC at `at`, and returns its slot.
  std::uint32_t add(const NpcOptions& options, vec3 at);
  /// The NPC is no longer alive. Its slot is free after `free_removed`.
  void remove(std::uint32_t slot);
  /// Frees the slots of removed NPCs. Calls `release(Mover&)` for each.
  template <class Release>
  void free_removed(Release&& release);
  bool any_removed() const { return !removed_.empty(); }
  void remove_all();
  void reserve(std::size_t count);

  /// Returns true if the NPC is in the world.
  bool knows(NpcId id) const {
    return id.slot < movers_.size() && movers_[id.slot].alive && movers_[id.slot].generation == id.generation;
  }
  Mover& operator[](std::uint32_t slot) { return movers_[slot]; }
  const Mover& operator[](std::uint32_t slot) const { return movers_[slot]; }
  NpcState& state(std::uint32_t slot) { return states_[slot]; }
  const NpcState& state(std::uint32_t slot) const { return states_[slot]; }
  NpcId id(std::uint32_t slot) const { return movers_[slot].id(slot); }
  const std::pmr::vector<Mover>& movers() const { return movers_; }
  std::pmr::vector<Mover>& movers() { return movers_; }
  /// Returns the number of slots, used and free.
  std::uint32_t slots() const { return static_cast<std::uint32_t>(movers_.size()); }
  /// Returns the number of NPCs in the world.
  std::size_t size() const { return alive_; }

  void set_traits(std::uint32_t slot, const Traits& traits);
  /// Returns true if `body` may pass through that NPC.
  bool passes(const Body& body, std::uint32_t slot) const {
    return !body.passes.empty() && movers_[slot].traits->tags.meet(body.passes);
  }

  /// Returns the NPC with that name; empty if there is none.
  NpcId find(std::string_view name) const;
  std::string_view name(std::uint32_t slot) const;
  void set_name(std::uint32_t slot, std::string_view name);
  /// Returns its name for sentences, also of an NPC that was removed.
  std::string name_of(NpcId id) const;
  std::uint64_t user_data(std::uint32_t slot) const {
    return slot < user_data_.size() ? user_data_[slot] : 0;
  }
  void set_user_data(std::uint32_t slot, std::uint64_t data);

  /// Returns the tag with that name; creates it if there is none. Returns a problem for the 65th.
  Expected<Tags> tag(std::string_view name);

 private:
  /// A name. It outlives its NPC, for sentences about it, until another NPC takes the slot.
  struct Name {
    std::uint32_t generation;
    std::pmr::string text;
  };

  std::uint64_t seed_;
  std::pmr::memory_resource* pool_;
  std::pmr::vector<Mover> movers_;
  std::pmr::vector<NpcState> states_;
  TraitsPool traits_;
  BySlot<Name> names_;
  std::pmr::vector<std::uint64_t> user_data_;  // once an NPC has some
  std::pmr::vector<std::pmr::string> tags_;
  std::pmr::vector<std::uint32_t> free_, removed_;
  std::uint64_t added_ = 0;
  std::size_t alive_ = 0;
};

template <class Release>
void Npcs::free_removed(Release&& release) {
  // What `release` destroys may add and remove NPCs.
  for (std::size_t i = 0; i < removed_.size(); ++i) {
    const std::uint32_t slot = removed_[i];
    release(movers_[slot]);
    traits_.release(std::exchange(movers_[slot].traits, nullptr));
    free_.push_back(slot);
  }
  removed_.clear();
  traits_.clean_up();
}

}  // namespace ambulon
