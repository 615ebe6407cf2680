#pragma once

#include <array>
#include <functional>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>

#include "ambulon/base/id.hpp"
#include "ambulon/errand/beat.hpp"
#include "ambulon/errand/blend.hpp"
#include "ambulon/errand/chase.hpp"
#include "ambulon/errand/click_to_move.hpp"
#include "ambulon/errand/errand.hpp"
#include "ambulon/errand/escort.hpp"
#include "ambulon/errand/flee.hpp"
#include "ambulon/errand/flow.hpp"
#include "ambulon/errand/follow.hpp"
#include "ambulon/errand/glide.hpp"
#include "ambulon/errand/go_to.hpp"
#include "ambulon/errand/hop.hpp"
#include "ambulon/errand/march.hpp"
#include "ambulon/errand/pace.hpp"
#include "ambulon/errand/patrol.hpp"
#include "ambulon/errand/roam.hpp"
#include "ambulon/errand/steer.hpp"
#include "ambulon/errand/sway.hpp"
#include "ambulon/errand/target.hpp"
#include "ambulon/errand/thread.hpp"
#include "ambulon/errand/wander.hpp"
#include "ambulon/world/condition.hpp"
#include "ambulon/world/script.hpp"

namespace ambulon {

class Company;
class FlowField;
class Npc;
class World;

/// Who moves an NPC.
enum class Drive : std::uint8_t {
  own,       ///< Ambulon does
  advised,   ///< the game's own body does: Ambulon advises a velocity (`Npc::advice`), and the game
             ///< says where the body really got to (`Npc::report`)
  reported,  ///< the game does, without orders or advice: a player, a puppet. It may be off the ground;
             ///< others keep clear of it, follow and chase it
};

/// What the game reports of a body besides where it is.
struct ReportOptions {
  std::optional<float> heading = {};  ///< radians; none: as advised, and of a `reported` body, where it goes
  std::optional<vec3> velocity = {};  ///< metres per second; none: by how far it has gone since the last tick
};

/// What the game's body is advised to do until the next tick.
struct Advice {
  vec3 velocity{0.f};     ///< metres per second
  vec2 facing{1.f, 0.f};  ///< unit vector to look along
};

/// What an NPC has done since it appeared.
struct Tally {
  double metres = 0;           ///< walked
  double moving_seconds = 0;   ///< in which it moved; metres / moving_seconds is its mean speed
  float top_speed = 0.f;       ///< metres per second
  double held_seconds = 0;     ///< in which the game's body was held fast, or others held it up
  std::uint32_t arrivals = 0;  ///< waypoints and goals reached
  std::array<std::uint32_t, ending_count> endings{};  ///< orders ended, by `Ending`
};

/// What an NPC is at.
struct ErrandState {
  std::string_view name = {};  ///< the verb; empty when it has no order
  Progress progress = {};
  std::optional<vec3> goal = {};     ///< where it leads, metres
  float arrival_radius = 0.f;        ///< metres from the goal that count as there
  NpcId target = {};                 ///< whom it is after; nobody for most
  std::optional<Outcome> last = {};  ///< how the order before ended; nothing when there was none
};

/// One order that was given: a ticket with which to ask after it. It may be kept or thrown away.
/// An order to an NPC that is gone has ended as `gone`.
class Order {
 public:
  Order() = default;
  /// For the library itself: the order with that number of an NPC.
  Order(World& world, NpcId npc, std::uint32_t serial) : world_(&world), who_(npc), serial_(serial) {}

