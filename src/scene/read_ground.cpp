// Reads the ground of a scene file: open, tiles, plan or level.

#include <algorithm>
#include <filesystem>

#include "ambulon/scene/ground_file.hpp"

#include "ground/mesh/level_index.hpp"
#include "scene/names.hpp"
#include "scene/read_plan.hpp"
#include "scene/read_toml.hpp"
#include "scene/tile_file.hpp"

namespace ambulon::scene {
namespace {

/// Returns the path of a file that the scene file `scene` names.
std::string beside(const std::string& scene, const std::string& name) {
  return (std::filesystem::path(scene).parent_path() / name).string();
}

OpenGround read_open(const Reader& ground) {
  if (!*ground.flag("open"))
    ground.wrong("open", "must be true; leave the key out for another kind of ground");
  if (!ground.has("extent")) return {};
  const toml::array& corners = as_array(ground.file(), ground.node("extent"), "extent");
  if (corners.size() != 2) ground.wrong("extent", "must be two corners, [[x, y], [x, y]]");
  const vec2 one = flat(coordinates(ground.file(), corners[0], "a corner of extent"));
  const vec2 other = flat(coordinates(ground.file(), corners[1], "a corner of extent"));
  if (one.x == other.x || one.y == other.y)
    ground.wrong("extent", "has no area; its corners must differ in x and in y");
  return {one, other};
}

void read_terrains(const Reader& scene, TileLegend& legend) {
  if (!scene.has("terrain")) return;
  for (const auto& [name, node] : as_table(scene.file(), scene.node("terrain"), "terrain")) {
    const Reader reader(scene.file(), as_table(scene.file(), node, "a terrain"), terrain_table);
    Terrain terrain{.name = std::string(name.str())};
    terrain.cost = static_cast<std::uint8_t>(reader.whole("cost").value_or(1));
    if (!reader.flag("walkable").value_or(true)) {
      if (reader.has("cost"))
        reader.wrong("cost", "is given for a terrain that is not walkable; leave one out");
      terrain.cost = TileMap::blocked;
    }
    const auto known = std::ranges::find(legend.terrains, terrain.name, &Terrain::name);
    if (known != legend.terrains.end())
      *known = terrain;
    else if (legend.terrains.size() == 255)
      mistake(scene.file(), node, "is the 256th terrain; a scene has up to 255, floor and wall included");
    else
      legend.terrains.push_back(terrain);
  }
}

void read_signs(const Reader& ground, TileLegend& legend) {
  if (!ground.has("legend")) return;
  for (const auto& [sign, node] : as_table(ground.file(), ground.node("legend"), "legend")) {
    const std::string text(sign.str());
    if (text.size() != 1 && (text.size() != 7 || text[0] != '#'))
      mistake(ground.file(), node,
              fmt::format("\"{}\" in the legend is neither one character nor a colour \"#rrggbb\"", text));
    const std::uint8_t terrain = read_terrain(ground.file(), node, legend.terrains);
    const auto known = std::ranges::find(legend.signs, text, &TileLegend::Sign::sign);
    if (known != legend.signs.end())
      known->terrain = terrain;
    else
      legend.signs.push_back({text, terrain});
  }
}

TileMapOptions read_options(const Reader& ground) {
  TileMapOptions options;
  ground.into(options.cell, "cell");
  if (const auto origin = ground.vector("origin")) options.origin = flat(*origin);
  if (const auto word = ground.one_of("neighbours"))
    options.rules.neighbours = static_cast<Neighbours>(*word);
  if (const auto word = ground.one_of("corners")) options.rules.corners = static_cast<Corners>(*word);
  return options;
}

}  // namespace

std::uint8_t read_terrain(const std::string& file, const toml::node& node,
                          std::span<const Terrain> terrains) {
  const auto name = node.value<std::string>();
  if (!name) mistake(file, node, "must be the name of a terrain, in quotes");
  const auto found = std::ranges::find(terrains, *name, &Terrain::name);
  if (found == terrains.end()) {
    std::vector<std::string_view> known;
    for (const Terrain& each : terrains) known.push_back(each.name);
    mistake(file, node, fmt::format("there is no terrain \"{}\"{}", *name, did_you_mean(*name, known)));
  }
  return static_cast<std::uint8_t>(found - terrains.begin());
}

namespace {

/// Throws a mistake if a key does not belong to the kind of ground.
void only(const Reader& ground, std::string_view kind, std::initializer_list<std::string_view> allowed) {
  for (const auto& [key, node] : ground.toml())
    if (std::ranges::find(allowed, key.str()) == allowed.end())
      mistake(ground.file(), node, fmt::format("{} is given for {}", key.str(), kind));
}

Plan read_plan_of(const Reader& ground) {
  const std::string& file = ground.file();
  const toml::node& plan = ground.node("plan");
  if (const auto name = plan.value<std::string>()) {
    auto read = read_plan(beside(file, *name));
    if (!read) mistake(file, plan, read.error().text);
    return std::move(*read);
  }
  return read_plan_table(Reader(file, as_table(file, plan, "plan"), plan_table));
}

TileMap read_tiles_of(const Reader& scene, const Reader& ground) {
  const std::string& file = ground.file();
  TileLegend legend;
  read_terrains(scene, legend);
  read_signs(ground, legend);
  legend.threshold = static_cast<int>(ground.whole("threshold").value_or(legend.threshold));
  const toml::node& tiles = ground.node("tiles");
  const TileMapOptions options = read_options(ground);
  Expected<TileMap> map = problem("");
  if (const auto name = tiles.value<std::string>())
    map = read_tiles(beside(file, *name), ground.has("legend") ? &legend : nullptr, options);
  else
    map = tiles_of_rows(ground.texts("tiles"), legend, options, "tiles");
  if (!map) mistake(file, tiles, map.error().text);
  return std::move(*map);
}

void read_level_of(const Reader& ground, SceneGround& read) {
  LevelFileOptions options;
  if (const auto word = ground.one_of("up")) options.up = static_cast<LevelFileOptions::Up>(*word);
  options.shift = ground.vector("shift").value_or(vec3(0.f));
  options.decor = ground.texts("decor");
  options.barred = ground.texts("barred");
  if (ground.has("cost"))
    for (const auto& [name, node] : as_table(ground.file(), ground.node("cost"), "cost")) {
      const auto cost = node.value<double>();
      const bool fits = cost && *cost >= 1 && *cost <= 255;
      if (!fits)
        mistake(ground.file(), node,
                fmt::format("the cost of \"{}\" must be a number from 1 to 255", name.str()));
      options.costs.push_back({std::string(name.str()), static_cast<float>(*cost)});
    }
  if (const auto degrees = ground.number("max_slope"))
    read.rules.max_slope = radians(static_cast<float>(*degrees));
  ground.into(read.rules.gap, "gap");
  ground.into(read.rules.closed, "closed");
  read.source = beside(ground.file(), *ground.text("level"));
  auto level = read_level(read.source, options);
  if (!level) mistake(ground.file(), ground.node("level"), level.error().text);
  if (const auto good = LevelIndex::make(*level, read.rules); !good)
    mistake(ground.file(), ground.node("level"), good.error().text);
  read.level = std::make_shared<const Level>(std::move(*level));
}

}  // namespace

SceneGround read_ground(const Reader& scene) {
  const std::string& file = scene.file();
  const Reader ground(file, as_table(file, scene.node("ground"), "ground"), ground_table);
  if (ground.has("open") + ground.has("tiles") + ground.has("plan") + ground.has("level") +
          ground.has("built") !=
      1)
    mistake(file, ground.toml(),
            "the ground must be exactly one of open = true, tiles, plan, level and built");
  SceneGround read;
  if (ground.has("open")) {
    only(ground, "open ground; it is for tiles", {"open", "extent"});
    read.open = read_open(ground);
  } else if (ground.has("plan")) {
    only(ground, "a plan; it is for another kind of ground", {"plan"});
    read.plan = read_plan_of(ground);
    const auto name = ground.node("plan").value<std::string>();
    read.source = name ? beside(file, *name) : file;
  } else if (ground.has("built")) {
    only(ground, "a built ground; it is for another kind of ground", {"built"});
    auto built = read_built(beside(file, *ground.text("built")));
    if (!built) mistake(file, ground.node("built"), built.error().text);
    read.built = std::move(*built);
  } else if (ground.has("level")) {
    only(ground, "a level; it is for another kind of ground",
         {"level", "up", "shift", "max_slope", "gap", "closed", "reach_from", "decor", "barred", "cost"});
    read_level_of(ground, read);
  } else {
    for (const std::string_view key :
         {"extent", "up", "shift", "max_slope", "gap", "closed", "reach_from", "decor", "barred", "cost"})
      if (ground.has(key)) ground.wrong(key, "is given for tiles; it is for another kind of ground");
    read.tiles = read_tiles_of(scene, ground);
    ground.into(read.along_cells, "along_cells");
  }
  return read;
}

}  // namespace ambulon::scene

