// The game moves the body: Ambulon advises a velocity, the game reports the position.
#include <algorithm>
#include <ambulon/ambulon.hpp>
#include <cstdio>

using namespace ambulon;

/// The game's character body: it stays on the jetty, and cannot move while it is held.
struct CharacterBody {
  vec3 at{0.f};
  bool held = false;

  void move(const Advice& advice, float seconds) {
    if (held) return;
    at += advice.velocity * seconds;
    at.y = std::clamp(at.y, -1.f, 1.f);
  }
};

int main() {
  World world;
  const Npc apprentice = must(world.add({.name = "apprentice", .drive = Drive::advised}));
  const Order order = apprentice.go_to({12, 0.5f, 0});

  CharacterBody body;
  constexpr float seconds = 1.f / 60.f;
  while (order.running()) {
    body.held = world.time() > 3 && world.time() < 5;  // a customer holds him by the sleeve
    world.tick(seconds);
    body.move(apprentice.advice(), seconds);
    if (auto reported = apprentice.report(body.at); !reported)
      return std::puts(reported.error().text.c_str()), 1;
  }

  const Journal& journal = world.journal();
  for (auto number = journal.first(); number < journal.next(); ++number)
    std::printf("%6.2f  %s\n", journal[number].time, world.sentence(journal[number]).c_str());
}
