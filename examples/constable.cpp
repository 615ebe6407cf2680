// A constable patrols until the pickpocket is near, chases him, and resumes the patrol.
#include <ambulon/ambulon.hpp>
#include <cstdio>

using namespace ambulon;

Routine constable(Npc me, Npc thief, BeatPtr beat) {
  for (;;) {
    co_await any_of(me.patrol(beat), me.until_near(thief, 6.f));  // the other one is cancelled
    if (!me.set_speed(3.f)) co_return;
    if (const auto caught = co_await within(20.f, me.chase(thief, {.reach = 0.8f, .give_up = 15.f})))
      co_return;
    if (!me.set_speed(1.4f)) co_return;
  }
}

Routine pickpocket(Npc me, Npc constable) {
  for (;;) {
    co_await any_of(me.roam({.radius = 5, .pause = {1, 3}}), me.until_near(constable, 4.f));
    co_await within(8.f, me.flee(constable, {.reach = 12}));
  }
}

int main() {
  World world({.seed = 5});
  const Npc law = must(world.add({.name = "constable", .at = {0, 0, 0}}));
  const Npc thief = must(world.add({.name = "pickpocket", .at = {14, 3, 0}, .gait = {.speed = 2}}));
  const vec3 round[] = {{0, 0, 0}, {12, 0, 0}, {12, 8, 0}};
  start(law, constable, thief, BeatPtr(*make_beat(round)));
  start(thief, pickpocket, law);
  while (law.directed() && world.time() < 120) (void)world.tick(1.f / 60.f);

  const Journal& journal = world.journal();
  for (auto number = journal.first(); number < journal.next(); ++number)
    std::printf("%7.2f  %s\n", journal[number].time, world.sentence(journal[number]).c_str());
}
