#include <algorithm>
#include <cmath>
#include <map>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/scene/ground_file.hpp"

#include "base/tbb_jobs.hpp"
#include "commands.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "ground/mesh/level_index.hpp"
#include "ground/mesh/mesh_crossings.hpp"
#include "options.hpp"
#include "player.hpp"
#include "scene/ground.hpp"
#include "scene/mesh_file.hpp"
#include "times.hpp"

namespace ambulon::tool {
namespace {

/// Options of `ambulon build`.
struct BuildRequest {
  std::string ground;
  std::string output;  // file; empty: none
  Body body;
  LevelFileOptions level;
  bool closed = false;             // require closed pieces
  std::optional<float> max_slope;  // radians
  std::vector<vec3> reach_from;    // replace those of the scene
  bool json = false;
};

/// Figures of a built mesh.
struct Report {
  std::size_t triangles = 0, flat_enough = 0;  // of a level
  std::size_t polygons = 0, patches = 0;
  double area = 0;                                    // square metres
  std::map<std::uint32_t, double> components;         // areas by component
  std::map<std::string_view, std::size_t> crossings;  // by kind
  std::vector<OpenPiece> open_pieces;                 // if closed ones are required
  std::optional<MeshGround::LeftOut> left_out;        // if reach_from is used
  double reading = 0;                                 // seconds
  std::vector<std::pair<MeshPhase, double>> phases;   // of the build, with their seconds

  double making() const {
    double all = 0;
    for (const auto& [phase, seconds] : phases) all += seconds;
    return all;
  }

