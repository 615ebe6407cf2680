// Levels of overlapping solids: their ground must be that of their union, however they are triangulated.

#include <glm/ext/vector_double3.hpp>

#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "base/geometry.hpp"
#include "generate.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "solid_oracle.hpp"

namespace ambulon {
namespace {

RC_GTEST_PROP(Solids, OneStandsAndWalksOnTheirUnion, ()) {
  RapidChoices choices;
  RC_ASSERT(mistake_on_solids(choices) == "");
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

  // Crates that share a side, an edge or everything are still closed.
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
