#pragma once

#include <algorithm>
#include <array>
#include <memory_resource>
#include <vector>

#include "ambulon/base/jobs.hpp"
#include "ambulon/errand/errand.hpp"

#include "base/geometry.hpp"
#include "crowd/neighbour_index.hpp"
#include "world/mover.hpp"

namespace ambulon {

/// The NPCs of a world as they were when the tick began: what errands see of each other.
class Surroundings final : public Others {
 public:
  /// `movers`: by slot; they and the `jobs` outlive it.
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

  /// Of whom nothing is to be expected: it keeps out of nobody's way.
  static constexpr int never_yields = std::numeric_limits<int>::max();

  /// What others go by when they keep out of its way.
  struct AvoidanceState {
    vec2 wanted{0.f};         // metres per second, as its order wanted when it was asked last
    float held = 0.f;         // seconds for which others have held it up
    float to_go = 0.f;        // metres to where its way bends next, or ends
    int rank = never_yields;  // its priority, or this
  };

  // Kept up to date by the world. Slots are those of the ids.
  void reserve(std::size_t slots);
  void appear(std::uint32_t slot);
  void vanish(std::uint32_t slot);
  /// There is a body of that radius in metres.
  void widen(float radius) { widest_ = std::max(widest_, radius); }
  /// Sees all who are awake: what was found out about the tick before no longer holds.
  void begin_tick();
  /// The state of a sleeping NPC is kept until it is woken, so a lookup costs nothing until then. All
  /// are awake when they appear.
  void fall_asleep(std::span<const std::uint32_t> slots);
  void wake(std::uint32_t slot);
  bool asleep(std::uint32_t slot) const { return attention_[slot] == Attention::asleep; }
  /// Slots of those who are awake, in order.
  std::span<const std::uint32_t> awake() const;
  void join(NpcId leader, NpcId companion);
  void leave(NpcId leader, NpcId companion);

  NpcId id(std::uint32_t slot) const { return movers_[slot].id(slot); }
  /// Metres, when the tick began.
  vec3 seen_at(std::uint32_t slot) const { return seen_[slot].position; }

  std::optional<Other> find(NpcId id) const override;
  std::optional<Other> nearest(Tags tags, vec3 from, float height, NpcId except) const override;
  std::optional<Other> any(Tags tags, Random& random, NpcId except) const override;
  std::span<const Neighbour> near(vec3 from, float radius, float height, NpcId except, Tags tags,
                                  Tags without) const override;
  std::span<const Neighbour> in_cone(vec3 from, vec2 ahead, float half_angle, float radius, float height,
                                     NpcId except, Tags tags, Tags without) const override;
  std::span<const NpcId> companions(NpcId leader) const override;

  /// What is asked of everybody near when one keeps out of their way, at one place in memory.
  struct NeighbourState {
    float z, height;
    AvoidanceState manner = {};
  };
  /// Everybody has a place, by where they are, those near each other together; first those who are asleep.
  /// As they were when `index` was called.
  std::span<const NeighbourState> neighbour_states() const { return neighbour_states_; }
  /// The place of somebody who was there then.
  std::uint32_t place(std::uint32_t slot) const { return places_[slot]; }
  /// How they move, by place: each value of all together, so that several can be worked out at a time. Beyond
  /// the last there are some of nobody, as there are in the index.
  struct Velocities {
    explicit Velocities(std::pmr::memory_resource* memory)
        : velocity_x(memory), velocity_y(memory), radius(memory) {}
    std::pmr::vector<float> velocity_x, velocity_y, radius;
    vec2 velocity(std::uint32_t place) const { return {velocity_x[place], velocity_y[place]}; }
  };
  const Velocities& velocities() const { return velocities_; }
  /// The slot and the position of the NPC at an index.
  std::uint32_t slot(std::uint32_t place) const {
    const std::uint32_t first = first_awake();
    return place < first ? asleep_index_.name(place) : index_.name(place - first);
  }
  vec2 position(std::uint32_t place) const {
    const std::uint32_t first = first_awake();
    return place < first ? asleep_index_.at(place) : index_.at(place - first);
  }
  /// Metres per second of the fastest, when `index` was called.
  float fastest() const { return fastest_; }
  /// The place of the first who is awake.
  std::uint32_t first_awake() const { return asleep_index_.size(); }

  /// Calls `visit(place, offset, slot)` for everybody whose body comes within `radius` metres of `from`, with
  /// their place in those lists and how far off they are. Any number of threads may ask, once `index` has
  /// been called.
  template <class Visit>
  void each_near(vec2 from, float radius, Visit&& visit) const {
    each_near(index_, first_awake(), from, radius, visit);
    each_near_asleep(from, radius, visit);
  }
  /// The same for those of them who are asleep.
  template <class Visit>
  void each_near_asleep(vec2 from, float radius, Visit&& visit) const {
    if (first_awake() > 0) each_near(asleep_index_, 0, from, radius, visit);
  }
  /// Places next to each other, `from` up to before `to`, with the coordinates of those at them.
  struct Run {
    const float *x, *y;  // of the first
    std::uint32_t from, to;
  };
  /// Calls `visit(Run)` for runs in which is everybody whose body comes within `radius` metres of `centre`,
  /// and others.
  template <class Visit>
  [[gnu::always_inline]] inline void each_run_near(vec2 centre, float radius, Visit&& visit) const {
    const std::uint32_t before = first_awake();
    index_.each_run(centre, radius + widest_, [&](std::uint32_t from, std::uint32_t to) {
      visit(Run{index_.x() + from, index_.y() + from, before + from, before + to});
    });
    if (before > 0)
      asleep_index_.each_run(centre, radius + widest_, [&](std::uint32_t from, std::uint32_t to) {
        visit(Run{asleep_index_.x() + from, asleep_index_.y() + from, from, to});
      });
  }
  /// Looks where everybody is, unless that was done in this tick.
  void index() const;

 private:
  enum class Attention : std::uint8_t { gone, asleep, awake };
  /// Where somebody was, and how it moved, when the tick began.
  struct Seen {
    vec3 position{0.f};
    vec2 velocity{0.f}, facing{1.f, 0.f};
  };

  template <class Visit>
  [[gnu::always_inline]] inline void each_near(const NeighbourIndex& index, std::uint32_t before, vec2 from,
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
  static AvoidanceState manner_of(const Mover& mover);
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
  float widest_ = 0.f;           // metres: the radius of the widest body there ever was
  mutable float fastest_ = 0.f;
  std::pmr::vector<std::pmr::vector<std::uint32_t>> tagged_;  // slots of each tag's bit, in order
  std::pmr::vector<Party> companions_;                        // by slot of the leader; grows as needed
  std::pmr::vector<Attention> attention_;                     // by slot
  mutable std::pmr::vector<std::uint32_t> awake_;             // slots, in order
  mutable bool awake_known_ = true;
  // Made when somebody first asks in a tick; that of those asleep when somebody more has fallen asleep.
  mutable NeighbourIndex index_, asleep_index_;
  mutable std::pmr::vector<std::uint32_t> places_;  // by slot
  mutable bool asleep_indexed_ = true;
  mutable std::pmr::vector<NeighbourState> neighbour_states_;  // in the order of the index
  mutable Velocities velocities_;                              // the same
  mutable std::array<std::pmr::vector<Neighbour>, 4> near_;    // the latest answers
  mutable std::size_t latest_ = 0;
  mutable bool indexed_ = false;
};

}  // namespace ambulon
