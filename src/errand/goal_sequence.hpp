#pragma once

#include "errand/rest.hpp"
#include "errand/retry.hpp"
#include "errand/route_follower.hpp"

namespace ambulon {

/// A chosen spot, and how long the NPC stays there.
struct Stop {
  vec3 position{0.f};  ///< metres
  Range pause{};       ///< seconds
};

/// Base of `Roam` and `Hop`: walks to spots that the subclass chooses one at a time, stays at each, and
/// chooses another one if a spot cannot be reached.
class GoalSequence : public Errand {
 public:
  std::optional<vec3> goal() const override;
  float arrival_radius() const override { return limits_.within; }
  Step step(const View& see, float seconds) final;
  std::optional<Intent> keep_on(const View& see, float seconds) final;
  bool give_up(const View& see, const Outcome& why) final;
  Progress progress(const View& see) const override;
  std::optional<float> left(const View& see) const override;
  std::span<const vec3> bends() const override {
    return phase_ == Phase::walking ? follower_.bends_ahead() : std::span<const vec3>();
  }
  std::string doing() const override;

 protected:
  struct Limits {
    float within;          // metres
    std::uint32_t visits;  // number after which the order ends; 0: no limit
    float leg_time;        // time limit of a leg in seconds; 0: none
  };
  /// `pause`: seconds at each spot, unless `choose` sets others.
  GoalSequence(Limits limits, Unreachable unreachable, Range pause)
      : unreachable_(unreachable), limits_(limits), next_{.pause = pause} {}

  /// Returns what is wrong with the options. Called once, first.
  virtual std::optional<Outcome> mistake(const View& see) = 0;
  /// Sets the next spot. Returns the reason if there is none.
  virtual std::optional<Outcome> choose(const View& see, Stop& next) = 0;
  /// Returns true if the set of spots has changed since the last choice.
  virtual bool choices_changed() const { return false; }

  const Limits& limits() const { return limits_; }
  Range pause() const { return next_.pause; }
  /// Sets the distance from the next spot that counts as arrived, metres.
  void set_within(float within) { limits_.within = within; }

 private:
  enum class Phase : std::uint8_t { setting_out, walking, pausing, waiting };

  std::optional<Outcome> set_out(const View& see);
  std::optional<Outcome> plan_route(const View& see);
  Step walk(const View& see, float seconds);
  bool wait(const View& see, const Outcome& why);
  bool waits() const { return retry_ && retry_->waits(); }
  bool leg_is_over(const View& see) const {
    return limits_.leg_time > 0.f && static_cast<float>(see.time) - leg_began_ >= limits_.leg_time;
  }

  Phase phase_ = Phase::setting_out;
  Unreachable unreachable_;
  bool begun_ = false;
  std::uint8_t failures_ = 0;  // in a row
  bool went_ = false;          // it has moved since it set out
  Limits limits_;
  std::uint32_t visits_ = 0;
  Stop next_;
  float leg_began_ = 0.f;  // seconds; a float, to save memory
  Rest rest_;
  HeapOptional<Retry> retry_;  // after the first wait
  RouteFollower follower_;
};

}  // namespace ambulon
