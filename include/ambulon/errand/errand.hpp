#pragma once

#include <limits>
#include <memory>
#include <memory_resource>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <utility>

#include "ambulon/base/detail/pooled.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/base/random.hpp"
#include "ambulon/base/tags.hpp"
#include "ambulon/errand/beat.hpp"
#include "ambulon/errand/note.hpp"
#include "ambulon/ground/ground.hpp"
#include "ambulon/motion/flocking.hpp"
#include "ambulon/motion/motion.hpp"

namespace AMBULON_PUBLIC ambulon {

class RouteService;
struct Arc;
struct ErrandReturn;

/// The number of a signal's name (`World::signal_named`).
enum class Signal : std::uint32_t {};

/// Another NPC, as it was when the tick began.
struct Other {
  NpcId id = {};  ///< generation 0: none
  vec3 position{0.f};
  vec2 velocity{0.f};
  vec2 facing{1.f, 0.f};
  vec2 course{0.f};    ///< unit vector: where it wants to go; zero if it wants to stand, or without avoidance
  float radius = 0.f;  ///< of its body, metres
  float height = 0.f;  ///< of its body, metres
  Tags tags = {};
};

/// Options of a query about neighbours.
struct NearQuery {
  float radius = 0.f;  ///< metres on the plan, to the nearest point of a body
  float height =
      1.7f;  ///< metres, from `from` upwards: only bodies that share it count, none on another storey
  NpcId except = {};  ///< not this NPC
  Tags tags = {};     ///< only NPCs with one of these; none: all
  Tags without = {};  ///< no NPC with one of these
};

/// Queries about the NPCs of a world, as they were when the tick began. What an NPC does in a tick, others
/// see in the next.
class Others {
 public:
  /// Returns the NPC of that id; nothing if it is gone.
  virtual std::optional<Other> find(NpcId id) const = 0;
  /// Returns the NPC with one of the `tags`, other than `except`, that is nearest (`metres_apart`) to a body
  /// of `height` metres at `from`; nothing if there is none.
  virtual std::optional<Other> nearest(Tags tags, vec3 from, float height, NpcId except) const = 0;
  /// Returns a random NPC with one of the `tags`, each equally likely; nothing if there is none.
  virtual std::optional<Other> any(Tags tags, Random& random, NpcId except) const = 0;
  /// Returns the NPCs near `from` (metres), with offsets relative to it. The result is valid for three more
  /// such queries, and at most until the end of the tick.
  ///
  ///     for (const Neighbour& cat : world.others().near(stall, {.radius = 8, .tags = cats})) …
  virtual std::span<const Neighbour> near(vec3 from, const NearQuery& query) const = 0;
  /// Returns those of `near` whose centres are at most `half_angle` radians (0 to pi) to either side of
  /// `ahead` (unit vector): a field of view.
  virtual std::span<const Neighbour> in_cone(vec3 from, vec2 ahead, float half_angle,
                                             const NearQuery& query) const = 0;
  /// Returns the ids of the NPCs that escort `leader`, in a fixed order.
  virtual std::span<const NpcId> companions(NpcId leader) const = 0;

 protected:
  ~Others() = default;
};

/// What an errand can see of its NPC and of the world.
struct View {
  NpcId who;
  const Motion& me;
  vec2 was;  ///< metres: position when the errand was asked last
  const Body& body;
  const Gait& gait;
  const Ground& ground;
  std::uint64_t ground_revision = 0;  ///< of the ground, in this tick
  std::uint32_t jumps = 0;            ///< number of teleports; a change invalidates routes
  const Others& others;
  std::span<const Signal> heard;  ///< the signals given for this tick
  Random& random;                 ///< the NPC's own stream
  Arc& arc;                       ///< output: the arc of an intent that `crosses`
  NoteTaker& notes;
  std::pmr::memory_resource* memory;  ///< of the world, for the errand's own data; single-threaded
  double time = 0;                    ///< seconds since the world began
  bool avoids = false;                ///< the NPC takes part in avoidance, so others may occupy its goal
  bool oncoming = false;              ///< three or more come towards the NPC, as of the last tick
  bool keeps_left = false;            ///< it passes oncoming NPCs on the left (`Avoidance::side`)
  float held = 0.f;                   ///< seconds for which others have blocked it
  float patience = 1e6f;              ///< seconds after which it searches for a detour
  RouteService* routes = nullptr;     ///< for route requests; null: routes are searched at once
  int route_priority = 0;             ///< of its route requests

  /// Returns a number that changes with the ground and with a teleport.
  std::uint64_t revision() const { return ground_revision + jumps; }
  /// Returns the spot nearest to `position` (metres) for the NPC's body.
  Spot spot_at(vec3 position) const;
  /// Returns the spot of the NPC, or the nearest one.
  Spot spot() const { return spot_at(me.position); }

