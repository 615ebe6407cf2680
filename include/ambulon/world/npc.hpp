#pragma once

#include <array>
#include <functional>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>

#include "ambulon/base/id.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/crowd/avoidance.hpp"
#include "ambulon/errand/beat.hpp"
#include "ambulon/errand/blend.hpp"
#include "ambulon/errand/errand.hpp"
#include "ambulon/errand/order_options.hpp"
#include "ambulon/world/condition.hpp"
#include "ambulon/world/script.hpp"

namespace AMBULON_PUBLIC ambulon {

class Squad;
class FlowField;
class Npc;
class World;

/// What moves the body of an NPC.
enum class Drive : std::uint8_t {
  own,       ///< Ambulon
  advised,   ///< the game: Ambulon returns a desired velocity (`Npc::advice`), and the game reports where
             ///< its body got to (`Npc::report`)
  reported,  ///< the game, without orders: a player, a puppet. It may be off the ground. Other NPCs avoid,
             ///< follow and chase it
};

/// Options of `Npc::report`.
struct ReportOptions {
  std::optional<float> heading =
      {};  ///< radians; none: as advised, or with `reported` the direction of travel
  std::optional<vec3> velocity = {};  ///< metres per second; none: from its positions
};

/// The desired motion of the game's body until the next tick.
struct Advice {
  vec3 velocity{0.f};     ///< metres per second
  vec2 facing{1.f, 0.f};  ///< unit vector: the direction to look in
};

/// Statistics of an NPC since it was added.
struct Statistics {
  double metres = 0;           ///< walked
  double moving_seconds = 0;   ///< seconds in motion; metres / moving_seconds is the mean speed
  float top_speed = 0.f;       ///< metres per second
  double held_seconds = 0;     ///< seconds in which the game's body or other NPCs blocked it
  std::uint32_t arrivals = 0;  ///< waypoints and goals reached
  std::array<std::uint32_t, ending_count> endings{};  ///< orders ended, by `Ending`
};

/// The placement of an NPC, for drawing.
struct Pose {
  vec3 position{0.f};   ///< metres
  vec2 facing{1.f, 0};  ///< unit vector
  Stance stance = Stance::idle;
  float stride_phase = 0.f, stride = 1.5f, turn = 0.f, stop = 0.f;  ///< see `Motion`

  float heading() const;  ///< radians in (-pi, pi]
};

/// The state of the order of an NPC.
struct ErrandState {
  std::string_view name = {};  ///< the verb; empty without an order
  Progress progress = {};
  std::optional<vec3> goal = {};     ///< metres
  float arrival_radius = 0.f;        ///< metres from the goal that count as arrived
  NpcId target = {};                 ///< the NPC that it follows, chases, …; empty for most
  BeatPosition on_beat = {};         ///< how far a patrol has got
  std::optional<Outcome> last = {};  ///< the outcome of the previous order, if any
};

/// A handle of one order. It may be copied, kept or discarded. An order to an NPC that is gone has ended as
/// `gone`.
///
///     porter.go_to(crates).on_end([](ambulon::Npc npc, const ambulon::Outcome& outcome) {
///       if (outcome) npc.pause(2);
///     });
class Order {
 public:
  Order() = default;
  /// For the library itself: the order with that number of an NPC.
  Order(World& world, NpcId npc, std::uint32_t serial) : world_(&world), who_(npc), serial_(serial) {}

