#include "ground/mesh/triangulation.hpp"

#include <algorithm>
#include <bit>
#include <cmath>
#include <optional>

#include <fmt/format.h>

#include "ambulon/base/problem.hpp"
#include "ambulon/base/random.hpp"

#include "base/geometry.hpp"
#include "base/wide.hpp"

namespace ambulon {
namespace {

constexpr std::uint8_t of_outlines = 1, of_taken = 2, of_region = 4;  // bits of constrained sides

constexpr std::uint32_t next(std::uint32_t i) { return i == 2 ? 0 : i + 1; }
constexpr std::uint32_t before(std::uint32_t i) { return i == 0 ? 2 : i - 1; }

/// Returns true if `d` is inside the circumcircle of `a`, `b`, `c` (counter-clockwise). Exact.
bool in_circle(PlanPoint a, PlanPoint b, PlanPoint c, PlanPoint d) {
  const auto from_d = [d](PlanPoint p) {
    const std::int64_t x = std::int64_t{p.x} - d.x, y = std::int64_t{p.y} - d.y;
    return std::array<std::int64_t, 3>{x, y, x * x + y * y};
  };
  const auto [ax, ay, aa] = from_d(a);
  const auto [bx, by, bb] = from_d(b);
  const auto [cx, cy, cc] = from_d(c);
  const Wide sum = Wide::product(aa, bx * cy - by * cx) - Wide::product(bb, ax * cy - ay * cx) +
                   Wide::product(cc, ax * by - ay * bx);
  return sum.positive();
}

/// Returns the intersection of the lines a-b and c-d, rounded.
PlanPoint meeting(PlanPoint a, PlanPoint b, PlanPoint c, PlanPoint d) {
  const auto part = static_cast<double>(turn(c, d, a)) /
                    (static_cast<double>(turn(c, d, a)) - static_cast<double>(turn(c, d, b)));
  return {static_cast<int>(std::lround(a.x + part * (static_cast<double>(b.x) - a.x))),
          static_cast<int>(std::lround(a.y + part * (static_cast<double>(b.y) - a.y)))};
}

/// Returns the position of a point on the Hilbert curve (D. Hilbert, 1891) of a square of 2^30 mm:
/// consecutive points are close together.
std::uint64_t along_curve(std::uint32_t x, std::uint32_t y) {
  std::uint64_t place = 0;
  for (std::uint32_t half = 1U << 29U; half > 0; half /= 2) {
    const bool right = (x & half) != 0, upper = (y & half) != 0;
    place = 4 * place + (right ? (upper ? 2U : 3U) : (upper ? 1U : 0U));
    x &= half - 1, y &= half - 1;
    if (upper) continue;
    if (right) x = half - 1 - x, y = half - 1 - y;
    std::swap(x, y);
  }
  return place;
}

/// Returns the insertion order: rounds of doubling size, chosen pseudo-randomly. Within a round the points
/// follow a space-filling curve, so each is located from the one before. Expected time O(n log n), also for
/// collinear points (N. Amenta, S. Choi, G. Rote, "Incremental Constructions con BRIO", 2003).
std::vector<std::uint32_t> in_rounds(std::span<const PlanPoint> points, PlanPoint low) {
  constexpr std::uint32_t last_round = 15;
  Random random;
  std::vector<std::pair<std::uint64_t, std::uint32_t>> order;
  order.reserve(points.size());
  for (const PlanPoint p : points) {
    const auto round =
        last_round - static_cast<std::uint32_t>(std::countr_zero(random.bits() | 1U << last_round));
    const std::uint64_t place =
        along_curve(static_cast<std::uint32_t>(p.x - low.x), static_cast<std::uint32_t>(p.y - low.y));
    order.emplace_back(std::uint64_t{round} << 60U | place, static_cast<std::uint32_t>(order.size()));
  }
  std::ranges::sort(order);
  std::vector<std::uint32_t> numbers(order.size());
  std::ranges::transform(order, numbers.begin(), [](const auto& one) { return one.second; });
  return numbers;
}

}  // namespace

Triangulation::Kinds Triangulation::kinds_of(Rings outlines, Rings taken,
                                             std::span<const std::vector<std::vector<PlanPoint>>> regions) {
  Kinds kinds = {{outlines, of_outlines}, {taken, of_taken}};
  for (std::size_t i = 0; i < std::min(regions.size(), max_regions); ++i)
    kinds.emplace_back(regions[i], static_cast<std::uint8_t>(of_region << i));
  return kinds;
}

Expected<Triangulation> Triangulation::make(Rings outlines, Rings taken,
                                            std::span<const std::vector<std::vector<PlanPoint>>> regions) {
  const Kinds kinds = kinds_of(outlines, taken, regions);
  std::optional<PlanPoint> low, high;
  for (const auto& [all, of] : kinds)
    for (const auto& outline : all)
      for (const PlanPoint p : outline) {
        if (p.x < -PlanPoint::max || p.x > PlanPoint::max || p.y < -PlanPoint::max || p.y > PlanPoint::max)
          return problem(
              fmt::format("the point ({} m, {} m) lies too far out; a plan reaches {} km from the origin",
                          p.x / 1000.0, p.y / 1000.0, PlanPoint::max / 1'000'000));
        low = low ? PlanPoint{std::min(low->x, p.x), std::min(low->y, p.y)} : p;
        high = high ? PlanPoint{std::max(high->x, p.x), std::max(high->y, p.y)} : p;
      }
  Triangulation made(low.value_or(PlanPoint{}), high.value_or(PlanPoint{}));
  if (const auto inserted = made.insert(kinds); !inserted) return tl::unexpected(inserted.error());
  return made;
}

Expected<Triangulation> Triangulation::make_in(PlanPoint low, PlanPoint high, Rings outlines) {
  Triangulation made(low, high);
  if (const auto inserted = made.insert(kinds_of(outlines, {}, {})); !inserted)
    return tl::unexpected(inserted.error());
  return made;
}

Expected<Triangulation> Triangulation::with(
    Rings taken, std::span<const std::vector<std::vector<PlanPoint>>> regions) const {
  Triangulation all = *this;
  if (const auto inserted = all.insert(kinds_of({}, taken, regions)); !inserted)
    return tl::unexpected(inserted.error());
  return all;
}

/// Inserts first the points, then the sides of rings.
Expected<void> Triangulation::insert(const Kinds& kinds) {
  std::vector<PlanPoint> points;
  for (const auto& [all, of] : kinds)
    for (const auto& outline : all) points.insert(points.end(), outline.begin(), outline.end());
  for (const PlanPoint p : points)
    if (p.x < low_.x || p.y < low_.y || p.x > high_.x || p.y > high_.y)
      return problem(fmt::format("the point ({} m, {} m) lies outside the box of the triangulation",
                                 p.x / 1000.0, p.y / 1000.0));
  points_.reserve(points_.size() + points.size());
  std::vector<std::uint32_t> vertices(points.size());
  std::uint32_t near = 0;
  for (const std::uint32_t i : in_rounds(points, low_)) {
    vertices[i] = add(points[i], near);
    near = triangle_of_[vertices[i]];
  }
  crossings_left_ = 16 * points.size() + 256;
  std::size_t first = 0;
  for (const auto& [all, of] : kinds)
    for (const auto& outline : all) {
      for (std::size_t i = 0; i < outline.size(); ++i)
        if (!keep(vertices[first + i], vertices[first + (i + 1) % outline.size()], of))
          return problem(fmt::format(
              "the outline crosses others near ({} m, {} m) in more points than can be told apart",
              outline[i].x / 1000.0, outline[i].y / 1000.0));
      first += outline.size();
    }
  return {};
}

/// Starts with the two triangles of a bounding square.
Triangulation::Triangulation(PlanPoint low, PlanPoint high) : low_(low), high_(high) {
  constexpr int margin = 1000;
  points_ = {{low.x - margin, low.y - margin},
             {high.x + margin, low.y - margin},
             {high.x + margin, high.y + margin},
             {low.x - margin, high.y + margin}};
  triangles_ = {{{0, 1, 2}, {none, none, 1}, {}}, {{0, 2, 3}, {0, none, none}, {}}};
  triangle_of_ = {0, 0, 0, 1};
}

Triangulation::Side Triangulation::across(Side side) const {
  const std::uint32_t other = triangles_[side.triangle].beyond[side.side];
  const auto& beyond = triangles_[other].beyond;
  return {other, beyond[0] == side.triangle ? 0U : beyond[1] == side.triangle ? 1U : 2U};
}

/// Sets the neighbour across a side, in both triangles.
void Triangulation::join(Side a, std::uint32_t triangle, std::uint8_t kept) {
  triangles_[a.triangle].beyond[a.side] = triangle;
  triangles_[a.triangle].kept[a.side] = kept;
  if (triangle == none) return;
  const auto& corners = triangles_[a.triangle].corners;
  Triangle& other = triangles_[triangle];
  for (std::uint32_t i = 0; i < 3; ++i)
    if (other.corners[i] == corners[next(a.side)] && other.corners[next(i)] == corners[a.side]) {
      other.beyond[i] = a.triangle;
      other.kept[i] = kept;
    }
}

// --- Points -----------------------------------------------------------------------------------

/// Inserts a point and returns its number; an equal point has the same number. `near`: a triangle to start
/// from.
std::uint32_t Triangulation::add(PlanPoint point, std::uint32_t near) {
  const std::uint32_t in = locate(point, near);
  const Triangle& triangle = triangles_[in];
  for (const std::uint32_t corner : triangle.corners)
    if (points_[corner] == point) return corner;
  const auto vertex = static_cast<std::uint32_t>(points_.size());
  points_.push_back(point);
  triangle_of_.push_back(in);
  std::uint32_t on = 3;
  for (std::uint32_t i = 0; i < 3; ++i)
    if (turn(points_[triangle.corners[i]], points_[triangle.corners[next(i)]], point) == 0) on = i;
  if (on < 3)
    split(Side{in, on}, vertex);
  else
    split(in, vertex);
  legalize();
  return vertex;
}

/// Returns a triangle that contains the point, boundary included. While the triangulation is not Delaunay,
/// the walk may cycle, so the order of sides changes.
std::uint32_t Triangulation::locate(PlanPoint point, std::uint32_t near) const {
  std::uint32_t at = near;
  for (std::uint32_t step = 0, turns = 0; turns < 3; ++step) {
    const std::uint32_t side = step % 3;
    const Triangle& triangle = triangles_[at];
    if (turn(points_[triangle.corners[side]], points_[triangle.corners[next(side)]], point) >= 0) {
      ++turns;
      continue;
    }
    at = triangle.beyond[side];
    turns = 0;
  }
  return at;
}

/// Splits a triangle into three.
void Triangulation::split(std::uint32_t triangle, std::uint32_t vertex) {
  const Triangle old = triangles_[triangle];
  const auto second = static_cast<std::uint32_t>(triangles_.size()), third = second + 1;
  const std::array<std::uint32_t, 3> parts = {triangle, second, third};
  triangles_.resize(triangles_.size() + 2);
  for (std::uint32_t i = 0; i < 3; ++i) {
    triangles_[parts[i]] = {
        {old.corners[i], old.corners[next(i)], vertex}, {none, parts[next(i)], parts[before(i)]}, {}};
    triangle_of_[old.corners[i]] = parts[i];
  }
  for (std::uint32_t i = 0; i < 3; ++i) {
    join({parts[i], 0}, old.beyond[i], old.kept[i]);
    doubtful_.push_back({parts[i], 0});
  }
}

/// Splits a side: two triangles become four.
void Triangulation::split(Side side, std::uint32_t vertex) {
  const Side other = across(side);
  const Triangle one = triangles_[side.triangle], two = triangles_[other.triangle];
  const std::uint32_t a = one.corners[side.side], b = one.corners[next(side.side)],
                      c = one.corners[before(side.side)], d = two.corners[before(other.side)];
  const std::uint8_t kept = one.kept[side.side];
  const auto third = static_cast<std::uint32_t>(triangles_.size()), fourth = third + 1;
  triangles_.resize(triangles_.size() + 2);
  const std::uint32_t t0 = side.triangle, t1 = third, t2 = other.triangle, t3 = fourth;
  // Around the new point: a to c is t0, c to b t1, b to d t2, d to a t3.
  triangles_[t0] = {{c, a, vertex}, {none, t3, t1}, {0, kept, 0}};
  triangles_[t1] = {{b, c, vertex}, {none, t0, t2}, {0, 0, kept}};
  triangles_[t2] = {{d, b, vertex}, {none, t1, t3}, {0, kept, 0}};
  triangles_[t3] = {{a, d, vertex}, {none, t2, t0}, {0, 0, kept}};
  join({t0, 0}, one.beyond[before(side.side)], one.kept[before(side.side)]);
  join({t1, 0}, one.beyond[next(side.side)], one.kept[next(side.side)]);
  join({t2, 0}, two.beyond[before(other.side)], two.kept[before(other.side)]);
  join({t3, 0}, two.beyond[next(other.side)], two.kept[next(other.side)]);
  triangle_of_[a] = t0, triangle_of_[b] = t2, triangle_of_[c] = t1, triangle_of_[d] = t3,
  triangle_of_[vertex] = t0;
  for (const std::uint32_t t : {t0, t1, t2, t3}) doubtful_.push_back({t, 0});
}

/// Flips the diagonal of the quadrangle around a side.
void Triangulation::flip(Side side) {
  const Side other = across(side);
  const Triangle one = triangles_[side.triangle], two = triangles_[other.triangle];
  const std::uint32_t i = side.side, j = other.side;
  const std::uint32_t a = one.corners[i], b = one.corners[next(i)], c = one.corners[before(i)],
                      d = two.corners[before(j)];
  const std::uint32_t t = side.triangle, u = other.triangle;
  triangles_[t] = {{a, d, c}, {none, u, none}, {}};
  triangles_[u] = {{d, b, c}, {none, none, t}, {}};
  join({t, 0}, two.beyond[next(j)], two.kept[next(j)]);
  join({t, 2}, one.beyond[before(i)], one.kept[before(i)]);
  join({u, 0}, two.beyond[before(j)], two.kept[before(j)]);
  join({u, 1}, one.beyond[next(i)], one.kept[next(i)]);
  triangle_of_[a] = triangle_of_[c] = triangle_of_[d] = t, triangle_of_[b] = u;
}

/// Returns true if the side violates the Delaunay condition.
bool Triangulation::illegal(Side side) const {
  const Triangle& triangle = triangles_[side.triangle];
  if (triangle.kept[side.side] != 0 || triangle.beyond[side.side] == none) return false;
  const Side other = across(side);
  return in_circle(points_[triangle.corners[0]], points_[triangle.corners[1]], points_[triangle.corners[2]],
                   points_[triangles_[other.triangle].corners[before(other.side)]]);
}

void Triangulation::legalize() {
  while (!doubtful_.empty()) {
    const Side side = doubtful_.back();
    doubtful_.pop_back();
    if (!illegal(side)) continue;
    const std::uint32_t t = side.triangle, u = triangles_[t].beyond[side.side];
    flip(side);
    for (const Side outer : {Side{t, 0}, Side{t, 2}, Side{u, 0}, Side{u, 1}}) doubtful_.push_back(outer);
  }
}

// --- Constraints ------------------------------------------------------------------------------

/// Iterates over the sides at a point: counter-clockwise, and from a border of the square also clockwise.
class Triangulation::Fan {
 public:
  Fan(const Triangulation& triangulation, std::uint32_t vertex)
      : triangles_(triangulation.triangles_),
        vertex_(vertex),
        first_(triangulation.triangle_of_[vertex]),
        at_(first_) {}