  /// True until the order has ended.
  bool running() const;
  /// How it ended; nothing while it runs, and nothing again once the NPC's next order has ended.
  std::optional<Outcome> outcome() const;
  /// Calls `then` once, at the end of the tick in which the order ends (in the next tick when it
  /// ends between ticks). It may do anything to the world. Replaces what was set before.
  const Order& on_end(std::function<void(Npc, const Outcome&)> then) const;
  /// Calls `then(me, whom, near)` at the end of each tick in which the NPC comes within the order's
  /// `act_within` of whom it is after (near: true), or goes further away than that again (false): to strike,
  /// to greet, to open. Replaces what was set before; ends with the order.
  const Order& on_act(std::function<void(Npc, Npc, bool)> then) const;
  /// Ends it as timed_out when it still runs after `seconds` (0 to 1e6) from now; other values change
  /// nothing.
  const Order& time_limit(float seconds) const;
  /// Seconds without progress after which this order ends as stuck, 0.1 to 1e6, instead of its gait's and the
  /// world's patience; other values change nothing.
  const Order& patience(float seconds) const;
  /// Ends it as cancelled, if it still runs. `cause`: for the journal.
  void cancel(Cause cause = Cause::taken_back) const;
  /// Whose order it is.
  Npc npc() const;

 private:
  World* world_ = nullptr;
  NpcId who_;
  std::uint32_t serial_ = 0;
};

/// A handle of one NPC: cheap to copy, good to keep. When the NPC is gone, orders given through it
/// end as `gone`, questions get empty answers, and nothing else happens. The world must outlive it.
/// An NPC has one order at a time: a new one ends the old as `replaced`.
class Npc {
 public:
  Npc() = default;
  Npc(World& world, NpcId id) : world_(&world), id_(id) {}

  NpcId id() const { return id_; }
  World* world() const { return world_; }
  bool alive() const;
  std::string_view name() const;
  friend bool operator==(Npc a, Npc b) { return a.world_ == b.world_ && a.id_ == b.id_; }

  /// Walks to `goal` (metres); see `GoTo`.
  Order go_to(vec3 goal, GoToOptions options = {}) const;
  /// Walks to where was clicked, and after a pointer that is held; see `ClickToMove`. `Selection` sends
  /// several.
  Order click_to_move(std::shared_ptr<Clicks> clicks, ClickToMoveOptions options = {}) const;
  /// Turns to face `point` (metres); see `TurnTo`.
  Order turn_to(vec3 point) const;
  /// Turns to `heading` (radians).
  Order turn_to_heading(float heading) const;
  /// Stands for `seconds` (0 to 1e6).
  Order pause(float seconds) const;
  /// Stands until the signal is given with `World::signal`.
  Order wait_for(std::string_view signal) const;
  /// Walks a beat, which may be shared and changed meanwhile; see `Patrol`.
  Order patrol(BeatPtr beat, PatrolOptions options = {}) const;
  /// Walks round a beat of plain points.
  Order patrol(std::span<const vec3> points, PatrolOptions options = {}) const;
  /// Walks to random spots; see `Roam`.
  Order roam(const RoamOptions& options = {}) const;
  /// Walks to random points of a set, which may be shared and changed meanwhile; see `Hop`.
  Order hop(BeatPtr points, HopOptions options = {}) const;
  /// Walks to random points of a set of plain points.
  Order hop(std::span<const vec3> points, HopOptions options = {}) const;
  /// Goes after somebody, or after one of a group (`World::one_of`), and stands near; see `Follow`.
  Order follow(Npc target, const FollowOptions& options = {}) const;
  Order follow(Target target, const FollowOptions& options = {}) const;
  /// Runs after somebody to catch them; see `Chase`.
  Order chase(Npc target, const ChaseOptions& options = {}) const;
  Order chase(Target target, const ChaseOptions& options = {}) const;
  /// Runs away from somebody; see `Flee`.
  Order flee(Npc target, const FleeOptions& options = {}) const;
  Order flee(Target target, const FleeOptions& options = {}) const;
  /// Accompanies a leader; see `Escort`.
  Order escort(Npc leader, const EscortOptions& options = {}) const;
  /// Keeps its place in a company that marches together; see `March` and `Company`.
  Order march(std::shared_ptr<Company> company, MarchOptions options = {}) const;
  /// Moves to a point (metres) in a given time; see `Glide`.
  Order glide(vec3 to, GlideOptions options) const;
  /// Goes there and back by a sine; see `Sway`.
  Order sway(const SwayOptions& options) const;
  /// Goes straight on and turns round before what is in the way; see `Pace`.
  Order pace(const PaceOptions& options = {}) const;
  /// Strays about; see `Wander`.
  Order wander(const WanderOptions& options = {}) const;
  /// Goes by a flow field, which must outlive the order; see `Flow`.
  Order flow(const FlowField& field, FlowOptions options = {}) const;
  /// Threads the ways of a tile ground; see `Thread`.
  Order thread(const ThreadOptions& options = {}) const;
  /// Steers by a blend of behaviours; see `Steer`.
  Order steer(BlendPtr blend, SteerOptions options = {}) const;
  /// Gives an errand of the game's own class.
  template <class E, class... Args>
  Order order(Args&&... args) const;
  /// Gives an errand that was made in the memory of this NPC's world (`make_errand`).
  Order give(ErrandPtr errand) const;
  /// Ends the present order as cancelled, if there is one.
  void cancel() const;

