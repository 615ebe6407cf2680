#pragma once

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <cstdint>
#include <limits>
#include <memory_resource>
#include <ranges>
#include <span>
#include <utility>
#include <vector>

#include "ambulon/base/vec.hpp"

#include "base/geometry.hpp"
#include "base/platform.hpp"

namespace ambulon {

/// A spatial hash of points for radius queries.
///
/// 1. Points are sorted by square cell, row by row, so that neighbours are contiguous in memory.
/// 2. The cells repeat over the plane, so points may lie anywhere. Far cells that share a bucket are told
///    apart by distance.
/// 3. The order of results is by row, and within a cell the order of the input: the same points give the same
///    order.
/// 4. Rebuilding allocates no memory unless there are more points than ever before.
/// 5. Queries are const and may run on several threads.
class NeighbourIndex {
 public:
  explicit NeighbourIndex(std::pmr::memory_resource* memory = std::pmr::get_default_resource())
      : starts_(memory), x_(memory), y_(memory), names_(memory) {}

  /// A point and its identifier.
  struct Entry {
    vec2 at{0.f};
    std::uint32_t name = 0;
  };

  /// Replaces the contents by `points` (a range of entries, which may be computed on access). Points that are
  /// not finite are never found. `cell`: the edge of a cell in metres (> 0), best near the most common query
  /// radius.
  template <std::ranges::random_access_range Points>
  void build(const Points& points, float cell);

  /// The number of points. Points are numbered 0 to `size() - 1`, and those of one cell are contiguous.
  std::uint32_t size() const { return static_cast<std::uint32_t>(names_.size()); }
  std::uint32_t name(std::uint32_t number) const { return names_[number]; }
  vec2 at(std::uint32_t number) const { return {x_[number], y_[number]}; }
  /// Coordinates by number. They are padded by `lanes` unused entries, so that full SIMD lanes can be read.
  const float* x() const { return x_.data(); }
  const float* y() const { return y_.data(); }
  static constexpr std::uint32_t lanes = 4;
  /// Removes a point from later queries.
  void forget(std::uint32_t number) { x_[number] = std::numeric_limits<float>::quiet_NaN(); }

  /// Calls `visit(number, at)` for each point at most `radius` metres (>= 0) from `centre`.
  template <class Visit>
  AMBULON_ALWAYS_INLINE void near(vec2 centre, float radius, Visit&& visit) const {
    // Compaction without a branch that would be hard to predict; then the visits.
    each_run(centre, radius, [&](std::uint32_t from, std::uint32_t to) {
      std::array<std::uint32_t, 64> found;
      while (from < to) {
        const std::uint32_t end = std::min(to, from + static_cast<std::uint32_t>(found.size()));
        std::size_t count = 0;
        for (; from < end; ++from) {
          const vec2 off = at(from) - centre;
          found[count] = from;
          count += glm::dot(off, off) <= radius * radius ? 1U : 0U;
        }
        for (std::size_t i = 0; i < count; ++i) visit(found[i], at(found[i]));
      }
    });
  }

  /// Calls `visit(from, to)` for ranges of numbers, `to` excluded. The ranges contain all points at most
  /// `radius` metres (>= 0) from `centre`, and others.
  template <class Visit>
  AMBULON_ALWAYS_INLINE void each_run(vec2 centre, float radius, Visit&& visit) const {
    const std::int64_t left = column(centre.x - radius), right = column(centre.x + radius);
    const std::int64_t low = row(centre.y - radius), high = row(centre.y + radius);
    // The circle is larger than the layout: each cell would be met twice.
    if (right - left >= columns() || high - low >= rows()) return visit(0U, size());
    const std::uint32_t first = laid_out(left, columns()), last = laid_out(right, columns());
    for (std::int64_t y = low; y <= high; ++y) {
      const std::uint32_t begin = laid_out(y, rows()) * columns();
      if (first <= last) {
        visit(starts_[begin + first], starts_[begin + last + 1]);
      } else {
        visit(starts_[begin], starts_[begin + last + 1]);
        visit(starts_[begin + first], starts_[begin + columns()]);
      }
    }
  }

 private:
  // A range costs as much as testing several points. So cells are `taller` times as high as a square of the
  // same area, and as much narrower: a circle then meets fewer rows.
  static constexpr float taller = 2.f;
  std::int64_t column(float x) const { return whole(x * per_metre_ * taller); }
  std::int64_t row(float y) const { return whole(y * per_metre_ / taller); }
  /// With the arguments in this order NaN becomes a far cell, too.
  static std::int64_t whole(float cells) {
    constexpr float far = 4e18f;  // cells: the largest number
    return static_cast<std::int64_t>(std::max(-far, std::min(far, std::floor(cells))));
  }
  // The layout has as many rows of cells in metres as columns: it is square.
  std::uint32_t columns() const { return 1U << (bits_ + 1); }
  std::uint32_t rows() const { return 1U << (bits_ - 1); }
  static std::uint32_t laid_out(std::int64_t cell, std::uint32_t count) {
    return static_cast<std::uint32_t>(cell) & (count - 1);
  }
  std::uint32_t bucket_of(vec2 at) const {
    return laid_out(row(at.y), rows()) * columns() + laid_out(column(at.x), columns());
  }

  std::pmr::vector<std::uint32_t> starts_;  // the number of the first point of each cell, with an end marker
  std::pmr::vector<float> x_, y_;
  std::pmr::vector<std::uint32_t> names_;
  std::uint32_t bits_ = 1;  // half of the bits that number the cells of the layout
  float per_metre_ = 1.f;
};

template <std::ranges::random_access_range Points>
void NeighbourIndex::build(const Points& points, float cell) {
  constexpr std::uint32_t min_bits = 4;
  const std::size_t count = std::ranges::size(points);
  per_metre_ = 1.f / cell;
  const auto wanted = static_cast<std::uint32_t>(std::bit_width(count));  // at least one cell for each point
  bits_ = std::max(min_bits, (wanted + 1) / 2);
  starts_.assign((std::size_t{1} << 2 * bits_) + 1, 0);
  x_.resize(count + lanes);
  y_.resize(count + lanes);
  names_.resize(count);
  // Counting sort: count the points of each cell, sum the counts, place the points.
  for (const Entry& point : points) ++starts_[bucket_of(point.at)];
  std::uint32_t before = 0;
  for (std::uint32_t& start : starts_) before += std::exchange(start, before);
  for (const Entry& point : points) {
    const std::uint32_t number = starts_[bucket_of(point.at)]++;
    x_[number] = point.at.x;
    y_[number] = point.at.y;
    names_[number] = point.name;
  }
  // Each start now stands at the end of its cell, which is the start of the next one.
  std::shift_right(starts_.begin(), starts_.end(), 1);
  starts_.front() = 0;
}

}  // namespace ambulon
