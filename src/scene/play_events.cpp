// Carries out the events of a scene.

#include <algorithm>

#include <fmt/format.h>

#include "ambulon/motion/steering.hpp"
#include "ambulon/world/pick.hpp"

#include "scene/play.hpp"
#include "scene/played.hpp"

namespace ambulon {
namespace {

constexpr std::size_t max_selections = 64;  // sent by clicks

}  // namespace

/// The effect of an event.
struct Play::Happen {
  Play& play;
  Expected<void> done = {};

  void operator()(const SignalEvent& event) const { play.world_.signal(event.signal); }
  void operator()(const SendEvent& event) const {
    play.world_.find(event.npc).go_to(position_of(play.world_, event.to), event.options);
  }
  void operator()(const ClickEvent& event) const {
    Selection& selected = play.selection(event.who);
    if (selected.size() == 0) return;
    vec3 at = event.ray ? vec3(0.f) : position_of(play.world_, event.to);
    if (event.ray) {
      const Picked picked = pick(*play.ground_, *event.ray, selected.npcs().front().body());
      if (picked.what == Picked::What::sky) {
        for (const Npc npc : selected.npcs()) play.world_.tell({.event = Event::no_place, .who = npc.id()});
        return;
      }
      at = picked.at;
    }
    (void)selected.form(event.formation, event.spacing);  // checked when it was read
    (void)(event.hold   ? selected.hold(at, event.options)
           : event.then ? selected.add_click(at, event.options)
                        : selected.click(at, event.options));
  }
  void operator()(const ReleaseEvent& event) const { play.selection(event.who).release(); }
  void operator()(const RemoveEvent& event) const {
    for (std::size_t i = 0; i < play.npcs_.size(); ++i)
      if (play.npcs_[i].alive() && play.scene_->npcs[i].name == event.npc)
        play.removed_[i] = Last{play.npcs_[i].statistics(), play.npcs_[i].motion()};
    play.world_.find(event.npc).remove();
  }
  void operator()(const SuspendEvent& event) const {
    const Npc npc = play.world_.find(event.npc);
    event.suspended ? npc.suspend() : npc.resume();
  }
  void operator()(const TeleportEvent& event) const {
    play.put(play.world_.find(event.npc), position_of(play.world_, event.to));
  }
  void operator()(const PutEvent& event) const {
    const auto [barrier, fresh] = play.barriers_.try_emplace(event.barrier);
    if (fresh)
      barrier->second = play.barrier_ground_->put(event.shape);
    else
      (void)play.barrier_ground_->move(barrier->second, event.shape);  // it is there
  }
  void operator()(const MoveEvent& event) const {
    const auto barrier = play.barriers_.find(event.barrier);
    if (barrier == play.barriers_.end()) return;
    const auto placed =
        std::ranges::find(play.barrier_ground_->barriers(), barrier->second, &PlacedBarrier::id);
    const Barrier& shape = placed->barrier;
    (void)play.barrier_ground_->move(barrier->second,
                                     shape.moved(event.to - 0.5f * (shape.min() + shape.max())));
  }
  void operator()(const TakeAwayEvent& event) const {
    const auto barrier = play.barriers_.find(event.barrier);
    if (barrier == play.barriers_.end()) return;
    (void)play.barrier_ground_->remove(barrier->second);  // it is there
    play.barriers_.erase(barrier);
  }
  void operator()(const ShutEvent& event) const {  // crossings keep the order of the file
    const CrossingId id = play.mesh_->placed_crossings()[event.crossing].id;
    (void)(event.shut ? play.mesh_->shut(id) : play.mesh_->open(id));
  }
  void operator()(const LayEvent& event) const {
    (void)play.tiles_->fill(event.cells, event.terrain);  // checked when it was read
  }
  void operator()(const AddWaypointEvent& event) {
    Beat& beat = *play.waypoints(event.list, *event.of);
    const auto before = event.before > 0 ? id_of(beat, event.list, event.before) : std::nullopt;
    if (!done) return;
    (void)beat.add(event.waypoint, before);  // checked when it was read
    ++play.waypoint_changes_;
  }
  void operator()(const MoveWaypointEvent& event) {
    Beat& beat = *play.waypoints(event.list, *event.of);
    const auto id = id_of(beat, event.list, event.number);
    if (!id) return;
    (void)beat.move(*id, event.to);  // it is there, and was checked when it was read
    ++play.waypoint_changes_;
  }
  void operator()(const RemoveWaypointEvent& event) {
    Beat& beat = *play.waypoints(event.list, *event.of);
    const auto id = id_of(beat, event.list, event.number);
    if (!id) return;
    beat.remove(*id);
    ++play.waypoint_changes_;
  }
  /// Returns the waypoint of that number, counted from 1.
  std::optional<WaypointId> id_of(const Beat& beat, const WaypointList& list, std::uint32_t number) {
    if (number <= beat.size()) return beat.id(number - 1);
    done = problem(fmt::format("{} has no waypoint {}; it has {} now", list.npc, number, beat.size()));
    return std::nullopt;
  }
  void operator()(const ChangeEvent& event) const {
    const Npc npc = play.world_.find(event.npc);
    Gait gait = npc.gait();
    if (event.change.whole) gait = *event.change.whole;
    for (const auto& [value, number] : event.change.numbers) gait.*value = number;
    gait.turn_first = event.change.turn_first.value_or(gait.turn_first);
    (void)npc.set_gait(with_mass(gait, event.change.mass.value_or(gait.mass)));
  }
};

void Play::put(Npc npc, vec3 to) {
  if (!npc.alive() || npc.teleport(to)) return;
  const Snap snap = ground_->snap(to, std::numeric_limits<float>::infinity(), npc.body());
  world_.tell({.event = Event::not_teleported,
               .who = npc.id(),
               .where = to,
               .outcome = {.ending = Ending::off_ground,
                           .cause = Cause::goal_off_ground,
                           .value = snap.off,
                           .where = snap.spot.position}});
}

/// Returns the NPCs with these names or tags as a selection, which is kept.
Selection& Play::selection(const std::vector<std::string>& who) {
  if (pointed_.size() >= max_selections && !pointed_.contains(who)) pointed_.erase(pointed_.begin());
  const auto [selected, fresh] = pointed_.try_emplace(who);
  if (!fresh) return selected->second;
  for (const std::string& name : who)
    if (const Npc npc = world_.find(name); npc.alive())
      selected->second.add(npc);
    else
      selected->second.add_tagged(world_, tags_of(world_, std::span(&name, 1)));
  return selected->second;
}

Expected<void> Play::happen(const SceneEvent& event) {
  Happen happen{.play = *this};
  std::visit(happen, event.what);
  return happen.done;
}

}  // namespace ambulon
