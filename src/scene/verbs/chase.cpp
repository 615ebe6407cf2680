#include "scene/checker.hpp"
#include "scene/played.hpp"
#include "scene/verbs/verb.hpp"

namespace ambulon::scene {
namespace {

constexpr Key keys[] = {
    needed(text("chase", "Chases that NPC, or one with that tag.")),
    pick_key,
    number("reach", 0.01, 1000, "metres", "Distance that counts as caught."),
    number("give_up", 0, 100'000, "metres", "Distance at which the target has escaped; 0: none."),
    foresight_key,
    replan_distance_key,
    act_key,
    unreachable_key,
    patience_key,
};

constexpr Field<ChaseOptions> fields[] = {{"reach", &ChaseOptions::reach},
                                          {"give_up", &ChaseOptions::give_up},
                                          {"foresight", &ChaseOptions::foresight},
                                          {"replan_distance", &ChaseOptions::replan_distance}};

ChaseStep read(const Names& names, const Reader& reader) {
  ChaseStep step{.target = read_target(names, reader, "chase"), .options = {}, .act = {}};
  read_choice(step.options.unreachable, reader, "unreachable");
  read_numbers(step.options, fields, reader);
  if (step.options.give_up > 0.f)
    must_not_be_less(reader, "give_up", step.options.give_up, "reach", step.options.reach);
  step.act = read_act(names, reader, step.options.act_within);
  return step;
}

Order give(const ChaseStep& step, Play&, Npc me) {
  World& world = *me.world();
  return with_act(me.chase(target_of(world, step.target), step.options), step.act);
}

void check(Checker& checker, const ChaseStep& step, const SceneStep& all, const Gait& gait) {
  checker.acts(step.target, step.act, step.options.act_within, all);
  const bool bounded = step.options.give_up > 0.f || all.time_limit || all.until;
  checker.keeps_up(step.target, bounded ? SceneLimits::any : gait.speed,
                   "it never catches up and never gives up", ", or a give_up, a `time_limit` or an `until`",
                   all);
}

constexpr VerbOf<ChaseStep> verb{.name = "chase",
                                 .doc = "Chases a character.",
                                 .keys = keys,
                                 .read = read,
                                 .give = give,
                                 .fields = fields,
                                 .check = check};

}  // namespace

extern const Verb chase_verb;  // for verb.cpp
const Verb chase_verb = any_verb<verb>();

}  // namespace ambulon::scene
