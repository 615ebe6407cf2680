#include "ambulon/ground/barrier_ground.hpp"

#include <algorithm>
#include <cmath>
#include <unordered_map>
#include <utility>

#include <fmt/format.h>

#include "ambulon/base/problem.hpp"

namespace ambulon {
namespace {

constexpr double square = 16;             // metres: edge of a grid square
constexpr std::size_t max_squares = 64;   // squares that list one barrier; larger barriers are in `large`
constexpr std::size_t max_asked = 1'024;  // squares of a query; larger queries test all barriers

/// Calls `visit(key)` for each grid square that a box touches. Returns false, and visits none, if there are
/// more than `limit`.
template <class Visit>
bool each_square(vec2 min, vec2 max, std::size_t limit, Visit&& visit) {
  const auto place = [](float metres) {
    return static_cast<std::int64_t>(std::clamp(std::floor(static_cast<double>(metres) / square), -1e9, 1e9));
  };
  const std::int64_t x0 = place(min.x), x1 = place(max.x), y0 = place(min.y), y1 = place(max.y);
  if (x1 < x0 || y1 < y0) return true;
  const auto wide = static_cast<std::size_t>(x1 - x0 + 1), tall = static_cast<std::size_t>(y1 - y0 + 1);
  if (wide > limit || tall > limit || wide * tall > limit) return false;
  for (std::int64_t y = y0; y <= y1; ++y)
    for (std::int64_t x = x0; x <= x1; ++x)
      visit(static_cast<std::uint64_t>(x) << 32U ^ (static_cast<std::uint64_t>(y) & 0xffff'ffffU));
  return true;
}

}  // namespace

/// A spatial hash of the barriers.
struct BarrierGround::Index {
  std::unordered_map<std::uint64_t, std::vector<BarrierId>> squares;  // barriers by grid square
  std::vector<BarrierId> large;                                       // barriers in too many squares

  void add(BarrierId id, const Barrier& barrier) {
    const auto put = [&](std::uint64_t key) { squares[key].push_back(id); };
    if (!each_square(barrier.min(), barrier.max(), max_squares, put)) large.push_back(id);
  }
  void remove(BarrierId id, const Barrier& barrier) {
    const auto take = [&](std::uint64_t key) {
      const auto listed = squares.find(key);
      std::erase(listed->second, id);
      if (listed->second.empty()) squares.erase(listed);
    };
    if (!each_square(barrier.min(), barrier.max(), max_squares, take)) std::erase(large, id);
  }
};

BarrierGround::BarrierGround() : index_(std::make_unique<Index>()) {}

BarrierGround::~BarrierGround() = default;

std::vector<const PlacedBarrier*> BarrierGround::barriers_near(vec2 min, vec2 max) const {
  std::vector<const PlacedBarrier*> near;
  const auto add = [&](const PlacedBarrier& placed) {
    const vec2 low = placed.barrier.min(), high = placed.barrier.max();
    if (low.x <= max.x && low.y <= max.y && high.x >= min.x && high.y >= min.y) near.push_back(&placed);
  };
  const auto add_listed = [&](const std::vector<BarrierId>& ids) {
    for (const BarrierId id : ids) add(*std::ranges::lower_bound(placed_, id, {}, &PlacedBarrier::id));
  };
  const bool few = !placed_.empty() && each_square(min, max, max_asked, [&](std::uint64_t key) {
    if (const auto listed = index_->squares.find(key); listed != index_->squares.end())
      add_listed(listed->second);
  });
  if (few) {
    add_listed(index_->large);
    std::ranges::sort(near);  // in the order of ids
    near.erase(std::unique(near.begin(), near.end()), near.end());
  } else {
    for (const PlacedBarrier& placed : placed_) add(placed);
  }
  return near;
}

Expected<std::vector<PlacedBarrier>::iterator> BarrierGround::find(BarrierId id) {
  const auto found = std::ranges::lower_bound(placed_, id, {}, &PlacedBarrier::id);
  if (found == placed_.end() || found->id != id)
    return problem(fmt::format("barrier {} is not on the ground", static_cast<std::uint32_t>(id)));
  return found;
}

BarrierId BarrierGround::put(const Barrier& barrier) {
  const BarrierId id{next_++};
  placed_.push_back({id, barrier});
  index_->add(id, barrier);
  barrier_changed(nullptr, &barrier);
  return id;
}

Expected<BarrierId> BarrierGround::move(BarrierId id, const Barrier& barrier) {
  const auto placed = find(id);
  if (!placed) return tl::unexpected(placed.error());
  const Barrier was = std::exchange((*placed)->barrier, barrier);
  index_->remove(id, was);
  index_->add(id, barrier);
  barrier_changed(&was, &barrier);
  return id;
}

Expected<BarrierId> BarrierGround::remove(BarrierId id) {
  const auto placed = find(id);
  if (!placed) return tl::unexpected(placed.error());
  const Barrier was = std::move((*placed)->barrier);
  placed_.erase(*placed);
  index_->remove(id, was);
  barrier_changed(&was, nullptr);
  return id;
}

}  // namespace ambulon
