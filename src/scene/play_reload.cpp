// Replaces the scene of a play by a changed one.

#include <algorithm>
#include <set>

#include <fmt/format.h>

#include "scene/play.hpp"
#include "scene/played.hpp"
#include "scene/values.hpp"

namespace ambulon {
namespace {

constexpr std::size_t nowhere = ~std::size_t{0};

}  // namespace

Expected<void> Play::reload(std::shared_ptr<const Scene> next) {
  if (!next->same_world(*scene_))
    return problem(fmt::format(
        "{}: the ground, `avoid`, `patience` or `route_work` was changed; restart the scene", next->file));
  const std::shared_ptr<const Scene> before = scene_;
  const std::vector<std::size_t> places = places_before(*next);
  auto npcs = npcs_of(*next, places);
  if (!npcs) return tl::unexpected(npcs.error());
  for (const Npc npc : std::exchange(npcs_, std::move(*npcs)))
    if (std::ranges::find(npcs_, npc) == npcs_.end()) npc.remove();
  std::vector<std::optional<Last>> gone(npcs_.size());
  for (std::size_t i = 0; i < gone.size(); ++i)
    if (places[i] != nowhere) gone[i] = removed_[places[i]];
  removed_ = std::move(gone);
  scene_ = std::move(next);
  (void)world_.set_viewers(scene_->viewers, scene_->detail);  // checked when it was read
  switches_.watch(*scene_, npcs_);
  forget_waypoints(*before, places);
  for (std::size_t i = 0; i < npcs_.size(); ++i)
    change(i, places[i] != nowhere ? &before->npcs[places[i]] : nullptr);
  const auto ahead = std::ranges::find_if(
      scene_->events, [&](const SceneEvent& event) { return event.at > world_.time() + 1e-6; });
  next_event_ = static_cast<std::size_t>(ahead - scene_->events.begin());
  return {};
}

/// Discards the changed waypoints of NPCs that are new or restart their steps.
void Play::forget_waypoints(const Scene& before, std::span<const std::size_t> places) {
  std::set<std::string, std::less<>> kept;
  for (std::size_t i = 0; i < places.size(); ++i)
    if (places[i] != nowhere && before.npcs[places[i]].work_sum == scene_->npcs[i].work_sum)
      kept.insert(scene_->npcs[i].written_name());
  std::erase_if(waypoints_, [&](const auto& each) { return !kept.contains(each.first.npc); });
}

/// Returns for each NPC of the next scene its number in the present one; `nowhere` for a new one. An NPC with
/// a changed value that cannot be set later counts as new.
std::vector<std::size_t> Play::places_before(const Scene& next) const {
  std::vector<std::size_t> places;
  for (const SceneNpc& npc : next.npcs) {
    const auto old = std::ranges::find(scene_->npcs, npc.name, &SceneNpc::name);
    const bool same = old != scene_->npcs.end() && old->tags == npc.tags && old->passes == npc.passes &&
                      old->avoidance == npc.avoidance && old->route_priority == npc.route_priority;
    places.push_back(same ? static_cast<std::size_t>(old - scene_->npcs.begin()) : nowhere);
  }
  return places;
}

/// Returns the NPCs of the next scene; new ones are added to the world. Returns a problem, and adds none, if
/// one cannot be added.
Expected<std::vector<Npc>> Play::npcs_of(const Scene& next, std::span<const std::size_t> places) {
  std::vector<Npc> npcs;
  for (std::size_t i = 0; i < places.size(); ++i) {
    auto npc = places[i] != nowhere ? npcs_[places[i]] : spawner_.add(next, next.npcs[i]);
    if (npc) {
      npcs.push_back(*npc);
      continue;
    }
    for (std::size_t k = 0; k < i; ++k)
      if (places[k] == nowhere) npcs[k].remove();
    return tl::unexpected(npc.error());
  }
  return npcs;
}

/// Applies the changes of NPC `index`; `old`: its previous description, null if it is new.
void Play::change(std::size_t index, const SceneNpc* old) {
  const SceneNpc& now = scene_->npcs[index];
  const Npc npc = npcs_[index];
  if (old != nullptr && old->gait != now.gait) {  // only what has changed
    Gait gait = npc.gait();
    for (const auto& field : scene::gait_fields)
      if (old->gait.*field.value != now.gait.*field.value) gait.*field.value = now.gait.*field.value;
    if (old->gait.turn_first != now.gait.turn_first) gait.turn_first = now.gait.turn_first;
    if (old->gait.mass != now.gait.mass) gait.mass = now.gait.mass;
    (void)npc.set_gait(gait);  // checked when it was read
  }
  if (old != nullptr && old->body != now.body) {
    Body body = now.body;
    body.passes = tags_of(world_, now.passes);
    (void)npc.set_body(body);
  }
  watch_touch(index);
  if (old != nullptr && old->work_sum == now.work_sum) return;
  npc.direct({});  // ends its script
  begin_work(scene_, index);
}

}  // namespace ambulon
