#include <ambulon/draw/world_chart.hpp>
#include <ambulon/scene/scene_player.hpp>
#include <cstdio>

/// Plays a scene file for some seconds, and draws where everybody is; `with_scene SCENE PICTURE`.
int main(int count, char** words) {
  if (count != 3) return 2;
  auto scene = ambulon::ScenePlayer::open(words[1]);
  if (!scene) return std::puts(scene.error().text.c_str()), 1;
  while (scene->world().time() < 3) scene->tick();
  const auto saved = ambulon::save_chart(scene->world(), words[2], {.title = "outside"}, 640, 400);
  if (!saved) return std::puts(saved.error().text.c_str()), 1;
  return scene->world().size() == 0 ? 1 : 0;
}
