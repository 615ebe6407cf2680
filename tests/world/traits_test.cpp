#include "world/traits.hpp"

#include <set>

#include "base/geometry.hpp"
#include "generate.hpp"
#include "quay.hpp"

namespace ambulon {
namespace {

/// Compared with a list of all owners.
RC_GTEST_PROP(TraitsPool, AreKeptOnceAndForAsLongAsSomebodyHasThem, ()) {
  TraitsPool all(std::pmr::get_default_resource());
  std::vector<std::pair<Traits, const Traits*>> had;
  for (int i = 0; i < 60; ++i) {
    const auto what = *rc::gen::inRange(0, 10);
    if (what < 5) {
      const Traits wanted{.gait = {.speed = static_cast<float>(*rc::gen::inRange(1, 4))},
                          .body = {.radius = *rc::gen::element(0.2f, 0.3f)}};
      had.emplace_back(wanted, all.acquire(wanted));
    } else if (what < 9 && !had.empty()) {
      std::swap(had[*rc::gen::inRange<std::size_t>(0, had.size())], had.back());
      all.release(had.back().second);
      had.pop_back();
    } else {
      all.clean_up();
    }
    for (const auto& [wanted, kept] : had) RC_ASSERT(*kept == wanted);
  }
  for (const auto& [wanted, kept] : had)
    for (const auto& [others, place] : had) RC_ASSERT((others == wanted) == (place == kept));
  all.clean_up();
  std::set<const Traits*> places;
  for (const auto& [wanted, kept] : had) places.insert(kept);
  RC_ASSERT(all.size() == places.size());
}

TEST(TraitsPool, OneOfManyThatChangesLeavesTheOthersAsTheyAre) {
  World world;
  const Npc cat = *world.add({.at = {0, 0, 0}}), other = *world.add({.at = {0, 3, 0}});
  cat.go_to({20, 0, 0});
  other.go_to({20, 3, 0});
  for (int i = 0; i < 50; ++i) {
    ASSERT_TRUE(cat.set_speed(1.f + 0.01f * static_cast<float>(i)));
    ASSERT_TRUE(cat.set_body({.radius = 0.2f + 0.001f * static_cast<float>(i)}));
    pass(world, 0.1);
  }
  EXPECT_EQ(other.gait(), Gait{});
  EXPECT_EQ(other.body(), Body{});
  EXPECT_FLOAT_EQ(cat.gait().speed, 1.49f);
  EXPECT_FLOAT_EQ(cat.body().radius, 0.249f);
  cat.remove();
  pass(world, 20);
  EXPECT_LT(flat_distance(other.position(), {20, 3, 0}), 0.4f);
}

}  // namespace
}  // namespace ambulon
