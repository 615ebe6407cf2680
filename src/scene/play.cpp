#include "scene/play.hpp"

#include <fmt/format.h>

#include "ambulon/errand/squad.hpp"
#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/ground/tiles/tile_ground.hpp"
#include "ambulon/script/routine.hpp"

#include "scene/played.hpp"
#include "scene/work.hpp"

namespace ambulon {

Play::Play(std::shared_ptr<const Scene> scene, std::size_t journal, Jobs jobs)
    : scene_(std::move(scene)),
      ground_(scene_->ground.make()),
      tiles_(scene_->ground.tiles ? static_cast<TileGround*>(ground_.get()) : nullptr),
      mesh_(scene_->ground.is_mesh() ? static_cast<MeshGround*>(ground_.get()) : nullptr),
      barrier_ground_(scene_->ground.takes_barriers() ? static_cast<BarrierGround*>(ground_.get()) : nullptr),
      world_({.ground = ground_.get(),
              .seed = scene_->seed,
              .journal = journal,
              .avoid = scene_->avoid,
              .patience = scene_->patience,
              .route_work = scene_->route_work,
              .jobs = std::move(jobs)}),
      fields_(tiles_),
      spawner_(world_, scene_->ground.level ? mesh_ : nullptr, scene_->ground.rules) {}

Expected<std::unique_ptr<Play>> Play::start(const Scene& scene, std::size_t journal, Jobs jobs) {
  return start(std::shared_ptr<const Scene>(std::shared_ptr<void>(), &scene), journal, std::move(jobs));
}

Expected<std::unique_ptr<Play>> Play::start(std::shared_ptr<const Scene> scene, std::size_t journal,
                                            Jobs jobs) {
  std::unique_ptr<Play> play(new Play(std::move(scene), journal, std::move(jobs)));
  play->world_.reserve(play->scene_->npcs.size());
  for (const SceneNpc& npc : play->scene_->npcs) {
    auto added = play->spawner_.add(*play->scene_, npc);
    if (!added) return tl::unexpected(added.error());
    play->npcs_.push_back(*added);
  }
  play->removed_.resize(play->npcs_.size());
  if (auto looked = play->world_.set_viewers(play->scene_->viewers, play->scene_->detail); !looked)
    return tl::unexpected(looked.error());
  play->switches_.watch(*play->scene_, play->npcs_);
  for (std::size_t i = 0; i < play->npcs_.size(); ++i) {
    play->watch_touch(i);
    play->begin_work(play->scene_, i);
  }
  return play;
}

std::shared_ptr<Beat> Play::waypoints(const WaypointList& list, const Beat& of) {
  std::shared_ptr<Beat>& known = waypoints_[list];
  if (!known) known = std::make_shared<Beat>(of);
  return known;
}

const Beat& Play::waypoints_now(const WaypointList& list, const Beat& of) const {
  const auto known = waypoints_.find(list);
  return known != waypoints_.end() ? *known->second : of;
}

/// Returns the squad of all that march like this; a new one if the last one has no members.
std::shared_ptr<Squad> Play::squad(const MarchStep& step) {
  std::weak_ptr<Squad>& known = squads_[fmt::format(
      "{} {} {} {} {} {} {}", step.to.npc, step.to.at.x, step.to.at.y, step.to.at.z,
      static_cast<int>(step.formation), step.spacing, static_cast<int>(step.unreachable))];
  if (auto squad = known.lock()) return squad;
  auto squad =
      Squad::make({.formation = step.formation, .spacing = step.spacing, .unreachable = step.unreachable})
          .value();  // checked when read
  known = squad;
  if (step.to.npc.empty())
    (void)squad->go_to(step.to.at);
  else
    squad->follow(world_.find(step.to.npc).id());
  return squad;
}

/// Starts the steps of an NPC, which belong to that scene.
void Play::begin_work(const std::shared_ptr<const Scene>& scene, std::size_t index) {
  const SceneNpc& npc = scene->npcs[index];
  if (npc.steps.empty()) return;
  ambulon::start(npcs_[index], [&npc, scene, &all = *this](Npc me) {
    return work_through(all, me, npc.steps, npc.repeat ? 0 : 1);
  });
}

/// Gives the NPC's touch signal, if it has one.
void Play::watch_touch(std::size_t index) {
  const SceneTouch& touch = scene_->npcs[index].on_touch;
  if (touch.signal.empty()) return npcs_[index].on_touch({});
  npcs_[index].on_touch([signal = touch.signal](Npc me, Npc, float) { me.world()->signal(signal); },
                        tags_of(world_, touch.tags));
}

void Play::tick() {
  while (next_event_ < scene_->events.size() && scene_->events[next_event_].at <= world_.time() + 1e-6)
    (void)happen(scene_->events[next_event_++]);  // a late one changes nothing
  fields_.update();
  (void)world_.tick(1.f / static_cast<float>(scene_->rate));  // the rate was checked when it was read
  switches_.apply();
}

Statistics Play::statistics(std::size_t index) const {
  return removed_[index] ? removed_[index]->statistics : npcs_[index].statistics();
}

Motion Play::motion(std::size_t index) const {
  return removed_[index] ? removed_[index]->motion : npcs_[index].motion();
}

std::string Play::sentence(const Note& note) const {
  return world_.sentence(note, scene_->place_at(note.where));
}

}  // namespace ambulon
