#include "scene/played.hpp"
#include "scene/verbs/verb.hpp"

namespace ambulon::scene {
namespace {

constexpr Key keys[] = {
    needed(text("flee", "Runs away from that NPC, or the nearest with that tag.")),
    pick_key,
    number("reach", 0.1, 100'000, "metres", "Distance that is far enough."),
    foresight_key,
    act_key,
};

constexpr Field<FleeOptions> fields[] = {{"reach", &FleeOptions::reach},
                                         {"foresight", &FleeOptions::foresight}};

FleeStep read(const Names& names, const Reader& reader) {
  FleeStep step{.target = read_target(names, reader, "flee"), .options = {}, .act = {}};
  read_numbers(step.options, fields, reader);
  step.act = read_act(names, reader, step.options.act_within);
  return step;
}

Order give(const FleeStep& step, Play&, Npc me) {
  World& world = *me.world();
  return with_act(me.flee(target_of(world, step.target), step.options), step.act);
}

constexpr VerbOf<FleeStep> verb{.name = "flee",
                                .doc = "Runs away from a character.",
                                .keys = keys,
                                .read = read,
                                .give = give,
                                .fields = fields};

}  // namespace

extern const Verb flee_verb;  // for verb.cpp
const Verb flee_verb = any_verb<verb>();

}  // namespace ambulon::scene
