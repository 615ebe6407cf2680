#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
#include <limits>
#include <memory_resource>
#include <span>
#include <vector>

#include "ambulon/base/vec.hpp"

namespace ambulon {

/// Who is near a place: points sorted into square cells, row by row, so that what is near lies together in
/// memory. The cells are laid out over and over, so points may lie anywhere; those of far-away cells that
/// share a place are told apart by their distance. Building allocates nothing once it has seen as many
/// points. Answers come row by row and within a cell in the order the points were given in, so the same
/// points give the same order. Any number of threads may ask.
class NeighbourIndex {
 public:
  explicit NeighbourIndex(std::pmr::memory_resource* memory = std::pmr::get_default_resource())
      : starts_(memory), sorted_(memory), buckets_(memory) {}

  /// A point, and what it is called.
  struct Entry {
    vec2 at{0.f};
    std::uint32_t name = 0;
  };

  /// Forgets what it held and takes in `points` (finite). `cell`: metres (> 0), best near the radius
  /// most asked for.
  void build(std::span<const Entry> points, float cell);

  /// Point number `place` of those sorted is not found any more.
  void forget(std::uint32_t place) { sorted_[place].at = vec2(std::numeric_limits<float>::quiet_NaN()); }

  /// All points, with those of a cell together.
  std::span<const Entry> sorted() const { return sorted_; }

  /// Calls `visit(Entry)` for each point at most `radius` metres (>= 0) from `centre`: with the entry that
  /// stands in `sorted`.
  template <class Visit>
  [[gnu::always_inline]] inline void near(vec2 centre, float radius, Visit&& visit) const {
    // First which are near, without a branch that nobody could foretell; then they are visited.
    each_run(centre, radius, [&](std::uint32_t from, std::uint32_t to) {
      std::array<std::uint32_t, 64> found;
      while (from < to) {
        const std::uint32_t end = std::min(to, from + static_cast<std::uint32_t>(found.size()));
        std::size_t count = 0;
        for (; from < end; ++from) {
          const vec2 off = sorted_[from].at - centre;
          found[count] = from;
          count += glm::dot(off, off) <= radius * radius ? 1U : 0U;
        }
        for (std::size_t i = 0; i < count; ++i) visit(sorted_[found[i]]);
      }
    });
  }

  /// Calls `visit(from, to)` for stretches of `sorted`, places `from` up to before `to`: in them are all
  /// points at most `radius` metres (>= 0) from `centre`, and others.
  template <class Visit>
  [[gnu::always_inline]] inline void each_run(vec2 centre, float radius, Visit&& visit) const {
    const std::int64_t left = row(centre.x - radius), right = row(centre.x + radius);
    const std::int64_t low = row(centre.y - radius), high = row(centre.y + radius);
    // Wider than the layout, where a cell would be met twice.
    if (right - left > mask_ || high - low > mask_)
      return visit(0U, static_cast<std::uint32_t>(sorted_.size()));
    const std::uint32_t first = column(left), last = column(right);
    for (std::int64_t y = low; y <= high; ++y) {
      const std::uint32_t begin = column(y) << bits_;
      if (first <= last) {
        visit(starts_[begin + first], starts_[begin + last + 1]);
      } else {
        visit(starts_[begin], starts_[begin + last + 1]);
        visit(starts_[begin + first], starts_[begin + mask_ + 1]);
      }
    }
  }

 private:
  std::int64_t row(float metres) const { return static_cast<std::int64_t>(std::floor(metres * per_metre_)); }
  std::uint32_t column(std::int64_t row) const { return static_cast<std::uint32_t>(row) & mask_; }
  std::uint32_t bucket_of(vec2 at) const { return column(row(at.y)) << bits_ | column(row(at.x)); }

  std::pmr::vector<std::uint32_t> starts_;  // of each cell in `sorted_`, and the end of the last
  std::pmr::vector<Entry> sorted_;
  std::pmr::vector<std::uint32_t> buckets_;  // of each point given
  std::uint32_t bits_ = 0, mask_ = 0;        // of the cells in a row, which are as many as there are rows
  float per_metre_ = 1.f;
};

}  // namespace ambulon
