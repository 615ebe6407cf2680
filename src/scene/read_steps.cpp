// Reads `do` lists: each order with its options.

#include <algorithm>

#include "scene/names.hpp"
#include "scene/values.hpp"

namespace ambulon {

std::string_view verb_of(const SceneStep& step) { return scene::step_tables()[step.verb.index()]->name; }

namespace scene {
namespace {

/// Returns the table of the entry's verb. The `pause` of a patrol is an option, not a second verb.
const Table& table_of(const Names& names, const toml::table& toml) {
  std::vector<std::string_view> verbs;
  const Table* found = nullptr;
  for (const Table* table : step_tables()) {
    verbs.push_back(table->name);
    if (!toml.contains(table->name) || (found != nullptr && find_key(*found, table->name) != nullptr))
      continue;
    if (found != nullptr && find_key(*table, found->name) == nullptr)
      mistake(names.file(), toml,
              fmt::format("an entry of do has two verbs, {} and {}; make them two entries", found->name,
                          table->name));
    found = table;
  }
  if (found != nullptr) return *found;
  std::string hint;
  for (const auto& [key, value] : toml)
    if (hint.empty()) hint = did_you_mean(key.str(), verbs);
  if (hint.empty()) hint = fmt::format("; it must be one of {}", fmt::join(verbs, ", "));
  mistake(names.file(), toml, fmt::format("an entry of do has no verb{}", hint));
}

void count_into(std::uint32_t& value, const Reader& reader, std::string_view key) {
  if (const auto read = reader.whole(key)) value = static_cast<std::uint32_t>(*read);
}

/// Reads all its numbers.
template <class Options>
void numbers_into(Options& options, const Reader& reader) {
  for (const auto& field : fields_of(options)) reader.into(options.*field.value, field.key, field.unit);
}

template <class Choice>
void choice_into(Choice& value, const Reader& reader, std::string_view key) {
  if (const auto read = reader.one_of(key)) value = static_cast<Choice>(*read);
}

/// Throws a mistake for a value below another one's minimum.
void must_not_be_less(const Reader& reader, std::string_view key, float value, std::string_view other,
                      float min) {
  if (value < min)
    mistake(reader.file(), reader.has(key) ? reader.node(key) : reader.toml(),
            fmt::format("{} is {:g}, which is less than {} ({:g})", key, value, other, min));
}

Waypoint waypoint(const Names& names, const toml::node& node, Range pause) {
  if (node.is_table()) return read_waypoint(names, {names.file(), *node.as_table(), waypoint_table}, pause);
  return {.position = names.point(node, "a waypoint", false).at, .pause = pause};
}

void waypoints_into(Beat& beat, const Names& names, const Reader& reader, std::string_view key) {
  const Range pause = reader.range("pause").value_or(Range{});
  const toml::array& list = as_array(names.file(), reader.node(key), key);
  if (list.empty()) reader.wrong(key, "is empty; give it at least one waypoint");
  std::vector<Waypoint> waypoints;
  for (const toml::node& node : list) waypoints.push_back(waypoint(names, node, pause));
  if (auto added = beat.append(waypoints); !added) mistake(names.file(), list, added.error().text);
}

SceneTarget target(const Names& names, const Reader& reader, std::string_view key) {
  SceneTarget target = names.target(reader.node(key), std::string(key));
  choice_into(target.pick, reader, "pick");
  return target;
}

SceneAct act(const Names& names, const Reader& reader, float& act_within) {
  if (!reader.has("act")) return {};
  const Reader act(names.file(), as_table(names.file(), reader.node("act"), "act"), act_table);
  act.into(act_within, "within");
  return {.enter = act.text("enter").value_or(""), .leave = act.text("leave").value_or("")};
}

GoToStep go_to(const Names& names, const Reader& reader) {
  GoToStep step{.to = names.point(reader.node("go_to"), "go_to"), .options = {}};
  choice_into(step.options.unreachable, reader, "unreachable");
  numbers_into(step.options, reader);
  return step;
}

TurnToStep turn_to(const Names& names, const Reader& reader) {
  const toml::node& to = reader.node("turn_to");
  TurnToStep step;
  if (to.is_number())
    step.heading = radians(static_cast<float>(names.heading(to, "turn_to")));
  else
    step.to = names.point(to, "turn_to");
  return step;
}

PatrolStep patrol(const Names& names, const Reader& reader) {
  const auto order = static_cast<BeatOrder>(reader.one_of("order").value_or(0));
  const auto path = static_cast<BeatPath>(reader.one_of("path").value_or(0));
  if (order == BeatOrder::shuffled && path == BeatPath::curve)
    reader.wrong("path", "is curve, but a shuffled beat has no curve; use straight");
  if (order == BeatOrder::shuffled && reader.has("lap"))
    reader.wrong("lap", "is given, but a shuffled beat has no lap; leave it out");
  PatrolStep step{.beat = std::make_shared<Beat>(order, path), .options = {}};
  choice_into(step.options.start, reader, "start");
  choice_into(step.options.unreachable, reader, "unreachable");
  numbers_into(step.options, reader);
  waypoints_into(*step.beat, names, reader, "patrol");
  return step;
}

RoamStep roam(const Names& names, const Reader& reader) {
  RoamStep step;
  choice_into(step.options.unreachable, reader, "unreachable");
  numbers_into(step.options, reader);
  if (step.options.not_nearer >= step.options.radius)
    reader.wrong("not_nearer", fmt::format("is {:g}, which leaves nothing of the {:g} m around its home",
                                           step.options.not_nearer, step.options.radius));
  reader.into(step.options.from_where_it_stands, "from_where_it_stands");
  step.options.pause = reader.range("pause").value_or(Range{});
  count_into(step.options.visits, reader, "visits");
  if (reader.has("home")) step.home = names.point(reader.node("home"), "home");
  return step;
}

HopStep hop(const Names& names, const Reader& reader) {
  HopStep step{.points = std::make_shared<Beat>(BeatOrder::shuffled), .options = {}};
  waypoints_into(*step.points, names, reader, "hop");
  choice_into(step.options.unreachable, reader, "unreachable");
  numbers_into(step.options, reader);
  reader.into(step.options.repeats, "repeats");
  count_into(step.options.visits, reader, "visits");
  return step;
}

FollowStep follow(const Names& names, const Reader& reader) {
  FollowStep step{.target = target(names, reader, "follow"), .options = {}, .act = {}};
  FollowOptions& options = step.options;
  choice_into(options.unreachable, reader, "unreachable");
  numbers_into(options, reader);
  if (!reader.has("resume")) options.resume = std::max(options.resume, options.stop);
  must_not_be_less(reader, "resume", options.resume, "stop", options.stop);
  options.offset = flat(reader.vector("offset").value_or(vec3(0.f)));
  choice_into(options.frame, reader, "frame");
  options.distances = reader.range("distances").value_or(Range{});
  options.speeds = reader.range("speeds").value_or(Range{});
  if (reader.has("distances") != reader.has("speeds"))
    mistake(names.file(), reader.toml(), "distances and speeds belong together; give both or neither");
  step.act = act(names, reader, options.act_within);
  return step;
}

ChaseStep chase(const Names& names, const Reader& reader) {
  ChaseStep step{.target = target(names, reader, "chase"), .options = {}, .act = {}};
  choice_into(step.options.unreachable, reader, "unreachable");
  numbers_into(step.options, reader);
  if (step.options.give_up > 0.f)
    must_not_be_less(reader, "give_up", step.options.give_up, "reach", step.options.reach);
  step.act = act(names, reader, step.options.act_within);
  return step;
}

FleeStep flee(const Names& names, const Reader& reader) {
  FleeStep step{.target = target(names, reader, "flee"), .options = {}, .act = {}};
  numbers_into(step.options, reader);
  step.act = act(names, reader, step.options.act_within);
  return step;
}

EscortStep escort(const Names& names, const Reader& reader) {
  EscortStep step{.leader = names.npc(reader, "escort"), .options = {}};
  choice_into(step.options.unreachable, reader, "unreachable");
  step.options.ring = reader.range("ring").value_or(step.options.ring);
  numbers_into(step.options, reader);
  must_not_be_less(reader, "leash", step.options.leash, "the ring", step.options.ring.max);
  return step;
}

MarchStep march(const Names& names, const Reader& reader) {
  MarchStep step{.to = names.point(reader.node("march"), "march"), .options = {}};
  if (const auto word = reader.one_of("formation"))
    step.formation = static_cast<Formation>(*word + 1);  // `as_they_are` is not for marching
  reader.into(step.spacing, "spacing");
  choice_into(step.unreachable, reader, "unreachable");
  numbers_into(step.options, reader);
  return step;
}

EaseToStep ease_to(const Names& names, const Reader& reader) {
  EaseToStep step{.to = names.point(reader.node("ease_to"), "ease_to"), .options = {}};
  numbers_into(step.options, reader);
  choice_into(step.options.easing, reader, "easing");
  choice_into(step.options.turn, reader, "turn");
  reader.into(step.options.anywhere, "anywhere");
  return step;
}

SwayStep sway(const Reader& reader) {
  SwayStep step;
  step.options.axis = *reader.vector("sway");
  step.options.across = reader.vector("across").value_or(vec3(0.f));
  numbers_into(step.options, reader);
  count_into(step.options.times, reader, "times");
  reader.into(step.options.anywhere, "anywhere");
  return step;
}

PaceStep pace(const Reader& reader) {
  PaceStep step;
  if (!*reader.flag("pace")) reader.wrong("pace", "must be true");
  if (const auto heading = reader.number("heading"))
    step.options.heading = radians(static_cast<float>(*heading));
  numbers_into(step.options, reader);
  step.options.pause = reader.range("pause").value_or(Range{});
  reader.into(step.options.flip, "flip");
  count_into(step.options.turns, reader, "turns");
  return step;
}

WanderStep wander(const Names& names, const Reader& reader) {
  WanderStep step;
  numbers_into(step.options, reader);
  if (reader.has("home")) step.home = names.point(reader.node("home"), "home");
  return step;
}

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

FlowStep flow(const Names& names, const Reader& reader) {
  FlowStep step;
  const toml::node& goals = reader.node("flow");
  const toml::array* list = goals.as_array();
  if (list != nullptr && !list->empty() && !(*list)[0].is_number())
    for (const toml::node& node : *list) step.goals.push_back(names.point(node, "a goal", false).at);
  else
    step.goals.push_back(names.point(goals, "flow", false).at);
  if (const auto word = reader.one_of("unreachable"))
    step.options.unreachable = static_cast<Unreachable>(*word + 1);  // a flow field has no nearest spot
  numbers_into(step.options, reader);
  return step;
}

ThreadStep thread(const Names& names, const Reader& reader) {
  ThreadStep step;
  choice_into(step.options.choice, reader, "thread");
  count_into(step.options.choices, reader, "choices");
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

SteerStep steer(const Names& names, const Reader& reader) {
  SteerStep step;
  const toml::array& list = as_array(names.file(), reader.node("steer"), "steer");
  if (list.empty()) reader.wrong("steer", "is empty; give it at least one behaviour");
  for (const toml::node& node : list) step.terms.push_back(term(names, node));
  choice_into(step.options.mode, reader, "mode");
  numbers_into(step.options, reader);
  return step;
}

SequenceStep sequence(const Names& names, const Reader& reader) {
  SequenceStep step{.steps = read_steps(names, reader.node("sequence"), "sequence"), .times = 1};
  count_into(step.times, reader, "times");
  return step;
}

/// Reads the order of an entry.
decltype(SceneStep::verb) verb(const Names& names, const Table& table, const Reader& reader) {
  if (&table == &go_to_table) return go_to(names, reader);
  if (&table == &turn_to_table) return turn_to(names, reader);
  if (&table == &pause_table) return PauseStep{*reader.range("pause")};
  if (&table == &patrol_table) return patrol(names, reader);
  if (&table == &wait_for_table) return WaitForStep{*reader.text("wait_for")};
  if (&table == &roam_table) return roam(names, reader);
  if (&table == &hop_table) return hop(names, reader);
  if (&table == &follow_table) return follow(names, reader);
  if (&table == &chase_table) return chase(names, reader);
  if (&table == &flee_table) return flee(names, reader);
  if (&table == &escort_table) return escort(names, reader);
  if (&table == &march_table) return march(names, reader);
  if (&table == &ease_to_table) return ease_to(names, reader);
  if (&table == &sway_table) return sway(reader);
  if (&table == &pace_table) return pace(reader);
  if (&table == &wander_table) return wander(names, reader);
  if (&table == &flow_table) return flow(names, reader);
  if (&table == &thread_table) return thread(names, reader);
  if (&table == &steer_table) return steer(names, reader);
  if (&table == &teleport_step_table) return TeleportStep{names.point(reader.node("teleport"), "teleport")};
  return sequence(names, reader);
}

SceneStep step(const Names& names, const toml::node& node) {
  const toml::table& toml = as_table(names.file(), node, "an entry of do");
  const Table& table = table_of(names, toml);
  const Reader reader(names.file(), toml, table);
  const auto condition = [&](std::string_view key) -> std::optional<SceneCondition> {
    if (!reader.has(key)) return std::nullopt;
    return names.condition({names.file(), as_table(names.file(), reader.node(key), key), condition_table});
  };
  SceneStep step{.verb = verb(names, table, reader)};
  reader.into(step.after, "after");
  if (const auto seconds = reader.number("time_limit")) step.time_limit = static_cast<float>(*seconds);
  if (find_key(table, "patience") != nullptr)
    if (const auto seconds = reader.number("patience")) step.patience = static_cast<float>(*seconds);
  if (reader.has("gait")) step.gait = names.gait(reader.node("gait"), "gait");
  step.when = condition("when");
  step.until = condition("until");
  step.where = place_of(toml);
  return step;
}

}  // namespace

Waypoint read_waypoint(const Names& names, const Reader& reader, Range pause) {
  Waypoint waypoint{.position = names.point(reader.node("at"), "a waypoint", false).at, .pause = pause};
  waypoint.pause = reader.range("pause").value_or(pause);
  reader.into(waypoint.weight, "weight");
  if (reader.has("facing"))
    waypoint.facing = names.facing(reader.node("facing"), waypoint.position, "facing");
  return waypoint;
}

std::vector<SceneStep> read_steps(const Names& names, const toml::node& node, const std::string& what) {
  std::vector<SceneStep> steps;
  const toml::array& list = as_array(names.file(), node, what);
  if (list.empty())
    mistake(names.file(), node, fmt::format("{} is empty; give it something to do or leave it out", what));
  for (const toml::node& each : list) steps.push_back(step(names, each));
  return steps;
}

}  // namespace scene
}  // namespace ambulon