  double largest() const {
    double largest = 0;
    for (const auto& [component, square] : components) largest = std::max(largest, square);
    return largest;
  }
};

void count(const ConvexMesh& mesh, Report& report) {
  report.patches = mesh.first_of(mesh.grid().count());
  for (std::uint32_t polygon = 0; polygon < mesh.polygons().size(); ++polygon) {
    if (mesh.polygons()[polygon].count == 0) continue;
    const double area = mesh.area(polygon) / 1e6;
    ++report.polygons;
    report.area += area;
    report.components[mesh.component(polygon)] += area;
  }
}

std::string described(const OpenPiece& piece) {
  return fmt::format("{} triangles from number {} on: {} near ({:.3f}, {:.3f}, {:.3f})", piece.triangles,
                     piece.first_triangle + 1, name(piece.fault), piece.at.x, piece.at.y, piece.at.z);
}

/// Describes its abilities besides walking.
std::string hopping(const Body& body) {
  std::string text;
  for (const auto& [metres, name] : {std::pair(body.jump_up, "jump_up"),
                                     std::pair(body.drop_down, "drop_down"), std::pair(body.leap, "leap")})
    if (metres > 0.f) text += fmt::format(", {:g} m {}", metres, name);
  return text;
}

void print_json(const Report& report, const BuildRequest& request) {
  const Body& body = request.body;
  nlohmann::ordered_json components = nlohmann::ordered_json::array();
  for (const auto& [component, area] : report.components) components.push_back(area);
  nlohmann::ordered_json phases = nlohmann::ordered_json::object();
  for (const auto& [phase, seconds] : report.phases) phases[std::string(name(phase))] = seconds;
  nlohmann::ordered_json left_out;
  if (report.left_out)
    left_out = {{"components", report.left_out->components}, {"area", report.left_out->area}};
  nlohmann::ordered_json open_pieces = nlohmann::ordered_json::array();
  for (const OpenPiece& piece : report.open_pieces)
    open_pieces.push_back({{"first_triangle", piece.first_triangle + 1},
                           {"triangles", piece.triangles},
                           {"fault", name(piece.fault)},
                           {"at", {piece.at.x, piece.at.y, piece.at.z}}});
  fmt::print("{}\n", nlohmann::ordered_json{{"ground", request.ground},
                                            {"body",
                                             {{"radius", exact(body.radius)},
                                              {"height", exact(body.height)},
                                              {"step_up", exact(body.step_up)},
                                              {"jump_up", exact(body.jump_up)},
                                              {"drop_down", exact(body.drop_down)},
                                              {"leap", exact(body.leap)}}},
                                            {"triangles", report.triangles},
                                            {"flat_enough", report.flat_enough},
                                            {"open_pieces", open_pieces},
                                            {"patches", report.patches},
                                            {"polygons", report.polygons},
                                            {"area", report.area},
                                            {"component_areas", components},
                                            {"left_out", left_out},
                                            {"crossings", report.crossings},
                                            {"reading_seconds", report.reading},
                                            {"making_seconds", report.making()},
                                            {"phases_seconds", phases}}
                         .dump(2));
}

void print_table(const Report& report, const BuildRequest& request) {
  const Body& body = request.body;
  fmt::print("{}, for a body of {:g} m radius, {:g} m height, {:g} m step_up{}\n", request.ground,
             body.radius, body.height, body.step_up, hopping(body));
  if (report.triangles > 0)
    fmt::print("  triangles   {:>9}   {} of them flat enough to walk on\n", report.triangles,
               report.flat_enough);
  constexpr std::size_t max_listed = 20;
  for (std::size_t i = 0; i < std::min(report.open_pieces.size(), max_listed); ++i)
    fmt::print("  not closed  {}\n", described(report.open_pieces[i]));
  if (report.open_pieces.size() > max_listed)
    fmt::print("  not closed  {} more pieces; --json lists all\n", report.open_pieces.size() - max_listed);
  fmt::print("  polygons    {:>9}   in {} patches\n", report.polygons, report.patches);
  fmt::print("  area        {:>9.1f}   m2 for the middle of the body\n", report.area);
  fmt::print("  components  {:>9}   the largest has {:.1f} m2\n", report.components.size(), report.largest());
  if (report.left_out)
    fmt::print("  left out    {:>9}   more components, {:.1f} m2, which no point of reach_from leads to\n",
               report.left_out->components, report.left_out->area);
  std::size_t all = 0;
  std::string kinds;
  for (const auto& [kind, number] : report.crossings) {
    all += number;
    kinds += fmt::format("{}{} {}", kinds.empty() ? "" : ", ", number, kind);
  }
  fmt::print("  crossings   {:>9}   {}\n", all, all > 0 ? kinds : "none that such a body takes");
  fmt::print("  reading     {:>9.3f} s\n", report.reading);
  for (const auto& [phase, seconds] : report.phases)
    fmt::print("  {:<11} {:>9.3f} s\n", name(phase), seconds);
}

/// Returns why a ground is not built as requested; empty if it is.
std::string objection(const SceneGround& ground, const BuildRequest& request) {
  if (!ground.is_mesh())
    return fmt::format("its ground is {}; only levels and plans are built", ground.kind());
  if (request.level.shift != vec3(0.f) && (!ground.level || ground.source != request.ground))
    return "--shift needs the file of a level; in a scene it is the key shift of [ground]";
  if (!ground.level && !request.reach_from.empty())
    return fmt::format("its ground is {}; --reach-from needs the file or scene of a level",
                       ground.built ? "built already" : ground.kind());
  if (ground.built && request.output.ends_with(".ground"))
    return "is a built ground; to save one for other bodies, build its level or plan again";
  return {};
}

/// Sets the rules of a level, and counts its triangles.
Expected<void> read_level(SceneGround& ground, const BuildRequest& request, Report& report) {
  if (request.closed) ground.rules.closed = true;
  if (request.max_slope) ground.rules.max_slope = *request.max_slope;
  if (!request.reach_from.empty()) ground.rules.reach_from = request.reach_from;
  const auto index = LevelIndex::make(*ground.level, ground.rules);
  if (!index) return tl::unexpected(index.error());
  report.triangles = ground.level->triangles.size();
  report.open_pieces.assign(index->open_pieces().begin(), index->open_pieces().end());
  report.flat_enough = static_cast<std::size_t>(
      std::ranges::count_if(index->facets(), [](const auto& facet) { return facet.floor; }));
  return {};
}

/// Builds the mesh, with a progress line and the time of each phase.
Expected<const ConvexMesh*> make_mesh(const MeshGround& ground, const Body& body, Report& report) {
  watch_for_interrupt();
  Progress progress("building", 1, false);
  auto began = Times::Clock::now();
  const auto end_phase = [&] {
    if (!report.phases.empty()) report.phases.back().second = Times::microseconds_since(began) / 1e6;
    began = Times::Clock::now();
  };
  auto mesh = ground.prepare(body, [&](MeshPhase phase, float part) {
    if (report.phases.empty() || report.phases.back().first != phase) {
      end_phase();
      report.phases.emplace_back(phase, 0);
    }
    progress.show((static_cast<float>(phase) + part) / 4.f);
    return !interrupted();
  });
  end_phase();
  return mesh;
}

Expected<std::string> save(const SceneGround& ground, const MeshGround& made, const ConvexMesh& mesh,
                           const std::string& file) {
  return file.ends_with(".ground") ? save_ground(made, ground.source, file) : save_mesh(mesh, file);
}

int fail(const Problem& problem) {
  announce(problem.text);
  return exit_could_not;
}

int build(const BuildRequest& request) {
  Report report;
  const auto began = Times::Clock::now();
  auto ground = read_ground_file(request.ground, {}, request.level);
  if (!ground) return fail(ground.error());
  if (const std::string why = objection(*ground, request); !why.empty())
    return fail({fmt::format("{}: {}", request.ground, why)});
  if (ground->level)
    if (const auto read = read_level(*ground, request, report); !read)
      return fail({fmt::format("{}: {}", request.ground, read.error().text)});
  report.reading = Times::microseconds_since(began) / 1e6;
  const std::unique_ptr<Ground> owner = ground->make(tbb_jobs());
  const auto& made = static_cast<const MeshGround&>(*owner);
  const auto mesh = make_mesh(made, request.body, report);
  if (!mesh) return fail(mesh.error());
  count(**mesh, report);
  if (ground->level && !ground->rules.reach_from.empty()) report.left_out = made.left_out(request.body);
  for (const MeshCrossing& each : made.crossings(request.body).all()) ++report.crossings[name(each.kind)];
  if (!request.output.empty())
    if (const auto saved = save(*ground, made, **mesh, request.output); !saved) return fail(saved.error());
  request.json ? print_json(report, request) : print_table(report, request);
  return report.polygons > 0 && report.open_pieces.empty() ? exit_done : exit_not_so;
}

}  // namespace

void add_build(CLI::App& app, int& exit_code) {
  const auto request = std::make_shared<BuildRequest>();
  CLI::App* build_command =
      app.add_subcommand("build", "build the navigation mesh of a level or plan, and report on it");
  build_command
      ->add_option("ground", request->ground,
                   "level (.gltf, .glb, .obj, .ply, .stl and more), plan or scene file")
      ->required()
      ->type_name("LEVEL");
  build_command
      ->add_option(
          "-o,--output", request->output,
          "save the ground for scenes (.ground), or the walkable surface for viewers (.obj, .gltf, .glb)")
      ->type_name("FILE");
  add_body(*build_command, request->body);
  build_command
      ->add_option_function<std::string>(
          "--up",
          [request](const std::string& axis) {
            request->level.up = axis == "z" ? LevelFileOptions::Up::z : LevelFileOptions::Up::y;
          },
          "up axis of the level, y or z; by default z for .ply and .stl, y for others")
      ->check(CLI::IsMember({"y", "z"}))
      ->type_name("AXIS");
  build_command->add_flag("--closed", request->closed,
                          "require closed pieces: list those that are not, and exit with 1 if there are any");
  build_command
      ->add_option_function<float>(
          "--max-slope", [request](float degrees) { request->max_slope = radians(degrees); },
          "maximum walkable slope; by default that of the scene, or 45")
      ->check(number_between(0, 80))
      ->type_name("DEGREES");
  build_command
      ->add_option_function<std::vector<std::string>>(
          "--reach-from",
          [request](const std::vector<std::string>& points) {
            for (const std::string& text : points)
              request->reach_from.push_back(point_of("--reach-from", text));
          },
          "keep only ground that can be reached from this point; repeatable; by default the points of the "
          "scene")
      ->allow_extra_args(false)
      ->type_name("X,Y[,Z]");
  add_point(*build_command, "--shift", request->level.shift,
            "added to all coordinates of the level's file, to bring it near the origin");
  build_command
      ->add_option("--decor", request->level.decor,
                   "names of nodes that do not obstruct and are not walkable")
      ->type_name("NAME");
  build_command
      ->add_option("--barred", request->level.barred, "names of nodes that obstruct and are not walkable")
      ->type_name("NAME");
  build_command->add_flag("--json", request->json, "print one JSON document");
  build_command->callback([request, &exit_code] { exit_code = build(*request); });
}

}  // namespace ambulon::tool
