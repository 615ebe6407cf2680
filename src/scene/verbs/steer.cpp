#include <fmt/format.h>

#include "base/geometry.hpp"
#include "scene/played.hpp"
#include "scene/verbs/verb.hpp"

namespace ambulon::scene {
namespace {

constexpr Key keys[] = {
    needed(shape("steer", "terms", "Steers by a blend of behaviours.")),
    one_of("mode", "weighted|priority", "Weighted mean of the behaviours, or by priority in their order."),
    number("budget", 0, 1, "", "Sum of urgencies that `priority` uses."),
    number("speed", 0, 100, "metres per second", "Speed; 0: that of its gait."),
    number("min_speed", 0, 100, "metres per second", "Minimum speed, as of birds."),
    number("settle", 0, 10, "seconds", "Time constant of the smoothed velocity."),
    number("queue_gap", 0, 1000, "metres", "Distance to keep behind the one ahead."),
};

constexpr Field<SteerOptions> fields[] = {{"budget", &SteerOptions::budget},
                                          {"speed", &SteerOptions::speed},
                                          {"min_speed", &SteerOptions::min_speed},
                                          {"settle", &SteerOptions::settle},
                                          {"queue_gap", &SteerOptions::queue_gap}};

/// Behaviours in the order of their names in scene files, which is that of `Behaviour`.
constexpr std::size_t behaviours = static_cast<std::size_t>(Behaviour::own);

SceneTerm term(const Names& names, const toml::node& node) {
  const Reader reader(names.file(), as_table(names.file(), node, "an entry of steer"), term_table);
  std::vector<Behaviour> given;
  for (std::size_t i = 0; i < behaviours; ++i)
    if (reader.has(name(static_cast<Behaviour>(i)))) given.push_back(static_cast<Behaviour>(i));
  if (given.size() != 1)
    mistake(names.file(), node,
            fmt::format("an entry of steer has {} behaviours; it must have one", given.size()));
  SceneTerm result;
  Term& term = result.term;
  term.behaviour = given.front();
  const std::string_view key = name(term.behaviour);
  reader.into(term.weight, "weight");
  reader.into(term.within, "within");
  reader.into(term.every, "every");
  reader.into(term.view_angle, "view_angle", radians(1.f));
  term.band = reader.range("band").value_or(term.band);
  term.offset = flat(reader.vector("offset").value_or(vec3(0.f)));
  const toml::node& value = reader.node(key);
  if (term.behaviour == Behaviour::follow_path) {
    for (const toml::node& each : as_array(names.file(), value, key))
      term.path.push_back(flat(names.point(each, "a point of follow_path", false).at));
  } else if (term.behaviour == Behaviour::wander) {
    reader.into(term.turn, key, radians(1.f));
  } else if (term.behaviour == Behaviour::avoid_edges) {
    if (!*reader.flag(key)) reader.wrong(key, "must be true");
  } else if (term.behaviour >= Behaviour::separation) {
    if (*reader.text(key) != "all") result.target.tag = names.target(value, std::string(key)).tag;
    if (*reader.text(key) != "all" && result.target.tag.empty())
      reader.wrong(key, "is an NPC; it must be a tag");
  } else if (value.is_string() && !names.is_place(*value.value<std::string>())) {
    result.target = names.target(value, std::string(key));
  } else {
    term.at = names.point(value, std::string(key), false).at;
  }
  Blend trial;
  if (auto added = trial.add(term); !added) mistake(names.file(), node, added.error().text);
  return result;
}

SteerStep read(const Names& names, const Reader& reader) {
  SteerStep step;
  const toml::array& list = as_array(names.file(), reader.node("steer"), "steer");
  if (list.empty()) reader.wrong("steer", "is empty; give it at least one behaviour");
  for (const toml::node& node : list) step.terms.push_back(term(names, node));
  read_choice(step.options.mode, reader, "mode");
  read_numbers(step.options, fields, reader);
  return step;
}

BlendPtr blend_of(World& world, const SteerStep& step) {
  auto blend = std::make_shared<Blend>();
  for (const SceneTerm& each : step.terms) {
    Term term = each.term;
    const Target target = target_of(world, each.target);
    term.target = target.npc;
    term.tags = target.tags;
    (void)blend->add(std::move(term));  // checked when it was read
  }
  return blend;
}

Order give(const SteerStep& step, Play&, Npc me) {
  World& world = *me.world();
  return me.steer(blend_of(world, step), step.options);
}

constexpr VerbOf<SteerStep> verb{.name = "steer",
                                 .doc = "Steers by a blend of behaviours.",
                                 .keys = keys,
                                 .read = read,
                                 .give = give,
                                 .fields = fields,
                                 .endless = [](const SteerStep&) { return true; }};

}  // namespace

extern const Verb steer_verb;  // for verb.cpp
const Verb steer_verb = any_verb<verb>();

}  // namespace ambulon::scene
