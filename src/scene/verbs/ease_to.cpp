#include "scene/checker.hpp"
#include "scene/played.hpp"
#include "scene/verbs/verb.hpp"

namespace ambulon::scene {
namespace {

constexpr Key keys[] = {
    needed(point("ease_to", "Moves there in a straight line, in a given time.")),
    needed(number("seconds", 0.001, 1e6, "seconds", "Duration of the move.")),
    one_of("easing", "linear|in|out|in_out", "Speed over time; in_out by default."),
    one_of("turn", "first|going|never", "When it turns to its direction; going by default."),
    anywhere_key,
};

constexpr Field<EaseToOptions> fields[] = {{"seconds", &EaseToOptions::seconds}};

EaseToStep read(const Names& names, const Reader& reader) {
  EaseToStep step{.to = names.point(reader.node("ease_to"), "ease_to"), .options = {}};
  read_numbers(step.options, fields, reader);
  read_choice(step.options.easing, reader, "easing");
  read_choice(step.options.turn, reader, "turn");
  reader.into(step.options.anywhere, "anywhere");
  return step;
}

Order give(const EaseToStep& step, Play&, Npc me) {
  World& world = *me.world();
  return me.ease_to(position_of(world, step.to), step.options);
}

void check(Checker& checker, const EaseToStep& step, const SceneStep& all, const Gait&) {
  if (!step.options.anywhere) checker.reachable(step.to, all);
}

constexpr VerbOf<EaseToStep> verb{.name = "ease_to",
                                  .doc = "Moves to a point in a given time.",
                                  .keys = keys,
                                  .read = read,
                                  .give = give,
                                  .fields = fields,
                                  .check = check};

}  // namespace

extern const Verb ease_to_verb;  // for verb.cpp
const Verb ease_to_verb = any_verb<verb>();

}  // namespace ambulon::scene
