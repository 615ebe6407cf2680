// Levels that are kept only around given places.

#include <algorithm>

#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "base/geometry.hpp"
#include "generate.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "solid.hpp"

namespace ambulon {
namespace {

vec3 somewhere() { return {between(-0.5f, 8.5f), between(-0.5f, 8.5f), between(-0.5f, 4.f)}; }

bool same_length(float a, float b) {
  return a == b || std::abs(a - b) < 1e-3f * (1 + a);
}  // both may be infinite

/// Both answer alike at a reachable point, and one has no other ground.
void same_where_reached(const MeshGround& whole, const MeshGround& kept, std::span<const vec3> places,
                        const Body& body) {
  for (int i = 0; i < 6; ++i) {
    const vec3 point = somewhere();
    Snap there = whole.snap(point, 1e6f, body);
    const Snap here = kept.snap(point, 1e6f, body);
    if (!there.found) continue;
    float min = std::numeric_limits<float>::infinity();
    for (const vec3 place : places)
      min = std::min(min, whole.distance(whole.snap(place, 1e6f, body).spot, there.spot));
    const bool reached = min < std::numeric_limits<float>::infinity();
    // On a slope, which spot is found far above or below a point depends a little on the polygons.
    bool same = here.found && here.spot.position == there.spot.position;
    if (reached && here.found && !same) {
      RC_ASSERT(std::abs(here.off - there.off) < 1e-2f);
      there = whole.snap(here.spot.position, 1e6f, body);
      same = there.off < 1e-3f;
    }
    RC_ASSERT(same == reached);
    // Crossings found for a body begin at other places of an edge after its patch was divided again.
    if (!reached || body.drop_down > 0.f) continue;
    for (const vec3 place : places)
      RC_ASSERT(same_length(kept.distance(kept.snap(place, 1e6f, body).spot, here.spot),
                            whole.distance(whole.snap(place, 1e6f, body).spot, there.spot)));
  }
}

RC_GTEST_PROP(ReachFrom, KeepsJustWhatCanBeReachedFromThePlaces, ()) {
  Level level;
  RapidChoices choose;
  for (const Solid& solid : random_solids(choose))
    add_solid(level, solid, [&](std::size_t count) { return choose.index(count); });
  RC_PRE(!level.triangles.empty());
  Body body{.radius = *rc::gen::element(0.1f, 0.3f), .height = *rc::gen::element(0.5f, 1.7f)};
  if (*rc::gen::arbitrary<bool>()) body.drop_down = 2.f, body.jump_up = 0.6f;
  std::vector<vec3> places;
  for (int i = *rc::gen::inRange(1, 4); i > 0; --i) places.push_back(somewhere());
  const auto whole = MeshGround::make(level).value(),
             kept = MeshGround::make(level, {.reach_from = places}).value();
  for (int i = *rc::gen::inRange(0, 3); i > 0; --i) {
    const Crossing ladder{.from = somewhere(), .to = somewhere(), .both_ways = *rc::gen::arbitrary<bool>()};
    if (!whole->place(ladder)) continue;  // it leads nowhere
    const CrossingId id = kept->place(ladder).value();
    if (*rc::gen::arbitrary<bool>()) RC_ASSERT(kept->shut(id).has_value());
  }
  // Shut crossings and barriers do not remove ground, since they may open.
  std::optional<BarrierId> crate;
  if (*rc::gen::arbitrary<bool>()) crate = kept->put(Barrier::box({4, 4}, {3, 0.5f}, 0.3f).value());
  const auto left_out = kept->left_out(body);
  for (const MeshGround::PlacedCrossing& placed : kept->placed_crossings())
    RC_ASSERT(kept->open(placed.id).has_value());
  if (crate) RC_ASSERT(kept->remove(*crate).has_value());
  const double all = whole->mesh(body).area() / 1e6;
  RC_ASSERT(std::abs(kept->mesh(body).area() / 1e6 + left_out.area - all) <= 1e-4 * (1 + all));
  RC_ASSERT((left_out.components == 0) == (left_out.area == 0));
  same_where_reached(*whole, *kept, places, body);

  // Removed ground does not return with barriers, in a saved ground, or for other bodies.
  for (MeshGround* ground : {whole.get(), kept.get()})
    (void)ground->put(Barrier::disc({between(0, 8), between(0, 8)}, 0.7f).value());
  for (MeshGround* ground : {whole.get(), kept.get()})
    while (!ground->barriers().empty()) RC_ASSERT(ground->remove(ground->barriers()[0].id).has_value());
  same_where_reached(*whole, *kept, places, body);
  const auto restored = MeshGround::restore(kept->save().value()).value();
  RC_ASSERT(restored->left_out(body).area == left_out.area);
  same_where_reached(*whole, *restored, places, body);
  body.radius = 0.2f;
  same_where_reached(*whole, *restored, places, body);
}

TEST(ReachFrom, SaysWhatIsLeftOutAndWhichPlaceMakesNoSense) {
  Level quay;
  add_box(quay, {5, 5}, -1, {10, 10, 1});
  add_box(quay, {5, 5}, 0, {2, 2, 3});  // the customs shed, whose roof has no stairs
  const Body body{.radius = 0.3f};
  const auto ground = MeshGround::make(quay, {.reach_from = {{1, 1, 0}}}).value();
  EXPECT_EQ(ground->left_out(body).components, 1U);
  EXPECT_NEAR(ground->left_out(body).area, 1.4 * 1.4, 1e-3);
  EXPECT_NEAR(ground->snap({5, 5, 3}, 1, body).spot.position.z, 0, 1e-3f);
  float out_of_reach = 0;
  for (const RejectedPart& part : ground->rejected(body))
    if (part.why == Rejection::out_of_reach)
      for (std::size_t i = 2; i < part.corners.size(); ++i)
        out_of_reach += 0.5f * cross(flat(part.corners[i - 1] - part.corners[0]),
                                     flat(part.corners[i] - part.corners[0]));
  EXPECT_NEAR(out_of_reach, 1.4 * 1.4, 1e-3);
  // A body that jumps so high gets there.
  EXPECT_EQ(ground->left_out({.radius = 0.3f, .jump_up = 3.1f, .drop_down = 4.f}).components, 0U);
  const auto refused = MeshGround::make(quay, {.reach_from = {{1, 1, 0}, {1, NAN, 0}}});
  ASSERT_FALSE(refused);
  EXPECT_NE(refused.error().text.find("place 2 of reach_from lies at (1, nan, 0)"), std::string::npos);
}

}  // namespace
}  // namespace ambulon
