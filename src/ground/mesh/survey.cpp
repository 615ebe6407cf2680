#include "ambulon/ground/mesh/survey.hpp"

#include <algorithm>
#include <cmath>
#include <functional>
#include <numeric>
#include <tuple>

#include <glm/vector_relational.hpp>

#include "ambulon/ground/mesh/plan.hpp"

#include "convex_part.hpp"

namespace ambulon {
namespace {

using Facet = FloorSurface::Facet;

constexpr double rounding = 2;     // millimetres
constexpr int smallest = 250;      // millimetres: squares are not divided further
constexpr double least_reach = 1;  // millimetres: of bodies without a radius, so that ledges part floors

/// The upright box, seen from above, and the heights between which something lies.
struct Box {
  dvec2 low{0.0}, high{0.0};
  double lowest = 0, highest = 0;

  bool near(const Box& other, double aside) const {
    return low.x <= other.high.x + aside && low.y <= other.high.y + aside && high.x >= other.low.x - aside &&
           high.y >= other.low.y - aside;
  }
};

Box box_of(const ConvexPart& part) {
  Box box{part[0].at, part[0].at, part[0].height, part[0].height};
  for (const SpacePoint& point : part) {
    box.low = glm::min(box.low, point.at), box.high = glm::max(box.high, point.at);
    box.lowest = std::min(box.lowest, point.height), box.highest = std::max(box.highest, point.height);
  }
  return box;
}

/// What of a facet lies in the region that is looked at.
struct Piece {
  Facet facet;
  bool floor, up;
  ConvexPart part;
  Box box;
};

/// Finds pieces by where they are.
class Places {
 public:
  Places(const std::vector<Piece>& pieces, dvec2 low, double size)
      : pieces_(pieces), low_(low), size_(size), marks_(pieces.size()) {
    bins_ = std::clamp(static_cast<int>(std::sqrt(static_cast<double>(pieces.size()))), 1, 64);
    in_bins_.resize(static_cast<std::size_t>(bins_) * static_cast<std::size_t>(bins_));
    for (std::uint32_t i = 0; i < pieces.size(); ++i)
      each_bin(pieces[i].box, 0, [&](std::size_t bin) { in_bins_[bin].push_back(i); });
  }

  /// Calls `visit(number)` once for each piece that is at most `aside` from a box, seen from above.
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

/// Stretches of a line, as parts of it.
class Stretches {
 public:
  void add(double from, double to) {
    if (to > from) stretches_.emplace_back(from, to);
  }
  /// Calls `visit(from, to)` for what of 0 to 1 none of them covers.
  template <class Visit>
  void each_gap(Visit&& visit) {
    std::ranges::sort(stretches_);
    double at = 0;
    for (const auto& [from, to] : stretches_) {
      if (from > at) visit(at, from);
      at = std::max(at, to);
    }
    if (at < 1) visit(at, 1.0);
  }

 private:
  std::vector<std::pair<double, double>> stretches_;
};

/// What of the way from `a` to `b`, as parts of it from `first` to `second`, lies over a facet, grown by
/// `beyond`, and between two heights below its plane.
std::pair<double, double> over(const SpacePoint& a, const SpacePoint& b, const Facet& facet, double beyond,
                               double low, double high) {
  double from = 0, to = 1;
  const auto limit = [&](double of_a, double of_b) {  // where a linear value is not negative
    if (of_a < 0 && of_b < 0) to = -1;
    if (of_a < 0 && of_b >= 0) from = std::max(from, of_a / (of_a - of_b));
    if (of_a >= 0 && of_b < 0) to = std::min(to, of_a / (of_a - of_b));
  };
  for (std::size_t i = 0; i < 3; ++i) {
    const Line line = side_of(facet, i);
    limit(line.inside(a.at) + beyond, line.inside(b.at) + beyond);
  }
  const double above_a = height_at(facet, a.at) - a.height, above_b = height_at(facet, b.at) - b.height;
  limit(above_a - low, above_b - low);
  limit(high - above_a, high - above_b);
  return {from, to};
}

/// Surveys a square, or when a floor lies above itself in it, its quarters.
class Surveyor {
 public:
  Surveyor(const LevelIndex& level, const Body& body)
      : level_(level),
        radius_(std::max(least_reach, body.radius * 1000.0)),
        step_(body.step_up * 1000.0 + 1),
        tall_(std::max(body.height * 1000.0, step_ + 1) - 1),
        gap_(level.gap()) {}

