// Levels of solids that overlap: the ground must be that of their union, whichever triangles they are made
// of.

#include <map>
#include <queue>

#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "quay.hpp"
#include "solid.hpp"

namespace ambulon {
namespace {

/// What is said of solids by looking at columns of them, 5 cm apart.
class Raster {
 public:
  static constexpr double size = 0.05, steepest = 0.7854;

  /// With slack in all measures of the body, metres: that they are the less, or when negative the more.
  Raster(const std::vector<Solid>& solids, const Body& body, double slack)
      : solids_(solids),
        radius_(std::max(0.0, static_cast<double>(body.radius) - slack)),
        height_(static_cast<double>(body.height)),
        step_(static_cast<double>(body.step_up)),
        slack_(slack) {}

  /// The heights of the floors at a point, the uppermost first.
  std::vector<double> floors(dvec2 at) const {
    const auto columns = columns_at(at);
    std::vector<double> floors;
    for (const Solid::Column& column : columns) {
      // Inside of another: but a low and steep thing is stepped over.
      const bool inside = std::ranges::any_of(columns, [&](const Solid::Column& other) {
        return &other != &column && other.bottom < column.top + 0.002 && other.top > column.top + 0.002 &&
               !(other.slope > steepest && other.top <= column.top + step_ + slack_);
      });
      if (column.slope <= steepest && !inside) floors.push_back(column.top);
    }
    std::ranges::sort(floors, std::greater<>());
    return floors;
  }

  /// True when a body can stand there: it comes to all columns within its radius by steps that it can take,
  /// and nothing is in its way in any.
  bool stands(glm::dvec3 at) const {
    std::map<std::pair<int, int>, double> reached;
    std::queue<std::pair<int, int>> open;
    const auto come_to = [&](int x, int y, double height, double step) {
      const dvec2 column = dvec2(at) + size * dvec2(x, y);
      for (const double floor : floors(column))
        if (std::abs(floor - height) <= step && !taken(column, floor)) {
          if (reached.emplace(std::pair(x, y), floor).second) open.emplace(x, y);
          return;
        }
    };
    const auto near = [&](int x, int y) { return size * std::hypot(x, y) <= radius_; };
    come_to(0, 0, at.z, 0.012);
    for (; !open.empty(); open.pop()) {
      const auto [x, y] = open.front();
      for (const auto& [dx, dy] : {std::pair(1, 0), {-1, 0}, {0, 1}, {0, -1}})
        if (near(x + dx, y + dy)) come_to(x + dx, y + dy, reached.at({x, y}), step_ + slack_);
    }
    const int reach = static_cast<int>(radius_ / size);
    for (int y = -reach; y <= reach; ++y)
      for (int x = -reach; x <= reach; ++x)
        if (near(x, y) && !reached.contains({x, y})) return false;
    return !reached.empty() && std::ranges::all_of(reached, [&](const auto& column) {  // no ledge either
      const auto [x, y] = column.first;
      return std::ranges::all_of(
          std::array{std::pair(x + 1, y), std::pair(x, y + 1)}, [&](const auto& beside) {
            const auto there = reached.find(beside);
            return there == reached.end() || std::abs(there->second - column.second) <= step_ + slack_;
          });
    });
  }

  /// True when there is another floor closely above that one.
  bool covered(glm::dvec3 at) const {
    return std::ranges::any_of(floors(dvec2(at)),
                               [&](double floor) { return floor > at.z + 0.003 && floor < at.z + height_; });
  }

  /// True when a straight walk leads over columns in which the body stands.
  bool walks(glm::dvec3 at, dvec2 way) const {
    const int steps = std::max(1, static_cast<int>(glm::length(way) / size));
    const dvec2 from(at);
    for (int i = 1; i <= steps; ++i) {
      const dvec2 here = from + static_cast<double>(i) / steps * way;
      const auto all = floors(here);
      const auto next =
          std::ranges::find_if(all, [&](double z) { return std::abs(z - at.z) <= step_ + slack_; });
      if (next == all.end()) return false;
      at = glm::dvec3(here, *next);
      if (!stands(at) || covered(at)) return false;
    }
    return true;
  }

 private:
  std::vector<Solid::Column> columns_at(dvec2 at) const {
    std::vector<Solid::Column> columns;
    for (const Solid& solid : solids_)
      if (const auto column = solid.column(at)) columns.push_back(*column);
    return columns;
  }
  bool taken(dvec2 at, double floor) const {
    return std::ranges::any_of(columns_at(at), [&](const Solid::Column& column) {
      return column.bottom <= floor + height_ - slack_ && column.top >= floor + step_ + slack_;
    });
  }

