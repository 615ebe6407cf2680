#include "scene/comparison.hpp"

#include <algorithm>

#include "base/geometry.hpp"

namespace ambulon {
namespace {

constexpr float speed_step = 0.05f;  // of the gait's speed: smaller changes are ignored

}  // namespace

TrajectoryRecorder::TrajectoryRecorder(Play& play, std::size_t index) : play_(play), index_(index) {
  course_.name = play.scene().npcs[index].name;
  facing_ = play.motion(index).facing;
  see();
}

void TrajectoryRecorder::see() {
  const Npc npc = play_.npcs()[index_];
  if (!npc.alive()) return;
  const Motion motion = npc.motion();
  const Statistics statistics = npc.statistics();
  Trajectory::Sample sample{
      .time = play_.world().time(), .position = motion.position, .speed = motion.speed()};
  goal(npc, sample);
  count_turns(motion);
  if (!course_.arrived_after && statistics.arrivals > 0) course_.arrived_after = sample.time;
  course_.walked = statistics.metres;
  course_.top_speed = statistics.top_speed;
  course_.mean_speed =
      statistics.moving_seconds > 0 ? static_cast<float>(statistics.metres / statistics.moving_seconds) : 0.f;
  course_.speed_changes += speed_.see(sample.speed, speed_step * npc.gait().speed) ? 1U : 0U;
  course_.samples.push_back(sample);
}

/// Records the distance to its goal or target, and the overshoot.
void TrajectoryRecorder::goal(const Npc& npc, Trajectory::Sample& sample) {
  const ErrandState errand = npc.errand();
  const Npc target(play_.world(), errand.target);
  std::optional<vec3> goal = errand.goal;
  if (!goal && target.alive()) goal = target.position();
  // A target moves; a different goal is a new one.
  const bool moves = errand.target.generation != 0;
  if (goal && (!goal_ || (!moves && *goal != *goal_))) {
    reached_ = -1.f;
    if (!moves) course_.goals.push_back(*goal);
  }
  // After arrival the last goal still counts, since sliding on is the overshoot.
  if (goal) goal_ = goal;
  if (!goal_) return;
  const float distance = flat_distance(sample.position, *goal_);
  if (goal) sample.distance = distance;
  if (moves) return;
  if (reached_ >= 0.f) {
    reached_ = std::min(reached_, distance);
    if (npc.motion().speed() > 0.f && !goal)
      course_.overshoot = std::max(course_.overshoot, distance - reached_);
  } else if (distance <= std::max(errand.arrival_radius, 0.5f)) {
    reached_ = distance;
  }
}

void TrajectoryRecorder::count_turns(const Motion& motion) {
  course_.turned += std::abs(angle_between(facing_, motion.facing));
  facing_ = motion.facing;
}

}  // namespace ambulon
