// Checks the events of a scene.

#include <algorithm>
#include <set>

#include <fmt/format.h>

#include "base/written.hpp"
#include "scene/checker.hpp"
#include "scene/hindrance.hpp"

namespace ambulon::scene {

/// Finds barriers that stay and shut a character off from its goal.
void Checker::shutting_barriers() {
  if (!scene_.ground.takes_barriers()) return;
  std::vector<const SceneEvent*> stay;
  for (const SceneEvent& event : scene_.events) {
    const auto* put = std::get_if<PutEvent>(&event.what);
    const bool leaves = put != nullptr && std::ranges::any_of(scene_.events, [&](const SceneEvent& other) {
                          const auto* gone = std::get_if<TakeAwayEvent>(&other.what);
                          const auto* moved = std::get_if<MoveEvent>(&other.what);
                          return (gone != nullptr && gone->barrier == put->barrier) ||
                                 (moved != nullptr && moved->barrier == put->barrier);
                        });
    if (put != nullptr && !leaves) stay.push_back(&event);
  }
  if (stay.empty()) return;
  const auto ground = scene_.ground.make();
  auto& barriers = static_cast<BarrierGround&>(*ground);
  for (const SceneEvent* event : stay) {
    const PutEvent& put = std::get<PutEvent>(event->what);
    const BarrierId id = barriers.put(put.shape);
    for (const SceneNpc& npc : scene_.npcs) {
      if (npc.repeats_another()) continue;
      if (const auto goal = shut_off(npc, *ground)) {
        find(event->where,
             fmt::format("the barrier {} shuts the only route of {} to {}", put.barrier, npc.name,
                         as_given(*goal)),
             "it stays there, so the route stays shut", "take it away later, or leave a way beside it");
        break;
      }
    }
    (void)barriers.remove(id);  // it is there
  }
}

/// Returns a goal of the NPC that is reachable, but not with the barrier.
std::optional<vec3> Checker::shut_off(const SceneNpc& npc, const Ground& shut) const {
  std::vector<vec3> goals;
  each_step(npc.steps, [&](const SceneStep& step) {
    if (const auto* go = std::get_if<GoToStep>(&step.verb); go != nullptr && go->to.npc.empty())
      goals.push_back(go->to.at);
  });
  each_waypoint_list(npc.steps, [&](const WaypointList&, const std::shared_ptr<Beat>& beat) {
    for (std::size_t i = 0; i < beat->size(); ++i) goals.push_back((*beat)[i].position);
  });
  const auto reaches = [&](const Ground& ground, vec3 goal) {
    const Snap here = ground.snap(npc.at.at, reach, npc.body), there = ground.snap(goal, reach, npc.body);
    return here && there && ground.reachable(here.spot, there.spot);
  };
  for (const vec3 goal : goals)
    if (reaches(*ground_, goal) && !reaches(shut, goal)) return goal;
  return std::nullopt;
}

/// Checks events for named characters: their places, and whether the characters still exist.
void Checker::errands_of_events() {
  std::set<std::string, std::less<>> gone;
  std::vector<const SceneEvent*> in_turn;
  for (const SceneEvent& event : scene_.events) in_turn.push_back(&event);
  std::ranges::stable_sort(in_turn, {}, &SceneEvent::at);
  for (const SceneEvent* event : in_turn) {
    const auto whom = std::visit(
        [](const auto& what) {
          if constexpr (requires { what.npc; }) return what.npc;
          return std::string();
        },
        event->what);
    if (whom.empty()) continue;
    if (gone.contains(whom)) {
      find(event->where,
           fmt::format("the event at {:g} s is for {}, who was removed before", event->at, whom),
           "nothing happens", "leave it out, or let it happen earlier");
      continue;
    }
    if (std::holds_alternative<RemoveEvent>(event->what)) gone.insert(whom);
    const auto npc = std::ranges::find(scene_.npcs, whom, &SceneNpc::name);
    if (npc == scene_.npcs.end()) continue;
    npc_ = &*npc;
    stands_ = npc->at.at;
    const std::string name = fmt::format("the event at {:g} s", event->at);
    if (const auto* send = std::get_if<SendEvent>(&event->what); send != nullptr && send->to.npc.empty())
      reachable(send->to.at, event->where, name);
    if (const auto* put = std::get_if<TeleportEvent>(&event->what); put != nullptr && put->to.npc.empty())
      on_ground(put->to.at, event->where, name);
    npc_ = nullptr;
  }
}

/// Checks the goal of a click or a changed waypoint, for the first NPC that cannot reach it.
void Checker::goals_of_events() {
  for (const SceneEvent& event : scene_.events) {
    const std::string name = fmt::format("the event at {:g} s", event.at);
    // Other orders go to the nearest spot. Rays may miss, as players' clicks do.
    if (const auto* click = std::get_if<ClickEvent>(&event.what);
        click != nullptr && !click->ray && click->to.npc.empty() &&
        click->options.unreachable != Unreachable::nearest)
      goal_for(click->to.at, event, name, [&](const SceneNpc& npc) { return is_of(npc, click->who); });
    if (const auto* add = std::get_if<AddWaypointEvent>(&event.what))
      goal_for(add->waypoint.position, event, name,
               [&](const SceneNpc& npc) { return npc.written_name() == add->list.npc; });
    if (const auto* move = std::get_if<MoveWaypointEvent>(&event.what))
      goal_for(move->to, event, name,
               [&](const SceneNpc& npc) { return npc.written_name() == move->list.npc; });
  }
}

template <class Meant>
void Checker::goal_for(vec3 goal, const SceneEvent& event, const std::string& name, Meant&& meant) {
  const std::size_t before = findings_.size();
  std::string_view looked_at;  // its `many`
  for (const SceneNpc& npc : scene_.npcs) {
    if (!meant(npc) || (!npc.many.empty() && npc.many == looked_at)) continue;
    looked_at = npc.many;
    npc_ = &npc;
    stands_ = npc.at.at;
    reachable(goal, event.where, name);
    npc_ = nullptr;
    if (findings_.size() > before) return;
  }
}

/// Returns true if one of the names is its own or one of its tags.
bool Checker::is_of(const SceneNpc& npc, const std::vector<std::string>& names) {
  return std::ranges::any_of(names, [&](const std::string& name) {
    return name == npc.name || std::ranges::find(npc.tags, name) != npc.tags.end();
  });
}

void Checker::events() {
  errands_of_events();
  goals_of_events();
  shutting_barriers();
  for (const SceneEvent& event : scene_.events)
    if (const auto* click = std::get_if<ClickEvent>(&event.what);
        click != nullptr && click->ray && !ground_->first_met(*click->ray))
      find(event.where, fmt::format("the click at {:g} s hits nothing but sky", event.at),
           "no character is sent", "a point of the window, or a ray, at which there is ground");
  for (const SceneEvent& event : scene_.events)
    if (event.at > scene_.length)
      find(event.where, fmt::format("the event at {:g} s does not happen", event.at),
           fmt::format("the scene ends at {:g} s", scene_.length),
           fmt::format("a length of {:g} or more", event.at + 1));
}

}  // namespace ambulon::scene