  /// Returns the distance to another NPC in metres (`metres_apart`).
  float metres_to(const Other& other) const;
  /// Returns true if the two bodies share height: neither is on the storey above the other.
  bool level_with(const Other& other) const;
  /// Returns true if the NPC avoids the other one and does not pass through it.
  bool keeps_off(const Other& other) const;
  /// Returns the distance of the centres, in metres, at which the two bodies count as touching. With
  /// avoidance a small gap remains between them.
  float touching(const Other& other) const;
  /// Returns true if the NPC came within `metres` of another one since the errand was asked last, at one
  /// height and with no wall between them. With avoidance, touching is enough.
  bool reaches(const Other& other, float metres) const;
  /// As `Others::near`, for the NPC's own body, without the NPCs that it passes through.
  std::span<const Neighbour> near(vec3 from, float radius, Tags tags = {}) const;

  /// Writes `note` into the journal, with this NPC and the present time.
  void tell(Note note) const;
};

/// The answer of an errand: an intent, or the outcome if it has ended.
struct Step {
  Intent intent{};
  std::optional<Outcome> ended{};
};

/// The progress of an order.
struct Progress {
  float metres = 0.f;     ///< walked of the route (of the lap, for a patrol)
  float of_metres = 0.f;  ///< length of the whole route; 0 without a goal
  float fraction = 0.f;   ///< of the order, 0 to 1
};

/// The behaviour of one order, with its state. Games derive their own from it and give them with
/// `Npc::order`. An errand is asked once a tick and returns an intent, until it ends.
class Errand {
 public:
  virtual ~Errand() = default;
  Errand(const Errand&) = delete;
  Errand& operator=(const Errand&) = delete;

  /// Returns the verb for the journal; it never changes.
  virtual std::string_view name() const = 0;

  /// Returns the goal (metres), for the journal and for pictures; nothing if there is none.
  virtual std::optional<vec3> goal() const { return std::nullopt; }

  /// Returns the present target; empty by default.
  virtual NpcId target() const { return {}; }

  /// Returns the NPC that it escorts; empty by default. It never changes.
  virtual NpcId leader() const { return {}; }

  /// Returns the metres from the goal that count as arrived, for pictures; 0 without a goal.
  virtual float arrival_radius() const { return 0.f; }

  /// Returns the intent for at most `seconds` (> 0), or the outcome. Called once a tick, and again within the
  /// tick if `Intent::lasts` ends before it.
  virtual Step step(const View& see, float seconds) = 0;

  /// Fast path, called before `step` from many threads: returns an intent if the order simply continues.
  /// Otherwise, and by default, nothing; then `step` is called. It may query the ground and `Others::find`.
  /// It may not write notes, request routes or draw random numbers.
  virtual std::optional<Intent> keep_on(const View& see, float seconds) {
    (void)see, (void)seconds;
    return std::nullopt;
  }

  /// Called if the NPC makes no progress after a new plan and a side step. Returns true to continue with
  /// another goal; false ends the order with the outcome `why`.
  virtual bool give_up(const View& see, const Outcome& why) {
    (void)see, (void)why;
    return false;
  }

  virtual Progress progress(const View& see) const = 0;

  /// Returns the metres left to its goal; nothing without a goal or with a moving one. An order whose metres
  /// do not shrink for `patience` seconds ends as `stuck`.
  virtual std::optional<float> left(const View& see) const {
    (void)see;
    return std::nullopt;
  }

  /// Returns how far it has got on its beat; empty if it has none.
  virtual BeatPosition on_beat() const { return {}; }

  /// Returns its beat, for pictures; null if there is none.
  virtual const Beat* beat() const { return nullptr; }

  /// Returns the rest of its route as points (metres), from the last bend passed to the end; for pictures.
  virtual std::span<const vec3> bends() const { return {}; }

  /// Returns what it does, in words: "walking to waypoint 2 of 4".
  virtual std::string doing() const { return std::string(name()); }

 protected:
  Errand() = default;

 private:
  friend struct ErrandReturn;
  template <class E, class... Args>
  friend std::unique_ptr<Errand, ErrandReturn> make_errand(std::pmr::memory_resource* memory, Args&&... args);
  std::uint16_t size_ = 0;  // bytes that it takes up, once it is made
};

/// Destroys an errand and returns its memory.
struct ErrandReturn {
  std::pmr::memory_resource* memory = nullptr;
  void operator()(Errand* errand) const;
};

/// An errand that owns its memory.
using ErrandPtr = std::unique_ptr<Errand, ErrandReturn>;

/// Makes an errand of class `E` in `memory`.
template <class E, class... Args>
ErrandPtr make_errand(std::pmr::memory_resource* memory, Args&&... args) {
  static_assert(alignof(E) <= alignof(std::max_align_t));
  static_assert(sizeof(E) <= detail::max_pooled, "keep what is that large elsewhere");
  ErrandPtr errand(new (detail::pooled(sizeof(E), memory)) E(std::forward<Args>(args)...), {memory});
  errand->size_ = sizeof(E);
  return errand;
}

/// Returns a step that ends the errand.
inline Step ended(Outcome outcome) { return {.intent = {}, .ended = outcome}; }
/// The same for an outcome without details.
inline Step ended(Ending ending) { return ended(Outcome{.ending = ending}); }

}  // namespace ambulon
