#pragma once

#include "ambulon/errand/company.hpp"
#include "ambulon/errand/moving_way.hpp"

namespace ambulon {

/// Options of marching.
struct MarchOptions {
  float within = 0.3f;  ///< metres from its place at the goal that count as there, 0.001 to 1000
};

/// Keeps its place in a company. Ends as arrived when the company has come to its goal and it is in its
/// place; as gone when whom the company follows is; as stuck; where the company is not to wait, as off_ground
/// or no_way when it cannot get there. Of a company that goes nowhere it is refused.
class March final : public Errand {
 public:
  March(std::shared_ptr<Company> company, MarchOptions options)
      : company_(std::move(company)), options_(options) {}
  ~March() override {
    if (company_ && joined_) company_->leave(me_);
  }

  std::string_view name() const override { return "march"; }
  std::optional<vec3> goal() const override { return place_; }
  float arrival_radius() const override { return options_.within; }
  Step step(const View& see, float seconds) override;
  Progress progress(const View&) const override { return {}; }
  std::span<const vec3> bends() const override {
    return taking_place_ ? last_way_.bends_ahead() : way_.bends_ahead();
  }
  std::string doing() const override { return taking_place_ ? "taking its place" : "marching"; }

 private:
  Step keep_up(const View& see, float seconds);
  Step take_place(const View& see, float seconds);

  std::shared_ptr<Company> company_;
  MarchOptions options_;
  NpcId me_;
  bool joined_ = false, taking_place_ = false;
  std::optional<vec3> place_;
  double placed_at_ = 0;  // seconds
  vec2 velocity_{0.f};    // of its place, metres per second
  MovingWay way_{Unreachable::wait};
  Way last_way_;
};

}  // namespace ambulon