namespace ambulon {

Expected<SceneGround> read_ground_file(const std::string& file, const TileMapOptions& options,
                                       const LevelFileOptions& level_options) {
  SceneGround ground;
  const auto known_as = [&](auto... ends) { return (file.ends_with(ends) || ...); };
  if (known_as(".gltf", ".glb", ".obj", ".ply", ".stl", ".fbx", ".dae")) {
    auto level = read_level(file, level_options);
    if (!level) return tl::unexpected(level.error());
    ground.level = std::make_shared<const Level>(std::move(*level));
    ground.source = file;
    return ground;
  }
  if (known_as(".ground")) {
    auto built = read_built(file);
    if (!built) return tl::unexpected(built.error());
    ground.built = std::move(*built);
    return ground;
  }
  if (!file.ends_with(".toml")) {
    auto tiles = read_tiles(file, nullptr, options);
    if (!tiles) return tl::unexpected(tiles.error());
    ground.tiles = std::move(*tiles);
    return ground;
  }
  const auto text = text_of_file(file);
  if (!text) return tl::unexpected(text.error());
  const auto format = scene::read_toml<std::string>(
      *text, file, [](const toml::table& toml) { return toml["format"].value_or(std::string()); });
  if (format && format->starts_with("ambulon-plan/")) {
    auto plan = read_plan_text(*text, file);
    if (!plan) return tl::unexpected(plan.error());
    ground.plan = std::move(*plan);
    ground.source = file;
    return ground;
  }
  auto scene = read_scene_text(*text, file);
  if (!scene) return tl::unexpected(scene.error());
  return std::move(scene->ground);
}

Expected<Scene> read_scene_or_ground(const std::string& file) {
  bool is_scene = file.ends_with(".toml");
  if (is_scene)
    if (const auto text = text_of_file(file)) {
      const auto format = scene::read_toml<std::string>(
          *text, file, [](const toml::table& toml) { return toml["format"].value_or(std::string()); });
      is_scene = !format || !format->starts_with("ambulon-plan/");
    }
  if (is_scene) return read_scene(file);
  auto ground = read_ground_file(file);
  if (!ground) return tl::unexpected(ground.error());
  Scene scene;
  scene.file = file;
  scene.ground = std::move(*ground);
  return scene;
}

}  // namespace ambulon
