#include "scene/work.hpp"

#include <algorithm>
#include <memory>

#include "ambulon/script/routine.hpp"

#include "scene/play.hpp"
#include "scene/verbs/verb.hpp"

namespace ambulon {
namespace {

constexpr double shortest_round = 0.1;  // seconds: a shorter round of steps did nothing
constexpr float longest_wait = 16.f;    // seconds before the next round

/// Waits for a step, at most until its time limit or its condition.
template <Wait W>
class StepWait {
 public:
  StepWait(W&& wait, std::optional<float> seconds, std::optional<Condition> until)
      : wait_(std::move(wait)), seconds_(seconds), until_(until) {}

  bool over(double now) {
    if (began_ < 0) began_ = now;
    if (wait_->over(now))
      outcome_ = wait_->result();
    else if (until_ && now > began_)
      give_up(until_->check());
    if (!outcome_ && seconds_ && now - began_ >= *seconds_ - 1e-6)
      outcome_ = {.ending = Ending::timed_out, .cause = Cause::time_up, .value = *seconds_};
    if (outcome_) wait_.reset();
    return outcome_.has_value();
  }
  Outcome result() const { return *outcome_; }

 private:
  void give_up(const std::optional<Outcome>& held) {
    if constexpr (std::same_as<W, detail::OrderWait>)
      if (held) wait_->cancel(Cause::condition_held);
    outcome_ = held;
  }

  std::optional<W> wait_;
  std::optional<float> seconds_;
  std::optional<Condition> until_;
  std::optional<Outcome> outcome_;
  double began_ = -1;
};

/// Gives the step's order, which keeps the time limit.
Order give(Play& play, Npc me, const SceneStep& step) {
  const Order order = scene::verb_of(step.verb).give(step.verb, play, me);
  if (step.patience) order.patience(*step.patience);
  return step.time_limit ? order.time_limit(*step.time_limit) : order;
}

std::optional<Condition> condition(Npc me, const std::optional<SceneCondition>& what) {
  return what ? std::optional(condition(me, *what)) : std::nullopt;
}

/// Waits for some seconds, and until orders that others gave meanwhile have ended.
Routine idle(Npc me, float seconds) {
  const double until_then = me.world()->time() + static_cast<double>(seconds) - 1e-6;
  co_await until([me, until_then] { return me.world()->time() >= until_then && !me.busy(); });
}

}  // namespace

Condition condition(Npc me, const SceneCondition& what) {
  if (what.kind == Condition::Kind::signal) return me.until_signal(what.signal);
  return {me.world(), what.kind, me.id(), me.world()->find(what.npc).id(), what.metres};
}

Routine work_through(Play& play, Npc me, const std::vector<SceneStep>& steps, std::uint32_t times) {
  float wait = 0.f;  // seconds
  for (std::uint32_t time = 0; times == 0 || time < times; ++time) {
    if (wait > 0.f) co_await idle(me, wait);
    const double began = me.world()->time();
    for (const SceneStep& step : steps) {
      if (step.after > 0.f) co_await idle(me, step.after);
      if (step.when) co_await condition(me, *step.when);
      if (step.gait) (void)me.set_gait(*step.gait);  // checked when it was read
      if (const auto* inner = std::get_if<SequenceStep>(&step.verb)) {
        co_await StepWait(work_through(play, me, inner->steps, inner->times), step.time_limit,
                          condition(me, step.until));
        continue;
      }
      while ((co_await StepWait(as_wait(give(play, me, step)), std::nullopt, condition(me, step.until)))
                 .ending == Ending::replaced) {
        // Sent elsewhere by another order: waits for its end, then continues.
        co_await until([me] { return !me.busy(); });
      }
    }
    wait = me.world()->time() - began > shortest_round ? 0.f : std::clamp(2.f * wait, 1.f, longest_wait);
  }
}

}  // namespace ambulon