  void look(const Square& square, std::vector<SurveyedSquare>& surveyed) {
    square_ = square;
    find_pieces();
    Places places(pieces_, low_, high_.x - low_.x);
    places_ = &places;
    find_groups();
    if (square.size / 2 >= smallest && above_itself()) {
      const int half = square.size / 2;
      for (const PlanPoint off : {PlanPoint{0, 0}, {half, 0}, {0, half}, {half, half}})
        look({{square.low.x + off.x, square.low.y + off.y}, half}, surveyed);
      return;
    }
    SurveyedSquare& found = surveyed.emplace_back();
    found.square = square;
    std::vector<std::uint32_t> order;  // floors, group by group
    for (std::uint32_t i = 0; i < pieces_.size(); ++i)
      if (pieces_[i].floor) order.push_back(i);
    std::ranges::sort(order, {}, [&](std::uint32_t i) { return std::pair(group_[i], i); });
    for (std::size_t i = 0, end = 0; i < order.size(); i = end) {
      while (end < order.size() && group_[order[end]] == group_[order[i]]) ++end;
      survey_floor(std::span(order).subspan(i, end - i), found.floors);
    }
  }

 private:
  void find_pieces() {
    const double margin = radius_ + gap_ + 10;
    low_ = dvec2(square_.low.x, square_.low.y) - margin;
    high_ = dvec2(square_.low.x, square_.low.y) + static_cast<double>(square_.size) + margin;
    const auto whole = [](dvec2 at) {
      return PlanPoint{static_cast<int>(std::floor(at.x)), static_cast<int>(std::floor(at.y))};
    };
    pieces_.clear();
    for (const std::uint32_t number : level_.near(whole(low_), whole(high_ + 1.0))) {
      const LevelIndex::Facet& facet = level_.facets()[number];
      ConvexPart part;
      for (std::size_t i = 0; i < 3; ++i)
        part.push_back(
            {dvec2(facet.corners[i].x, facet.corners[i].y), static_cast<double>(facet.heights[i])});
      Box box = box_of(part);
      if (glm::any(glm::lessThan(box.low, low_)) || glm::any(glm::greaterThan(box.high, high_))) {
        keep_in_box(part, low_, high_);
        if (part.empty()) continue;
        box = box_of(part);
      }
      pieces_.push_back({{facet.corners, facet.heights}, facet.floor, facet.up, std::move(part), box});
    }
  }

  /// Which floors belong together.
  void find_groups() {
    group_.resize(pieces_.size());
    std::iota(group_.begin(), group_.end(), 0U);
    gaps_ = false;
    for (std::uint32_t i = 0; i < pieces_.size(); ++i) {
      if (!pieces_[i].floor) continue;
      places_->each_near(pieces_[i].box, gap_ + rounding, [&](std::uint32_t j) {
        if (j >= i || !pieces_[j].floor || root(i) == root(j)) return;
        if (share_side(pieces_[i].facet, pieces_[j].facet) || joined(pieces_[i], pieces_[j], rounding)) {
          unite(i, j);
        } else if (gap_ > 0 && joined(pieces_[i], pieces_[j], gap_ + rounding)) {
          unite(i, j);
          gaps_ = true;
        }
      });
    }
    for (std::uint32_t i = 0; i < pieces_.size(); ++i) group_[i] = root(i);
  }

