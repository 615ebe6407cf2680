#include "scene/verbs/verb.hpp"

namespace ambulon::scene {
namespace {

constexpr Key keys[] = {
    needed(shape("sequence", "steps", "Orders in sequence.")),
    whole("times", 0, 4e9, "", "Number of repetitions; 1 by default, 0: no limit."),
};

SequenceStep read(const Names& names, const Reader& reader) {
  SequenceStep step{.steps = read_steps(names, reader.node("sequence"), "sequence"), .times = 1};
  read_count(step.times, reader, "times");
  return step;
}

constexpr VerbOf<SequenceStep> verb{.name = "sequence",
                                    .doc = "Orders in sequence.",
                                    .keys = keys,
                                    .read = read,
                                    .endless = [](const SequenceStep& step) { return step.times == 0; }};

}  // namespace

extern const Verb sequence_verb;  // for verb.cpp
const Verb sequence_verb = any_verb<verb>();

}  // namespace ambulon::scene
