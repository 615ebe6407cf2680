// Floors cut into misaligned pieces: their ground must equal that of the whole floor.

#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "generate.hpp"
#include "level_maker.hpp"
#include "seam_oracle.hpp"

namespace ambulon {
namespace {

RC_GTEST_PROP(Seams, AFloorInPiecesIsTheSameGroundAsTheWholeFloor, ()) {
  RapidChoices choices;
  RC_ASSERT(mistake_on_seams(choices) == "");
}

TEST(Seams, NoSlitUpToTheGapIsAWall) {
  for (int mm = 0; mm <= 40; ++mm) {
    const float slit = 0.001f * static_cast<float>(mm);
    Level level;
    add_sheet(level, {-4, -4, 0}, {4, -4, 0}, {4, 0, 0}, {-4, 0, 0});
    add_sheet(level, {-4, slit, 0}, {4, slit, 0}, {4, 4, 0}, {-4, 4, 0});
    const auto ground = MeshGround::make(level).value();  // a gap of 30 mm, and 4 for rounding
    Route route;
    ground->route(ground->snap({0, -1.5f, 0}, 0, {}).spot, ground->snap({0, 1.5f, 0}, 0, {}).spot, route);
    EXPECT_EQ(route.complete, mm <= 34) << mm;
    EXPECT_NEAR(route.complete ? route.length_xy : 3, 3, 1e-3f) << mm;
  }
}

}  // namespace
}  // namespace ambulon
