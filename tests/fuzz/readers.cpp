// Any bytes as tile files, plans and scenes: read, or refused with a reason. The first byte selects the
// reader.

#include <cstdlib>
#include <string>

#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "scene/check.hpp"
#include "scene/read_plan.hpp"
#include "scene/scene.hpp"
#include "scene/tile_file.hpp"

using namespace ambulon;

namespace {

void require(bool holds) {
  if (!holds) std::abort();
}

/// A map that was read is walkable; a problem names its place.
void look_at(const Expected<TileMap>& map) {
  if (!map) return require(map.error().text.starts_with("input"));
  require(map->width() > 0 && map->height() > 0);
  for (int y = 0; y < map->height(); ++y)
    for (int x = 0; x < map->width(); ++x) require(map->free({x, y}) == (map->cost({x, y}) != 0));
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  if (size == 0) return 0;
  const std::string text(reinterpret_cast<const char*>(data + 1), size - 1);
  switch (data[0] % 5) {
    case 0:
      look_at(tiles_of_octile(text, octile_legend(), {}, "input"));
      break;
    case 1: {
      // A claimed size costs memory before a pixel is read: large ones are for the size limit's test.
      if (text.size() > 24 && (text[16] != 0 || text[17] != 0 || text[20] != 0 || text[21] != 0)) break;
      look_at(tiles_of_png(text, {}, {}, "input"));
      break;
    }
    case 2: {
      std::vector<std::string> rows(1);
      for (const char sign : text) sign == '\n' ? rows.emplace_back() : (rows.back() += sign, rows.back());
      look_at(tiles_of_rows(rows, {}, {}, "input"));
      break;
    }
    case 4: {
      const auto plan = read_plan_text(text, "input");
      if (plan)
        require(MeshGround::make(*plan).has_value());
      else
        require(plan.error().text.starts_with("input:"));
      break;
    }
    default: {
      for (const char* file : {"tiles = \"", "plan = \"", "tiles = '", "plan = '"})
        if (text.find(file) != std::string::npos) return 0;  // would read other files
      const auto scene = read_scene_text(text, "input");
      if (scene)
        (void)check(*scene);
      else
        require(scene.error().text.starts_with("input:"));
    }
  }
  return 0;
}
