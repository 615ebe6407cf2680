#pragma once
// The options of the orders, in the sequence of the functions of `Npc` that give them.

#include <array>
#include <cstdint>
#include <memory_resource>
#include <optional>
#include <span>
#include <vector>

#include "ambulon/base/angle.hpp"
#include "ambulon/base/id.hpp"
#include "ambulon/base/problem.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/base/random.hpp"
#include "ambulon/base/range.hpp"
#include "ambulon/base/tags.hpp"
#include "ambulon/base/vec.hpp"
#include "ambulon/errand/beat.hpp"
#include "ambulon/ground/tiles/cell.hpp"

namespace AMBULON_PUBLIC ambulon {

/// What an order does if no route leads to a goal, or if the goal is off the ground.
enum class Unreachable : std::uint8_t {
  nearest,  ///< go to the nearest reachable spot, and on to the goal when a route opens
  refuse,   ///< end the order with the reason
  wait,     ///< stand and plan again after 1, 2, 4, 8 and 16 s, and 1 s after the ground has changed
};

/// Which NPC of a group is the target.
enum class Pick : std::uint8_t {
  nearest,  ///< the nearest; it is replaced when another one is much nearer
  any,      ///< a random one, until it is removed
};

/// The target of an order: one NPC, or one of those with a tag (`World::one_of`).
struct Target {
  NpcId npc = {};             ///< used if there are no tags
  Tags tags = {};             ///< one of the NPCs with one of these tags
  Pick pick = Pick::nearest;  ///< which of them
};

/// Options of `Npc::go_to`, which walks to a point, or to an NPC that may move, and stands there.
///
/// 1. The order ends as `arrived` within `within` metres of the goal. If it stopped further away, the cause
///    of the outcome says why: the place is taken, or only the nearest spot can be reached. An NPC is reached
///    at one height with no wall between, and in any case when the bodies touch.
/// 2. It ends as `stuck` after `patience` seconds without progress, as `gone` when the NPC is removed.
/// 3. With `Unreachable::refuse` it ends as `off_ground` (with the nearest spot and the distance to it) or as
///    `no_route`.
struct GoToOptions {
  float within = 0.3f;  ///< metres from the goal that count as arrived, 0.001 to 1000
  /// Seconds until it arrives, at most 1e6: the speed follows from it and from the length of the route, up to
  /// 100 m/s. After a delay it goes up to twice as fast. 0: the gait's speed.
  float arrive_in = 0.f;
  std::optional<float> facing = {};  ///< radians: heading to turn to before the order ends
  Unreachable unreachable = Unreachable::refuse;
};

/// The goals of a player's clicks, or the place at which the pointer is held. The game changes them at any
/// time; the order that `Npc::click_to_move` gave reads them.
class Clicks {
 public:
  explicit Clicks(std::pmr::memory_resource* memory = std::pmr::get_default_resource()) : places_(memory) {}

  /// Replaces all goals by `at` (metres). Returns a problem, and changes nothing, if `at` is not finite; so
  /// do `add` and `hold`.
  Expected<void> click(vec3 at) { return set(at, false); }
  /// Appends a goal.
  Expected<void> add(vec3 at);
  /// Replaces all goals by the place of a held pointer: the NPC follows it until `release`.
  Expected<void> hold(vec3 at) { return set(at, true); }
  /// Turns the last place of a held pointer into a click.
  void release();
  /// Removes the first goal. The order calls this when the goal was reached or given up.
  void done();

  /// Returns the remaining goals, the present one first.
  std::span<const vec3> places() const { return places_; }
  bool held() const { return held_; }
  /// Returns a number that grows with each change.
  std::uint32_t revision() const { return revision_; }

 private:
  Expected<void> set(vec3 at, bool held);

