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

/// A request for a route.
struct RouteRequest {
  Spot from = {}, to = {};
  int priority = 0;                    ///< -1000 to 1000; each unit counts as one second of waiting
  double time = 0;                     ///< seconds: when it was made
  std::uint32_t asker = 0;             ///< returned by `RouteService::serve`; its meaning is the caller's
  std::optional<Bottleneck> jam = {};  ///< asks for a detour around it
  float max = 0.f;                     ///< longest detour, metres
};

struct AskedRoute;

/// A handle of a request to a route service. Destroying it withdraws the request. The service must outlive
/// it.
class RouteTicket {
 public:
  RouteTicket() = default;
  ~RouteTicket() { withdraw(); }
  RouteTicket(RouteTicket&& other) noexcept : asked_(std::exchange(other.asked_, nullptr)) {}
  RouteTicket& operator=(RouteTicket&& other) noexcept;

  /// False if nothing was requested, or if the answer was taken or the request withdrawn. The queries below
  /// then return false or null, and the other calls do nothing.
  explicit operator bool() const { return asked_ != nullptr; }
  /// Returns true if there is an answer to take.
  bool ready() const;
  /// Returns true if the answer is that there is no route.
  bool found_none() const;
  /// Returns the request; null if there is none.
  const RouteRequest* wish() const;
  /// Returns true if `goal` is the requested goal.
  bool leads_to(const Spot& goal) const;
  /// Moves the start of the request. Does nothing if it is answered.
  void start_from(const Spot& spot);
  /// Moves the answer into `route`, without bends if there is no route. Returns false, and changes nothing,
  /// if there is no answer to take.
  bool take(Route& route);
  void withdraw();

 private:
  friend class RouteService;
  explicit RouteTicket(AskedRoute& asked) : asked_(&asked) {}
  AskedRoute* asked_ = nullptr;
};

/// Finds requested routes within a budget of search work per tick.
///
/// 1. Requests are answered in the order of waiting time plus priority in seconds, so that each is answered
///    at last.
/// 2. Requests with the same goal are answered by one search if the ground can do that faster
///    (`Ground::shares_routes`).
/// 3. The same calls give the same answers, for any number of threads.
/// 4. Work is counted in search nodes, not in time. A batch is always finished; what it takes beyond the
///    budget is subtracted from the next one.
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

  /// Begins a new budget of `work` search nodes; 0: unlimited. The rest of the previous budget is lost.
  void begin(std::uint64_t work);
  /// Answers as many requests as the budget allows. Returns the askers, each once, in ascending order, valid
  /// until the next call. Searches run on `jobs`.
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

  std::pmr::synchronized_pool_resource answers_;  // for routes, which are written on several threads
  std::pmr::deque<AskedRoute> requests_;          // a deque, so that addresses stay valid
  std::pmr::vector<std::uint32_t> free_;          // numbers of requests
  std::pmr::vector<std::uint32_t> queue_;  // a heap of the waiting requests, and of some that were withdrawn
  std::size_t stale_ = 0;                  // withdrawn requests in the queue
  /// A hash table by goal: the first of its waiting requests, in the order of their arrival.
  std::pmr::vector<std::uint32_t> by_goal_;
  std::uint64_t serves_ = 0;
  std::pmr::vector<std::uint32_t> batch_;     // searched together
  std::pmr::vector<std::uint32_t> answered_;  // askers
  std::int64_t left_ = 0;                     // of the budget; below 0: subtracted from the next one
  bool unlimited_ = true;
  std::uint64_t orders_ = 0;
  std::uint64_t budgets_ = 0;
  std::size_t max_ = 0;  // the recent peak of requests
  RouteFigures figures_;
};

/// The state of a request.
struct AskedRoute {
  RouteService* service = nullptr;
  std::uint32_t number = 0;
  bool waits = false;                   // not answered
  bool ready = false;                   // answered, not taken
  bool held = false;                    // by a ticket
  bool queued = false;                  // in the queue, so its number must not be reused
  std::uint64_t order = 0;              // the number of requests made before it
  std::uint32_t before = 0, after = 0;  // in the list of its hash; the last one links to the first
  std::uint64_t declined = 0;           // the call of `serve` in which a shared search was found to be slower
  RouteRequest wish;
  Route way;
};

}  // namespace ambulon
