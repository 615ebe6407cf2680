#pragma once

#include <algorithm>
#include <memory_resource>
#include <optional>
#include <vector>

#include "base/geometry.hpp"
#include "world/surroundings.hpp"

namespace ambulon {

/// The bodies with decks, and the NPCs that stand on them.
class Decks {
 public:
  explicit Decks(std::pmr::memory_resource* memory) : decks_(memory), now_(memory) {}

  void add(NpcId id, const Body& body, const Motion& motion);
  void remove(NpcId id);
  /// Returns the NPCs that stood on the deck of `id` at the last `carry`.
  std::span<const NpcId> riders(NpcId id) const;
  /// Returns true if `at` is on a deck.
  bool hold(vec3 at) const;
  /// Returns the deck at `at` if it moved in the previous tick.
  std::optional<NpcId> moving_deck(vec3 at) const;
  bool empty() const { return decks_.empty(); }

  /// The movement of a deck since the last `carry`, which its riders share.
  struct Ride {
    vec2 pivot{0.f};      // metres: the previous centre of the deck
    vec3 shift{0.f};      // metres
    vec2 turn{1.f, 0.f};  // rotation, as cosine and sine
    vec3 moved(vec3 at) const {
      const vec2 off = flat(at) - pivot;
      return lift(pivot + vec2(turn.x * off.x - turn.y * off.y, turn.y * off.x + turn.x * off.y), at.z) +
             shift;
    }
    vec2 turned(vec2 facing) const {
      return {turn.x * facing.x - turn.y * facing.y, turn.y * facing.x + turn.x * facing.y};
    }
  };

  /// Finds how the decks have moved. `motion_of(NpcId)` returns a motion. Calls `rides(NpcId who, Ride)` for
  /// each rider, and `changed(NpcId who, NpcId deck, bool on)` for each NPC that boarded or left a deck.
  template <class MotionOf, class Rides, class Changed>
  void carry(const Surroundings& others, MotionOf&& motion_of, Rides&& rides, Changed&& changed) {
    for (Deck& deck : decks_) {
      const Motion& motion = motion_of(deck.id);
      const Ride ride = deck.ride_to(motion);
      now_.clear();
      others.index();
      others.each_near(flat(deck.position), 0.5f * glm::length(deck.size) + reach,
                       [&](std::uint32_t, vec2, std::uint32_t slot) {
                         const NpcId who = others.id(slot);
                         if (!has(who) && deck.holds(motion_of(who).position)) now_.push_back(who);
                       });
      std::ranges::sort(now_, {}, &NpcId::slot);
      for (const NpcId who : deck.riders)
        if (!std::ranges::binary_search(now_, who.slot, {}, &NpcId::slot)) changed(who, deck.id, false);
      for (const NpcId who : now_) {
        if (!std::ranges::binary_search(deck.riders, who.slot, {}, &NpcId::slot)) changed(who, deck.id, true);
        rides(who, ride);
      }
      std::swap(deck.riders, now_);
      deck.position = motion.position;
      deck.facing = motion.facing;
    }
  }

  /// Call it once a tick, after `carry`. Calls `landed(NpcId who)` for each rider of a deck that moved in the
  /// previous tick and has stopped at another place than last time.
  template <class Landed>
  void end_tick(Landed&& landed) {
    for (Deck& deck : decks_) {
      const bool moves = deck.position != deck.was_at || deck.facing != deck.was_facing;
      if (deck.moves && !moves && glm::distance(deck.position, deck.rested_at) > elsewhere) {
        deck.rested_at = deck.position;
        for (const NpcId who : deck.riders) landed(who);
      }
      deck.moves = moves;
      deck.was_at = deck.position;
      deck.was_facing = deck.facing;
    }
  }

 private:
  static constexpr float reach = 2.f;  // metres that an NPC may have moved in the tick

  struct Deck {
    NpcId id;
    vec2 size;
    float height;  // of the body
    vec3 position;
    vec2 facing;
    std::pmr::vector<NpcId> riders;
    vec3 was_at = position;     // at the start of the tick
    vec3 rested_at = position;  // where it last stopped
    vec2 was_facing = facing;
    bool moves = false;  // in the previous tick

    bool holds(vec3 at) const;
    Ride ride_to(const Motion& motion) const;
  };
  bool has(NpcId id) const;

  static constexpr float elsewhere = 0.1f;  // metres between two places where a deck stops
  static constexpr float foothold = 0.5f;   // metres above and below the deck's surface that count as on it

  std::pmr::vector<Deck> decks_;
  std::pmr::vector<NpcId> now_;
};

}  // namespace ambulon
