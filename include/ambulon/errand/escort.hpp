#pragma once

#include "ambulon/errand/moving_way.hpp"
#include "ambulon/errand/target.hpp"

namespace ambulon {

/// Options of escorting.
struct EscortOptions {
  float leash = 5.f;  ///< metres the leader may go before its companions come after it; more than the ring
  Range ring{1.2f, 2.5f};  ///< metres around the leader in which they take their places, 0.1 to 1000
  float within = 0.2f;     ///< metres from its place that count as there, 0.01 to 100
  float refresh = 0.5f;    ///< metres the leader moves before the way is planned anew, 0.01 to 1000
  Unreachable unreachable = Unreachable::wait;  ///< when no way leads to its place
};

/// Accompanies a leader: stands facing it while it is near, and when it goes further than the leash comes
/// after it, to a free place in the ring around it; all who escort the same leader have different ones.
/// Walks along while the leader walks, and stands when the leader stands. Ends as gone when the leader is.
class Escort final : public Errand {
 public:
  Escort(NpcId leader, const EscortOptions& options)
      : leader_(leader), options_(options), way_(options.unreachable) {}

  std::string_view name() const override { return "escort"; }
  std::optional<vec3> goal() const override { return goal_; }
  NpcId target() const override { return leader_; }
  NpcId leader() const override { return leader_; }
  float arrival_radius() const override { return options_.within; }
  Step step(const View& see, float seconds) override;
  Progress progress(const View&) const override { return {}; }
  std::span<const vec3> bends() const override { return way_.bends_ahead(); }
  std::string doing() const override {
    if (way_.stands_without_way()) return "waiting for a way";
    return goal_ ? "coming after its leader" : "standing by";
  }

 private:
  std::optional<Outcome> mistake(const View& see) const;
  void choose_place(const View& see, const Other& leader);
  bool taken(const View& see, vec3 place) const;

  NpcId leader_;
  EscortOptions options_;
  bool begun_ = false;
  vec2 place_{0.f};           // metres, from the leader
  std::optional<vec3> goal_;  // while it walks
  MovingWay way_;
};

}  // namespace ambulon