  bool done() const { return at_ == none; }
  Side side() const { return {at_, place()}; }
  void go_on() {
    at_ = triangles_[at_].beyond[right_ ? place() : before(place())];
    if (right_) return;
    if (at_ == first_) {  // all around
      at_ = none;
    } else if (at_ == none) {
      right_ = true;
      at_ = first_;
      at_ = triangles_[first_].beyond[place()];
    }
  }

 private:
  std::uint32_t place() const {
    const auto& corners = triangles_[at_].corners;
    return corners[0] == vertex_ ? 0U : corners[1] == vertex_ ? 1U : 2U;
  }

  const std::vector<Triangle>& triangles_;
  std::uint32_t vertex_, first_, at_;
  bool right_ = false;
};

/// Returns the first side that `test(side, whether it leaves `b`)` accepts, alternating between the sides of
/// `a` and `b`. So the cost depends on the smaller degree.
template <class Test>
std::pair<Triangulation::Side, bool> Triangulation::first_leaving(std::uint32_t a, std::uint32_t b,
                                                                  Test&& test) const {
  Fan of_a(*this, a), of_b(*this, b);
  while (!of_a.done() || !of_b.done()) {
    for (const bool turned : {false, true}) {
      Fan& fan = turned ? of_b : of_a;
      if (fan.done()) continue;
      if (const Side found = test(fan.side(), turned); found.triangle != none) return {found, turned};
      fan.go_on();
    }
  }
  return {Side{none, 0}, false};
}

/// Returns the side between two points.
Triangulation::Side Triangulation::find(std::uint32_t from, std::uint32_t to) const {
  const auto [side, turned] = first_leaving(from, to, [&](Side leaving, bool from_to) {
    const bool there = triangles_[leaving.triangle].corners[next(leaving.side)] == (from_to ? from : to);
    return there ? leaving : Side{none, 0};
  });
  return turned && side.triangle != none ? across(side) : side;
}

/// Returns the side that leads along a line: to its other end, to a point on it, or the first one that it
/// crosses. True: the side belongs to `to`.
std::pair<Triangulation::Side, bool> Triangulation::leaving(std::uint32_t from, std::uint32_t to) const {
  return first_leaving(from, to, [&](Side side, bool turned) {
    const PlanPoint start = points_[turned ? to : from], goal = points_[turned ? from : to];
    const auto& corners = triangles_[side.triangle].corners;
    const PlanPoint right = points_[corners[next(side.side)]], left = points_[corners[before(side.side)]];
    const std::int64_t of_right = turn(start, goal, right);
    const bool ahead = (std::int64_t{right.x} - start.x) * (std::int64_t{goal.x} - start.x) +
                           (std::int64_t{right.y} - start.y) * (std::int64_t{goal.y} - start.y) >
                       0;
    if (of_right == 0 && ahead) return side;
    if (of_right < 0 && turn(start, goal, left) > 0) return Side{side.triangle, next(side.side)};
    return Side{none, 0};
  });
}

Triangulation::Ends Triangulation::ends(Side side) const {
  const auto& corners = triangles_[side.triangle].corners;
  return {corners[side.side], corners[next(side.side)]};
}

/// Toggles the constraint bits of a side.
void Triangulation::toggle(Side side, std::uint8_t of) {
  const Side other = across(side);
  triangles_[side.triangle].kept[side.side] ^= of;
  triangles_[other.triangle].kept[other.side] ^= of;
  doubtful_.push_back(side);
}

/// Inserts a constraint between two points; points on it divide it. Returns false if there are too many
/// crossings. Parts of divided lines are processed iteratively.
bool Triangulation::keep(std::uint32_t from, std::uint32_t to, std::uint8_t of) {
  lines_.assign(1, {from, to, of});
  while (!lines_.empty()) {
    const Line line = lines_.back();
    lines_.pop_back();
    if (!keep(line)) return false;
  }
  return true;
}

bool Triangulation::keep(const Line& line) {
  auto [from, to, of] = line;
  while (from != to) {
    auto [side, turned] = leaving(from, to);
    if (turned) std::swap(from, to);
    if (triangles_[side.triangle].corners[side.side] == from) {
      from = triangles_[side.triangle].corners[next(side.side)];
      toggle(side, of);
      continue;
    }
    // Walks through the triangles to a point on the line, or to a constrained side.
    std::uint32_t end = to;
    for (crossing_.clear();;) {
      if (triangles_[side.triangle].kept[side.side] != 0) return cross(from, to, of, side);
      crossing_.push_back(ends(side));
      const Side entered = across(side);
      end = triangles_[entered.triangle].corners[before(entered.side)];
      const std::int64_t of_apex = turn(points_[from], points_[to], points_[end]);
      if (of_apex == 0) break;
      // The other two sides of the triangle: from its right end to the apex, and from the apex to its left
      // end.
      side = {entered.triangle, of_apex > 0 ? next(entered.side) : before(entered.side)};
    }
    let_in(from, end);
    toggle(find(from, end), of);
    legalize();
    from = end;
  }
  legalize();
  return true;
}

/// Flips the sides that cross a line until none does; none of them is constrained.
void Triangulation::let_in(std::uint32_t from, std::uint32_t to) {
  while (!crossing_.empty()) {
    const auto [a, b] = crossing_.front();
    crossing_.pop_front();
    const Side side = find(a, b);
    if (!convex(side)) {
      crossing_.emplace_back(a, b);
      continue;
    }
    flip(side);
    const Side diagonal{side.triangle, 1};
    const auto [d, c] = ends(diagonal);
    const std::int64_t of_d = turn(points_[from], points_[to], points_[d]),
                       of_c = turn(points_[from], points_[to], points_[c]);
    if ((of_d < 0 && of_c > 0) || (of_d > 0 && of_c < 0))
      crossing_.emplace_back(d, c);
    else
      doubtful_.push_back(diagonal);
  }
}

/// Returns true if both triangles at a side form a strictly convex quadrangle.
bool Triangulation::convex(Side side) const {
  const Side other = across(side);
  const auto &one = triangles_[side.triangle].corners, &two = triangles_[other.triangle].corners;
  const PlanPoint a = points_[one[side.side]], b = points_[one[next(side.side)]],
                  c = points_[one[before(side.side)]], d = points_[two[before(other.side)]];
  return turn(d, b, c) > 0 && turn(c, a, d) > 0;
}

/// Inserts a line that crosses a constrained side: a new point divides both.
bool Triangulation::cross(std::uint32_t from, std::uint32_t to, std::uint8_t of, Side crossed) {
  if (crossings_left_ == 0) return false;
  --crossings_left_;
  const auto& corners = triangles_[crossed.triangle].corners;
  const std::uint32_t a = corners[crossed.side], b = corners[next(crossed.side)];
  const std::uint8_t kept = triangles_[crossed.triangle].kept[crossed.side];
  toggle(crossed, kept);
  const PlanPoint met = meeting(points_[a], points_[b], points_[from], points_[to]);
  // Rounding bends both lines slightly. If the intersection is next to one of their ends, that end is used.
  // Otherwise nearly identical lines would cross again and again.
  const auto off = [&](std::uint32_t end) {
    return std::max(std::abs(points_[end].x - met.x), std::abs(points_[end].y - met.y));
  };
  std::uint32_t at = std::ranges::min({from, to, a, b}, {}, off);
  if (off(at) > 1) at = add(met, crossed.triangle);
  // In reverse order: they are taken from the end.
  for (const Line& part : {Line{at, to, of}, {from, at, of}, {at, b, kept}, {a, at, kept}})
    lines_.push_back(part);
  return true;
}

std::vector<bool> Triangulation::inside() const {
  std::vector<bool> inside;
  for (const std::uint8_t in : marks()) inside.push_back((in & (of_outlines | of_taken)) == of_outlines);
  return inside;
}

std::vector<std::uint8_t> Triangulation::regions() const {
  std::vector<std::uint8_t> regions = marks();
  for (std::uint8_t& in : regions) in = static_cast<std::uint8_t>(in / of_region);
  return regions;
}

/// Returns for each triangle the outlines that contain it (even-odd), as bits.
std::vector<std::uint8_t> Triangulation::marks() const {
  std::vector<std::uint8_t> inside(triangles_.size());
  std::vector<bool> seen(triangles_.size());
  struct Open {
    std::uint32_t triangle;
    std::uint8_t in;
  };
  std::vector<Open> open = {{triangle_of_[0], 0}};
  seen[open[0].triangle] = true;
  while (!open.empty()) {
    const auto [at, in] = open.back();
    open.pop_back();
    inside[at] = in;
    for (std::uint32_t i = 0; i < 3; ++i) {
      const std::uint32_t beyond = triangles_[at].beyond[i];
      if (beyond == none || seen[beyond]) continue;
      seen[beyond] = true;
      open.push_back({beyond, static_cast<std::uint8_t>(in ^ triangles_[at].kept[i])});
    }
  }
  return inside;
}

}  // namespace ambulon
