// A character on open ground is sent to a point.
#include <ambulon/ambulon.hpp>
#include <cstdio>

int main() {
  using namespace ambulon;
  World world;
  const auto tea_seller = world.add({.name = "tea-seller", .at = {0, 0, 0}});
  if (!tea_seller) return std::fprintf(stderr, "%s\n", tea_seller.error().text.c_str()), 1;

  const Order order = tea_seller->go_to({6, 8, 0}, {.within = 0.5f});
  while (order.running()) world.tick(1.f / 60.f);

  const vec3 at = tea_seller->position();
  std::printf("the tea-seller %s at (%.2f, %.2f) after %.2f s\n", name(order.outcome()->ending).data(), at.x,
              at.y, world.time());
}
