#include <fmt/format.h>

#include "scene/checker.hpp"
#include "scene/play.hpp"
#include "scene/verbs/verb.hpp"

namespace ambulon::scene {
namespace {

constexpr Key keys[] = {
    needed(shape("hop", "waypoints", "Walks to random points of a set.")),
    flag("repeats", "May choose the same point twice in a row."),
    range("pause", 0, 1e6, "seconds", "Stop at each point without a `pause` of its own."),
    visits_key,
    leg_time_key,
    within_key,
    unreachable_key,
    patience_key,
};

constexpr Field<HopOptions> fields[] = {{"leg_time", &HopOptions::leg_time}, {"within", &HopOptions::within}};

HopStep read(const Names& names, const Reader& reader) {
  HopStep step{.points = std::make_shared<Beat>(BeatOrder::shuffled), .options = {}};
  read_waypoints(*step.points, names, reader, "hop");
  read_choice(step.options.unreachable, reader, "unreachable");
  read_numbers(step.options, fields, reader);
  reader.into(step.options.repeats, "repeats");
  read_count(step.options.visits, reader, "visits");
  return step;
}

Order give(const HopStep& step, Play& play, Npc me) {
  return me.hop(play.waypoints(step.list, *step.points), step.options);
}

void check(Checker& checker, const HopStep& step, const SceneStep& all, const Gait&) {
  for (std::size_t i = 0; i < step.points->size(); ++i) checker.reachable((*step.points)[i].position, all);
  if (step.points->size() == 1 && !step.options.repeats && step.options.visits != 1)
    checker.find(all.where, fmt::format("{} hops among one point only", checker.npc().name),
                 "it may not choose the same point twice in a row, so its second leg ends as no_route",
                 "more points, or repeats = true");
}

constexpr VerbOf<HopStep> verb{.name = "hop",
                               .doc = "Walks to random points of a set.",
                               .keys = keys,
                               .read = read,
                               .give = give,
                               .fields = fields,
                               .arrival = &HopOptions::within,
                               .endless = [](const HopStep& step) { return step.options.visits == 0; },
                               .check = check};

}  // namespace

extern const Verb hop_verb;  // for verb.cpp
const Verb hop_verb = any_verb<verb>();

}  // namespace ambulon::scene
