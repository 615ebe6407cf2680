#include "scene/played.hpp"
#include "scene/verbs/verb.hpp"

namespace ambulon::scene {
namespace {

constexpr Key keys[] = {
    needed(number("wander", 0, 360, "degrees", "Wanders, with random turns of at most that angle.")),
    number("every", 0.05, 1e6, "seconds", "Time between two turns."),
    number("speed", 0, 100, "metres per second", "Speed; 0: that of its gait."),
    number("radius", 0, 100'000, "metres", "Distance from home at which it turns back; 0: none."),
    point("home", "Its home; by default its position."),
};

constexpr Field<WanderOptions> fields[] = {{"wander", &WanderOptions::turn, radians(1.f)},
                                           {"every", &WanderOptions::every},
                                           {"speed", &WanderOptions::speed},
                                           {"radius", &WanderOptions::radius}};

WanderStep read(const Names& names, const Reader& reader) {
  WanderStep step;
  read_numbers(step.options, fields, reader);
  if (reader.has("home")) step.home = names.point(reader.node("home"), "home");
  return step;
}

Order give(const WanderStep& step, Play&, Npc me) {
  World& world = *me.world();
  WanderOptions options = step.options;
  if (step.home) options.home = position_of(world, *step.home);
  return me.wander(options);
}

constexpr VerbOf<WanderStep> verb{.name = "wander",
                                  .doc = "Wanders.",
                                  .keys = keys,
                                  .read = read,
                                  .give = give,
                                  .fields = fields,
                                  .endless = [](const WanderStep&) { return true; }};

}  // namespace

extern const Verb wander_verb;  // for verb.cpp
const Verb wander_verb = any_verb<verb>();

}  // namespace ambulon::scene
