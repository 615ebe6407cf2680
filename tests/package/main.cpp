#include <ambulon/ambulon.hpp>

int main() {
  ambulon::World world;
  const ambulon::Npc cat = *world.add({.name = "cat"});
  const ambulon::Order order = cat.go_to({3, 4, 0});
  while (order.running()) world.tick(1.f / 60.f);
  return order.outcome().value() ? 0 : 1;
}
