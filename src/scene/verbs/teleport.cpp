#include "scene/checker.hpp"
#include "scene/play.hpp"
#include "scene/played.hpp"
#include "scene/verbs/verb.hpp"

namespace ambulon::scene {
namespace {

constexpr Key keys[] = {needed(point("teleport", "Teleports itself."))};

TeleportStep read(const Names& names, const Reader& reader) {
  return {names.point(reader.node("teleport"), "teleport")};
}

Order give(const TeleportStep& step, Play& play, Npc me) {
  World& world = *me.world();
  play.put(me, position_of(world, step.to));
  return me.pause(0.f);
}

void check(Checker& checker, const TeleportStep& step, const SceneStep& all, const Gait&) {
  if (step.to.npc.empty()) checker.teleports(step.to.at, all);
}

constexpr VerbOf<TeleportStep> verb{
    .name = "teleport", .doc = "Teleports itself.", .keys = keys, .read = read, .give = give, .check = check};

}  // namespace

extern const Verb teleport_verb;  // for verb.cpp
const Verb teleport_verb = any_verb<verb>();

}  // namespace ambulon::scene
