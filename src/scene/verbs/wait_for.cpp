#include "scene/checker.hpp"
#include "scene/verbs/verb.hpp"

namespace ambulon::scene {
namespace {

constexpr Key keys[] = {
    needed(text("wait_for", "Stands until the signal is given.")),
};

WaitForStep read(const Names&, const Reader& reader) { return {*reader.text("wait_for")}; }

Order give(const WaitForStep& step, Play&, Npc me) { return me.wait_for(step.signal); }

void check(Checker& checker, const WaitForStep& step, const SceneStep& all, const Gait&) {
  checker.awaits(step.signal, all);
}

constexpr VerbOf<WaitForStep> verb{.name = "wait_for",
                                   .doc = "Stands until a signal.",
                                   .keys = keys,
                                   .read = read,
                                   .give = give,
                                   .check = check};

}  // namespace

extern const Verb wait_for_verb;  // for verb.cpp
const Verb wait_for_verb = any_verb<verb>();

}  // namespace ambulon::scene