  /// Returns true until the order has ended.
  bool running() const;
  /// Returns how it ended; nothing while it runs, and nothing again after the NPC's next order has ended.
  std::optional<Outcome> outcome() const;
  /// Calls `then` once, at the end of the tick in which the order ends; in the next tick if it ends between
  /// ticks. The callback may change the world in any way. It replaces an earlier one.
  const Order& on_end(std::function<void(Npc, const Outcome&)> then) const;
  /// Calls `then(me, target, near)` at the end of each tick in which the NPC comes within the order's
  /// `act_within` of its target (near: true), or leaves that distance (near: false): to strike, to greet, to
  /// open. It replaces an earlier callback and ends with the order.
  const Order& on_act(std::function<void(Npc, Npc, bool)> then) const;
  /// Ends the order as `timed_out` `seconds` (0 to 1e6) from now; other values change nothing.
  const Order& time_limit(float seconds) const;
  /// Sets the seconds without progress after which this order ends as `stuck`, 0.1 to 1e6; other values
  /// change nothing. It replaces `Gait::patience` and `WorldOptions::patience`.
  const Order& patience(float seconds) const;
  /// Ends the order as `cancelled` if it is running. `cause` is for the journal.
  void cancel(Cause cause = Cause::taken_back) const;
  /// Returns the NPC of the order.
  Npc npc() const;

 private:
  World* world_ = nullptr;
  NpcId who_;
  std::uint32_t serial_ = 0;
};

/// A handle of one NPC, the size of two pointers. The world must outlive it.
///
/// 1. An NPC has at most one order. A new order ends the previous one as `replaced`.
/// 2. After the NPC was removed, orders end as `gone`, queries return empty values, and nothing else happens.
class Npc {
 public:
  Npc() = default;
  Npc(World& world, NpcId id) : world_(&world), id_(id) {}

  NpcId id() const { return id_; }
  operator NpcId() const { return id_; }  // NOLINT: an NPC can be given wherever an id is wanted
  World* world() const { return world_; }
  bool alive() const;
  std::string_view name() const;
  friend bool operator==(Npc a, Npc b) { return a.world_ == b.world_ && a.id_ == b.id_; }

  /// Walks to `goal` (metres; without a height: 0); see `GoToOptions`.
  Order go_to(vec3 goal, const GoToOptions& options = {}) const;
  Order go_to(vec2 goal, const GoToOptions& options = {}) const { return go_to(vec3(goal, 0.f), options); }
  /// Walks to an NPC wherever it goes.
  Order go_to(Npc target, const GoToOptions& options = {}) const {
    return go_to_one({.npc = target}, options);
  }
  /// The same for one of a group (`World::one_of`).
  Order go_to_one(Target target, const GoToOptions& options = {}) const;
  /// Walks to clicked goals and follows a held pointer; see `ClickToMoveOptions`. `Selection` sends several
  /// NPCs.
  Order click_to_move(std::shared_ptr<Clicks> clicks, ClickToMoveOptions options = {}) const;
  /// Turns on the spot towards `point` (metres). Ends as `done`.
  Order turn_to(vec3 point) const;
  Order turn_to(vec2 point) const { return turn_to(vec3(point, 0.f)); }
  /// Turns on the spot to `heading` (radians). Ends as `done`.
  Order turn_to_heading(float heading) const;
  /// Stands for `seconds` (0 to 1e6). Ends as `done`.
  Order pause(float seconds) const;
  /// Stands until `World::signal` gives the signal. Ends as `done`.
  Order wait_for(std::string_view signal) const;
  /// Patrols a beat, which may be shared and may change meanwhile; see `PatrolOptions`.
  Order patrol(BeatPtr beat, PatrolOptions options = {}) const;
  /// Patrols the points (metres), first to last and again.
  Order patrol(std::span<const vec3> points, PatrolOptions options = {}) const;
  /// Walks to random spots; see `RoamOptions`.
  Order roam(const RoamOptions& options = {}) const;
  /// Walks to random points of a set, which may be shared and may change meanwhile; see `HopOptions`.
  Order hop(BeatPtr points, HopOptions options = {}) const;
  /// Walks to random points of these (metres).
  Order hop(std::span<const vec3> points, HopOptions options = {}) const;
  /// Follows an NPC, or one of a group (`World::one_of`); see `FollowOptions`.
  Order follow(Npc target, const FollowOptions& options = {}) const;
  Order follow(Target target, const FollowOptions& options = {}) const;
  /// Chases an NPC, or one of a group; see `ChaseOptions`.
  Order chase(Npc target, const ChaseOptions& options = {}) const;
  Order chase(Target target, const ChaseOptions& options = {}) const;
  /// Runs away from an NPC, or from one of a group; see `FleeOptions`.
  Order flee(Npc target, const FleeOptions& options = {}) const;
  Order flee(Target target, const FleeOptions& options = {}) const;
  /// Accompanies a leader; see `EscortOptions`.
  Order escort(Npc leader, const EscortOptions& options = {}) const;
  /// Keeps its place in a squad; see `MarchOptions` and `Squad`.
  Order march(std::shared_ptr<Squad> squad, MarchOptions options = {}) const;
  /// Moves to a point (metres) in a given time; see `EaseToOptions`.
  Order ease_to(vec3 to, EaseToOptions options) const;
  /// Moves back and forth on a sine; see `SwayOptions`.
  Order sway(const SwayOptions& options) const;
  /// Walks straight on and turns around at obstacles; see `PaceOptions`.
  Order pace(const PaceOptions& options = {}) const;
  /// Walks without a goal; see `WanderOptions`.
  Order wander(const WanderOptions& options = {}) const;
  /// Walks along a flow field, which must outlive the order; see `FlowOptions`.
  Order flow(const FlowField& field, FlowOptions options = {}) const;
  /// Walks through a maze of tiles; see `ThreadOptions`.
  Order thread(const ThreadOptions& options = {}) const;
  /// Steers by a blend of behaviours; see `SteerOptions`.
  Order steer(BlendPtr blend, SteerOptions options = {}) const;
  /// Gives an order of the game's own class `E`, derived from `Errand`, made of `args`.
  template <class E, class... Args>
  Order order(Args&&... args) const;
  /// Gives an errand that was made in the memory of this NPC's world (`make_errand`).
  Order give(ErrandPtr errand) const;
  /// Ends the present order as `cancelled`, if there is one.
  void cancel() const;