  std::pmr::vector<vec3> places_;
  bool held_ = false;
  std::uint32_t revision_ = 1;
};

/// Options of `Npc::click_to_move`, which walks to each clicked goal in turn and follows a held pointer.
///
/// Ends as `arrived` at the last goal (the cause says if that was only the nearest spot), as `off_ground` or
/// `no_route` if the last goal was refused, or as `stuck`. Refused without a goal.
struct ClickToMoveOptions {
  float within = 0.3f;  ///< metres from a goal that count as arrived, 0.001 to 1000
  float every = 0.1f;   ///< seconds between two plans while the pointer moves, at least; 0 to 10
  /// `refuse` skips the goal; while the pointer is held, the NPC keeps its goal from before.
  Unreachable unreachable = Unreachable::nearest;
};

/// The first waypoint of a patrol.
enum class PatrolStart : std::uint8_t { nearest, first };

/// Options of `Npc::patrol`, which walks from waypoint to waypoint of a beat, and turns and pauses at each
/// one as the waypoint says.
///
/// 1. A beat of order `once` ends as `arrived`; the other orders are endless.
/// 2. A waypoint off the ground or without a route is skipped, with a note in the journal.
/// 3. The order ends as refused (with the reason) or as `stuck`. With `Unreachable::refuse` it ends as
///    `off_ground` if no waypoint is on the ground, and as `no_route` if none can be reached.
struct PatrolOptions {
  PatrolStart start = PatrolStart::nearest;
  /// The first waypoint instead, if it is in the beat: to resume a patrol, pass `ErrandState::on_beat`.
  BeatPosition from = {};
  /// Seconds for one lap including pauses, at most 1e6: the speed follows from it. 0: the gait's speed. A lap
  /// ends where it began; with the order `once`, at the last waypoint.
  float lap = 0.f;
  float within = 0.3f;   ///< metres from a waypoint that count as arrived, 0.001 to 1000
  float leg_time = 0.f;  ///< seconds for a leg before its waypoint is skipped, at most 1e6; 0: unlimited
  /// If no waypoint can be reached, or when the beat has become empty. `nearest` walks as near to each
  /// waypoint as possible.
  Unreachable unreachable = Unreachable::wait;
};

/// Options of `Npc::roam`, which walks to one random spot around its home after another.
///
/// Spots are distributed evenly over the reachable area. The order ends as `done` after `visits`; after eight
/// spots in a row that failed as `stuck` or `timed_out`, and with `Unreachable::refuse` as `no_route` or
/// `off_ground`.
struct RoamOptions {
  float radius = 10.f;                ///< metres around home of the spots, 0.1 to 1e5
  float not_nearer = 0.f;             ///< metres around home without spots, less than `radius`
  std::optional<vec3> home = {};      ///< metres; none: where the NPC is when the order begins
  bool from_where_it_stands = false;  ///< the centre moves along with the NPC
  Range pause{};                      ///< seconds at each spot, drawn each time; 0 to 1e6
  std::uint32_t visits = 0;           ///< spots after which the order is done; 0: endless
  float leg_time = 0.f;  ///< seconds to one spot before another is chosen, at most 1e6; 0: unlimited
  float within = 0.3f;   ///< metres from a spot that count as arrived, 0.001 to 1000
  Unreachable unreachable = Unreachable::wait;  ///< after eight spots in a row that failed
};

/// Options of `Npc::hop`, which walks to one random point of a set after another.
///
/// 1. The set is a beat, whose order is not used. Each point is chosen with a probability proportional to
///    `Waypoint::weight`. The NPC pauses as the point says.
/// 2. The set may change while the order runs.
/// 3. The order ends as `done` after `visits`, and is refused if it begins without a point to choose from.
/// 4. After eight points in a row that failed it ends as `stuck` or `timed_out`; with `Unreachable::refuse`
///    as `no_route` or `off_ground`.
struct HopOptions {
  bool repeats = false;      ///< may choose the same point twice in a row
  std::uint32_t visits = 0;  ///< points after which the order is done; 0: endless
  float leg_time = 0.f;      ///< seconds to one point before another is chosen, at most 1e6; 0: unlimited
  float within = 0.3f;       ///< metres from a point that count as arrived, 0.001 to 1000
  /// After eight points in a row that failed, or when the set has become empty.
  Unreachable unreachable = Unreachable::wait;
};

/// The frame of reference of an offset.
enum class OffsetFrame : std::uint8_t {
  target,  ///< x is ahead of the target, y to its left
  world,   ///< x and y of the world
};

/// Options of `Npc::follow`, which follows a moving target and stands when it is close.
///
/// 1. While the target moves, the NPC walks behind it at the target's speed.
/// 2. When the target stands, the NPC stops within `stop` metres of its place and starts again beyond
///    `resume` metres. The gap between the two prevents jitter.
/// 3. The route is planned again when the target has moved `replan_distance` metres since the last plan.
///
/// Ends as `gone` when the target is removed, or as `stuck`; with `Unreachable::refuse` as `off_ground` or
/// `no_route`.
///
///     dog.follow(owner, {.stop = 1.5f, .resume = 3});
struct FollowOptions {
  float stop = 1.5f;    ///< metres from its place at which it stops, 0.05 to 1000
  float resume = 2.5f;  ///< metres from its place at which it starts again, `stop` to 1e5
  vec2 offset{0.f};     ///< metres from the target to its place; (0, 0): any side of the target
  OffsetFrame frame = OffsetFrame::target;
  Range distances{};  ///< metres from its place: the speed changes linearly from the first of `speeds` at the
                      ///< nearer end to the second at the further end
  Range speeds{};     ///< metres per second, 0 to 100; empty: the gait's speed
  float replan_distance = 0.5f;  ///< metres the target moves before the route is planned again, 0.01 to 1000
  float act_within = 0.f;        ///< metres at which `Order::on_act` is called; 0: never
  Unreachable unreachable = Unreachable::wait;  ///< if no route leads to its place
};

/// Options of `Npc::chase`, which runs after a target and heads for the predicted point of interception.
///
/// 1. The order ends as `arrived` within `reach` of the target, at one height and with no wall between them.
///    With `WorldOptions::avoid` it also ends if the two bodies touch.
/// 2. It ends as `gone` when the target is removed or gets further away than `give_up`.
/// 3. It ends as `off_ground`, `no_route` or `stuck` if it cannot follow.
struct ChaseOptions {
  float reach = 0.8f;      ///< metres from the target that count as caught, 0.01 to 1000
  float give_up = 0.f;     ///< metres from the target at which the chase ends, more than `reach`; 0: never
  float foresight = 1.5f;  ///< seconds for which the target's motion is predicted, 0 to 60
  float replan_distance = 0.5f;  ///< metres the target moves before the route is planned again, 0.01 to 1000
  float act_within = 0.f;        ///< metres at which `Order::on_act` is called; 0: never
  Unreachable unreachable = Unreachable::refuse;  ///< if no route leads to the target
};

/// Options of `Npc::flee`, which runs away from a target: straight away where there is ground, otherwise in
/// the direction that leads furthest from the target.
///
/// Ends as `done` when the target is further away than `reach`; as `gone` when the target is removed.
/// `Order::time_limit` bounds the time.
struct FleeOptions {
  float reach = 15.f;      ///< metres from the target that count as safe, 0.1 to 1e5
  float foresight = 1.f;   ///< seconds for which the target's motion is predicted, 0 to 60
  float act_within = 0.f;  ///< metres at which `Order::on_act` is called; 0: never
};

/// Options of `Npc::escort`, which accompanies a leader.
///
/// 1. While the leader is within `leash` metres of where the NPC stands, the NPC stands and faces the leader.
/// 2. When the leader is further away, the NPC walks to a free place in the ring around the leader. All
///    companions of one leader have different places.
/// 3. While the leader walks, the NPC walks along; when the leader stands, it stops at its place.
///
/// Ends as `gone` when the leader is removed.
struct EscortOptions {
  float leash = 5.f;       ///< metres from the leader beyond which a companion moves; more than `ring.max`
  Range ring{1.2f, 2.5f};  ///< metres from the leader of the companions' places, 0.1 to 1000
  float within = 0.2f;     ///< metres from its place that count as arrived, 0.01 to 100
  float replan_distance = 0.5f;  ///< metres the leader moves before the route is planned again, 0.01 to 1000
  Unreachable unreachable = Unreachable::wait;  ///< if no route leads to its place
};

/// Options of `Npc::march`, which keeps the NPC's place in a squad.
///
/// 1. The order ends as `arrived` when the squad is at its goal and the NPC at its place.
/// 2. It ends as `gone` when the NPC that the squad follows is removed, or as `stuck`.
/// 3. If the squad does not wait for routes, it ends as `off_ground` or `no_route`.
/// 4. It is refused if the squad has neither a goal nor a leader.
struct MarchOptions {
  float within = 0.3f;  ///< metres from its place at the goal that count as arrived, 0.001 to 1000
};

/// The easing of a move: its speed over time.
enum class Easing : std::uint8_t {
  linear,  ///< constant speed
  in,      ///< accelerates from rest
  out,     ///< slows down to rest
  in_out,  ///< both
};

/// When the NPC turns towards its direction of travel.
enum class EaseToTurn : std::uint8_t {
  first,  ///< before it moves, within `seconds`
  going,  ///< while it moves
  never,  ///< keeps its heading
};

/// Options of `Npc::ease_to`, which moves to a point on a straight line in a given time.
///
/// 1. The gait's speed and acceleration do not apply; its turn rate does.
/// 2. The order ends as `arrived`, or as `blocked` if the line leaves the ground.
struct EaseToOptions {
  float seconds = 1.f;  ///< duration of the whole move, 0.001 to 1e6
  Easing easing = Easing::in_out;
  EaseToTurn turn = EaseToTurn::going;
  bool anywhere = false;  ///< may leave the ground and change height: a raft, a lift
};

/// Options of `Npc::sway`, which moves back and forth on a sine, or around an ellipse.
///
/// 1. The NPC's place when the order begins is the point of the curve at `phase`.
/// 2. The heading stays, and the gait does not apply.
/// 3. The order ends as `done` after `times`, or as `blocked` if the curve leaves the ground.
struct SwayOptions {
  vec3 axis{1.f, 0.f, 0.f};  ///< metres from the centre to one end, in any direction; up to 1e5 long
  vec3 across{0.f};          ///< metres: the second half axis of an ellipse; (0, 0, 0): a line
  float frequency = 0.1f;    ///< periods per second, 1e-4 to 100
  float phase = 0.f;         ///< radians; 0 is the centre, pi / 2 the end of the axis
  std::uint32_t times = 0;   ///< periods after which the order is done; 0: endless
  bool anywhere = false;     ///< may leave the ground: a raft, a lift
};

/// Options of `Npc::pace`, which walks straight on until the edge of the ground or another body blocks it,
/// and then turns around and walks back. Ends as `done` after `turns`.
struct PaceOptions {
  std::optional<float> heading = {};  ///< radians, of the first leg; none: the NPC's heading
  float gap = 0.1f;                   ///< metres to keep from obstacles, 0 to 100
  Range pause{};                      ///< seconds to stand before it turns around; 0 to 1e6
  bool flip = false;                  ///< turns around at once, not at the turn rate: for side views
  std::uint32_t turns = 0;            ///< after which the order is done; 0: endless
};

/// Options of `Npc::wander`, which walks without a goal in a smoothly changing direction and turns away from
/// the edge of the ground. The order never ends by itself.
struct WanderOptions {
  float turn = radians(60.f);     ///< radians, the largest change of direction, 0 to 2 pi
  float every = 1.5f;             ///< seconds between changes, 0.05 to 1e6
  float speed = 0.f;              ///< metres per second, up to 100; 0: the gait's speed
  float radius = 0.f;             ///< metres from home at which it turns back, up to 1e5; 0: unlimited
  std::optional<vec3> home = {};  ///< metres; none: where the NPC is when the order begins
};

/// Options of `Npc::flow`, which walks along a flow field to its nearest goal. Any number of NPCs share one
/// field, and none of them plans a route.
///
/// 1. The field must outlive the order. The game calls `FlowField::update` after the ground has changed.
/// 2. The order ends as `arrived`; as `no_route` if the field leads to no goal and `unreachable` is `refuse`.
struct FlowOptions {
  float within = 0.3f;  ///< metres from the goal that count as arrived, 0.001 to 1000
  /// If the field leads to no goal from where the NPC is: `refuse` or `wait`.
  Unreachable unreachable = Unreachable::refuse;
};

/// A cell at which an NPC in a maze chooses where to go.
struct Junction {
  Cell cell;
  vec3 at{0.f};              ///< metres, the centre of the cell
  vec2 heading{0.f};         ///< unit vector of its last step; zero at the beginning
  std::array<vec2, 4> ways;  ///< unit vectors towards the open sides. The side it came from is left out
                             ///< unless it is the only one
  int count = 0;             ///< of `ways`, 1 to 4
};

/// The game's own choice at junctions.
class JunctionChooser {
 public:
  /// Returns an index into `Junction::ways`; any other number means the last one. `random` is the NPC's own.
  virtual int choose(const Junction& junction, Random& random) = 0;

