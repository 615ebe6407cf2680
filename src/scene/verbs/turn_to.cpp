#include "scene/played.hpp"
#include "scene/verbs/verb.hpp"

namespace ambulon::scene {
namespace {

constexpr Key keys[] = {
    needed(shape("turn_to", "facing", "Turns to a point, or to a heading in degrees.")),
};

TurnToStep read(const Names& names, const Reader& reader) {
  const toml::node& to = reader.node("turn_to");
  TurnToStep step;
  if (to.is_number())
    step.heading = radians(static_cast<float>(names.heading(to, "turn_to")));
  else
    step.to = names.point(to, "turn_to");
  return step;
}

Order give(const TurnToStep& step, Play&, Npc me) {
  World& world = *me.world();
  return step.heading ? me.turn_to_heading(*step.heading) : me.turn_to(position_of(world, step.to));
}

constexpr VerbOf<TurnToStep> verb{
    .name = "turn_to", .doc = "Turns on the spot.", .keys = keys, .read = read, .give = give};

}  // namespace

extern const Verb turn_to_verb;  // for verb.cpp
const Verb turn_to_verb = any_verb<verb>();

}  // namespace ambulon::scene