  /// Stops in the middle of its order until `resume`. The order's pauses stop, too; an order given meanwhile
  /// waits.
  void suspend() const;
  void resume() const;
  bool suspended() const;
  /// Moves the NPC to another place (metres) at once; its order continues from there. Returns a problem, and
  /// does not move it, if the place is off the ground.
  Expected<vec3> teleport(vec3 to) const;
  Expected<vec3> teleport(vec2 to) const { return teleport(vec3(to, 0.f)); }
  /// Pushes the NPC with `velocity` (metres per second, at most 100) for `seconds` (above 0, at most 60): a
  /// knock-back. It slides along edges of the ground. Then its order resumes, with a new route. A second push
  /// replaces the first. Returns a problem, and changes nothing, if a value is out of range, if the game
  /// moves the body, or while the NPC is on a crossing.
  Expected<void> push(vec2 velocity, float seconds) const;

  /// Calls `then(me, other, speed)` once when another body begins to touch this one. `speed` is the closing
  /// speed in metres per second, >= 0.
  ///
  /// 1. Two bodies touch if their centres on the plan are no further apart than their radii plus 1 cm, and if
  ///    they share height.
  /// 2. The same body is reported again only after the two have parted by 5 cm.
  /// 3. Bodies move in straight lines between ticks, so a fast body is not missed. A body that was teleported
  ///    or that moved more than 10 m in one tick is tested only at its new place.
  /// 4. Only bodies with one of the `tags` count; no tags: all bodies. Bodies that this one passes through
  ///    (`Body::passes`) do not count.
  /// 5. The call comes at the end of the tick that follows the contact. It may change the world in any way.
  /// 6. The callback stays until it is replaced or the NPC is removed; an empty one ends it.
  void on_touch(std::function<void(Npc, Npc, float)> then, Tags tags = {}) const;

  /// Calls `then(me)` once after the NPC was removed: at the end of the tick, or of the next tick if it was
  /// removed between ticks. The handle is no longer `alive`. It replaces an earlier callback; an empty one
  /// ends it.
  void on_removed(std::function<void(Npc)> then) const;

  // Conditions for `until` and `any_of`; see routine.hpp.

