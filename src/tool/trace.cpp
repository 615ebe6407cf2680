#include "trace.hpp"

#include <algorithm>
#include <cmath>
#include <set>

#include <fmt/format.h>

#include "base/geometry.hpp"
#include "live/json.hpp"

namespace ambulon::tool {
namespace {

using live::json;
using live::rounded;
using live::to_json;

/// A sample with the heading in radians.
struct Line {
  std::string npc;
  Trajectory::Sample sample;
  float heading;
};

bool is_number(const json& document, const char* key) {
  return document.contains(key) && document[key].is_number() && std::isfinite(document[key].get<double>());
}

/// Returns nothing if the text has another form.
std::optional<Line> parse(const std::string& text) {
  if (!live::nests_little(text)) return {};
  const json document = json::parse(text, nullptr, false);
  if (!document.is_object() || !document.contains("npc") || !document["npc"].is_string()) return {};
  if (!is_number(document, "t") || !is_number(document, "speed") || !is_number(document, "heading_deg"))
    return {};
  if (!document.contains("at") || !document["at"].is_array() || document["at"].size() != 3) return {};
  vec3 at;
  for (int axis = 0; axis < 3; ++axis) {
    const json& part = document["at"][static_cast<std::size_t>(axis)];
    if (!part.is_number()) return {};
    at[axis] = part.get<float>();
  }
  return Line{document["npc"],
              {.time = document["t"], .position = at, .speed = document["speed"]},
              radians(document["heading_deg"].get<float>())};
}

}  // namespace

TraceWriter::TraceWriter(const std::string& file, double every) : every_(every) {
  if (!file.empty()) stream_.open(file);
}

void TraceWriter::sample(World& world) {
  if (!stream_.is_open() || world.time() < next_ - 1e-9) return;
  next_ += every_;
  world.each([&](Npc npc) {
    const Motion motion = npc.motion();
    stream_ << json{{"t", rounded(world.time())},
                    {"npc", npc.name()},
                    {"at", to_json(motion.position)},
                    {"heading_deg", rounded(degrees(motion.heading()))},
                    {"speed", rounded(motion.speed())},
                    {"stance", name(motion.stance)},
                    {"turn_deg", rounded(degrees(motion.turn))},
                    {"stop", rounded(motion.stop)},
                    {"doing", npc.doing()}}
                   .dump()
            << '\n';
  });
}

Expected<Trajectory> read_trajectory(const std::string& file, const std::string& npc) {
  std::ifstream stream(file);
  if (!stream) return problem(fmt::format("{}: cannot be read; is it there?", file));
  TrajectoryRecorder recorder(npc);
  std::set<std::string> others;
  std::string text;
  double time = 0;
  float fastest = 0.f;
  for (int number = 1; std::getline(stream, text); ++number) {
    const auto line = parse(text);
    if (!line)
      return problem(fmt::format("{}:{}: this is no sample of a trace; record it with `ambulon run --trace`",
                                 file, number));
    if (line->sample.time < time)
      return problem(fmt::format("{}:{}: the time is {} s, before {} s in the line above", file, number,
                                 line->sample.time, time));
    time = line->sample.time;
    if (line->npc == npc)
      recorder.add(line->sample, unit(line->heading), fastest = std::max(fastest, line->sample.speed));
    else if (others.size() < 20)
      others.insert(line->npc);
  }
  if (recorder.trajectory().samples.empty())
    return problem(others.empty() ? fmt::format("{}: has no samples", file)
                                  : fmt::format("{} has no character \"{}\"; it has {}", file, npc,
                                                fmt::join(others, ", ")));
  return recorder.trajectory();
}

}  // namespace ambulon::tool
