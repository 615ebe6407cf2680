#pragma once

#include "errand/rest.hpp"
#include "errand/retry.hpp"
#include "errand/route_follower.hpp"

namespace ambulon {

/// Where an outing goes next, and how long it stays there.
struct Stop {
  vec3 position{0.f};  ///< metres
  Range pause{};       ///< seconds
};

/// What roam and hop have in common: they walk to spots chosen one at a time, stay at each for a
/// while, and go on elsewhere when a spot cannot be reached.
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
    std::uint32_t visits;  // after which it is done; 0: goes on for ever
    float leg_time;        // seconds a leg may take; 0: any
  };
  /// `pause`: seconds at each spot, unless `choose` says otherwise.
  GoalSequence(Limits limits, Unreachable unreachable, Range pause)
      : unreachable_(unreachable), limits_(limits), next_{.pause = pause} {}

  /// What is wrong with its options; asked once, before anything else.
  virtual std::optional<Outcome> mistake(const View& see) = 0;
  /// Where to go next. The reason when there is nowhere.
  virtual std::optional<Outcome> choose(const View& see, Stop& next) = 0;
  /// True when there is something else to choose from since it chose last.
  virtual bool choices_changed() const { return false; }

  const Limits& limits() const { return limits_; }
  Range pause() const { return next_.pause; }

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
  bool went_ = false;          // since it set out: it was not there already
  Limits limits_;
  std::uint32_t visits_ = 0;
  Stop next_;
  float leg_began_ = 0.f;  // seconds; a float, since there may be thousands
  Rest rest_;
  HeapOptional<Retry> retry_;  // once it has waited
  RouteFollower follower_;
};

}  // namespace ambulon
