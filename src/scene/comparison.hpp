#pragma once

#include "ambulon/base/public.hpp"

#include "scene/play.hpp"
#include "scene/turns.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The movement of one character, sampled at each tick.
struct Trajectory {
  struct Sample {
    double time = 0;                     ///< seconds
    vec3 position{0.f};                  ///< metres
    float speed = 0.f;                   ///< metres per second
    std::optional<float> distance = {};  ///< metres to its goal or its target; none without one
  };
  std::string name;
  std::vector<Sample> samples;
  double walked = 0;                        ///< metres
  std::optional<double> arrived_after;      ///< seconds until it first reached a goal or a waypoint
  std::optional<float> overshoot;           ///< metres beyond a goal that it had reached; none: not known
  float mean_speed = 0.f, top_speed = 0.f;  ///< metres per second
  float turned = 0.f;                       ///< radians, in both directions
  std::uint32_t speed_changes = 0;          ///< changes between acceleration and deceleration
  std::vector<vec3> goals;                  ///< metres; its goals in order
};

/// Makes a trajectory of samples.
class TrajectoryRecorder {
 public:
  explicit TrajectoryRecorder(std::string name) { trajectory_.name = std::move(name); }
  /// `facing`: unit vector; `top_speed`: metres per second, of its gait. Samples are in the order of time.
  void add(const Trajectory::Sample& sample, vec2 facing, float top_speed);
  Trajectory& trajectory() { return trajectory_; }

 private:
  Trajectory trajectory_;
  vec2 facing_{1.f, 0.f};
  double moving_seconds_ = 0;
  Turns speed_;
};

/// Records one character of a play.
class PlayRecorder {
 public:
  /// The play must outlive it.
  PlayRecorder(Play& play, std::size_t index);
  /// Call it after each tick.
  void see();
  const Trajectory& trajectory() { return recorder_.trajectory(); }

 private:
  void goal(const Npc& npc, Trajectory::Sample& sample);

  Play& play_;
  std::size_t index_;
  TrajectoryRecorder recorder_;
  std::optional<vec3> goal_;
  float reached_ = -1.f;  // minimum distance to the reached goal; negative: not reached
};

}  // namespace ambulon
