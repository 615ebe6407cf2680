#include "route/route_service.hpp"

#include <algorithm>
#include <bit>

#include "base/in_parts.hpp"

namespace ambulon {
namespace {

constexpr std::size_t max_at_once = 32;   // searches of a batch
constexpr std::size_t max_shared = 4096;  // answers from one search
constexpr std::size_t kept_requests = 128;
constexpr std::uint64_t budgets_to_forget = 128;
constexpr std::size_t kept_stale = 64;  // withdrawn requests that the queue may keep

}  // namespace

RouteTicket RouteService::ask(const RouteRequest& wish) {
  std::uint32_t number = static_cast<std::uint32_t>(requests_.size());
  if (free_.empty()) {
    requests_.push_back({.service = this, .number = number, .wish = {}, .way = Route(&answers_)});
    free_.reserve(requests_.size());
  } else {
    number = free_.back();
    free_.pop_back();
  }
  AskedRoute& asked = requests_[number];
  asked.wish = wish;
  asked.waits = asked.held = asked.queued = true;
  asked.ready = false;
  asked.order = ++orders_;
  max_ = std::max(max_, requests_.size() - free_.size());
  ++figures_.asked;
  queue_.push_back(number);
  std::ranges::push_heap(queue_, [this](std::uint32_t a, std::uint32_t b) { return after(a, b); });
  if (requests_.size() > by_goal_.size())
    list_goals_again();
  else
    link(asked);
  return RouteTicket(asked);
}

void RouteService::withdraw(AskedRoute& asked) {
  if (asked.waits) {
    ++figures_.withdrawn;
    ++stale_;
    unlink(asked);
  }
  asked.waits = asked.ready = asked.held = false;
  let_go(asked);
  drop_stale();
}

/// Frees the number of a request that neither a ticket nor the queue has.
void RouteService::let_go(AskedRoute& asked) {
  if (!asked.held && !asked.queued) free_.push_back(asked.number);
}

RouteTicket& RouteTicket::operator=(RouteTicket&& other) noexcept {
  if (this == &other) return *this;
  withdraw();
  asked_ = std::exchange(other.asked_, nullptr);
  return *this;
}

bool RouteTicket::ready() const { return asked_ != nullptr && asked_->ready; }

bool RouteTicket::found_none() const { return ready() && asked_->way.bends.empty(); }

const RouteRequest* RouteTicket::wish() const { return asked_ != nullptr ? &asked_->wish : nullptr; }

bool RouteTicket::leads_to(const Spot& goal) const {
  return asked_ != nullptr && asked_->wish.to.position == goal.position;
}

void RouteTicket::start_from(const Spot& spot) {
  if (asked_ != nullptr && asked_->waits) asked_->wish.from = spot;
}

bool RouteTicket::take(Route& route) {
  if (!ready()) return false;
  route = asked_->way;
  withdraw();
  return true;
}

void RouteTicket::withdraw() {
  if (asked_ != nullptr) asked_->service->withdraw(*asked_);
  asked_ = nullptr;
}

void RouteService::begin(std::uint64_t work) {
  unlimited_ = work == 0;
  left_ =
      std::min<std::int64_t>(left_, 0) + static_cast<std::int64_t>(std::min(work, std::uint64_t{1} << 62U));
  if (unlimited_) left_ = 0;
  if (++budgets_ % budgets_to_forget == 0) give_back();
}

/// Returns the memory of a past peak of requests.
void RouteService::give_back() {
  const bool idle = free_.size() == requests_.size();
  if (idle && requests_.size() > kept_requests && requests_.size() > 2 * max_) {
    for (auto* numbers : {&free_, &batch_, &answered_}) {
      numbers->clear();
      numbers->shrink_to_fit();
    }
    queue_.clear();
    queue_.shrink_to_fit();
    stale_ = 0;
    by_goal_.clear();
    by_goal_.shrink_to_fit();
    requests_ = std::pmr::deque<AskedRoute>(requests_.get_allocator());
    answers_.release();
  }
  max_ = 0;
}

/// Returns true if request `a` comes after `b`.
bool RouteService::after(std::uint32_t a, std::uint32_t b) const {
  const AskedRoute &one = requests_[a], &other = requests_[b];
  const double due = one.wish.time - one.wish.priority, others_due = other.wish.time - other.wish.priority;
  return due != others_due ? due > others_due : one.order > other.order;
}

/// Removes the first request from the queue. It may have been withdrawn.
std::uint32_t RouteService::take_first() {
  std::ranges::pop_heap(queue_, [this](std::uint32_t a, std::uint32_t b) { return after(a, b); });
  const std::uint32_t number = queue_.back();
  queue_.pop_back();
  AskedRoute& asked = requests_[number];
  asked.queued = false;
  if (!asked.waits) --stale_;
  let_go(asked);
  ++figures_.looked_at;
  return number;
}

/// Removes the withdrawn requests from the queue when they outnumber the others: amortised constant time.
void RouteService::drop_stale() {
  if (stale_ <= kept_stale || 2 * stale_ <= queue_.size()) return;
  std::erase_if(queue_, [this](std::uint32_t number) {
    AskedRoute& asked = requests_[number];
    if (asked.waits) return false;
    asked.queued = false;
    let_go(asked);
    return true;
  });
  std::ranges::make_heap(queue_, [this](std::uint32_t a, std::uint32_t b) { return after(a, b); });
  stale_ = 0;
}

/// Returns the list of the requests whose goal has the same hash.
std::uint32_t& RouteService::goal_list(const RouteRequest& wish) {
  const vec3 at = wish.to.position;
  std::uint64_t sum = wish.to.layer;
  for (const std::uint32_t part : {wish.to.piece, std::bit_cast<std::uint32_t>(at.x),
                                   std::bit_cast<std::uint32_t>(at.y), std::bit_cast<std::uint32_t>(at.z)})
    sum = (sum ^ part) * 0x9e3779b97f4a7c15 + (sum >> 29U);
  return by_goal_[(sum ^ (sum >> 32U)) & (by_goal_.size() - 1)];
}

/// Detours around a jam are in no list, since they cannot share a search.
void RouteService::link(AskedRoute& asked) {
  if (asked.wish.jam) return;
  std::uint32_t& first = goal_list(asked.wish);
  asked.after = none;
  if (first == none) {
    first = asked.before = asked.number;
  } else {
    asked.before = requests_[first].before;
    requests_[asked.before].after = asked.number;
    requests_[first].before = asked.number;
  }
}

void RouteService::unlink(AskedRoute& asked) {
  if (asked.wish.jam) return;
  std::uint32_t& first = goal_list(asked.wish);
  if (first == asked.number)
    first = asked.after;
  else
    requests_[asked.before].after = asked.after;
  if (first != none) requests_[asked.after == none ? first : asked.after].before = asked.before;
}

/// Grows the hash table when there are more requests than lists.
void RouteService::list_goals_again() {
  if (requests_.size() <= by_goal_.size()) return;
  std::size_t lists = 64;
  while (lists < 2 * requests_.size()) lists *= 2;
  by_goal_.assign(lists, none);
  std::pmr::vector<std::uint32_t> waiting(&answers_);
  for (const AskedRoute& asked : requests_)
    if (asked.waits) waiting.push_back(asked.number);
  std::ranges::sort(waiting, {}, [this](std::uint32_t number) { return requests_[number].order; });
  for (const std::uint32_t number : waiting) link(requests_[number]);
}

std::span<const std::uint32_t> RouteService::serve(const Ground& ground, double time, const Jobs& jobs) {
  answered_.clear();
  if (queue_.empty() || !any_left()) return answered_;
  ++serves_;
  // The batch is as large as the budget allows, by the mean cost of a search so far.
  const std::uint64_t each = figures_.work / std::max<std::uint64_t>(1, figures_.answered) + 1;
  while (any_left() && !queue_.empty()) {
    const std::uint32_t number = take_first();
    // The request may have been withdrawn, or answered by a shared search.
    if (!requests_[number].waits || share(ground, number, time)) continue;
    batch_.push_back(number);
    const std::uint64_t fits = unlimited_ ? max_at_once : static_cast<std::uint64_t>(left_) / each;
    if (batch_.size() >= std::min<std::uint64_t>(max_at_once, fits)) search(ground, jobs, time);
  }
  search(ground, jobs, time);
  drop_stale();
  std::ranges::sort(answered_);
  answered_.erase(std::ranges::unique(answered_).begin(), answered_.end());
  return answered_;
}

/// Answers a request and up to `max_shared` others with its goal by one search. Returns false if separate
/// searches are expected to be faster.
bool RouteService::share(const Ground& ground, std::uint32_t number, double time) {
  if (requests_[number].wish.jam) return false;
  const Spot to = requests_[number].wish.to;
  if (requests_[number].declined == serves_) return false;
  std::pmr::vector<std::uint32_t> run(1, number, &answers_);
  for (std::uint32_t other = goal_list(requests_[number].wish); other != none && run.size() < max_shared;
       other = requests_[other].after) {
    ++figures_.looked_at;
    const Spot& its = requests_[other].wish.to;
    if (other != number && its.layer == to.layer && its.piece == to.piece && its.position == to.position)
      run.push_back(other);
  }
  if (run.size() < 2) return false;
  std::pmr::vector<Spot> from(&answers_);
  std::pmr::vector<Route*> ways(&answers_);
  for (const std::uint32_t each : run) {
    from.push_back(requests_[each].wish.from);
    ways.push_back(&requests_[each].way);
  }
  if (!ground.shares_routes(to, from)) {
    // so that `serve` does not test each of them again
    for (const std::uint32_t each : run) requests_[each].declined = serves_;
    return false;
  }
  ground.routes_to(to, from, ways);
  for (const std::uint32_t each : run) finish(each, time);
  stale_ += run.size() - 1;  // all but the first are still in the queue
  figures_.shared += from.size();
  return true;
}

void RouteService::search(const Ground& ground, const Jobs& jobs, double time) {
  const auto one = [&](std::size_t i) {
    AskedRoute& request = requests_[batch_[i]];
    const auto& [from, to, priority, time_asked, asker, jam, max] = request.wish;
    if (jam)
      ground.detour(from, to, *jam, max, request.way);
    else
      ground.route(from, to, request.way);
  };
  in_parts(jobs, batch_.size(), one, 1);
  for (const std::uint32_t number : batch_) finish(number, time);
  batch_.clear();
}

void RouteService::finish(std::uint32_t number, double time) {
  AskedRoute& request = requests_[number];
  unlink(request);
  request.waits = false;
  request.ready = true;
  answered_.push_back(request.wish.asker);
  const std::uint64_t work = request.way.expanded + 1;
  left_ -= static_cast<std::int64_t>(work);
  figures_.work += work;
  ++figures_.answered;
  const double waited = time - request.wish.time;
  figures_.waited += waited;
  figures_.longest_wait = std::max(figures_.longest_wait, waited);
}

}  // namespace ambulon
