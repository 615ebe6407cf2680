#include "ambulon/route/route_service.hpp"

#include <algorithm>
#include <tuple>

namespace ambulon {
namespace {

constexpr std::size_t most_at_once = 32;   // searches of a batch
constexpr std::size_t most_shared = 4096;  // answers out of one search
constexpr std::size_t kept_requests = 128;
constexpr std::uint64_t budgets_to_forget = 128;

/// Requests with the same of these have the same goal; those who go round a jam have theirs to themselves.
auto goal_of(const AskedRoute& asked) {
  const Spot& to = asked.wish.to;
  const vec3 at = to.position;
  return std::tuple(to.layer, to.piece, at.x, at.y, at.z, asked.wish.jam ? asked.order : 0);
}

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
  asked.waits = true;
  asked.ready = false;
  asked.order = ++orders_;
  most_ = std::max(most_, requests_.size() - free_.size());
  ++figures_.asked;
  queue_.push_back(number);
  return RouteTicket(asked);
}

void RouteService::withdraw(AskedRoute& asked) {
  if (asked.waits) {
    ++figures_.withdrawn;
    std::erase(queue_, asked.number);
  }
  asked.waits = asked.ready = false;
  free_.push_back(asked.number);
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

/// Gives back the memory that only a rush of requests needed, a while ago.
void RouteService::give_back() {
  const bool idle = free_.size() == requests_.size();
  if (idle && requests_.size() > kept_requests && requests_.size() > 2 * most_) {
    for (auto* numbers : {&free_, &queue_, &by_goal_, &batch_, &answered_}) {
      numbers->clear();
      numbers->shrink_to_fit();
    }
    requests_ = std::pmr::deque<AskedRoute>(requests_.get_allocator());
    answers_.release();
  }
  most_ = 0;
}

/// True when request `a` comes before `b`.
bool RouteService::before(std::uint32_t a, std::uint32_t b) const {
  const AskedRoute &one = requests_[a], &other = requests_[b];
  const double due = one.wish.time - one.wish.priority, others_due = other.wish.time - other.wish.priority;
  return due != others_due ? due < others_due : one.order < other.order;
}

/// Puts those who wait in turn, and finds those with the same goal.
void RouteService::line_up() {
  const auto in_turn = [this](std::uint32_t a, std::uint32_t b) { return before(a, b); };
  std::ranges::sort(queue_, in_turn);
  by_goal_ = queue_;
  std::ranges::sort(by_goal_, [this](std::uint32_t a, std::uint32_t b) {
    const auto one = goal_of(requests_[a]), other = goal_of(requests_[b]);
    return one != other ? one < other : before(a, b);
  });
  for (std::size_t run = 0, end = 0; run < by_goal_.size(); run = end) {
    const auto goal = goal_of(requests_[by_goal_[run]]);
    while (end < by_goal_.size() && goal_of(requests_[by_goal_[end]]) == goal) ++end;
    for (std::size_t i = run; i < end; ++i) {
      requests_[by_goal_[i]].run = run;
      requests_[by_goal_[i]].run_end = end;
    }
  }
}

std::span<const std::uint32_t> RouteService::serve(const Ground& ground, double time, const Jobs& jobs) {
  answered_.clear();
  if (queue_.empty() || !any_left()) return answered_;
  line_up();
  // As many at once as the budget may be enough for, going by what searches took so far.
  const std::uint64_t each = figures_.work / std::max<std::uint64_t>(1, figures_.answered) + 1;
  for (const std::uint32_t number : queue_) {
    if (!any_left()) break;
    const AskedRoute& request = requests_[number];
    if (!request.waits) continue;  // it was answered together with another one
    if (request.run_end > request.run + 1 && share(ground, request.run, request.run_end, time)) continue;
    batch_.push_back(number);
    const std::uint64_t fits = unlimited_ ? most_at_once : static_cast<std::uint64_t>(left_) / each;
    if (batch_.size() >= std::min<std::uint64_t>(most_at_once, fits)) search(ground, jobs, time);
  }
  search(ground, jobs, time);
  std::erase_if(queue_, [this](std::uint32_t number) { return !requests_[number].waits; });
  std::ranges::sort(answered_);
  answered_.erase(std::ranges::unique(answered_).begin(), answered_.end());
  return answered_;
}

/// Answers those of a run that wait, up to so many, out of one search; false when that would take longer.
bool RouteService::share(const Ground& ground, std::size_t first, std::size_t end, double time) {
  const auto run = std::span(by_goal_).subspan(first, end - first);
  const Spot& to = requests_[run[0]].wish.to;
  std::pmr::vector<Spot> from(&answers_);
  std::pmr::vector<Route*> ways(&answers_);
  for (const std::uint32_t number : run) {
    AskedRoute& request = requests_[number];
    if (!request.waits || from.size() == most_shared) continue;
    from.push_back(request.wish.from);
    ways.push_back(&request.way);
  }
  if (!ground.shares_routes(to, from)) {
    for (const std::uint32_t number : run) requests_[number].run_end = first;  // and not ask for each again
    return false;
  }
  ground.routes_to(to, from, ways);
  std::size_t left = from.size();
  for (const std::uint32_t number : run)
    if (left > 0 && requests_[number].waits) finish(number, time), --left;
  figures_.shared += from.size();
  return true;
}

void RouteService::search(const Ground& ground, const Jobs& jobs, double time) {
  const auto one = [&](std::size_t i) {
    AskedRoute& request = requests_[batch_[i]];
    const auto& [from, to, priority, time_asked, asker, jam, most] = request.wish;
    if (jam)
      ground.route_round(from, to, *jam, most, request.way);
    else
      ground.route(from, to, request.way);
  };
  in_parts(jobs, batch_.size(), one, 1);
  for (const std::uint32_t number : batch_) finish(number, time);
  batch_.clear();
}

void RouteService::finish(std::uint32_t number, double time) {
  AskedRoute& request = requests_[number];
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
