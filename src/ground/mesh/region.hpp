#pragma once
// The input of a survey: the triangles in and around a square, grouped into floors.

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <span>
#include <vector>

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "base/tolerance.hpp"
#include "convex_part.hpp"
#include "ground/mesh/patch.hpp"

namespace ambulon {

using tolerance::survey_mm;

/// A bounding box on the plan with a range of heights.
struct Box {
  dvec2 low{0.0}, high{0.0};
  double lowest = 0, highest = 0;

  bool near(const Box& other, double aside) const {
    return low.x <= other.high.x + aside && low.y <= other.high.y + aside && high.x >= other.low.x - aside &&
           high.y >= other.low.y - aside;
  }
};

Box box_of(const ConvexPart& part);

/// The part of a facet within the region.
struct Piece {
  FloorSurface::Facet facet;
  bool floor, up;
  float cost;
  std::uint32_t shell;  // the closed piece of the level that it belongs to
  ConvexPart part;
  Box box;
  static constexpr std::uint32_t no_shell = ~std::uint32_t{0};
};

/// Returns true if a facet has an area on the plan.
inline bool can_be_seen(const FloorSurface::Facet& facet) {
  return turn(facet.corners[0], facet.corners[1], facet.corners[2]) > 0;
}

/// A spatial index of pieces.
class Places {
 public:
  Places(const std::vector<Piece>& pieces, dvec2 low, double size)
      : pieces_(pieces), low_(low), size_(size), marks_(pieces.size()) {
    bins_ = std::clamp(static_cast<int>(std::sqrt(static_cast<double>(pieces.size()))), 1, 64);
    in_bins_.resize(static_cast<std::size_t>(bins_) * static_cast<std::size_t>(bins_));
    for (std::uint32_t i = 0; i < pieces.size(); ++i)
      each_bin(pieces[i].box, 0, [&](std::size_t bin) { in_bins_[bin].push_back(i); });
  }

  /// Calls `visit(number)` once for each piece at most `aside` from a box on the plan.
  template <class Visit>
  void each_near(const Box& box, double aside, Visit&& visit) {
    ++mark_;
    each_bin(box, aside, [&](std::size_t bin) {
      for (const std::uint32_t i : in_bins_[bin]) {
        if (marks_[i] == mark_) continue;
        marks_[i] = mark_;
        if (pieces_[i].box.near(box, aside)) visit(i);
      }
    });
  }

 private:
  template <class Visit>
  void each_bin(const Box& box, double aside, Visit&& visit) const {
    const auto place = [&](double off) {
      return static_cast<int>(std::clamp(off / size_ * bins_, 0.0, bins_ - 1.0));
    };
    for (int y = place(box.low.y - aside - low_.y); y <= place(box.high.y + aside - low_.y); ++y)
      for (int x = place(box.low.x - aside - low_.x); x <= place(box.high.x + aside - low_.x); ++x)
        visit(static_cast<std::size_t>(y) * static_cast<std::size_t>(bins_) + static_cast<std::size_t>(x));
  }

  const std::vector<Piece>& pieces_;
  dvec2 low_;
  double size_;
  int bins_ = 1;
  std::vector<std::vector<std::uint32_t>> in_bins_;
  std::vector<std::uint32_t> marks_;
  std::uint32_t mark_ = 0;
};

/// The body in millimetres with allowances for rounding, and all pieces around a square.
struct Region {
  double radius = 0, step = 0, tall = 0;
  double slit = 0;  // maximum width of a slit that a floor spans
  dvec2 low{0.0}, high{0.0};
  std::vector<Piece> pieces;
  std::vector<std::uint32_t> group;  // by piece: pieces of one floor have the same group
  Places* places = nullptr;

  /// Returns true if both pieces belong to the same floor.
  bool same_floor(std::uint32_t i, std::uint32_t j) const {
    return pieces[i].floor && pieces[j].floor && group[i] == group[j];
  }
};

/// Returns the union of pieces of a floor, as rings.
Outlines outline_of(const Region& region, std::span<const std::uint32_t> floor);
/// Adds what is too close to the ends of a floor. Returns true if the floor spans slits.
bool add_ledges(const Region& region, std::span<const std::uint32_t> floor, Outlines& blocked);
/// Adds what is too close to obstacles on the floor or above it.
void add_obstacles(const Region& region, std::span<const std::uint32_t> floor, Outlines& blocked);
/// Removes the parts of floors inside of solids. Returns true if that changed the pieces and their numbers.
bool leave_out_insides(Region& region);

}  // namespace ambulon
