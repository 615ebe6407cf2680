// Scripting without coroutines: a porter carries crates; the callback of each order gives the next order.
#include <ambulon/ambulon.hpp>
#include <cstdio>

using namespace ambulon;

struct Porter {
  Npc npc;
  vec3 landing{20, 12, 0}, store{2, 14, 0};
  int carried = 0;

  void fetch() {
    npc.go_to(landing).on_end([this](Npc, const Outcome& outcome) {
      if (outcome) npc.pause(2.f).on_end([this](Npc, const Outcome&) { carry(); });
    });
  }
  void carry() {
    npc.go_to(store).on_end([this](Npc, const Outcome& outcome) {
      if (!outcome) return;  // replaced, removed, no route: outcome.why() has the reason
      std::printf("%6.2f s: the porter has carried %d crates\n", npc.world()->time(), ++carried);
      fetch();
    });
  }
};

int main() {
  World world;
  Porter porter{must(world.add({.name = "porter", .at = {2, 14, 0}, .gait = {.speed = 2}}))};
  porter.fetch();
  while (porter.carried < 3) world.tick(1.f / 30.f);
}
