// A tile ground: routes around stalls, a barrier, a crowd on one flow field, a crab in a maze.

#include <ambulon/ambulon.hpp>
#include <cstdio>
#include <string>
#include <vector>

using namespace ambulon;

int main() {
  // Rows from north to south; the map takes them from the south.
  const std::vector<std::string> rows = {
      "............",  //
      ".###.##.###.",  //
      "............",  //
      ".###.##.###.",  //
      "............",
  };
  std::vector<std::uint8_t> cells;
  for (std::size_t row = rows.size(); row-- > 0;)
    for (const char sign : rows[row]) cells.push_back(sign == '#' ? TileMap::blocked : 1);
  auto map = TileMap::make(cells, {.width = 12, .height = 5, .cell = 2.f});
  if (!map) return std::puts(map.error().text.c_str()), 1;
  TileGround ground(std::move(*map));

  World world({.ground = &ground});
  const auto pass = [&](double seconds) {
    for (const double end = world.time() + seconds; world.time() < end;) (void)world.tick(1.f / 60.f);
  };

  // The courier walks between the stalls until a handcart is parked there.
  const Npc courier = must(world.add({.name = "courier", .at = {9, 1, 0}, .gait = {.rounding = 0.4f}}));
  courier.go_to({9, 9, 0}).on_end([](Npc npc, const Outcome& outcome) {
    std::printf("%s %s after %.1f m\n", std::string(npc.name()).c_str(),
                std::string(name(outcome.ending)).c_str(), npc.statistics().metres);
  });
  pass(1);
  const BarrierId handcart = ground.put(must(Barrier::box({9, 3}, {1, 1})));
  pass(30);
  (void)ground.remove(handcart);  // it is there

  // Twenty visitors leave by the nearer of two gates; the field is computed once.
  const std::vector<vec3> gates = {{1, 1, 0}, {23, 9, 0}};
  FlowField field(ground, gates);
  int left_by[2] = {0, 0};
  for (int i = 0; i < 20; ++i)
    world.add({.at = {2.f + static_cast<float>(i), 5, 0}})
        ->flow(field, {.within = 1.f})
        .on_end([&](Npc npc, const Outcome& outcome) {
          if (outcome) ++left_by[field.nearest_goal(npc.position())];
        });
  pass(40);
  std::printf("%d left by the first gate, %d by the second\n", left_by[0], left_by[1]);

  // A cat flees along a field of its own, to where the constable needs longest.
  const Npc constable = must(world.add({.name = "constable", .at = {1, 5, 0}}));
  const Npc cat = must(world.add({.name = "cat", .at = {5, 5, 0}}));
  const vec3 danger = constable.position();
  const FlowField from_constable(ground, std::span(&danger, 1));
  const FlowField flight = FlowField::away_from(from_constable);
  cat.flow(flight);
  pass(20);
  std::printf("the cat hides %.0f m from the constable\n", from_constable.distance(cat.position()));

  // A crab follows the wall on its left, from cell centre to cell centre.
  const Npc crab = must(world.add({.name = "crab", .at = {1, 1, 0}, .body = {.radius = 0.2f}}));
  crab.thread({.choice = ThreadChoice::left, .choices = 12});
  pass(60);
  std::printf("the crab has gone %.0f m\n", crab.statistics().metres);
}
