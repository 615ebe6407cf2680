// Reads plans, in files of their own or within scene files.

#include "scene/read_plan.hpp"

#include "ground/mesh/plan_outlines.hpp"
#include "scene/read_toml.hpp"

namespace ambulon {
namespace scene {
namespace {

std::vector<vec2> read_line(const std::string& file, const toml::node& node, std::string_view what,
                            std::size_t min) {
  const toml::array& list = as_array(file, node, what);
  if (list.size() < min)
    mistake(file, node, fmt::format("{} has {} points; it needs at least {}", what, list.size(), min));
  std::vector<vec2> line;
  for (const toml::node& point : list)
    line.push_back(flat(coordinates(file, point, fmt::format("a point of {}", what))));
  return line;
}

std::vector<Plan::Ring> read_rings(const Reader& plan, std::string_view key) {
  std::vector<Plan::Ring> rings;
  if (!plan.has(key)) return rings;
  for (const toml::node& node : as_array(plan.file(), plan.node(key), key))
    rings.push_back(read_line(plan.file(), node, fmt::format("{} {}", key, rings.size() + 1), 3));
  return rings;
}

}  // namespace

Plan read_plan_table(const Reader& reader) {
  Plan plan{.outlines = read_rings(reader, "outline"),
            .holes = read_rings(reader, "hole"),
            .solids = read_rings(reader, "solid"),
            .walls = {},
            .regions = {}};
  if (reader.has("wall"))
    for (const toml::node& node : as_array(reader.file(), reader.node("wall"), "wall")) {
      const std::string what = fmt::format("wall {}", plan.walls.size() + 1);
      const Reader wall(reader.file(), as_table(reader.file(), node, what), wall_table);
      Plan::Wall& read = plan.walls.emplace_back();
      read.line = read_line(reader.file(), wall.node("line"), what, 2);
      wall.into(read.thickness, "thickness");
    }
  if (reader.has("region"))
    for (const toml::node& node : as_array(reader.file(), reader.node("region"), "region")) {
      const std::string what = fmt::format("region {}", plan.regions.size() + 1);
      const Reader region(reader.file(), as_table(reader.file(), node, what), region_table);
      Plan::Region& read = plan.regions.emplace_back();
      read.ring = read_line(reader.file(), region.node("ring"), what, 3);
      region.into(read.cost, "cost");
    }
  if (const auto good = regions_of(plan); !good) mistake(reader.file(), reader.toml(), good.error().text);
  if (const auto good = outlines_for(plan, 0.f); !good)
    mistake(reader.file(), reader.toml(), good.error().text);
  return plan;
}

}  // namespace scene

Expected<Plan> read_plan_text(std::string_view text, const std::string& file) {
  return scene::read_toml<Plan>(text, file, [&](const toml::table& toml) {
    const scene::Reader reader(file, toml, scene::plan_file_table);
    (void)reader.one_of("format");  // there is only one
    return scene::read_plan_table(reader);
  });
}

Expected<Plan> read_plan(const std::string& file) {
  return text_of_file(file).and_then([&](const std::string& text) { return read_plan_text(text, file); });
}

}  // namespace ambulon
