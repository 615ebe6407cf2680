#include <ambulon/draw/chart.hpp>
#include <ambulon/draw/picture.hpp>
#include <ambulon/scene/scene_player.hpp>
#include <cstdio>

/// Plays a scene file for some seconds, and draws where everybody is; `with_scene SCENE PICTURE`.
int main(int count, char** words) {
  if (count != 3) return 2;
  auto scene = ambulon::ScenePlayer::open(words[1]);
  if (!scene) return std::puts(scene.error().text.c_str()), 1;
  while (scene->world().time() < 3) scene->tick();
  ambulon::Chart chart{.title = "outside"};
  scene->world().each([&](ambulon::Npc npc) {
    chart.npcs.push_back({.name = std::string(npc.name()), .at = npc.position()});
  });
  const auto saved =
      ambulon::save_picture(words[2], 640, 400, [&](ambulon::Canvas& canvas) { paint(chart, canvas); });
  if (!saved) return std::puts(saved.error().text.c_str()), 1;
  return chart.npcs.empty() ? 1 : 0;
}
