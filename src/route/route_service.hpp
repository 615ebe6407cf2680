#pragma once

#include <cstdint>
#include <deque>
#include <memory_resource>
#include <optional>
#include <span>
#include <utility>
#include <vector>

#include "ambulon/base/jobs.hpp"
#include "ambulon/ground/ground.hpp"
#include "ambulon/route/route_figures.hpp"

namespace ambulon {

/// A way that is asked for.
struct RouteRequest {
  Spot from = {}, to = {};
  int priority = 0;                    ///< -1000 to 1000; each step of it is worth a second of waiting
  double time = 0;                     ///< seconds: when it is asked for
  std::uint32_t asker = 0;             ///< told by `RouteService::serve`; its meaning is the caller's own
  std::optional<Bottleneck> jam = {};  ///< a way round it is asked for, if there is one
  float max = 0.f;                     ///< longest detour, metres
};

struct AskedRoute;

/// What one has asked a route service for, until its answer is taken. Destroying it withdraws the
/// request. The service must outlive it.
class RouteTicket {
 public:
  RouteTicket() = default;
  ~RouteTicket() { withdraw(); }
  RouteTicket(RouteTicket&& other) noexcept : asked_(std::exchange(other.asked_, nullptr)) {}
  RouteTicket& operator=(RouteTicket&& other) noexcept;

  /// False when nothing was asked for, or it is taken or withdrawn; the questions below then answer false,
  /// and what is to be done is nothing.
  explicit operator bool() const { return asked_ != nullptr; }
  /// True when there is an answer to be taken.
  bool ready() const;
  /// True when there is, and it is that no way leads there.
  bool found_none() const;
  /// What was asked for; null when nothing was.
  const RouteRequest* wish() const;
  /// True when this is the goal that was asked for.
  bool leads_to(const Spot& goal) const;
  /// Moves the start of the request. Nothing happens if there is an answer already.
  void start_from(const Spot& spot);
  /// Fills in the answer, without bends where there is no way; then it is taken. False, and the route is as
  /// it was, when there is none to be taken.
  bool take(Route& route);
  void withdraw();

 private:
  friend class RouteService;
  explicit RouteTicket(AskedRoute& asked) : asked_(&asked) {}
  AskedRoute* asked_ = nullptr;
};

/// Finds ways for many who ask, in turn and within a budget of work: those asked for longest first, each step
/// of priority counting as a second, so that nobody waits for ever. Requests with the same goal are answered
/// out of one search where the ground can do that for less (`Ground::shares_routes`). The same requests give
/// the same answers at the same calls, whatever the threads. Work is counted and not timed; a batch that was
/// begun is finished, and what it took too much is missing from the next budget.
class RouteService {
 public:
  explicit RouteService(std::pmr::memory_resource* memory = std::pmr::get_default_resource())
      : answers_(memory),
        requests_(memory),
        free_(memory),
        queue_(memory),
        by_goal_(memory),
        batch_(memory),
        answered_(memory) {}

  [[nodiscard]] RouteTicket ask(const RouteRequest& request);

  /// A new budget: `work` pieces of ground, 0 for any number. What is left of the one before is lost.
  void begin(std::uint64_t work);
  /// Answers as many as the budget allows, those that came first first. Answers with who asked, each once, in
  /// the order of their numbers; that holds until the next call. `jobs`, if any, is called for what many
  /// threads can do at once.
  std::span<const std::uint32_t> serve(const Ground& ground, double time, const Jobs& jobs = {});

  const RouteFigures& figures() const { return figures_; }

 private:
  friend class RouteTicket;
  void withdraw(AskedRoute& asked);
  static constexpr std::uint32_t none = ~std::uint32_t{0};

  bool after(std::uint32_t a, std::uint32_t b) const;
  void let_go(AskedRoute& asked);
  std::uint32_t take_first();
  void drop_stale();
  std::uint32_t& goal_list(const RouteRequest& wish);
  void link(AskedRoute& asked);
  void list_goals_again();
  void unlink(AskedRoute& asked);
  bool share(const Ground& ground, std::uint32_t number, double time);
  void search(const Ground& ground, const Jobs& jobs, double time);
  void finish(std::uint32_t number, double time);
  void give_back();
  bool any_left() const { return unlimited_ || left_ > 0; }

  std::pmr::synchronized_pool_resource answers_;  // for ways, which are written on many threads
  std::pmr::deque<AskedRoute> requests_;          // a deque, so that they stay where they are
  std::pmr::vector<std::uint32_t> free_;          // numbers of requests
  std::pmr::vector<std::uint32_t> queue_;         // requests that wait, and some that no longer do: a heap
  std::size_t stale_ = 0;                         // in the queue, that no longer wait
  /// A hash table: the first of the requests that wait, in the order in which they were asked, for goals with
  /// the same hash.
  std::pmr::vector<std::uint32_t> by_goal_;
  std::uint64_t serves_ = 0;
  std::pmr::vector<std::uint32_t> batch_;     // to be searched for together
  std::pmr::vector<std::uint32_t> answered_;  // who asked
  std::int64_t left_ = 0;                     // of the budget; below 0: to be taken from the next one
  bool unlimited_ = true;
  std::uint64_t orders_ = 0;
  std::uint64_t budgets_ = 0;
  std::size_t max_ = 0;  // requests there were at once, of late
  RouteFigures figures_;
};

/// What a route service keeps of a request.
struct AskedRoute {
  RouteService* service = nullptr;
  std::uint32_t number = 0;
  bool waits = false;                   // for an answer
  bool ready = false;                   // with an answer
  bool held = false;                    // by a ticket
  bool queued = false;                  // so its number must not be used again
  std::uint64_t order = 0;              // among all that were ever asked
  std::uint32_t before = 0, after = 0;  // in the list of its goal's hash; the last one comes before the first
  std::uint64_t declined = 0;  // the call of `serve` in which one search for all would have taken longer
  RouteRequest wish;
  Route way;
};

}  // namespace ambulon
