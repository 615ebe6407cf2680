#include "scene/play.hpp"
#include "scene/verbs/verb.hpp"

namespace ambulon::scene {
namespace {

constexpr Key keys[] = {
    needed(point("march",
                 "Keeps its place in a squad with all that march there: to a point, or behind an NPC.")),
    one_of("formation", "line|column|wedge|ring|block", "The formation; block by default."),
    number("spacing", 0.1, 100, "metres", "Distance of neighbours; 1.2 by default."),
    within_key,
    unreachable_key,
    patience_key,
};

constexpr Field<MarchOptions> fields[] = {{"within", &MarchOptions::within}};

MarchStep read(const Names& names, const Reader& reader) {
  MarchStep step{.to = names.point(reader.node("march"), "march"), .options = {}};
  if (const auto word = reader.one_of("formation"))
    step.formation = static_cast<Formation>(*word + 1);  // `as_they_are` is not for marching
  reader.into(step.spacing, "spacing");
  read_choice(step.unreachable, reader, "unreachable");
  read_numbers(step.options, fields, reader);
  return step;
}

Order give(const MarchStep& step, Play& play, Npc me) { return me.march(play.squad(step), step.options); }

constexpr VerbOf<MarchStep> verb{.name = "march",
                                 .doc = "Marches in formation.",
                                 .keys = keys,
                                 .read = read,
                                 .give = give,
                                 .fields = fields};

}  // namespace

extern const Verb march_verb;  // for verb.cpp
const Verb march_verb = any_verb<verb>();

}  // namespace ambulon::scene
