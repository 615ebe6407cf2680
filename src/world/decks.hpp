#pragma once

#include <algorithm>
#include <memory_resource>
#include <optional>
#include <vector>

#include "base/geometry.hpp"
#include "world/surroundings.hpp"

namespace ambulon {

/// The bodies with decks, and who stands on them.
class Decks {
 public:
  explicit Decks(std::pmr::memory_resource* memory) : decks_(memory), now_(memory) {}

  void add(NpcId id, const Body& body, const Motion& motion);
  void remove(NpcId id);
  /// The NPCs that stood on the deck of `id` when it was looked at last.
  std::span<const NpcId> riders(NpcId id) const;
  /// True when somebody whose feet are at that place stands on a deck.
  bool hold(vec3 at) const;
  /// The deck under feet at that place, if it moved in the tick before.
  std::optional<NpcId> moving_deck(vec3 at) const;
  bool empty() const { return decks_.empty(); }

  /// A move of a deck since it was looked at last: whoever stood on it goes along.
  struct Ride {
    vec2 pivot{0.f};      // metres, where the deck's centre was
    vec3 shift{0.f};      // metres
    vec2 turn{1.f, 0.f};  // of its facing, as cosine and sine
    vec3 moved(vec3 at) const {
      const vec2 off = flat(at) - pivot;
      return lift(pivot + vec2(turn.x * off.x - turn.y * off.y, turn.y * off.x + turn.x * off.y), at.z) +
             shift;
    }
    vec2 turned(vec2 facing) const {
      return {turn.x * facing.x - turn.y * facing.y, turn.y * facing.x + turn.x * facing.y};
    }
  };

  /// Looks where the decks have gone. `motion_of(NpcId)` says how somebody moves; `rides(NpcId who,
  /// Ride)` is called for all who stand on a deck, and `changed(NpcId who, NpcId deck, bool on)` for
  /// those who came onto it or went off it.
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

  /// Once a tick, after `carry`: calls `landed(NpcId who)` for all on a deck that moved in the tick before
  /// and has come to rest elsewhere than last.
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
  static constexpr float reach = 2.f;  // metres that somebody may have gone since the tick began

  struct Deck {
    NpcId id;
    vec2 size;
    float height;  // of its body
    vec3 position;
    vec2 facing;
    std::pmr::vector<NpcId> riders;
    vec3 was_at = position;     // when the tick began
    vec3 rested_at = position;  // last
    vec2 was_facing = facing;
    bool moves = false;  // it did in the tick before

    bool holds(vec3 at) const;
    Ride ride_to(const Motion& motion) const;
  };
  bool has(NpcId id) const;

  static constexpr float elsewhere = 0.1f;  // metres from where a deck rested last
  static constexpr float foothold = 0.5f;   // metres above and below a deck's body at which feet are on it

  std::pmr::vector<Deck> decks_;
  std::pmr::vector<NpcId> now_;
};

}  // namespace ambulon