  /// True while `other` is at most `metres` away (`metres_apart`, so another storey is not near).
  Condition until_near(Npc other, float metres) const;
  /// True while `other` is more than `metres` away.
  Condition until_apart(Npc other, float metres) const;
  /// True after `other` reaches a goal or a waypoint, from now on.
  Condition until_arrived(Npc other) const;
  /// True after an order of `other` ends as `stuck`, from now on.
  Condition until_stuck(Npc other) const;
  /// True in the tick for which the signal was given.
  Condition until_signal(std::string_view signal) const;

  /// Starts a script for the NPC, and ends its previous script together with that script's order. Null ends
  /// only.
  void direct(std::unique_ptr<Script> script) const;
  /// Returns true while the NPC has a script.
  bool directed() const;

  /// Removes the NPC from the world. Its order and its script end as `gone`.
  void remove() const;

  vec3 position() const;  ///< metres
  vec2 velocity() const;  ///< metres per second
  float heading() const;  ///< radians in (-pi, pi]
  Motion motion() const;  ///< all of these, with stance and stride phase
  /// Returns the pose between the last two ticks: 0 is before the last tick, 1 after it. Teleports, and
  /// bodies that the game moves, are not interpolated. For games that draw between two fixed time steps.
  Pose pose(float alpha = 1.f) const;
  Body body() const;
  Gait gait() const;
  Statistics statistics() const;
  ErrandState errand() const;
  /// Returns true while the NPC has an order.
  bool busy() const;
  /// Returns what it does, in words: "walking to waypoint 2 of 4", "standing".
  std::string doing() const;
  /// Returns the preferred velocity of the last tick (metres per second), before avoidance and the gait's
  /// limits.
  vec2 wanted_velocity() const;
  /// Returns the rest of its route as points (metres), valid until the next tick.
  std::span<const vec3> bends() const;
  /// Returns the beat that it patrols; null if it does not.
  const Beat* beat() const;

  /// Returns its tags.
  Tags tags() const;
  /// Returns its part in avoidance.
  Avoidance avoidance() const;
  Drive drive() const;
  int route_priority() const;
  /// Returns the number that the game stored with the NPC: an entity id or a pointer.
  std::uint64_t user_data() const;

  void set_user_data(std::uint64_t data) const;
  /// Sets its name; views of the previous one (`name`) are no longer valid.
  void set_name(std::string_view name) const;
  void set_tags(Tags tags) const;
  /// Sets its part in avoidance from the next tick on. Returns a problem if a value is out of range.
  Expected<void> set_avoidance(const Avoidance& avoidance) const;
  /// Sets the priority of its route requests. Returns a problem outside of -1000 to 1000.
  Expected<void> set_route_priority(int priority) const;
  /// Sets what moves its body, from the next tick on. An NPC that the game moves without orders
  /// (`Drive::reported`) loses its order. Returns a problem while the NPC is on a crossing, and if Ambulon is
  /// to move a body that is off the ground.
  Expected<void> set_drive(Drive drive) const;

  /// Sets its speed (metres per second), during an order, too. Returns a problem if it is out of range.
  Expected<void> set_speed(float speed) const;
  /// Sets its gait from the next tick on. Returns a problem if a value is out of range.
  Expected<void> set_gait(const Gait& gait) const;

  /// Sets its body from the next tick on, and plans its route again. If the new body is too near to a wall,
  /// the NPC walks away from it. Returns a problem if a value is out of range.
  Expected<void> set_body(const Body& body) const;

  /// Returns the desired motion until the next tick (`Drive::advised`).
  Advice advice() const;
  /// Reports where the game's body is (metres; `Drive::advised` and `reported`), once between two ticks.
  /// Returns a problem, and changes nothing, if a number is not finite.
  Expected<void> report(vec3 position, const ReportOptions& options = {}) const;

  /// Draws a uniform number in [min, max] from the NPC's own stream.
  float random(float min, float max) const;

 private:
  World* world_ = nullptr;
  NpcId id_;
};

}  // namespace ambulon
