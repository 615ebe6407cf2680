#include <fmt/format.h>

#include "scene/checker.hpp"
#include "scene/played.hpp"
#include "scene/verbs/verb.hpp"

namespace ambulon::scene {
namespace {

constexpr Key keys[] = {
    needed(number("roam", 0.1, 100'000, "metres", "Walks to random spots within that distance of its home.")),
    point("home", "The centre; by default its position."),
    number("not_nearer", 0, 100'000, "metres", "Minimum distance of spots from the centre."),
    flag("from_where_it_stands", "The centre is its present position."),
    range("pause", 0, 1e6, "seconds", "Stop at each spot."),
    visits_key,
    leg_time_key,
    within_key,
    unreachable_key,
    patience_key,
};

constexpr Field<RoamOptions> fields[] = {{"roam", &RoamOptions::radius},
                                         {"not_nearer", &RoamOptions::not_nearer},
                                         {"leg_time", &RoamOptions::leg_time},
                                         {"within", &RoamOptions::within}};

RoamStep read(const Names& names, const Reader& reader) {
  RoamStep step;
  read_choice(step.options.unreachable, reader, "unreachable");
  read_numbers(step.options, fields, reader);
  if (step.options.not_nearer >= step.options.radius)
    reader.wrong("not_nearer", fmt::format("is {:g}, which leaves nothing of the {:g} m around its home",
                                           step.options.not_nearer, step.options.radius));
  reader.into(step.options.from_where_it_stands, "from_where_it_stands");
  step.options.pause = reader.range("pause").value_or(Range{});
  read_count(step.options.visits, reader, "visits");
  if (reader.has("home")) step.home = names.point(reader.node("home"), "home");
  return step;
}

Order give(const RoamStep& step, Play&, Npc me) {
  World& world = *me.world();
  RoamOptions options = step.options;
  if (step.home) options.home = position_of(world, *step.home);
  return me.roam(options);
}

void check(Checker& checker, const RoamStep& step, const SceneStep& all, const Gait&) {
  if (step.home) checker.reachable(*step.home, all);
}

constexpr VerbOf<RoamStep> verb{.name = "roam",
                                .doc = "Walks to random spots.",
                                .keys = keys,
                                .read = read,
                                .give = give,
                                .fields = fields,
                                .arrival = &RoamOptions::within,
                                .endless = [](const RoamStep& step) { return step.options.visits == 0; },
                                .check = check};

}  // namespace

extern const Verb roam_verb;  // for verb.cpp
const Verb roam_verb = any_verb<verb>();

}  // namespace ambulon::scene
