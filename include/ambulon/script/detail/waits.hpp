#pragma once
// What orders, conditions and their combinations become when a routine waits for them. Each is polled once a
// tick; nothing is registered anywhere, so nothing can be left behind.

#include <array>
#include <concepts>
#include <optional>
#include <tuple>
#include <utility>

#include "ambulon/base/public.hpp"
#include "ambulon/world/world.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The result of `any_of`: the index of the part that ended first, and its outcome.
struct FirstOutcome {
  std::size_t index = 0;
  Outcome outcome;
  explicit operator bool() const { return static_cast<bool>(outcome); }
};

/// The result of `all_of`: the outcome of each part. True if all are.
template <std::size_t Count>
struct AllOutcomes {
  std::array<Outcome, Count> outcomes;
  explicit operator bool() const {
    for (const Outcome& outcome : outcomes)
      if (!outcome) return false;
    return true;
  }
};

/// Anything that can be waited for. `over(now)` is called at least once a tick, with the seconds since the
/// world began; `result()` only after it returned true.
template <class W>
concept Wait = std::move_constructible<W> && requires(W wait, double now) {
  { wait.over(now) } -> std::same_as<bool>;
  wait.result();
};

namespace detail {

/// Returns a result as one outcome: of several, the first that is not true.
inline Outcome summed_up(const Outcome& outcome) { return outcome; }
inline Outcome summed_up(const FirstOutcome& first) { return first.outcome; }
template <std::size_t Count>
Outcome summed_up(const AllOutcomes<Count>& each) {
  for (const Outcome& outcome : each.outcomes)
    if (!outcome) return outcome;
  return {};
}

/// Returns the outcome of an order that has ended. If a later order has ended as well, this one was replaced.
inline Outcome outcome_of(const Order& order) {
  return order.outcome().value_or(
      Outcome{.ending = Ending::replaced, .cause = Cause::new_order, .subject = "given later"});
}

/// Waits for an order to end. `owns`: the order is cancelled when the wait is destroyed before.
template <bool owns>
class WaitForOrder {
 public:
  explicit WaitForOrder(Order order) : order_(order) {}
  WaitForOrder(WaitForOrder&& other) noexcept : order_(std::exchange(other.order_, Order())) {}
  WaitForOrder& operator=(WaitForOrder&&) = delete;
  ~WaitForOrder() {
    if constexpr (owns) order_.cancel(Cause::script_ended);
  }

  /// Ends the order now, for this reason.
  void cancel(Cause cause) const { order_.cancel(cause); }

  bool over(double) const { return !order_.running(); }
  Outcome result() const { return outcome_of(order_); }

 private:
  Order order_;
};
using OrderWait = WaitForOrder<true>;
using BorrowedWait = WaitForOrder<false>;

/// Waits for a predicate. It is polled from the tick after the wait began, so that a loop around it cannot
/// run for ever within one tick.
template <class Test>
class TestWait {
 public:
  explicit TestWait(Test test) : test_(std::move(test)) {}

  bool over(double now) {
    if (began_ < 0) began_ = now;
    if (now <= began_) return false;
    outcome_ = test_();
    return outcome_.has_value();
  }
  Outcome result() const { return *outcome_; }

 private:
  Test test_;
  double began_ = -1;
  std::optional<Outcome> outcome_;
};

/// Waits for a time.
class SecondsWait {
 public:
  explicit SecondsWait(float seconds) : seconds_(seconds) {}

  bool over(double now) {
    if (began_ < 0) began_ = now;
    return !(now - began_ < seconds_ - 1e-6);
  }
  Outcome result() const { return {}; }
  /// Returns when it ended, in seconds since the world began: within a tick, as a rule.
  double ended() const { return seconds_ > 0 ? began_ + seconds_ : began_; }

 private:
  float seconds_;
  double began_ = -1;
};

}  // namespace detail

inline detail::OrderWait as_wait(Order order) { return detail::OrderWait(order); }

inline auto as_wait(Condition condition) {
  return detail::TestWait([condition] { return condition.check(); });
}

template <Wait W>
W as_wait(W&& wait) {
  return std::forward<W>(wait);
}

namespace detail {

template <class T>
using WaitFrom = decltype(as_wait(std::declval<T>()));

/// Waits until one of its parts ends, and cancels the others. If two end in the same tick, the first counts.
template <Wait... Waits>
class AnyOf {
 public:
  explicit AnyOf(Waits&&... waits) : waits_(std::move(waits)...) {}

  bool over(double now) {
    first_.index = 0;
    const auto ends = [&](auto& wait) {
      if (!wait.over(now)) return ++first_.index, false;
      return first_.outcome = summed_up(wait.result()), true;
    };
    return std::apply([&](Waits&... waits) { return (ends(waits) || ...); }, waits_);
  }
  FirstOutcome result() const { return first_; }

 private:
  std::tuple<Waits...> waits_;
  FirstOutcome first_;
};

/// Waits until all of its parts have ended.
template <Wait... Waits>
class AllOf {
 public:
  explicit AllOf(Waits&&... waits) : waits_(std::move(waits)...) {}

  bool over(double now) {
    std::size_t index = 0, over = 0;
    const auto take = [&](auto& wait) {
      if (!done_[index] && wait.over(now)) {
        done_[index] = true;
        each_.outcomes[index] = summed_up(wait.result());
      }
      over += done_[index++] ? 1U : 0U;
    };
    std::apply([&](Waits&... waits) { (take(waits), ...); }, waits_);
    return over == sizeof...(Waits);
  }
  AllOutcomes<sizeof...(Waits)> result() const { return each_; }

 private:
  std::tuple<Waits...> waits_;
  std::array<bool, sizeof...(Waits)> done_{};
  AllOutcomes<sizeof...(Waits)> each_;
};

/// Waits for its part, at most for a given time; then it cancels the part, and the outcome is `timed_out`.
template <Wait W>
class Within {
 public:
  Within(float seconds, W&& wait) : wait_(std::move(wait)), seconds_(seconds) {}

  bool over(double now) {
    if (began_ < 0) began_ = now;
    const bool done = wait_->over(now);
    if (!done && now - began_ < seconds_ - 1e-6) return false;
    outcome_ = done ? summed_up(wait_->result())
                    : Outcome{.ending = Ending::timed_out, .cause = Cause::time_up, .value = seconds_};
    wait_.reset();
    return true;
  }
  Outcome result() const { return outcome_; }

 private:
  std::optional<W> wait_;
  float seconds_;
  double began_ = -1;
  Outcome outcome_;
};

}  // namespace detail
}  // namespace ambulon