  std::uint32_t root(std::uint32_t piece) {
    while (group_[piece] != piece) piece = group_[piece] = group_[group_[piece]];
    return piece;
  }
  void unite(std::uint32_t i, std::uint32_t j) {
    i = root(i), j = root(j);
    group_[std::max(i, j)] = std::min(i, j);
  }

  static bool share_side(const Facet& a, const Facet& b) {
    int shared = 0;
    for (std::size_t i = 0; i < 3; ++i)
      for (std::size_t j = 0; j < 3; ++j)
        shared += a.corners[i] == b.corners[j] && a.heights[i] == b.heights[j];
    return shared >= 2;
  }

  /// True when somewhere one can step from one floor to the other.
  bool joined(const Piece& a, const Piece& b, double aside) const {
    if (!a.box.near(b.box, aside) || a.box.lowest > b.box.highest + step_ + aside ||
        b.box.lowest > a.box.highest + step_ + aside)
      return false;
    ConvexPart shared = a.part;
    keep_over(shared, b.facet, aside);
    keep_between(shared, b.facet, -step_, step_);
    return !shared.empty();
  }

  /// True when two pieces of the same floor lie above each other so that one can stand on both.
  bool above_itself() {
    for (std::uint32_t i = 0; i < pieces_.size(); ++i) {
      if (!pieces_[i].floor) continue;
      bool found = false;
      places_->each_near(pieces_[i].box, -rounding, [&](std::uint32_t j) {
        if (found || !pieces_[j].floor || group_[i] != group_[j] ||
            pieces_[i].box.highest < pieces_[j].box.lowest + tall_)
          return;
        ConvexPart shared = pieces_[i].part;
        keep_over(shared, pieces_[j].facet, -rounding);
        keep_between(shared, pieces_[j].facet, tall_, 1e12);
        found = !shared.empty();
      });
      if (found) return true;
    }
    return false;
  }

  void survey_floor(std::span<const std::uint32_t> members, std::vector<FloorPart>& floors) {
    const Box inside{dvec2(square_.low.x, square_.low.y),
                     dvec2(square_.low.x, square_.low.y) + static_cast<double>(square_.size)};
    std::vector<Facet> facets;
    for (const std::uint32_t i : members)
      if (pieces_[i].box.near(inside, gap_ + rounding)) facets.push_back(pieces_[i].facet);
    if (facets.empty()) return;
    Outlines blocked;
    list_sides(members);
    add_ledges(blocked);
    add_obstacles(members, blocked);
    if (level_.closed()) add_insides(members, blocked);
    Outlines free = united(outline());
    if (gaps_) free = closed(free, gap_);
    std::ranges::sort(blocked);
    blocked.erase(std::unique(blocked.begin(), blocked.end()), blocked.end());
    if (!blocked.empty()) free = without(free, united(blocked));
    free = cut_to_square(free, square_);
    if (free.empty()) return;
    floors.push_back({std::move(free), std::make_shared<FloorSurface>(square_, std::move(facets))});
  }

  /// A side of a facet, by the numbers of the piece and of the corner from which it goes.
  struct Side {
    PlanPoint from, to;
    std::uint32_t piece;
    std::uint32_t corner;
    bool back() const { return to < from; }
  };

  /// The sides of the facets of a floor: those between the same points come one after the other.
  void list_sides(std::span<const std::uint32_t> members) {
    sides_.clear();
    for (const std::uint32_t i : members)
      for (std::uint32_t corner = 0; corner < 3; ++corner)
        sides_.push_back(
            {pieces_[i].facet.corners[corner], pieces_[i].facet.corners[(corner + 1) % 3], i, corner});
    std::ranges::sort(sides_, {}, [](const Side& side) {
      return std::tuple(std::minmax(side.from, side.to), side.piece, side.corner);
    });
  }

  /// Calls `visit(sides)` for all sides between the same points.
  template <class Visit>
  void each_between_same(Visit&& visit) const {
    for (std::size_t i = 0, end = 0; i < sides_.size(); i = end) {
      const auto ends = std::minmax(sides_[i].from, sides_[i].to);
      while (end < sides_.size() && std::minmax(sides_[end].from, sides_[end].to) == ends) ++end;
      visit(std::span(sides_).subspan(i, end - i));
    }
  }

