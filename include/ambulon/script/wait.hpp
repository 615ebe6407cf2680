#pragma once
// What a routine can wait for: orders, conditions, and combinations of them. Each of these is asked
// once a tick whether it is over; nothing is registered anywhere, so nothing can be left behind.

#include <algorithm>
#include <array>
#include <concepts>
#include <tuple>
#include <type_traits>
#include <utility>

#include "ambulon/world/world.hpp"

namespace ambulon {

// g++ 12 destroys an aggregate temporary inside a co_await expression twice, so options that are
// written there must not mind.
static_assert(std::is_trivially_destructible_v<GoToOptions>);
static_assert(std::is_trivially_destructible_v<PatrolOptions>);

/// What `any_of` ended with: which of its parts was over first (from 0), and how.
struct FirstOutcome {
  std::size_t index = 0;
  Outcome outcome;
  explicit operator bool() const { return static_cast<bool>(outcome); }
};

/// What `all_of` ended with: each part's outcome. True when all are.
template <std::size_t Count>
struct AllOutcomes {
  std::array<Outcome, Count> outcomes;
  explicit operator bool() const {
    return std::ranges::all_of(outcomes, [](const Outcome& outcome) { return static_cast<bool>(outcome); });
  }
};

/// Any of these results as one outcome: of several, the first that is not true.
inline Outcome summed_up(const Outcome& outcome) { return outcome; }
inline Outcome summed_up(const FirstOutcome& first) { return first.outcome; }
template <std::size_t Count>
Outcome summed_up(const AllOutcomes<Count>& each) {
  for (const Outcome& outcome : each.outcomes)
    if (!outcome) return outcome;
  return {};
}

/// Something that is over at some time. `over(now)` is asked once or more a tick, with the seconds
/// since the world began; `result()` only after it said true.
template <class W>
concept Wait = std::move_constructible<W> && requires(W wait, double now) {
  { wait.over(now) } -> std::same_as<bool>;
  wait.result();
};

/// How an order ended that is over. A later order may have ended already: then this one can only have been
/// replaced by it.
inline Outcome outcome_of(const Order& order) {
  return order.outcome().value_or(
      Outcome{.ending = Ending::replaced, .cause = Cause::new_order, .subject = "given later"});
}

/// Waits for an order to end. An order that nobody waits for any more is cancelled.
class OrderWait {
 public:
  explicit OrderWait(Order order) : order_(order) {}
  OrderWait(OrderWait&& other) noexcept : order_(std::exchange(other.order_, Order())) {}
  OrderWait& operator=(OrderWait&&) = delete;
  ~OrderWait() { order_.cancel(Cause::script_ended); }

  /// Ends the order now, for this reason.
  void cancel(Cause cause) const { order_.cancel(cause); }

  bool over(double) const { return !order_.running(); }
  Outcome result() const { return outcome_of(order_); }

 private:
  Order order_;
};

/// Waits for an order to end, and leaves it alone when nobody waits for it any more.
class BorrowedWait {
 public:
  explicit BorrowedWait(Order order) : order_(order) {}

  bool over(double) const { return !order_.running(); }
  Outcome result() const { return outcome_of(order_); }

 private:
  Order order_;
};

/// The order as something to wait for that is not cancelled when the wait is over: one that somebody else
/// gave, or that is to go on after an `any_of`, a time limit, or the end of the routine.
inline BorrowedWait borrow(Order order) { return BorrowedWait(order); }

/// Waits for a test to come true. It is looked at from the tick after the wait began, so that a
/// loop around it cannot run for ever within one tick.
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

inline OrderWait as_wait(Order order) { return OrderWait(order); }

inline auto as_wait(Condition condition) {
  return TestWait([condition] { return condition.check(); });
}

template <Wait W>
W as_wait(W&& wait) {
  return std::forward<W>(wait);
}

template <class T>
using WaitFrom = decltype(as_wait(std::declval<T>()));

/// Waits until `holds()` is true; asked once a tick. Capture by reference (what a routine's own
/// variables hold outlives the wait), or name the callable and pass `std::ref` of it.
template <std::predicate Holds>
auto until(Holds holds) {
  static_assert(
      std::is_trivially_destructible_v<Holds>,
      "g++ 12 would destroy these captures twice: capture by reference, or pass std::ref(callable)");
  return TestWait([holds]() mutable { return holds() ? std::optional<Outcome>(Outcome{}) : std::nullopt; });
}

/// Waits until one of its parts is over; the others are cancelled. When two are over in the same
/// tick, the one that stands first counts.
template <Wait... Waits>
class AnyOf {
 public:
  explicit AnyOf(Waits&&... waits) : waits_(std::move(waits)...) {}

  bool over(double now) { return over(now, std::index_sequence_for<Waits...>()); }
  FirstOutcome result() const { return first_; }

 private:
  template <std::size_t... I>
  bool over(double now, std::index_sequence<I...>) {
    return (take(I, std::get<I>(waits_), now) || ...);
  }
  template <class W>
  bool take(std::size_t index, W& wait, double now) {
    if (!wait.over(now)) return false;
    first_ = {index, summed_up(wait.result())};
    return true;
  }

  std::tuple<Waits...> waits_;
  FirstOutcome first_;
};

/// Waits until the first of its parts is over and cancels the others.
template <class... Parts>
auto any_of(Parts&&... parts) {
  return AnyOf<WaitFrom<Parts>...>(as_wait(std::forward<Parts>(parts))...);
}

/// Waits until all its parts are over.
template <Wait... Waits>
class AllOf {
 public:
  explicit AllOf(Waits&&... waits) : waits_(std::move(waits)...) {}

  bool over(double now) { return over(now, std::index_sequence_for<Waits...>()); }
  AllOutcomes<sizeof...(Waits)> result() const { return each_; }

 private:
  template <std::size_t... I>
  bool over(double now, std::index_sequence<I...>) {
    (take(I, std::get<I>(waits_), now), ...);
    return std::ranges::all_of(done_, [](bool done) { return done; });
  }
  template <class W>
  void take(std::size_t index, W& wait, double now) {
    if (done_[index] || !wait.over(now)) return;
    done_[index] = true;
    each_.outcomes[index] = summed_up(wait.result());
  }

  std::tuple<Waits...> waits_;
  std::array<bool, sizeof...(Waits)> done_{};
  AllOutcomes<sizeof...(Waits)> each_;
};

/// Waits for all its parts.
template <class... Parts>
auto all_of(Parts&&... parts) {
  return AllOf<WaitFrom<Parts>...>(as_wait(std::forward<Parts>(parts))...);
}

/// Waits for its part, but not for longer than some seconds; then the part is cancelled and the
/// outcome is timed_out.
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

/// Waits for `part`, but for `seconds` at the most.
template <class Part>
auto within(float seconds, Part&& part) {
  return Within<WaitFrom<Part>>(seconds, as_wait(std::forward<Part>(part)));
}

}  // namespace ambulon
