#include "scene/verbs/verb.hpp"

namespace ambulon::scene {
namespace {

constexpr Key keys[] = {needed(range("pause", 0, 1e6, "seconds", "Stands still."))};

PauseStep read(const Names&, const Reader& reader) { return {*reader.range("pause")}; }

Order give(const PauseStep& step, Play&, Npc me) {
  return me.pause(me.random(step.seconds.min, step.seconds.max));
}

constexpr VerbOf<PauseStep> verb{
    .name = "pause", .doc = "Stands for a time.", .keys = keys, .read = read, .give = give};

}  // namespace

extern const Verb pause_verb;  // for verb.cpp
const Verb pause_verb = any_verb<verb>();

}  // namespace ambulon::scene
