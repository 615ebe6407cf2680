#pragma once

#include "ambulon/errand/order_options.hpp"
#include "ambulon/ground/field/flow_field.hpp"

#include "errand/retry.hpp"

namespace ambulon {

/// The errand of `Npc::flow`.
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
  std::optional<vec3> goal_;  // the goal that it approaches at present
  float whole_ = 0.f;         // metres at the start
  Retry retry_;
};

}  // namespace ambulon
