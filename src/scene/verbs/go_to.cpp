#include "scene/checker.hpp"
#include "scene/played.hpp"
#include "scene/verbs/verb.hpp"

namespace ambulon::scene {
namespace {

constexpr Key keys[] = {needed(point("go_to", "Walks to a point.")), within_key, unreachable_key,
                        patience_key};

constexpr Field<GoToOptions> fields[] = {{"within", &GoToOptions::within}};

GoToStep read(const Names& names, const Reader& reader) {
  GoToStep step{.to = names.point(reader.node("go_to"), "go_to"), .options = {}};
  read_choice(step.options.unreachable, reader, "unreachable");
  read_numbers(step.options, fields, reader);
  return step;
}

Order give(const GoToStep& step, Play&, Npc me) {
  World& world = *me.world();
  return me.go_to(position_of(world, step.to), step.options);
}

void check(Checker& checker, const GoToStep& step, const SceneStep& all, const Gait&) {
  checker.reachable(step.to, all);
}

constexpr VerbOf<GoToStep> verb{.name = "go_to",
                                .doc = "Walks to a point.",
                                .keys = keys,
                                .read = read,
                                .give = give,
                                .fields = fields,
                                .arrival = &GoToOptions::within,
                                .check = check};

}  // namespace

extern const Verb go_to_verb;  // for verb.cpp
const Verb go_to_verb = any_verb<verb>();

}  // namespace ambulon::scene
