// A lamplighter's round as a coroutine: walk to each lamp, turn to it, wait, continue.
#include <ambulon/ambulon.hpp>
#include <cstdio>

using namespace ambulon;

Routine lamplighter(Npc me, std::vector<vec3> lamps) {
  for (const vec3 lamp : lamps) {
    if (!co_await me.go_to(lamp, {.within = 0.8f})) continue;  // the journal says why
    co_await me.turn_to(lamp);
    co_await me.pause(me.random(1.f, 3.f));
  }
}

int main() {
  World world({.seed = 20});
  const Npc npc =
      must(world.add({.name = "lamplighter", .at = {2, 3, 0}, .gait = {.speed = 1.3f, .turn_first = true}}));
  start(npc, lamplighter, std::vector<vec3>{{6.5f, 3, 0}, {12, 3.5f, 0}, {6, 9, 0}});
  while (npc.directed()) world.tick(1.f / 60.f);

  const Journal& journal = world.journal();
  for (auto number = journal.first(); number < journal.next(); ++number)
    std::printf("%7.2f  %s\n", journal[number].time, world.sentence(journal[number]).c_str());
}
