#pragma once
// What a routine can wait for besides orders and conditions (condition.hpp).

#include <type_traits>
#include <utility>

#include "ambulon/base/public.hpp"
#include "ambulon/script/detail/waits.hpp"

namespace AMBULON_PUBLIC ambulon {

// g++ 12 destroys an aggregate temporary inside a co_await expression twice, so options must be trivially
// destructible.
static_assert(std::is_trivially_destructible_v<GoToOptions>);
static_assert(std::is_trivially_destructible_v<PatrolOptions>);

/// Waits for `seconds` without an order: the NPC keeps the order of another owner, or stands. If it ends
/// within a tick, a wait for seconds that follows at once begins at that moment, so that a rhythm does not
/// drift.
inline detail::SecondsWait seconds(float seconds) { return detail::SecondsWait(seconds); }

/// Waits until `holds()` returns true; it is called once a tick. Capture by reference (a routine's own
/// variables outlive the wait), or name the callable and pass `std::ref` of it.
template <std::predicate Holds>
auto until(Holds holds) {
  static_assert(
      std::is_trivially_destructible_v<Holds>,
      "g++ 12 would destroy these captures twice: capture by reference, or pass std::ref(callable)");
  return detail::TestWait(
      [holds]() mutable { return holds() ? std::optional<Outcome>(Outcome{}) : std::nullopt; });
}

/// Waits until one of the parts ends, and cancels the others. If two end in the same tick, the first counts.
/// The result is a `FirstOutcome`.
template <class... Parts>
auto any_of(Parts&&... parts) {
  return detail::AnyOf<detail::WaitFrom<Parts>...>(as_wait(std::forward<Parts>(parts))...);
}

/// Waits until all of the parts have ended. The result is an `AllOutcomes`.
template <class... Parts>
auto all_of(Parts&&... parts) {
  return detail::AllOf<detail::WaitFrom<Parts>...>(as_wait(std::forward<Parts>(parts))...);
}

/// Waits for `part`, at most `seconds`: then it cancels the part, and the outcome is `timed_out`.
template <class Part>
auto within(float seconds, Part&& part) {
  return detail::Within<detail::WaitFrom<Part>>(seconds, as_wait(std::forward<Part>(part)));
}

/// Returns a wait for an order that is not cancelled with the wait: an order of another owner, or one that is
/// to continue after an `any_of`, a time limit, or the end of the routine.
inline detail::BorrowedWait borrow(Order order) { return detail::BorrowedWait(order); }

}  // namespace ambulon
