#pragma once

#include <functional>
#include <memory>
#include <optional>
#include <span>
#include <string_view>
#include <vector>

#include "ambulon/base/angle.hpp"
#include "ambulon/base/id.hpp"
#include "ambulon/base/problem.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/base/range.hpp"
#include "ambulon/base/tags.hpp"
#include "ambulon/motion/wish.hpp"

namespace AMBULON_PUBLIC ambulon {

struct View;

/// The behaviours of a blend.
enum class Behaviour : std::uint8_t {
  seek,             ///< to the point or the target
  arrive,           ///< there, and stands within `within`
  flee,             ///< from the point or the target, while it is within `within`
  pursue,           ///< the target, where they will meet
  evade,            ///< the target, where they would meet, while it is within `within`
  keep_distance,    ///< from the target: not nearer than `band.min`, not further than `band.max`
  follow_offset,    ///< at `offset` from the target, in its frame
  follow_path,      ///< along the line through `path`, looking `within` ahead
  wander,           ///< strays: turns of `turn`, one each `every`
  separation,       ///< from those with the tags, nearer than `within`
  alignment,        ///< with those with the tags, within `within`
  cohesion,         ///< of those with the tags, within `within`
  avoid_obstacles,  ///< goes aside of those with the tags whom it would run into within `every`
  avoid_edges,      ///< of the ground, within `within`
  own,              ///< the game's own function
};

/// Returns the behaviour's name, as scene files write it.
std::string_view name(Behaviour behaviour);

/// One behaviour of a blend and its parameters. A behaviour uses only the parameters that its comment names.
struct Term {
  Behaviour behaviour = Behaviour::seek;
  float weight = 1.f;           ///< times the behaviour's own urgency; 0 to 1000
  std::optional<vec3> at = {};  ///< a point, metres; instead of a target
  NpcId target = {};            ///< an NPC
  Tags tags = {};               ///< those it is about; for behaviours among others none means all
  float within = 5.f;           ///< metres, 0.01 to 1e5
  Range band{2.f, 4.f};         ///< metres
  vec2 offset{0.f};             ///< metres: x ahead, y to the left
  float turn = radians(60.f);   ///< radians, 0 to 2 pi
  float every = 1.5f;           ///< seconds, 0.05 to 1e6
  float view_angle = 2.f * pi;  ///< radians, 0.01 to 2 pi: field of view in which neighbours count,
                                ///< centred on the direction of travel
  std::vector<vec2> path = {};  ///< metres
  std::function<Wish(const View&, float seconds)> own = {};  ///< called in each step, for at most `seconds`
};

/// Behaviours that steer any number of NPCs together. It must not change while it is in use.
class Blend {
 public:
  /// Adds a behaviour; with `BlendMode::priority` the first has the highest. Returns a problem if a value is
  /// out of range.
  Expected<std::size_t> add(Term term);
  std::span<const Term> terms() const { return terms_; }

 private:
  std::vector<Term> terms_;
};

/// A blend that several NPCs may share.
using BlendPtr = std::shared_ptr<const Blend>;

}  // namespace ambulon
