#pragma once

#include "ambulon/errand/errand.hpp"
#include "ambulon/route/walk.hpp"

namespace ambulon {

/// Options of going somewhere.
struct GoToOptions {
  float within = 0.3f;  ///< metres from the goal that count as there, 0.001 to 1000
};

/// Walks to a point by the shortest way, and stands there.
/// Ends as arrived, off_ground (with the nearest spot and how far off it is) or no_way.
class GoTo final : public Errand {
 public:
  GoTo(vec3 goal, GoToOptions options, std::pmr::memory_resource* memory)
      : goal_(goal), options_(options), route_(memory) {}

  std::string_view name() const override { return "go_to"; }
  std::optional<vec3> goal() const override { return goal_; }
  float arrival_radius() const override { return options_.within; }
  Step step(const View& see, float seconds) override;
  Progress progress(const View& see) const override;
  std::string doing() const override;

 private:
  std::optional<Outcome> plan(const View& see);

  vec3 goal_;
  GoToOptions options_;
  bool planned_ = false;
  Route route_;
  Walk walk_;
  std::uint64_t revision_ = 0;
};

/// Lays `route` from where the NPC stands to `goal`; the reason when that cannot be.
std::optional<Outcome> lay_route(const View& see, vec3 goal, Route& route, Walk& walk);

/// The intent to go on along `route` and to stand within `radius` metres of its end.
/// `speed`: metres per second before slowing.
Intent walk_route(const View& see, const Route& route, Walk& walk, float radius, float speed, float seconds);

}  // namespace ambulon
