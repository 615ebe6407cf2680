#pragma once

#include <algorithm>
#include <array>
#include <memory_resource>
#include <vector>

#include "ambulon/base/jobs.hpp"
#include "ambulon/errand/errand.hpp"

#include "base/geometry.hpp"
#include "base/platform.hpp"
#include "crowd/neighbour_index.hpp"
#include "world/mover.hpp"

namespace ambulon {

/// A snapshot of all NPCs when the tick began: what errands see of each other.
class Surroundings final : public Others {
 public:
  /// `movers` are by slot. They and `jobs` must outlive it.
  Surroundings(const std::pmr::vector<Mover>& movers, const Jobs& jobs, std::pmr::memory_resource* memory)
      : movers_(movers),
        jobs_(jobs),
        seen_(memory),
        tagged_(memory),
        companions_(memory),
        attention_(memory),
        awake_(memory),
        index_(memory),
        asleep_index_(memory),
        places_(memory),
        neighbour_states_(memory),
        velocities_(memory),
        near_{std::pmr::vector<Neighbour>(memory), std::pmr::vector<Neighbour>(memory),
              std::pmr::vector<Neighbour>(memory), std::pmr::vector<Neighbour>(memory)} {}

  /// The rank of NPCs that do not avoid others.
  static constexpr int never_yields = std::numeric_limits<int>::max();

  /// A velocity in steps of 1/256 m/s, in half the memory.
  class Course {
   public:
    Course() = default;
    explicit Course(vec2 velocity) : x_(in_steps(velocity.x)), y_(in_steps(velocity.y)) {}
    operator vec2() const { return {static_cast<float>(x_) / steps, static_cast<float>(y_) / steps}; }

   private:
    static std::int16_t in_steps(float speed) {  // of an errand of the game, it may be NaN
      return static_cast<std::int16_t>(steps * (speed > -max ? std::min(speed, max) : -max));
    }

    static constexpr float steps = 256.f, max = 127.f;  // in one metre per second; metres per second
    std::int16_t x_ = 0, y_ = 0;
  };

  /// The state of an NPC that others need to avoid it.
  struct AvoidanceState {
    vec2 wanted{0.f};  // metres per second: the preferred velocity of its last decision
    /// The same speed in the direction in which it goes beyond the next bend; of an NPC that waits, a very
    /// low speed.
    Course course = {};
    float held = 0.f;         // seconds for which others have held it up
    float to_go = 0.f;        // metres to its next bend or its goal
    int rank = never_yields;  // its priority, or `never_yields`
  };

  // The world keeps the snapshot up to date. Slots are those of the ids.
  void reserve(std::size_t slots);
  void add(std::uint32_t slot);
  /// Call it after the tags of an NPC have changed; `before`: its previous tags.
  void retag(std::uint32_t slot, Tags before);
  void remove(std::uint32_t slot);
  /// Tells the maximum radius of bodies, metres.
  void include_radius(float radius) { widest_ = std::max(widest_, radius); }
  /// Takes the snapshot of all NPCs that are awake, and invalidates the index.
  void begin_tick();
  /// NPCs that fall asleep keep their snapshot until they wake, which saves the work. New NPCs are awake.
  void fall_asleep(std::span<const std::uint32_t> slots);
  void wake(std::uint32_t slot);
  bool asleep(std::uint32_t slot) const { return attention_[slot] == Attention::asleep; }
  /// Returns the slots of awake NPCs, ascending.
  std::span<const std::uint32_t> awake() const;
  void join(NpcId leader, NpcId companion);
  void leave(NpcId leader, NpcId companion);

  NpcId id(std::uint32_t slot) const { return movers_[slot].id(slot); }
  /// Returns the position at the start of the tick, metres.
  vec3 seen_at(std::uint32_t slot) const { return seen_[slot].position; }
  /// Position and motion at the start of the tick.
  struct Seen {
    vec3 position{0.f};
    vec2 velocity{0.f};
    vec2 facing{1.f, 0.f};
  };
  const Seen& seen(std::uint32_t slot) const { return seen_[slot]; }

  std::optional<Other> find(NpcId id) const override;
  std::optional<Other> nearest(Tags tags, vec3 from, float height, NpcId except) const override;
  std::optional<Other> any(Tags tags, Random& random, NpcId except) const override;
  std::span<const Neighbour> near(vec3 from, const NearQuery& query) const override;
  std::span<const Neighbour> in_cone(vec3 from, vec2 ahead, float half_angle,
                                     const NearQuery& query) const override;
  std::span<const NpcId> companions(NpcId leader) const override;

