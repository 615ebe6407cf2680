#include <algorithm>
#include <array>
#include <cstring>

#include "ambulon/ambulon.hpp"
#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "base/checksum.hpp"
#include "quay.hpp"
#include "random_level.hpp"

namespace ambulon {
namespace {

const Body courier{.radius = 0.2f, .jump_up = 0.8f, .drop_down = 2, .leap = 1};

/// Returns true if both grounds give the same answers.
void expect_same(const MeshGround& one, const MeshGround& other, const Body& body, vec3 a, vec3 b) {
  const Snap from = one.snap(a, 9, body), to = one.snap(b, 9, body), there = other.snap(a, 9, body),
             back = other.snap(b, 9, body);
  RC_ASSERT(from.found == there.found);
  if (!from.found) return;
  RC_ASSERT(from.spot.position == there.spot.position && to.spot.position == back.spot.position);
  Route route, same;
  one.route(from.spot, to.spot, route);
  other.route(there.spot, back.spot, same);
  RC_ASSERT(route.bends == same.bends);
  RC_ASSERT(route.crossings.size() == same.crossings.size());
}

RC_GTEST_PROP(SavedGround, IsTheSameAsTheOneThatWasSaved, ()) {
  const Level level = random_level();
  const auto ground = MeshGround::make(level).value();
  (void)ground->mesh({});
  (void)ground->mesh(courier);
  RC_ASSERT(ground->place({.from = point_of(level), .to = {3, 3, 9}}).has_value());
  const auto bytes = ground->save("quay.gltf", 7).value();
  MeshGround::SavedFrom from;
  const auto again = MeshGround::restore(bytes, {}, &from);
  RC_ASSERT(again.has_value());
  RC_ASSERT(from.source == "quay.gltf" && from.source_sum == 7U);
  RC_ASSERT((*again)->save("quay.gltf", 7).value() == bytes);
  for (int i = 0; i < 3; ++i) {
    const vec3 a = point_of(level), b = point_of(level);
    expect_same(*ground, **again, {}, a, b);
    expect_same(*ground, **again, courier, a, b);
    expect_same(*ground, **again, {.radius = 0.5f}, a, b);  // not built yet
  }
  const Barrier crate = Barrier::box({3, 3}, {1, 1}, 0.5f)->between(0, 1);
  ground->put(crate), (*again)->put(crate);
  RC_ASSERT(!ground->save());  // barriers come and go
  for (int i = 0; i < 3; ++i) expect_same(*ground, **again, courier, point_of(level), point_of(level));
}

TEST(SavedGround, OfAPlanHoldsItsDoors) {
  const Plan plan{.outlines = {{{0, 0}, {10, 0}, {10, 5}, {0, 5}}}, .walls = {{.line = {{5, 0}, {5, 5}}}}};
  const auto ground = MeshGround::make(plan).value();
  const CrossingId door =
      ground->place({.kind = Passage::door, .from = {4.5f, 2, 0}, .to = {5.5f, 2, 0}}).value();
  const auto joined = [](const MeshGround& of) {
    return of.reachable(of.snap({1, 1, 0}, 1).spot, of.snap({9, 1, 0}, 1).spot);
  };
  EXPECT_TRUE(joined(*ground));
  const auto open = MeshGround::restore(ground->save().value()).value();
  EXPECT_TRUE(joined(*open));
  ASSERT_TRUE(ground->shut(door));
  const auto shut = MeshGround::restore(ground->save().value()).value();
  EXPECT_FALSE(joined(*shut));
  ASSERT_TRUE(shut->open(shut->placed_crossings()[0].id));
  EXPECT_TRUE(joined(*shut));
  EXPECT_EQ(shut->max(), vec2(10, 5));
}

TEST(SavedGround, WhatIsDamagedOrForeignIsRefusedWithAReason) {
  const auto ground = MeshGround::make(quay_stones(4)).value();
  (void)ground->mesh(courier);
  const auto bytes = ground->save().value();
  const auto refusal = [](const std::vector<std::byte>& of) {
    const auto made = MeshGround::restore(of);
    return made ? std::string("taken") : made.error().text;
  };
  EXPECT_EQ(refusal(bytes), "taken");
  EXPECT_EQ(refusal({}), "there is nothing in it");
  for (std::size_t length = 1; length < bytes.size(); length += 7)
    EXPECT_NE(refusal({bytes.begin(), bytes.begin() + static_cast<std::ptrdiff_t>(length)}), "taken");
  for (std::size_t at = 0; at < bytes.size(); ++at) {
    auto damaged = bytes;
    damaged[at] ^= std::byte{4};
    EXPECT_NE(refusal(damaged), "taken") << at;
  }
  auto longer = bytes;
  longer.push_back({});
  EXPECT_TRUE(contains(refusal(longer), "it was cut short or added to"));
  auto other = bytes;
  other[15] = std::byte{'1'};
  EXPECT_TRUE(contains(refusal(other), "it is of another version than ambulon-ground/3; build it again"));
  const char* letter = "Dear tea-seller, the lanterns are paid for.";
  const auto* words = reinterpret_cast<const std::byte*>(letter);
  EXPECT_TRUE(contains(refusal({words, words + std::strlen(letter)}), "it is not a saved ground"));
}

/// Well-formed bytes with invalid values.
RC_GTEST_PROP(SavedGround, NonsenseWithARightChecksumBreaksNothing, ()) {
  Level level = quay_stones(4);
  add_box(level, {2, 2}, 0, {1, 1, 0.7f});
  const auto ground = MeshGround::make(level).value();
  (void)ground->mesh(courier);
  auto bytes = ground->save().value();
  constexpr std::size_t length = 17, head = length + 16;
  for (int i = *rc::gen::inRange(1, 4); i > 0; --i)
    bytes[static_cast<std::size_t>(
        *rc::gen::inRange(static_cast<int>(head), static_cast<int>(bytes.size())))] =
        static_cast<std::byte>(*rc::gen::inRange(0, 256));
  const std::uint64_t sum = checksum(std::span(bytes).subspan(head));
  for (std::size_t i = 0; i < 8; ++i) bytes[length + 8 + i] = static_cast<std::byte>(sum >> (8 * i));
  const auto made = MeshGround::restore(bytes);
  if (!made) return;
  const MeshGround& odd = **made;
  const Snap from = odd.snap({0.5f, 0.5f, 0}, 9, courier), to = odd.snap({3, 3, 0}, 9, courier);
  if (!from.found) return;
  Route route;
  odd.route(from.spot, to.spot, route);
  RC_ASSERT(route.complete == odd.reachable(from.spot, to.spot));
  (void)odd.straight(from.spot, vec2(5, 5));
}

TEST(SavedGround, OfALevelWithPatchesOfNoSizeIsRefused) {
  const auto ground = MeshGround::make(quay_stones(9)).value();
  (void)ground->mesh({});
  const auto bytes = ground->save().value();
  constexpr std::size_t length = 17, head = length + 16;
  constexpr std::array size = {std::byte{0x80}, std::byte{0x3e}, std::byte{0}, std::byte{0}};  // 16,000 mm
  int sizes = 0;
  for (std::size_t at = head; at + 4 <= bytes.size(); ++at) {
    if (!std::equal(size.begin(), size.end(), bytes.begin() + static_cast<std::ptrdiff_t>(at))) continue;
    auto odd = bytes;
    std::fill_n(odd.begin() + static_cast<std::ptrdiff_t>(at), 4, std::byte{0});
    const std::uint64_t sum = checksum(std::span(odd).subspan(head));
    for (std::size_t i = 0; i < 8; ++i) odd[length + 8 + i] = static_cast<std::byte>(sum >> (8 * i));
    EXPECT_FALSE(MeshGround::restore(odd)) << at;
    ++sizes;
  }
  EXPECT_GE(sizes, 2);  // of the grid and of a square
}

}  // namespace
}  // namespace ambulon
