#include "scene/verbs/verb.hpp"

namespace ambulon::scene {
namespace {

constexpr Key keys[] = {
    needed(flag("pace", "Walks straight on and turns around at obstacles.")),
    number("heading", -360, 360, "degrees", "First direction; by default the one that it faces."),
    number("gap", 0, 100, "metres", "Distance from obstacles at which it turns."),
    range("pause", 0, 1e6, "seconds", "Stop before each turn."),
    flag("flip", "Turns around instantly, as in side view."),
    whole("turns", 0, 4e9, "", "Number after which it ends; 0: never."),
};

constexpr Field<PaceOptions> fields[] = {{"gap", &PaceOptions::gap}};

PaceStep read(const Names&, const Reader& reader) {
  PaceStep step;
  if (!*reader.flag("pace")) reader.wrong("pace", "must be true");
  if (const auto heading = reader.number("heading"))
    step.options.heading = radians(static_cast<float>(*heading));
  read_numbers(step.options, fields, reader);
  step.options.pause = reader.range("pause").value_or(Range{});
  reader.into(step.options.flip, "flip");
  read_count(step.options.turns, reader, "turns");
  return step;
}

Order give(const PaceStep& step, Play&, Npc me) { return me.pace(step.options); }

constexpr VerbOf<PaceStep> verb{.name = "pace",
                                .doc = "Walks straight on and turns around at obstacles.",
                                .keys = keys,
                                .read = read,
                                .give = give,
                                .fields = fields,
                                .endless = [](const PaceStep& step) { return step.options.turns == 0; }};

}  // namespace

extern const Verb pace_verb;  // for verb.cpp
const Verb pace_verb = any_verb<verb>();

}  // namespace ambulon::scene
