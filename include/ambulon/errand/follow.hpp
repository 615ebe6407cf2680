#pragma once

#include "ambulon/errand/moving_way.hpp"
#include "ambulon/errand/target.hpp"

namespace ambulon {

/// In whose frame an offset is given.
enum class OffsetFrame : std::uint8_t {
  target,  ///< x ahead of the target, y to its left
  world,   ///< x and y of the world
};

/// Options of following.
struct FollowOptions {
  float stop = 1.5f;    ///< metres from its place at which it stands, 0.05 to 1000
  float resume = 2.5f;  ///< metres from its place at which it goes on again: `stop` to 1e5
  vec2 offset{0.f};     ///< metres from the target to its place; none: it may come from any side
  OffsetFrame frame = OffsetFrame::target;
  Range distances{};       ///< metres; the speed at the nearer end and at the further end are …
  Range speeds{};          ///< … these, metres per second, 0 to 100; none: the gait's speed
  float refresh = 0.5f;    ///< metres the target moves before the way is planned anew, 0.01 to 1000
  float act_within = 0.f;  ///< metres at which it is told that it came near and went apart; 0: it is not
  Unreachable unreachable = Unreachable::wait;  ///< when no way leads to its place
};

/// Goes after somebody who moves, and stands when it is near; when the target walks on, it walks along
/// behind. Ends as gone when the target is; as stuck; where it is not to wait, as off_ground or no_way.
class Follow final : public Errand {
 public:
  Follow(Target target, const FollowOptions& options)
      : quarry_(target), options_(options), way_(options.unreachable) {}

  std::string_view name() const override { return "follow"; }
  std::optional<vec3> goal() const override { return goal_; }
  NpcId target() const override { return quarry_.now(); }
  float arrival_radius() const override { return options_.stop; }
  Step step(const View& see, float seconds) override;
  Progress progress(const View&) const override { return {}; }
  std::span<const vec3> bends() const override { return way_.bends_ahead(); }
  std::string doing() const override;

 private:
  std::optional<Outcome> mistake() const;
  vec3 place_by(const View& see, const Other& target) const;
  float stop_by(const View& see, const Other& target) const;
  Step walk(const View& see, const Other& target, float off, float seconds);
  vec2 keep_up(const View& see, const Other& target, float off, float speed, float seconds) const;

  Quarry quarry_;
  FollowOptions options_;
  bool begun_ = false, standing_ = false;
  std::optional<vec3> goal_;
  MovingWay way_;
};

}  // namespace ambulon
