#include <algorithm>
#include <cmath>
#include <limits>

#include <fmt/format.h>

#include "ambulon/motion/motion.hpp"

#include "base/geometry.hpp"
#include "base/written.hpp"
#include "route/curve.hpp"
#include "scene/checker.hpp"
#include "scene/play.hpp"
#include "scene/verbs/verb.hpp"

namespace ambulon::scene {
namespace {

constexpr Key keys[] = {
    needed(shape("patrol", "waypoints", "Walks from waypoint to waypoint.")),
    one_of("order", "around|back_and_forth|once|shuffled", "Order of the waypoints."),
    one_of("path", "straight|curve", "Straight legs, or a smooth curve through all waypoints."),
    one_of("start", "nearest|first", "The first waypoint."),
    number("lap", 0.1, 1e6, "seconds", "Time of one lap with pauses; by default the gait's speed applies."),
    within_key,
    leg_time_key,
    range("pause", 0, 1e6, "seconds", "Stop at each waypoint without a `pause` of its own."),
    unreachable_key,
    patience_key,
};

constexpr Field<PatrolOptions> fields[] = {
    {"lap", &PatrolOptions::lap}, {"within", &PatrolOptions::within}, {"leg_time", &PatrolOptions::leg_time}};

PatrolStep read(const Names& names, const Reader& reader) {
  const auto order = static_cast<BeatOrder>(reader.one_of("order").value_or(0));
  const auto path = static_cast<BeatPath>(reader.one_of("path").value_or(0));
  if (order == BeatOrder::shuffled && path == BeatPath::curve)
    reader.wrong("path", "is curve, but a shuffled beat has no curve; use straight");
  if (order == BeatOrder::shuffled && reader.has("lap"))
    reader.wrong("lap", "is given, but a shuffled beat has no lap; leave it out");
  PatrolStep step{.beat = std::make_shared<Beat>(order, path), .options = {}};
  read_choice(step.options.start, reader, "start");
  read_choice(step.options.unreachable, reader, "unreachable");
  read_numbers(step.options, fields, reader);
  read_waypoints(*step.beat, names, reader, "patrol");
  return step;
}

Order give(const PatrolStep& step, Play& play, Npc me) {
  return me.patrol(play.waypoints(step.list, *step.beat), step.options);
}

/// Finds waypoints that are reached together.
void check_distances(Checker& checker, const PatrolStep& patrol, const SceneStep& step) {
  const Beat& beat = *patrol.beat;
  const bool closed = beat.order() == BeatOrder::around && beat.size() > 2;
  for (std::size_t i = 0; i + (closed ? 0 : 1) < beat.size(); ++i) {
    const std::size_t next = (i + 1) % beat.size();
    const float apart = glm::distance(beat[i].position, beat[next].position);
    if (apart < 0.01f)
      checker.find(
          step.where,
          fmt::format("{}'s waypoints {} and {} are the same point", checker.npc().name, i + 1, next + 1),
          "it arrives there twice without a step between", "leave one of them out");
    else if (apart <= patrol.options.within)
      checker.find(step.where,
                   fmt::format("{}'s waypoints {} and {} are {:.2f} m apart, and it arrives within {:g} m",
                               checker.npc().name, i + 1, next + 1, apart, patrol.options.within),
                   "it arrives at both without a step between",
                   fmt::format("leave one of them out, or a `within` of {:.2f} or less", 0.5f * apart));
  }
}

/// Finds lap times that are too short for the pauses, or for any speed.
void check_lap(Checker& checker, const PatrolStep& patrol, const SceneStep& step) {
  const float seconds = patrol.options.lap;
  const Beat& beat = *patrol.beat;
  if (seconds <= 0.f || beat.size() < 2) return;
  const bool back = beat.order() == BeatOrder::back_and_forth;
  float pauses = 0.f, metres = 0.f;
  for (std::size_t i = 0; i < beat.size(); ++i) {
    const bool end = i == 0 || i + 1 == beat.size();
    pauses += (back && !end ? 2.f : 1.f) * beat[i].pause.middle();
    if (i + 1 < beat.size() || beat.order() == BeatOrder::around)
      metres += (back ? 2.f : 1.f) * flat_distance(beat[i].position, beat[(i + 1) % beat.size()].position);
  }
  const float fast = 3.f * run_speed(checker.npc().body), min = pauses + metres / fast;
  if (seconds > min) return;
  checker.find(step.where, fmt::format("{}'s lap is to take {:g} s", checker.npc().name, seconds),
               pauses >= seconds
                   ? fmt::format("its pauses alone take {:g} s", pauses)
                   : fmt::format("that is {:.1f} m/s; a body of its height runs at most about {:.1f} m/s",
                                 metres / (seconds - pauses), fast),
               fmt::format("a lap of {:.0f} or more", std::ceil(pauses + metres / checker.npc().gait.speed)));
}

/// Finds curves that leave the ground between waypoints on it.
void check_curve(Checker& checker, const Beat& beat, const SceneStep& step) {
  constexpr float off_curve = 0.05f;  // metres
  if (beat.path() != BeatPath::curve || beat.size() < 2) return;
  const Curve& curve = beat.curve();
  const float part = std::max(0.5f, curve.length() / 10'000.f);  // metres between samples
  for (float along = 0.f; along < curve.length(); along += part) {
    const vec3 at = curve.position(along);
    const Snap here = checker.ground().snap(at, std::numeric_limits<float>::infinity(), checker.npc().body);
    const float off = here.found ? flat_distance(here.spot.position, at) : 0.f;
    if (off <= off_curve) continue;
    return checker.find(step.where,
                        fmt::format("{}'s curve leaves the ground by {:.2f} m near {}", checker.npc().name,
                                    off, written(at, 1)),
                        "it walks that leg by the shortest way instead, with corners",
                        "a waypoint more there, or path = \"straight\"");
  }
}

void check(Checker& checker, const PatrolStep& step, const SceneStep& all, const Gait&) {
  for (std::size_t i = 0; i < step.beat->size(); ++i) checker.reachable((*step.beat)[i].position, all);
  check_distances(checker, step, all);
  check_lap(checker, step, all);
  check_curve(checker, *step.beat, all);
}

constexpr VerbOf<PatrolStep> verb{
    .name = "patrol",
    .doc = "Walks from waypoint to waypoint.",
    .keys = keys,
    .read = read,
    .give = give,
    .fields = fields,
    .arrival = &PatrolOptions::within,
    .endless = [](const PatrolStep& step) { return step.beat->order() != BeatOrder::once; },
    .check = check};

}  // namespace

extern const Verb patrol_verb;  // for verb.cpp
const Verb patrol_verb = any_verb<verb>();

}  // namespace ambulon::scene
