#include "scene/checker.hpp"
#include "scene/played.hpp"
#include "scene/verbs/verb.hpp"

namespace ambulon::scene {
namespace {

constexpr Key keys[] = {
    needed(one_of("thread", "random|toward|away|left|right",
                  "Walks through a maze of tiles; the choice at each junction.")),
    point("target", "The target of toward and away: a point, an NPC, or the nearest with a tag."),
    whole("choices", 0, 4e9, "", "Number after which it ends; 0: never."),
};

ThreadStep read(const Names& names, const Reader& reader) {
  ThreadStep step;
  read_choice(step.options.choice, reader, "thread");
  read_count(step.options.choices, reader, "choices");
  const bool aims = step.options.choice == ThreadChoice::toward || step.options.choice == ThreadChoice::away;
  if (aims != reader.has("target"))
    reader.wrong("thread", aims ? "is toward or away and needs a target" : "takes no target; leave it out");
  if (!aims) return step;
  const toml::node& target = reader.node("target");
  const auto name = target.value<std::string>();
  if (name && !names.is_place(*name))
    step.target = names.target(target, "target");
  else
    step.options.point = names.point(target, "target", false).at;
  return step;
}

Order give(const ThreadStep& step, Play&, Npc me) {
  World& world = *me.world();
  ThreadOptions options = step.options;
  options.target = target_of(world, step.target);
  return me.thread(options);
}

void check(Checker& checker, const ThreadStep&, const SceneStep& all, const Gait&) {
  checker.needs_tiles(all);
}

constexpr VerbOf<ThreadStep> verb{.name = "thread",
                                  .doc = "Walks through a maze of tiles.",
                                  .keys = keys,
                                  .read = read,
                                  .give = give,
                                  .endless = [](const ThreadStep& step) { return step.options.choices == 0; },
                                  .check = check};

}  // namespace

extern const Verb thread_verb;  // for verb.cpp
const Verb thread_verb = any_verb<verb>();

}  // namespace ambulon::scene