  /// The rings around the facets of a floor: of sides between the same points, two the opposite ways round
  /// are none.
  Outlines outline() const {
    std::vector<std::pair<PlanPoint, PlanPoint>> left;
    each_between_same([&](std::span<const Side> same) {
      const auto back = std::ranges::count_if(same, &Side::back),
                 forth = static_cast<std::ptrdiff_t>(same.size()) - back;
      const auto [low, high] = std::minmax(same[0].from, same[0].to);
      for (auto n = back; n < forth; ++n) left.emplace_back(low, high);
      for (auto n = forth; n < back; ++n) left.emplace_back(high, low);
    });
    std::ranges::sort(left);
    std::vector<bool> used(left.size());
    Outlines rings;
    for (std::size_t first = 0; first < left.size(); ++first) {
      if (used[first]) continue;
      auto& ring = rings.emplace_back();
      for (std::size_t next = first; next < left.size();) {
        used[next] = true;
        ring.push_back(left[next].first);
        const PlanPoint to = left[next].second;
        if (to == ring.front()) break;
        // As many lead on from a point as lead to it.
        next = static_cast<std::size_t>(
            std::ranges::lower_bound(left, to, {}, &std::pair<PlanPoint, PlanPoint>::first) - left.begin());
        while (next < left.size() && used[next]) ++next;
      }
    }
    return rings;
  }

  /// The height of the floor at the first end of the side, and at the other.
  std::pair<int, int> heights(const Side& side) const {
    const auto& heights = pieces_[side.piece].facet.heights;
    return {heights[side.corner], heights[(side.corner + 1) % 3]};
  }

  /// Where a floor ends: what is too near to that.
  void add_ledges(Outlines& blocked) {
    each_between_same([&](std::span<const Side> same) {
      for (const Side& side : same) {
        const auto [from, to] = heights(side);
        // Mostly there is another facet of the same side.
        const bool goes_on = std::ranges::any_of(same, [&](const Side& other) {
          const auto [other_to, other_from] = heights(other);
          return other.from == side.to && other.to == side.from && std::abs(other_from - from) <= step_ &&
                 std::abs(other_to - to) <= step_;
        });
        if (!goes_on) add_ledge(side, blocked);
      }
    });
  }

  void add_ledge(const Side& side, Outlines& blocked) {
    const auto [from, to] = heights(side);
    const Line line = side_of(pieces_[side.piece].facet, side.corner);
    const dvec2 along(line.inward.y, -line.inward.x);
    ConvexPart way = {{dvec2(side.from.x, side.from.y), static_cast<double>(from)},
                      {dvec2(side.to.x, side.to.y), static_cast<double>(to)}};
    keep_in_box(way, low_, high_);
    if (way.empty()) return;
    const auto by_place = [&](const SpacePoint& point) { return glm::dot(point.at, along); };
    const auto [first, last] = std::ranges::minmax_element(way, {}, by_place);
    add_ledge(side.piece, line, *first, *last, blocked);
  }

  void add_ledge(std::uint32_t of, const Line& line, const SpacePoint& a, const SpacePoint& b,
                 Outlines& blocked) {
    const double length = glm::distance(a.at, b.at);
    if (length < rounding) return;
    Stretches covered;
    const auto beside = [&](const SpacePoint& end, double aside) {
      return SpacePoint{end.at - aside * line.inward, end.height};
    };
    places_->each_near(box_of({a, b}), gap_ + rounding, [&](std::uint32_t j) {
      if (j == of || group_[j] != group_[of] || !pieces_[j].floor) return;
      const Facet& other = pieces_[j].facet;
      for (const double aside : {rounding, static_cast<double>(gap_)}) {  // it goes on there, or beyond a gap
        const auto [from, to] = over(beside(a, aside), beside(b, aside), other, 0.5, -step_, step_);
        covered.add(from - rounding / length, to + rounding / length);
      }
      const auto [from, to] = over(a, b, other, 0.5, 1, tall_);  // something else is walked on there
      covered.add(from, to);
    });
    covered.each_gap([&](double from, double to) {
      if ((to - from) * length < rounding) return;
      const SpacePoint ends[] = {{a.at + from * (b.at - a.at)}, {a.at + to * (b.at - a.at)}};
      blocked.push_back(grown(ends, radius_));
    });
  }

