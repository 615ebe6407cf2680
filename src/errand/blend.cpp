#include <algorithm>
#include <array>
#include <cmath>

#include <fmt/format.h>

#include "base/allowed.hpp"
#include "base/geometry.hpp"
#include "errand/wander.hpp"
#include "errand/wish_of.hpp"

namespace ambulon {
namespace {

constexpr std::array<std::string_view, 15> names = {
    "seek",        "arrive", "flee",       "pursue",    "evade",    "keep_distance",   "follow_offset",
    "follow_path", "wander", "separation", "alignment", "cohesion", "avoid_obstacles", "avoid_edges",
    "own"};

/// The point or the NPC that a term refers to.
struct About {
  vec2 offset;         // metres, relative to the NPC
  float metres = 0.f;  // its length
  vec2 velocity{0.f}, facing{1.f, 0.f};
};

std::optional<About> about(const Term& term, const View& see) {
  if (term.at) {
    const vec2 offset = flat(*term.at - see.me.position);
    return About{.offset = offset, .metres = glm::length(offset)};
  }
  const auto other = term.tags.empty()
                         ? see.others.find(term.target)
                         : see.others.nearest(term.tags, see.me.position, see.body.height, see.who);
  if (!other) return std::nullopt;
  return About{flat(other->position - see.me.position), see.metres_to(*other), other->velocity,
               other->facing};
}

Wish wish_about(const Term& term, const View& see, const About& what, float speed, float seconds) {
  const auto [offset, metres, velocity, facing] = what;
  const bool within = metres <= term.within;
  switch (term.behaviour) {
    case Behaviour::seek:
      return {seek(see.me, see.gait, offset, speed), 1.f};
    case Behaviour::arrive:
      return {
          within
              ? vec2(0.f)
              : arrive(see.me, see.gait, offset, glm::length(offset), term.within, speed, seconds).velocity,
          1.f};
    case Behaviour::flee:
      return within ? Wish{flee(see.me, see.gait, offset, speed), 1.f} : Wish{};
    case Behaviour::pursue:
      return {pursue(see.me, see.gait, offset, velocity, speed), 1.f};
    case Behaviour::evade:
      return within ? Wish{evade(see.me, see.gait, offset, velocity, speed), 1.f} : Wish{};
    case Behaviour::keep_distance:
      return {keep_distance(see.me, see.gait, offset, term.band, speed, seconds), 1.f};
    default: {  // follow_offset
      const vec2 slot = offset + term.offset.x * facing + term.offset.y * vec2(-facing.y, facing.x);
      return {follow_offset(see.me, see.gait, slot, velocity, speed, seconds), 1.f};
    }
  }
}

Wish wish_to_keep_off_edges(const Term& term, const View& see, float speed) {
  const vec2 forward = direction(see.me.velocity, see.me.facing), left(-forward.y, forward.x);
  std::array<Feeler, 3> feelers;
  const std::array<vec2, 3> ways = {forward, direction(forward + 0.6f * left),
                                    direction(forward - 0.6f * left)};
  const Spot here = see.spot();
  for (std::size_t i = 0; i < ways.size(); ++i) {
    const Stretch stretch = see.ground.straight(here, term.within * ways[i]);
    feelers[i] = {term.within * ways[i], stretch.metres / term.within, stretch.inward};
  }
  return avoid_edges(see.me, feelers, speed);
}

std::span<const Neighbour> around(const Term& term, const View& see, float radius) {
  if (term.view_angle >= 2.f * pi) return see.near(see.me.position, radius, term.tags);
  return see.others.in_cone(see.me.position, direction(see.me.velocity, see.me.facing),
                            0.5f * term.view_angle,
                            {radius, see.body.height, see.who, term.tags, see.body.passes});
}

}  // namespace

std::string_view name(Behaviour behaviour) { return names[static_cast<std::size_t>(behaviour)]; }

Wish wish_of(const Term& term, const View& see, Wandering& wandering, float speed, float seconds) {
  const float radius = see.body.radius;
  switch (term.behaviour) {
    case Behaviour::wander:
      return {speed * stray(see, wandering, term.turn, term.every, {}, 0.f, seconds), 1.f};
    case Behaviour::follow_path:
      return {follow_path(see.me, see.gait, term.path, term.within, speed), 1.f};
    case Behaviour::separation:
      return separation(see.me, radius, around(term, see, term.within + radius), term.within, speed);
    case Behaviour::alignment:
      return alignment(around(term, see, term.within), speed);
    case Behaviour::cohesion:
      return cohesion(around(term, see, term.within), term.within, speed);
    case Behaviour::avoid_obstacles:
      return avoid_obstacles(see.me, radius, around(term, see, 2.f * speed * term.every + radius), term.every,
                             speed);
    case Behaviour::avoid_edges:
      return wish_to_keep_off_edges(term, see, speed);
    case Behaviour::own:
      return term.own(see, seconds);
    default: {
      const auto what = about(term, see);
      return what ? wish_about(term, see, *what, speed, seconds) : Wish{};
    }
  }
}

Expected<std::size_t> Blend::add(Term term) {
  const auto wrong = [&](std::string_view what, float value, Range range) -> std::optional<std::string> {
    if (range.holds(value)) return std::nullopt;
    return fmt::format("{} of {} is {:g}; it must lie between {:g} and {:g}", what, name(term.behaviour),
                       value, range.min, range.max);
  };
  for (const auto& why :
       {wrong("weight", term.weight, {0.f, 1000.f}),
        wrong("within", term.within, {0.01f, allowed::lengths.max}),
        wrong("the nearer end of band", term.band.min, allowed::lengths),
        wrong("the further end of band", term.band.max, {term.band.min, allowed::lengths.max}),
        wrong("turn", term.turn, {0.f, 2.f * pi}),
        wrong("every", term.every, {0.05f, allowed::durations.max}),
        wrong("view_angle", term.view_angle, {0.01f, 2.f * pi})})
    if (why) return problem(*why);
  if ((term.at && !finite(*term.at)) || !finite(lift(term.offset)) ||
      !std::ranges::all_of(term.path, [](vec2 point) { return finite(lift(point)); }))
    return problem(fmt::format("a coordinate of {} is not a finite number", name(term.behaviour)));
  if (term.behaviour == Behaviour::own && !term.own) return problem("own has no function to ask");
  if (term.behaviour == Behaviour::follow_path && term.path.size() < 2)
    return problem("follow_path needs a path of two points or more");
  terms_.push_back(std::move(term));
  return terms_.size() - 1;
}

}  // namespace ambulon
