#include "ambulon/errand/beat.hpp"

#include <limits>

#include "quay.hpp"

namespace ambulon {
namespace {

TEST(Beat, WaypointsKeepTheirIdsWhileOthersComeAndGo) {
  Beat beat;
  const WaypointId a = *beat.add({.position = lamps[0]}), b = *beat.add({.position = lamps[1]});
  const WaypointId between = *beat.add({.position = lamps[2]}, b);
  EXPECT_EQ(beat.find(a), 0U);
  EXPECT_EQ(beat.find(between), 1U);
  EXPECT_EQ(beat.find(b), 2U);
  EXPECT_TRUE(beat.remove(a));
  EXPECT_FALSE(beat.remove(a));
  EXPECT_EQ(beat.find(b), 1U);
  ASSERT_TRUE(beat.move(b, {1, 1, 0}));
  EXPECT_EQ(beat[1].position, vec3(1, 1, 0));
}

TEST(Beat, BadWaypointsAreRefusedAndChangeNothing) {
  const float nan = std::numeric_limits<float>::quiet_NaN();
  Beat beat;
  const WaypointId id = *beat.add({.position = lamps[0]});
  const auto revision = beat.revision();
  EXPECT_FALSE(beat.add({.position = {nan, 0, 0}}));
  EXPECT_FALSE(beat.add({.position = lamps[1], .pause = {3, 1}}));
  EXPECT_FALSE(beat.add({.position = lamps[1], .facing = nan}));
  EXPECT_FALSE(beat.move(id, {0, nan, 0}));
  EXPECT_EQ(beat.add({.position = lamps[1]}, WaypointId{77}).error().text,
            "the beat has no waypoint with id 77; it may have been removed");
  EXPECT_EQ(beat.size(), 1U);
  EXPECT_EQ(beat.revision(), revision);
  EXPECT_FALSE(make_beat(std::vector<vec3>{{0, 0, 0}, {nan, 0, 0}}));
}

}  // namespace
}  // namespace ambulon