  /// What stands on a floor or hangs over it: what is too near to that.
  void add_obstacles(std::span<const std::uint32_t> members, Outlines& blocked) {
    std::vector<ConvexPart> parts, rest;
    for (const std::uint32_t i : members) {
      const Piece& floor = pieces_[i];
      standing_.clear();
      places_->each_near(floor.box, rounding, [&](std::uint32_t j) {
        const Piece& piece = pieces_[j];
        if (piece.box.highest > floor.box.lowest + step_ && piece.box.lowest < floor.box.highest + tall_ &&
            (!piece.floor || group_[j] != group_[i]))
          standing_.push_back(j);
      });
      for (const std::uint32_t j : standing_) {
        ConvexPart part = pieces_[j].part;
        keep_over(part, floor.facet, rounding);
        keep_between(part, floor.facet, step_, tall_);
        if (part.empty()) continue;
        parts.clear();
        parts.push_back(std::move(part));
        leave_out_covered(i, parts, rest);
        for (const ConvexPart& each : parts) add_obstacle(j, each, blocked);
      }
    }
    grow_walls(blocked);
  }

  /// Upright triangles stand on many pieces of a floor; what they take of it is put together first.
  void add_obstacle(std::uint32_t of, const ConvexPart& part, Outlines& blocked) {
    if (can_be_seen(pieces_[of].facet)) {
      blocked.push_back(grown(part, radius_));
      return;
    }
    const auto before = [](const SpacePoint& a, const SpacePoint& b) {
      return a.at.x != b.at.x ? a.at.x < b.at.x : a.at.y < b.at.y;
    };
    const auto [first, last] = std::ranges::minmax_element(part, before);
    walls_.push_back({of, first->at, last->at});
  }

  void grow_walls(Outlines& blocked) {
    std::ranges::sort(walls_, {},
                      [](const Wall& wall) { return std::tuple(wall.of, wall.from.x, wall.from.y); });
    for (std::size_t i = 0, end = 0; i < walls_.size(); i = end) {
      dvec2 to = walls_[i].to;
      for (end = i + 1; end < walls_.size() && walls_[end].of == walls_[i].of; ++end) {
        const dvec2 from = walls_[end].from, further = walls_[end].to;
        const bool apart = from.x > to.x || (from.x == to.x && from.y > to.y);
        if (apart && glm::distance(from, to) > 2 * rounding) break;
        if (further.x > to.x || (further.x == to.x && further.y > to.y)) to = further;
      }
      const SpacePoint ends[] = {{walls_[i].from}, {to}};
      blocked.push_back(grown(ends, radius_));
    }
    walls_.clear();
  }

