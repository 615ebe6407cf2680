#pragma once

#include <memory_resource>
#include <vector>

#include "ambulon/crowd/neighbour_index.hpp"
#include "ambulon/errand/errand.hpp"

namespace ambulon {

/// The NPCs of a world as they were when the tick began: what errands see of each other.
class Surroundings final : public Others {
 public:
  explicit Surroundings(std::pmr::memory_resource* memory)
      : seen_(memory),
        tagged_(memory),
        companions_(memory),
        index_(memory),
        entries_(memory),
        near_(memory) {}

  // Kept up to date by the world. Slots are those of the ids.
  void appear(const Other& other);
  void vanish(NpcId id);
  void resize(NpcId id, float radius);
  void see(std::uint32_t slot, const Motion& motion) {
    Other& other = seen_[slot];
    other.position = motion.position;
    other.velocity = motion.velocity;
    other.facing = motion.facing;
  }
  /// Everybody has been seen again: what was found out about the tick before no longer holds.
  void begin_tick() { indexed_ = false; }
  void join(NpcId leader, NpcId companion);
  void leave(NpcId leader, NpcId companion);

  const Other& at(std::uint32_t slot) const { return seen_[slot]; }

  const Other* find(NpcId id) const override;
  const Other* nearest(Tags tags, vec3 from, NpcId except) const override;
  const Other* any(Tags tags, Random& random, NpcId except) const override;
  std::span<const Neighbour> near(vec3 from, float radius, NpcId except, Tags tags,
                                  Tags without) const override;
  std::span<const NpcId> companions(NpcId leader) const override;

  /// Calls `visit(slot)` for everybody within `radius` metres of `from`.
  template <class Visit>
  void each_near(vec2 from, float radius, Visit&& visit) const {
    index();
    index_.near(from, radius, [&](const NeighbourIndex::Entry& entry) { visit(entry.name); });
  }

 private:
  template <class Visit>
  void each_tagged(Tags tags, Visit&& visit) const;
  void index() const;

  struct Party {
    NpcId leader;
    std::pmr::vector<NpcId> companions;  // by slot
  };

  std::pmr::vector<Other> seen_;
  float widest_ = 0.f;  // metres: the radius of the widest body there ever was
  std::pmr::vector<std::pmr::vector<std::uint32_t>> tagged_;  // slots of each tag's bit, in order
  std::pmr::vector<Party> companions_;                        // by slot of the leader; grows as needed
  // Made when somebody first asks in a tick.
  mutable NeighbourIndex index_;
  mutable std::pmr::vector<NeighbourIndex::Entry> entries_;
  mutable std::pmr::vector<Neighbour> near_;
  mutable bool indexed_ = false;
};

}  // namespace ambulon
