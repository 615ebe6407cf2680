// Any bytes as an event of a scene, and as a value for the text of one: done, or refused with a reason;
// nothing but that value changes. The first byte selects.

#include <cstdlib>
#include <string>

#include "base/geometry.hpp"
#include "scene/edit.hpp"
#include "scene/play.hpp"

using namespace ambulon;

namespace {

void require(bool holds) {
  if (!holds) std::abort();
}

const std::string yard = R"(format = "ambulon-scene/1"
ground = { plan = { outline = [[[0, 0], [20, 0], [20, 10], [0, 10]]] } }
[place]
gate = [2, 5]      # é
[gait.stroll]
speed = 1.25
[[npc]]
name = "cat"
at   = "gate"
gait = "stroll"
body = { radius = 0.2 }
do   = [ { patrol = ["gate", [16, 8]], pause = [1, 2] } ]
[[npc]]
name = "crab"
at   = [4, 4]
tags = ["crabs"]
)";

/// The parts of a text between zero bytes.
std::vector<std::string> parts_of(const std::string& text) {
  std::vector<std::string> parts(1);
  for (const char sign : text) sign == '\0' ? parts.emplace_back() : (parts.back() += sign, parts.back());
  return parts;
}

void edit(const std::string& text) {
  std::vector<std::string> path = parts_of(text);
  const std::string value = path.back();
  path.pop_back();
  const auto changed = with_value(yard, path, value);
  if (!changed) return require(!changed.error().text.empty());
  require(changed->size() + 200 > yard.size());
  (void)read_scene_text(*changed, "input");
}

void happen(const std::string& text) {
  Scene scene = read_scene_text(yard, "input").value();
  const std::string barriers[] = {"crate"};
  const auto event = read_event(text, scene, barriers);
  if (!event) return require(!event.error().text.empty());
  const auto play = Play::start(scene).value();
  (void)play->happen(*event);
  for (int tick = 0; tick < 20; ++tick) play->tick();
  for (const Npc npc : play->npcs()) require(!npc.alive() || finite(npc.position()));
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  if (size == 0) return 0;
  const std::string text(reinterpret_cast<const char*>(data + 1), size - 1);
  data[0] % 2 == 0 ? edit(text) : happen(text);
  return 0;
}
