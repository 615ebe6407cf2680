#pragma once
// The verbs of `do` lists. Each has a file of its own, with everything that scenes know of it.

#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <type_traits>
#include <variant>
#include <vector>

#include "scene/key_makers.hpp"
#include "scene/named_values.hpp"
#include "scene/names.hpp"
#include "scene/values.hpp"

namespace ambulon {

class Play;

namespace scene {

class Checker;

/// Keys of all verbs.
inline constexpr Key every_step_keys[] = {
    number("after", 0, 1e6, "seconds", "Time to wait first."),
    shape("when", "condition", "Condition to wait for first."),
    shape("gait", "gait_or_name", "The gait from this order on."),
    number("time_limit", 0.001, 1e6, "seconds", "Time limit of the order."),
    shape("until", "condition", "Condition that ends the order."),
};

/// The options of a step; `NoOptions` if it has none.
struct NoOptions {};
template <class Step>
struct OptionsOf {
  using type = NoOptions;
};
template <class Step>
  requires requires(Step step) { step.options; }
struct OptionsOf<Step> {
  using type = decltype(Step::options);
};

/// The description of a verb whose steps are of class `StepType`.
template <class StepType>
struct VerbOf {
  using Step = StepType;
  using Options = typename OptionsOf<Step>::type;

  std::string_view name;
  std::string_view doc;
  std::span<const Key> keys;  // the first is the verb
  Step (*read)(const Names& names, const Reader& reader);
  /// Gives its order; null for a verb that is several orders.
  Order (*give)(const Step& step, Play& play, Npc me) = nullptr;
  /// The numbers among its options, which are sliders of the page.
  std::span<const Field<Options>> fields = {};
  /// Its distance that counts as arrived at a point, if it has one.
  float Options::* arrival = nullptr;
  /// Returns true if the order never ends by itself; null: it always ends.
  bool (*endless)(const Step& step) = nullptr;
  /// Finds mistakes of a step; `all`: the same with conditions; `gait`: of its NPC then.
  void (*check)(Checker& checker, const Step& step, const SceneStep& all, const Gait& gait) = nullptr;
};

/// The description of any verb. Its functions take steps of that verb only.
struct Verb {
  Table table;
  StepVerb (*read)(const Names& names, const Reader& reader);
  Order (*give)(const StepVerb& step, Play& play, Npc me);
  std::vector<NamedValue> (*values)(const StepVerb& step);
  std::optional<float> (*arrival)(const StepVerb& step);
  bool (*endless)(const StepVerb& step);
  void (*check)(Checker& checker, const SceneStep& step, const Gait& gait);
};

/// Turns a constant description into that of any verb.
template <const auto& of>
constexpr Verb any_verb() {
  using Step = typename std::remove_cvref_t<decltype(of)>::Step;
  return {.table = {of.name, of.doc, of.keys, every_step_keys},
          .read = [](const Names& names, const Reader& reader) -> StepVerb { return of.read(names, reader); },
          .give = [](const StepVerb& step, Play& play, Npc me) -> Order {
            if constexpr (of.give == nullptr)
              return {};
            else
              return of.give(std::get<Step>(step), play, me);
          },
          .values = [](const StepVerb& step) -> std::vector<NamedValue> {
            if constexpr (of.fields.empty())
              return {};
            else
              return values(std::get<Step>(step).options, of.fields);
          },
          .arrival = [](const StepVerb& step) -> std::optional<float> {
            if constexpr (of.arrival == nullptr)
              return std::nullopt;
            else
              return std::get<Step>(step).options.*of.arrival;
          },
          .endless =
              [](const StepVerb& step) {
                if constexpr (of.endless == nullptr)
                  return false;
                else
                  return of.endless(std::get<Step>(step));
              },
          .check =
              [](Checker& checker, const SceneStep& step, const Gait& gait) {
                if constexpr (of.check != nullptr) of.check(checker, std::get<Step>(step.verb), step, gait);
              }};
}

/// Returns all verbs, in the order of `StepVerb`.
std::span<const Verb* const> verbs();
/// Returns the verb of a step.
inline const Verb& verb_of(const StepVerb& step) { return *verbs()[step.index()]; }

// Keys of several verbs.

constexpr Key within_key = number("within", 0.001, 1000, "metres", "Distance that counts as arrived.");
constexpr Key leg_time_key = number("leg_time", 0, 1e6, "seconds", "Time limit of a leg; 0: none.");
constexpr Key patience_key =
    number("patience", 0.1, 1e6, "seconds",
           "Without progress after which it ends as stuck; by default that of the gait.");
constexpr Key visits_key = whole("visits", 0, 4e9, "", "Number after which it ends; 0: never.");
constexpr Key pick_key = one_of("pick", "nearest|any", "Which one of a group is the target.");
constexpr Key act_key = shape("act", "act", "Signals that it gives when its target comes near or leaves.");
constexpr Key replan_distance_key =
    number("replan_distance", 0.01, 1000, "metres",
           "Distance that the target moves before the route is planned again.");
constexpr Key foresight_key =
    number("foresight", 0, 60, "seconds", "Time ahead for which the target's place is predicted.");
constexpr Key anywhere_key = flag("anywhere", "May leave the ground and change height.");

// What several verbs read.

void read_count(std::uint32_t& value, const Reader& reader, std::string_view key);

/// Reads a word of a list in the order of the enumeration.
template <class Choice>
void read_choice(Choice& value, const Reader& reader, std::string_view key) {
  if (const auto read = reader.one_of(key)) value = static_cast<Choice>(*read);
}

/// Reads all numbers of a verb's options.
template <class Options, std::size_t count>
void read_numbers(Options& options, const Field<Options> (&fields)[count], const Reader& reader) {
  for (const auto& field : fields) reader.into(options.*field.value, field.key, field.unit);
}

/// Throws a mistake for a value below another one's minimum.
void must_not_be_less(const Reader& reader, std::string_view key, float value, std::string_view other,
                      float min);
void read_waypoints(Beat& beat, const Names& names, const Reader& reader, std::string_view key);
SceneTarget read_target(const Names& names, const Reader& reader, std::string_view key);
SceneAct read_act(const Names& names, const Reader& reader, float& act_within);

// What several verbs need for their orders.

/// Returns the target as it is in the world.
Target target_of(World& world, const SceneTarget& target);
/// Gives the signals of `act`, which must outlive the order.
Order with_act(Order order, const SceneAct& act);

}  // namespace scene
}  // namespace ambulon
