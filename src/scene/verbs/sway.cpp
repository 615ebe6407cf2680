#include "scene/verbs/verb.hpp"

namespace ambulon::scene {
namespace {

constexpr Key keys[] = {
    needed(vector("sway", "metres", "Moves back and forth on a sine: vector from the centre to one end.")),
    vector("across", "metres", "Second half axis: moves on an ellipse."),
    number("frequency", 1e-4, 100, "times per second", "Frequency."),
    number("phase", -360, 360, "degrees", "Phase at the start: 0 at the centre, 90 at the end."),
    whole("times", 0, 4e9, "", "Number of cycles; 0: no limit."),
    anywhere_key,
};

constexpr Field<SwayOptions> fields[] = {{"frequency", &SwayOptions::frequency},
                                         {"phase", &SwayOptions::phase, radians(1.f)}};

SwayStep read(const Names&, const Reader& reader) {
  SwayStep step;
  step.options.axis = *reader.vector("sway");
  step.options.across = reader.vector("across").value_or(vec3(0.f));
  read_numbers(step.options, fields, reader);
  read_count(step.options.times, reader, "times");
  reader.into(step.options.anywhere, "anywhere");
  return step;
}

Order give(const SwayStep& step, Play&, Npc me) { return me.sway(step.options); }

constexpr VerbOf<SwayStep> verb{.name = "sway",
                                .doc = "Moves back and forth.",
                                .keys = keys,
                                .read = read,
                                .give = give,
                                .fields = fields,
                                .endless = [](const SwayStep& step) { return step.options.times == 0; }};

}  // namespace

extern const Verb sway_verb;  // for verb.cpp
const Verb sway_verb = any_verb<verb>();

}  // namespace ambulon::scene
