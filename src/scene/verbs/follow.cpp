#include <algorithm>

#include "base/geometry.hpp"
#include "scene/checker.hpp"
#include "scene/played.hpp"
#include "scene/verbs/verb.hpp"

namespace ambulon::scene {
namespace {

constexpr Key keys[] = {
    needed(text("follow", "Follows that NPC, or one with that tag.")),
    pick_key,
    number("stop", 0.05, 1000, "metres", "Distance at which it stops."),
    number("resume", 0.05, 100'000, "metres", "Distance at which it starts again."),
    vector("offset", "metres", "Its place relative to the target: ahead and to the left, or in world axes."),
    one_of("frame", "target|world", "Frame of the offset."),
    range("distances", 0, 100'000, "metres", "At these distances …"),
    range("speeds", 0, 100, "metres per second", "… it has these speeds; linear between them."),
    replan_distance_key,
    act_key,
    unreachable_key,
    patience_key,
};

constexpr Field<FollowOptions> fields[] = {{"stop", &FollowOptions::stop},
                                           {"resume", &FollowOptions::resume},
                                           {"replan_distance", &FollowOptions::replan_distance}};

FollowStep read(const Names& names, const Reader& reader) {
  FollowStep step{.target = read_target(names, reader, "follow"), .options = {}, .act = {}};
  FollowOptions& options = step.options;
  read_choice(options.unreachable, reader, "unreachable");
  read_numbers(options, fields, reader);
  if (!reader.has("resume")) options.resume = std::max(options.resume, options.stop);
  must_not_be_less(reader, "resume", options.resume, "stop", options.stop);
  options.offset = flat(reader.vector("offset").value_or(vec3(0.f)));
  read_choice(options.frame, reader, "frame");
  options.distances = reader.range("distances").value_or(Range{});
  options.speeds = reader.range("speeds").value_or(Range{});
  if (reader.has("distances") != reader.has("speeds"))
    mistake(names.file(), reader.toml(), "distances and speeds belong together; give both or neither");
  step.act = read_act(names, reader, options.act_within);
  return step;
}

Order give(const FollowStep& step, Play&, Npc me) {
  World& world = *me.world();
  return with_act(me.follow(target_of(world, step.target), step.options), step.act);
}

void check(Checker& checker, const FollowStep& step, const SceneStep& all, const Gait& gait) {
  checker.acts(step.target, step.act, step.options.act_within, all);
  checker.keeps_up(step.target, std::max(gait.speed, step.options.speeds.max),
                   "once behind, it never catches up", "", all);
}

constexpr VerbOf<FollowStep> verb{.name = "follow",
                                  .doc = "Follows a character.",
                                  .keys = keys,
                                  .read = read,
                                  .give = give,
                                  .fields = fields,
                                  .endless = [](const FollowStep&) { return true; },
                                  .check = check};

}  // namespace

extern const Verb follow_verb;  // for verb.cpp
const Verb follow_verb = any_verb<verb>();

}  // namespace ambulon::scene
