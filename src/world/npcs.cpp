#include "world/npcs.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/geometry.hpp"

namespace ambulon {

Npcs::Npcs(std::uint64_t seed, std::pmr::memory_resource* memory, std::pmr::memory_resource* pool)
    : seed_(seed),
      pool_(pool),
      movers_(memory),
      states_(memory),
      traits_(pool),
      names_(pool),
      user_data_(memory),
      tags_(memory),
      free_(memory),
      removed_(memory) {}

std::uint32_t Npcs::add(const NpcOptions& options, vec3 at) {
  std::uint32_t slot = slots();
  if (free_.empty()) {
    movers_.emplace_back();
    states_.emplace_back();
  } else {
    slot = free_.back();
    free_.pop_back();
    const std::uint32_t generation = movers_[slot].generation;
    movers_[slot] = Mover{};
    movers_[slot].generation = generation;
    states_[slot] = NpcState{};
  }
  Mover& mover = movers_[slot];
  ++mover.generation;
  set_name(slot, options.name);
  states_[slot].random = Random(seed_, ++added_);
  set_user_data(slot, options.user_data);
  mover.set_route_priority(options.route_priority);
  mover.traits = traits_.acquire({options.gait, options.avoidance, options.body, options.tags});
  mover.motion.position = at;
  mover.motion.facing = unit(options.heading);
  mover.motion.stride = options.gait.stride;
  mover.was = flat(at);
  mover.drive = options.drive;
  mover.alive = true;
  ++alive_;
  return slot;
}

void Npcs::remove(std::uint32_t slot) {
  movers_[slot].alive = false;
  ++movers_[slot].generation;
  movers_[slot].crossing = false;
  --alive_;
  removed_.push_back(slot);
}

void Npcs::remove_all() {
  alive_ = 0;
  for (Mover& mover : movers_) mover.alive = false;
}

void Npcs::reserve(std::size_t count) {
  movers_.reserve(count);
  states_.reserve(count);
}

void Npcs::set_traits(std::uint32_t slot, const Traits& traits) {
  const Traits* before = std::exchange(movers_[slot].traits, traits_.acquire(traits));
  traits_.release(before);
}

NpcId Npcs::find(std::string_view name) const {
  for (const auto& [slot, named] : names_)
    if (const NpcId id{slot, named.generation}; named.text == name && knows(id)) return id;
  return {};
}

std::string_view Npcs::name(std::uint32_t slot) const {
  const auto named = names_.find(slot);
  return named != names_.end() ? std::string_view(named->second.text) : "";
}

void Npcs::set_name(std::uint32_t slot, std::string_view name) {
  std::pmr::string text(name, pool_);  // `name` may view the present one
  names_.erase(slot);
  if (!text.empty()) names_.emplace(slot, Name{movers_[slot].generation, std::move(text)});
}

std::string Npcs::name_of(NpcId id) const {
  if (id.generation == 0) return {};
  if (const auto named = names_.find(id.slot);
      named != names_.end() && named->second.generation == id.generation)
    return std::string(named->second.text);
  return fmt::format("npc {}.{}", id.slot, id.generation);
}

void Npcs::set_user_data(std::uint32_t slot, std::uint64_t data) {
  if (data != 0 && user_data_.size() <= slot) user_data_.resize(movers_.size());
  if (slot < user_data_.size()) user_data_[slot] = data;
}

Expected<Tags> Npcs::tag(std::string_view name) {
  const auto known = std::ranges::find(tags_, name);
  const auto bit = static_cast<std::size_t>(known - tags_.begin());
  if (known == tags_.end()) {
    if (bit == 64)
      return problem(fmt::format("the tag \"{}\" would be the 65th; a world has at most 64", name));
    tags_.emplace_back(name);
  }
  return Tags{std::uint64_t{1} << bit};
}

}  // namespace ambulon
