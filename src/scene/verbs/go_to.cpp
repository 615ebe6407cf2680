#include "scene/checker.hpp"
#include "scene/played.hpp"
#include "scene/verbs/verb.hpp"

namespace ambulon::scene {
namespace {

constexpr Key keys[] = {
    needed(point("go_to", "Walks to a point, or to a character wherever it goes.")),
    within_key,
    number("arrive_in", 0.001, 1e6, "seconds",
           "Time in which it arrives; by default the gait's speed applies."),
    shape("facing", "facing", "Point or heading (degrees) to turn to on arrival."),
    unreachable_key,
    patience_key,
};

constexpr Field<GoToOptions> fields[] = {{"within", &GoToOptions::within},
                                         {"arrive_in", &GoToOptions::arrive_in}};

GoToStep read(const Names& names, const Reader& reader) {
  GoToStep step{.to = names.point(reader.node("go_to"), "go_to"), .options = {}};
  read_choice(step.options.unreachable, reader, "unreachable");
  read_numbers(step.options, fields, reader);
  if (reader.has("facing")) {
    if (!step.to.npc.empty() && !reader.node("facing").is_number())
      reader.wrong("facing",
                   "must be a heading in degrees, since where the character is reached is not known");
    step.options.facing = names.facing(reader.node("facing"), step.to.at, "facing");
  }
  return step;
}

Order give(const GoToStep& step, Play&, Npc me) {
  World& world = *me.world();
  if (!step.to.npc.empty()) return me.go_to(world.find(step.to.npc), step.options);
  return me.go_to(step.to.at, step.options);
}

void check(Checker& checker, const GoToStep& step, const SceneStep& all, const Gait&) {
  checker.reachable(step.to, all);
}

constexpr VerbOf<GoToStep> verb{.name = "go_to",
                                .doc = "Walks to a point, or to a character wherever it goes.",
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
