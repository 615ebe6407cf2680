#include "world/decks.hpp"

#include <algorithm>

#include "base/geometry.hpp"

namespace ambulon {

void Decks::add(NpcId id, const Body& body, const Motion& motion) {
  decks_.push_back({id, body.deck, body.height, motion.position, motion.facing,
                    std::pmr::vector<NpcId>(decks_.get_allocator().resource())});
}

void Decks::remove(NpcId id) {
  std::erase_if(decks_, [id](const Deck& deck) { return deck.id == id; });
}

std::span<const NpcId> Decks::riders(NpcId id) const {
  const auto deck = std::ranges::find(decks_, id, &Deck::id);
  return deck == decks_.end() ? std::span<const NpcId>() : deck->riders;
}

bool Decks::has(NpcId id) const {
  return std::ranges::any_of(decks_, [id](const Deck& deck) { return deck.id == id; });
}

bool Decks::hold(vec3 at) const {
  return std::ranges::any_of(decks_, [at](const Deck& deck) { return deck.holds(at); });
}

std::optional<NpcId> Decks::moving_deck(vec3 at) const {
  const auto deck =
      std::ranges::find_if(decks_, [at](const Deck& each) { return each.moves && each.holds(at); });
  return deck == decks_.end() ? std::nullopt : std::optional(deck->id);
}

bool Decks::Deck::holds(vec3 at) const {
  const vec2 off = flat(at - position);
  const float up = at.z - position.z;
  return up >= -foothold && up <= height + foothold && std::abs(glm::dot(off, facing)) <= 0.5f * size.x &&
         std::abs(cross(facing, off)) <= 0.5f * size.y;
}

Decks::Ride Decks::Deck::ride_to(const Motion& motion) const {
  return {.pivot = flat(position),
          .shift = motion.position - position,
          .turn = {glm::dot(facing, motion.facing), cross(facing, motion.facing)}};
}

}  // namespace ambulon