 protected:
  ~JunctionChooser() = default;
};

/// Where to go at a junction.
enum class ThreadChoice : std::uint8_t {
  random,  ///< each side is equally likely
  toward,  ///< the side whose next cell is nearest to the target
  away,    ///< the side whose next cell is furthest from the target
  left,    ///< along the wall on the left
  right,   ///< along the wall on the right
};

/// Options of `Npc::thread`, which walks through a maze of tiles from cell centre to cell centre.
///
/// 1. The NPC walks straight on. It chooses at cells with three or more open sides and where it is blocked,
///    and turns back only at dead ends.
/// 2. At the end of each tick it is exactly on its line, at any speed.
/// 3. Enclosed on all sides, it stands until a side opens.
/// 4. The order ends as `done` after `choices`, and is refused if the ground has no tiles.
struct ThreadOptions {
  ThreadChoice choice = ThreadChoice::random;
  Target target = {};                  ///< of `toward` and `away`
  std::optional<vec3> point = {};      ///< metres: of `toward` and `away` if there is no target
  JunctionChooser* chooser = nullptr;  ///< replaces `choice`; must outlive the order
  std::uint32_t choices = 0;           ///< after which the order is done; 0: endless
};

/// How a blend combines its behaviours.
enum class BlendMode : std::uint8_t {
  weighted,  ///< the mean, by weight and urgency
  priority,  ///< in order, until the budget is used up
};

/// Options of `Npc::steer`, which steers by a blend of behaviours. The order never ends by itself.
struct SteerOptions {
  BlendMode mode = BlendMode::weighted;
  float budget = 1.f;      ///< sum of urgencies that `priority` uses, 0 to 1
  float speed = 0.f;       ///< metres per second, up to 100; 0: the gait's speed
  float min_speed = 0.f;   ///< metres per second, up to 100: never slower, like birds
  float settle = 0.2f;     ///< seconds over which the desired velocity is smoothed, 0 to 10
  float queue_gap = -1.f;  ///< metres to keep behind the NPC that walks ahead; negative: no queueing
};

}  // namespace ambulon