  /// What of a floor lies inside of something: below what faces up, with nothing between that faces down.
  void add_insides(std::span<const std::uint32_t> members, Outlines& blocked) {
    std::vector<ConvexPart> parts, rest;
    std::vector<std::uint32_t> above;
    for (const std::uint32_t i : members) {
      const Piece& floor = pieces_[i];
      above.clear();
      places_->each_near(floor.box, -rounding, [&](std::uint32_t j) {
        if (pieces_[j].box.highest > floor.box.lowest + rounding) above.push_back(j);
      });
      for (const std::uint32_t j : above) {
        if (!pieces_[j].up || (pieces_[j].floor && group_[j] == group_[i])) continue;
        parts.assign(1, pieces_[j].part);
        keep_over(parts[0], floor.facet, 0);
        keep_between(parts[0], floor.facet, step_, 1e12);
        if (parts[0].empty()) continue;
        for (const std::uint32_t k : above) {
          if (pieces_[k].up) continue;
          rest.clear();
          for (ConvexPart& part : parts) {
            const auto under = [&](const SpacePoint& point) {  // how far the roof lies above what faces down
              return point.height - height_at(pieces_[k].facet, point.at) - rounding;
            };
            const auto over_floor = [&](const SpacePoint& point) {
              return height_at(pieces_[k].facet, point.at) - height_at(floor.facet, point.at) - rounding;
            };
            if (!can_be_seen(pieces_[k].facet)) {
              rest.push_back(std::move(part));
              continue;
            }
            for (const auto& outside : {std::function(under), std::function(over_floor)}) {
              ConvexPart beyond = part;
              keep(beyond, [&](const SpacePoint& point) { return -outside(point); });
              if (!beyond.empty()) rest.push_back(std::move(beyond));
              keep(part, outside);
            }
            // Grown, so that nothing is left over where two of them meet.
            if (!part.empty()) add_beside(std::move(part), pieces_[k].facet, rounding, rest);
          }
          std::swap(parts, rest);
        }
        for (const ConvexPart& each : parts) blocked.push_back(grown(each, least_reach));
      }
    }
  }

  /// True when a facet has an area as seen from above.
  static bool can_be_seen(const Facet& facet) {
    return turn(facet.corners[0], facet.corners[1], facet.corners[2]) > 0;
  }

  /// Takes from parts above a piece of a floor what lies where another piece of it lies above that one.
  void leave_out_covered(std::uint32_t of, std::vector<ConvexPart>& parts, std::vector<ConvexPart>& rest) {
    if (parts.empty()) return;
    const Facet& facet = pieces_[of].facet;
    covering_.clear();
    places_->each_near(box_of(parts[0]), rounding, [&](std::uint32_t j) {
      const Piece& piece = pieces_[j];
      if (j != of && piece.floor && group_[j] == group_[of] && piece.box.highest > pieces_[of].box.lowest &&
          piece.box.lowest < pieces_[of].box.highest + tall_)
        covering_.push_back(j);
    });
    for (const std::uint32_t j : covering_) {
      const Facet& other = pieces_[j].facet;
      rest.clear();
      for (ConvexPart& part : parts) {
        const auto higher = [&](const SpacePoint& point) {
          return height_at(other, point.at) - height_at(facet, point.at) - 1;
        };
        ConvexPart below = part;
        keep(below, [&](const SpacePoint& point) { return -higher(point); });
        if (!below.empty()) rest.push_back(std::move(below));
        keep(part, higher);
        keep(part, [&](const SpacePoint& point) { return tall_ - higher(point); });
        if (!part.empty()) add_beside(std::move(part), other, rounding + 1, rest);
      }
      std::swap(parts, rest);
    }
  }

  const LevelIndex& level_;
  double radius_, step_, tall_;  // of the body, millimetres; with allowances for rounding
  int gap_;
  Square square_;
  dvec2 low_{0.0}, high_{0.0};  // of the region that is looked at: the square and what is around it
  std::vector<Piece> pieces_;
  Places* places_ = nullptr;
  std::vector<std::uint32_t> group_;  // of each piece
  /// What an upright triangle takes of a floor, from west to east (or south to north).
  struct Wall {
    std::uint32_t of;  // piece
    dvec2 from, to;
  };
  std::vector<Wall> walls_;
  std::vector<Side> sides_;  // of the floor in hand
  std::vector<std::uint32_t> standing_, covering_;
  bool gaps_ = false;  // between pieces that belong together
};

}  // namespace

std::vector<SurveyedSquare> survey(const LevelIndex& level, std::uint32_t cell, const Body& body) {
  std::vector<SurveyedSquare> surveyed;
  Surveyor(level, body).look(level.grid().square(cell), surveyed);
  return surveyed;
}

}  // namespace ambulon