  /// Stands still in the middle of its order, whose pauses stand still, too, until it may `resume`. An
  /// order given meanwhile waits.
  void halt() const;
  void resume() const;
  bool halted() const;
  /// Puts it at another place (metres) at once; its order goes on from there. The problem when that is off
  /// the ground; then it stays.
  Expected<vec3> teleport(vec3 to) const;

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

  /// Holds when `other` is at most `metres` away, by `metres_apart`: one on another storey is not near.
  Condition until_near(Npc other, float metres) const;
  /// Holds when `other` is more than `metres` away.
  Condition until_apart(Npc other, float metres) const;
  /// Holds when `other` reaches a goal or a waypoint, from now on.
  Condition until_arrived(Npc other) const;
  /// Holds when an order of `other` ends as stuck, from now on.
  Condition until_stuck(Npc other) const;
  /// Holds in a tick for which the signal was given.
  Condition until_signal(std::string_view signal) const;

  /// Hands the NPC to a script, which begins at once; ends the script it had and that one's order. Null
  /// only ends.
  void direct(std::unique_ptr<Script> script) const;
  /// True while a script directs it.
  bool directed() const;

  /// Takes the NPC out of the world: its order and its script end as `gone`.
  void remove() const;

  vec3 position() const;  ///< metres
  vec2 velocity() const;  ///< metres per second
  float heading() const;  ///< radians in (-pi, pi]
  Motion motion() const;  ///< all of the above, with stance and stride phase
  Body body() const;
  Gait gait() const;
  Tally tally() const;
  ErrandState errand() const;
  /// True while it has an order.
  bool busy() const;
  /// What it is doing, in words: "walking to waypoint 2 of 4", "standing".
  std::string doing() const;
  /// What its order wanted in the tick before (metres per second), before the gait's limits; for pictures.
  vec2 wanted_velocity() const;
  /// The way before it, for pictures (`Errand::bends`); good until the next tick.
  std::span<const vec3> bends() const;
  /// The beat it patrols; nothing when it does not.
  const Beat* beat() const;

  /// Its groups.
  Tags tags() const;

  /// Changes its speed (metres per second), in the middle of an order, too.
  Expected<Gait> set_speed(float speed) const;
  /// Changes how it moves from the next tick on. The problem when a value is out of range.
  Expected<Gait> set_gait(const Gait& gait) const;

  /// Gives it another body from the next tick on; its way is laid anew for that. The problem when a value is
  /// out of range. Where it would be too near to a wall it walks away from it.
  Expected<Body> set_body(const Body& body) const;

  /// What the game's body should do until the next tick (drive `advised`).
  Advice advice() const;
  /// Where the game's body really is (drives `advised` and `reported`), metres; once a tick, before the next
  /// one. The problem, and no change, when a number is not finite.
  Expected<vec3> report(vec3 position, const ReportOptions& options = {}) const;

  /// Random numbers of the NPC's own stream: uniform in [least, most].
  float random(float least, float most) const;

 private:
  World* world_ = nullptr;
  NpcId id_;
};

}  // namespace ambulon
