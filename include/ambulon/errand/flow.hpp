#pragma once

#include "ambulon/errand/retry.hpp"
#include "ambulon/ground/field/flow_field.hpp"

namespace ambulon {

/// Options of going by a flow field.
struct FlowOptions {
  float within = 0.3f;  ///< metres from the goal that count as there, 0.001 to 1000
  /// When the field leads nowhere from where it is: refuse or wait.
  Unreachable unreachable = Unreachable::refuse;
};

/// Goes to the nearest goal of a flow field, which any number of NPCs share; nobody plans a way of its own.
/// The field must outlive the order and be kept up with the ground (`FlowField::update`). Ends as arrived, or
/// as no_way where the field leads to no goal and it is not to wait.
class Flow final : public Errand {
 public:
  Flow(const FlowField& field, FlowOptions options) : field_(field), options_(options) {}

  std::string_view name() const override { return "flow"; }
  std::optional<vec3> goal() const override { return goal_; }
  float arrival_radius() const override { return options_.within; }
  Step step(const View& see, float seconds) override;
  Progress progress(const View& see) const override;
  std::optional<float> left(const View& see) const override;
  std::string doing() const override { return retry_.waits() ? "waiting for a way" : "going with the flow"; }

 private:
  std::optional<Outcome> mistake() const;

  const FlowField& field_;
  FlowOptions options_;
  std::optional<vec3> goal_;  // the one it makes for at present
  float whole_ = 0.f;         // metres from where it began
  Retry retry_;
};

}  // namespace ambulon
