#pragma once

#include "ambulon/base/public.hpp"
#include "ambulon/scene/play.hpp"

#include "scene/turns.hpp"

namespace AMBULON_PUBLIC ambulon {

/// How one character got about, sampled at each tick.
struct Trajectory {
  struct Sample {
    double time = 0;     ///< seconds
    vec3 position{0.f};  ///< metres
    float speed = 0.f;   ///< metres per second
    std::optional<float> distance =
        {};  ///< metres to its goal or to whom it is after; nothing when it has neither
  };
  std::string name;
  std::vector<Sample> samples;
  double walked = 0;                        ///< metres
  std::optional<double> arrived_after;      ///< seconds until it first got to a goal or a waypoint
  float overshoot = 0.f;                    ///< metres that it went beyond a goal it had come within reach of
  float mean_speed = 0.f, top_speed = 0.f;  ///< metres per second
  float turned = 0.f;                       ///< radians, to either side
  std::uint32_t speed_changes = 0;          ///< times it sped up after slowing down, or the other way round
  std::vector<vec3> goals;                  ///< metres; those it had, in order
};

/// Follows one character of a play tick by tick.
class TrajectoryRecorder {
 public:
  /// The play must outlive it.
  TrajectoryRecorder(Play& play, std::size_t index);
  /// To be called after each tick.
  void see();
  const Trajectory& course() const { return course_; }

 private:
  void goal(const Npc& npc, Trajectory::Sample& sample);
  void count_turns(const Motion& motion);

  Play& play_;
  std::size_t index_;
  Trajectory course_;
  vec2 facing_{1.f, 0.f};
  std::optional<vec3> goal_;
  float reached_ = -1.f;  // the least distance to the goal since it came within reach; negative: it has not
  Turns speed_;
};

}  // namespace ambulon
