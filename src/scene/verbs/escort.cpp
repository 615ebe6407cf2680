#include <tuple>

#include <fmt/format.h>

#include "scene/checker.hpp"
#include "scene/verbs/verb.hpp"

namespace ambulon::scene {
namespace {

constexpr Key keys[] = {
    needed(text("escort", "Accompanies that NPC.")),
    number("leash", 0.1, 100'000, "metres", "Distance of the leader at which it follows."),
    range("ring", 0.1, 1000, "metres", "Distances from the leader of its place."),
    within_key,
    replan_distance_key,
    unreachable_key,
    patience_key,
};

constexpr Field<EscortOptions> fields[] = {{"leash", &EscortOptions::leash},
                                           {"within", &EscortOptions::within},
                                           {"replan_distance", &EscortOptions::replan_distance}};

EscortStep read(const Names& names, const Reader& reader) {
  EscortStep step{.leader = names.npc(reader, "escort"), .options = {}};
  read_choice(step.options.unreachable, reader, "unreachable");
  step.options.ring = reader.range("ring").value_or(step.options.ring);
  read_numbers(step.options, fields, reader);
  must_not_be_less(reader, "leash", step.options.leash, "the ring", step.options.ring.max);
  return step;
}

Order give(const EscortStep& step, Play&, Npc me) {
  World& world = *me.world();
  return me.escort(world.find(step.leader), step.options);
}

void check(Checker& checker, const EscortStep& step, const SceneStep& all, const Gait& gait) {
  const auto& [leash, ring] = std::tie(step.options.leash, step.options.ring);
  const std::string& name = checker.npc().name;
  if (leash < 1.15f * ring.max)
    checker.find(all.where,
                 fmt::format("{}'s leash is {:g} m and its ring reaches {:g} m", name, leash, ring.max),
                 "from the rim of the ring it sets off again at the leader's first step",
                 fmt::format("a leash of {:.1f} or more", 1.5f * ring.max));
  for (const SceneNpc& leader : checker.scene().npcs)
    if (leader.name == step.leader && !leader.steps.empty() && leader.gait.speed > gait.speed)
      checker.find(all.where,
                   fmt::format("{} escorts {} at {:g} m/s, who moves at {:g} m/s", name, leader.name,
                               gait.speed, leader.gait.speed),
                   "it falls behind", fmt::format("a speed of {:.1f} or more", 1.2f * leader.gait.speed));
}

constexpr VerbOf<EscortStep> verb{.name = "escort",
                                  .doc = "Accompanies a leader.",
                                  .keys = keys,
                                  .read = read,
                                  .give = give,
                                  .fields = fields,
                                  .endless = [](const EscortStep&) { return true; },
                                  .check = check};

}  // namespace

extern const Verb escort_verb;  // for verb.cpp
const Verb escort_verb = any_verb<verb>();

}  // namespace ambulon::scene
