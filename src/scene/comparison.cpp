#include "scene/comparison.hpp"

#include <algorithm>

#include "base/geometry.hpp"

namespace ambulon {
namespace {

constexpr double jump = 3,
                 nearby = 0.1;       // times the displacement of its speed, and metres: further is no walk
constexpr float speed_step = 0.05f;  // of the gait's speed: smaller changes are ignored

}  // namespace

void TrajectoryRecorder::add(const Trajectory::Sample& sample, vec2 facing, float top_speed) {
  if (!trajectory_.samples.empty()) {
    const Trajectory::Sample& last = trajectory_.samples.back();
    const double seconds = sample.time - last.time;
    const float metres = glm::distance(last.position, sample.position);
    const bool teleported = metres > nearby + jump * std::max(last.speed, sample.speed) * seconds;
    if (!teleported) trajectory_.walked += static_cast<double>(metres);
    if (sample.speed > 0.f) moving_seconds_ += seconds;
    trajectory_.turned += std::abs(angle_between(facing_, facing));
  }
  facing_ = facing;
  trajectory_.top_speed = std::max(trajectory_.top_speed, sample.speed);
  trajectory_.mean_speed =
      moving_seconds_ > 0 ? static_cast<float>(trajectory_.walked / moving_seconds_) : 0.f;
  trajectory_.speed_changes += speed_.see(sample.speed, speed_step * top_speed) ? 1U : 0U;
  trajectory_.samples.push_back(sample);
}

PlayRecorder::PlayRecorder(Play& play, std::size_t index)
    : play_(play), index_(index), recorder_(play.scene().npcs[index].name) {
  recorder_.trajectory().overshoot = 0.f;
  see();
}

void PlayRecorder::see() {
  const Npc npc = play_.npcs()[index_];
  if (!npc.alive()) return;
  const Motion motion = npc.motion();
  Trajectory::Sample sample{
      .time = play_.world().time(), .position = motion.position, .speed = motion.speed()};
  goal(npc, sample);
  recorder_.add(sample, motion.facing, npc.gait().speed);
  Trajectory& trajectory = recorder_.trajectory();
  if (!trajectory.arrived_after && npc.statistics().arrivals > 0) trajectory.arrived_after = sample.time;
}

/// Records the distance to its goal or target, and the overshoot.
void PlayRecorder::goal(const Npc& npc, Trajectory::Sample& sample) {
  const ErrandState errand = npc.errand();
  const Npc target(play_.world(), errand.target);
  std::optional<vec3> goal = errand.goal;
  if (!goal && target.alive()) goal = target.position();
  // A target moves; a different goal is a new one.
  const bool moves = errand.target.generation != 0;
  if (goal && (!goal_ || (!moves && *goal != *goal_))) {
    reached_ = -1.f;
    if (!moves) recorder_.trajectory().goals.push_back(*goal);
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
      recorder_.trajectory().overshoot = std::max(*recorder_.trajectory().overshoot, distance - reached_);
  } else if (distance <= std::max(errand.arrival_radius, 0.5f)) {
    reached_ = distance;
  }
}

}  // namespace ambulon