  /// The data that avoidance reads of each neighbour, contiguous.
  struct NeighbourState {
    float z, height;
    AvoidanceState manner = {};
  };
  /// States of all NPCs in the order of the index, so that neighbours are close in memory; sleeping NPCs come
  /// first. As of the last `index`. A position in this order is called a place.
  std::span<const NeighbourState> neighbour_states() const { return neighbour_states_; }
  /// Returns the place of an NPC.
  std::uint32_t place(std::uint32_t slot) const { return places_[slot]; }
  /// Velocities and radii by place, as a structure of arrays for SIMD, padded like the index.
  struct Velocities {
    explicit Velocities(std::pmr::memory_resource* memory)
        : velocity_x(memory), velocity_y(memory), radius(memory) {}
    std::pmr::vector<float> velocity_x, velocity_y, radius;
    vec2 velocity(std::uint32_t place) const { return {velocity_x[place], velocity_y[place]}; }
  };
  const Velocities& velocities() const { return velocities_; }
  /// The slot and the position at a place.
  std::uint32_t slot(std::uint32_t place) const {
    const std::uint32_t first = first_awake();
    return place < first ? asleep_index_.name(place) : index_.name(place - first);
  }
  vec2 position(std::uint32_t place) const {
    const std::uint32_t first = first_awake();
    return place < first ? asleep_index_.at(place) : index_.at(place - first);
  }
  /// Returns the maximum speed at the last `index`, metres per second.
  float fastest() const { return fastest_; }
  /// Returns the place of the first NPC that is awake.
  std::uint32_t first_awake() const { return asleep_index_.size(); }

  /// Calls `visit(place, offset, slot)` for each NPC whose body is within `radius` metres of `from`. After
  /// `index`, several threads may call it.
  template <class Visit>
  void each_near(vec2 from, float radius, Visit&& visit) const {
    each_near(index_, first_awake(), from, radius, visit);
    each_near_asleep(from, radius, visit);
  }
  /// The same for sleeping NPCs only.
  template <class Visit>
  void each_near_asleep(vec2 from, float radius, Visit&& visit) const {
    if (first_awake() > 0) each_near(asleep_index_, 0, from, radius, visit);
  }
  /// The places from `from` up to but not including `to`, with their coordinates.
  struct Run {
    const float *x, *y;  // of the first one
    std::uint32_t from, to;
  };
  /// Calls `visit(Run)` for runs of places. They contain all NPCs whose bodies are within `radius` metres of
  /// `centre`, and others.
  template <class Visit>
  AMBULON_ALWAYS_INLINE void each_run_near(vec2 centre, float radius, Visit&& visit) const {
    const std::uint32_t before = first_awake();
    index_.each_run(centre, radius + widest_, [&](std::uint32_t from, std::uint32_t to) {
      visit(Run{index_.x() + from, index_.y() + from, before + from, before + to});
    });
    if (before > 0)
      asleep_index_.each_run(centre, radius + widest_, [&](std::uint32_t from, std::uint32_t to) {
        visit(Run{asleep_index_.x() + from, asleep_index_.y() + from, from, to});
      });
  }
  /// Builds the index, at most once a tick.
  void index() const;

 private:
  enum class Attention : std::uint8_t { gone, asleep, awake };
  template <class Visit>
  AMBULON_ALWAYS_INLINE void each_near(const NeighbourIndex& index, std::uint32_t before, vec2 from,
                                       float radius, Visit&& visit) const {
    index.near(from, radius + widest_, [&](std::uint32_t number, vec2 at) {
      const std::uint32_t place = before + number;
      const vec2 offset = at - from;
      const float reach = radius + velocities_.radius[place];
      if (glm::dot(offset, offset) <= reach * reach) visit(place, offset, index.name(number));
    });
  }
  void gather(Attention attention, std::pmr::vector<std::uint32_t>& slots) const;
  void index(NeighbourIndex& index, std::span<const std::uint32_t> slots) const;
  void line_up(const NeighbourIndex& index, std::uint32_t from) const;
  void line_up(std::uint32_t slot, std::uint32_t place) const;
  Other other(std::uint32_t slot) const;
  vec2 course_of(std::uint32_t slot) const;
  static AvoidanceState avoidance_state_of(const Mover& mover);
  void see(std::uint32_t slot);
  std::size_t count_tagged(Tags tags) const;
  template <class Visit>
  void each_tagged(Tags tags, Visit&& visit) const;

  struct Party {
    NpcId leader;
    std::pmr::vector<NpcId> companions;  // by slot
  };

  const std::pmr::vector<Mover>& movers_;
  const Jobs& jobs_;
  std::pmr::vector<Seen> seen_;  // by slot
  float widest_ = 0.f;           // metres: maximum radius of all bodies so far
  mutable float fastest_ = 0.f;
  std::pmr::vector<std::pmr::vector<std::uint32_t>> tagged_;  // slots by tag bit, ascending
  std::pmr::vector<Party> companions_;                        // by slot of the leader; grows as needed
  std::pmr::vector<Attention> attention_;                     // by slot
  mutable std::pmr::vector<std::uint32_t> awake_;             // slots, ascending
  mutable bool awake_known_ = true;
  // Built at the first query of a tick; the index of sleeping NPCs only when more have fallen asleep.
  mutable NeighbourIndex index_, asleep_index_;
  mutable std::pmr::vector<std::uint32_t> places_;  // by slot
  mutable bool asleep_indexed_ = true;
  mutable std::pmr::vector<NeighbourState> neighbour_states_;  // by place
  mutable Velocities velocities_;                              // by place
  mutable std::array<std::pmr::vector<Neighbour>, 4> near_;    // results of the last queries
  mutable std::size_t latest_ = 0;
  mutable bool indexed_ = false;
};

}  // namespace ambulon