  const std::vector<Solid>& solids_;
  double radius_, height_, step_, slack_;
};

RC_GTEST_PROP(Solids, OneStandsAndWalksOnTheirUnion, ()) {
  const std::vector<Solid> solids = random_solids();
  Level level;
  for (const Solid& solid : solids)
    add_solid(level, solid, [](std::size_t count) {
      return static_cast<std::size_t>(*rc::gen::inRange(0, static_cast<int>(count)));
    });
  RC_PRE(!level.triangles.empty());
  const Body body{.radius = *rc::gen::element(0.15f, 0.3f, 0.5f), .height = *rc::gen::element(1.f, 1.7f)};
  const auto ground = MeshGround::make(level, {.closed = *rc::gen::arbitrary<bool>()}).value();
  RC_ASSERT(ground->open_pieces().empty());
  const Raster strict(solids, body, -0.09), lenient(solids, body, 0.09);
  for (int i = 0; i < 8; ++i) {
    const Solid& solid =
        solids[static_cast<std::size_t>(*rc::gen::inRange(0, static_cast<int>(solids.size())))];
    const dvec2 somewhere(between(-0.5f, 8.5f), between(-0.5f, 8.5f));
    const auto column = solid.column(somewhere);
    if (!column || column->slope > Raster::steepest) continue;
    const glm::dvec3 at(somewhere, column->top);
    if (strict.covered(at)) continue;  // what lies above is walked on
    const Snap snap = ground->snap(vec3(at), 0, body);
    const bool stands = snap.found && flat_distance(snap.spot.position, vec3(at)) < 1e-3f &&
                        std::abs(snap.spot.position.z - vec3(at).z) < 0.05f;
    const bool inside = std::ranges::none_of(strict.floors(somewhere),
                                             [&](double floor) { return std::abs(floor - at.z) < 0.004; });
    RC_ASSERT(!stands || (!inside && lenient.stands(at)));
    RC_ASSERT(stands || inside || !strict.stands(at));
    if (!stands) continue;
    const vec2 way = between(0.1f, 1.2f) * unit(between(0, 6.28f));
    const Stretch walk = ground->straight(snap.spot, way);
    RC_ASSERT(walk.free || !strict.stands(at) || !strict.walks(at, dvec2(way)));
  }
}

TEST(Solids, RampsSideBySideAreOneRamp) {
  for (std::size_t split = 0; split < 4; ++split) {  // all ways to divide the tops
    Level level;
    std::size_t ramp = 0;
    for (const double x : {1.5, 4.5}) {
      const std::size_t turn = (split >> ramp++) & 1U;
      add_solid(level, wedge({x, 4, 0}, 8, 3, 4, 1.5707963), [&](std::size_t) { return turn; });
    }
    const auto ground = MeshGround::make(level).value();
    const Spot from = ground->snap({2.5f, 6, 3}, 0.1f, {}).spot,
               to = ground->snap({3.5f, 6, 3}, 0.1f, {}).spot;
    EXPECT_NEAR(ground->distance(from, to), 1, 0.01f) << split;
  }
}

TEST(Solids, ARampOnAFloorNeedsNoMorePatchesThanTheFloor) {
  Level level = quay_stones(20);
  const auto floor = MeshGround::make(level).value();
  add_solid(level, wedge({10, 10, 0}, 8, 3, 4, 0.3), [](std::size_t) { return std::size_t{0}; });
  const auto ramp = MeshGround::make(level).value();
  EXPECT_LE(ramp->mesh({}).patch_count(), floor->mesh({}).patch_count() + 12);
  EXPECT_LE(ramp->mesh({}).polygons().size(), 120);
}

TEST(Solids, PiecesThatAreNotClosedAreNamedAndHaveNoInside) {
  const auto none = [](std::size_t) { return std::size_t{0}; };
  const Solid crate = between_rings(rectangle({5, 5, 0}, 2, 2, 0), rectangle({5, 5, 3}, 2, 2, 0));
  Level level = quay_stones(10);
  add_solid(level, crate, none);
  const auto open_pieces = [](const Level& of) {
    const auto ground = MeshGround::make(of, {.closed = true}).value();
    return std::vector<OpenPiece>(ground->open_pieces().begin(), ground->open_pieces().end());
  };
  const auto inside = [](const Level& of) {
    const auto ground = MeshGround::make(of).value();
    return flat_distance(ground->snap({5, 5, 0}, 0, {}).spot.position, {5, 5, 0}) < 0.01f;
  };
  auto open = open_pieces(level);
  ASSERT_EQ(open.size(), 1);  // the quay is a sheet
  EXPECT_EQ(open[0].fault, OpenPiece::Fault::hole);
  EXPECT_EQ(open[0].triangles, 2);
  EXPECT_FALSE(inside(level));

  Level holed = level;
  holed.triangles.pop_back();
  open = open_pieces(holed);
  ASSERT_EQ(open.size(), 2);
  EXPECT_EQ(open[1].fault, OpenPiece::Fault::hole);
  EXPECT_EQ(open[1].first_triangle, 2);
  EXPECT_TRUE(inside(holed));

  Level turned = level;
  std::swap(turned.triangles.back().corners[0], turned.triangles.back().corners[1]);
  EXPECT_EQ(open_pieces(turned)[1].fault, OpenPiece::Fault::winding);

  Level inside_out = level;
  for (std::size_t i = 2; i < inside_out.triangles.size(); ++i)
    std::swap(inside_out.triangles[i].corners[0], inside_out.triangles[i].corners[1]);
  open = open_pieces(inside_out);
  EXPECT_EQ(open[1].fault, OpenPiece::Fault::inside_out);
  EXPECT_EQ(open[1].triangles, 12);
  EXPECT_TRUE(inside(inside_out));  // a room

  // Crates that share a side, an edge or all of it are closed all the same.
  for (const double off : {2.0, 0.0}) {
    Level two = level;
    Solid other = crate;
    for (glm::dvec3& corner : other.corners) corner.x += off;
    add_solid(two, other, none);
    EXPECT_EQ(open_pieces(two).size(), 1) << off;
    EXPECT_FALSE(inside(two)) << off;
  }
}

}  // namespace
}  // namespace ambulon
