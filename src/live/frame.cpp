// Frames: positions of all NPCs in few bytes.

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstring>

#include "live/live_scene.hpp"

namespace ambulon {
namespace {

static_assert(std::endian::native == std::endian::little,
              "frames are written as the machine has its numbers");

template <class Value>
void put(std::string& out, Value value) {
  out.append(reinterpret_cast<const char*>(&value), sizeof value);
}

}  // namespace

std::string LiveScene::frame() {
  const auto npcs = play_->npcs();
  std::string out;
  out.reserve(32 + 20 * npcs.size());
  put(out, play_->world().time());
  put(out, static_cast<std::uint32_t>(scene_revision()));
  put(out, static_cast<std::uint32_t>(play_->world().ticks()));
  put(out, static_cast<float>(speed_));
  put(out, static_cast<std::uint32_t>(playing_ ? 1 : 0));
  put(out, static_cast<std::uint32_t>(npcs.size()));
  put(out, std::uint32_t{0});
  for (std::size_t i = 0; i < npcs.size(); ++i) {
    const Motion motion = play_->motion(i);
    const bool alive = npcs[i].alive();
    for (const float coordinate : {motion.position.x, motion.position.y, motion.position.z})
      put(out, coordinate);
    put(out, static_cast<std::int16_t>(std::lround(motion.heading() * 10'000.f)));
    put(out, static_cast<std::uint16_t>(std::lround(std::min(65.f, motion.speed()) * 1000.f)));
    put(out, static_cast<std::uint8_t>(motion.stance));
    put(out, static_cast<std::uint8_t>(motion.stride_phase * 255.f));
    put(out, static_cast<std::uint8_t>((alive ? 1 : 0) | (alive && npcs[i].busy() ? 2 : 0) |
                                       (alive && npcs[i].suspended() ? 4 : 0)));
    put(out, std::uint8_t{0});
  }
  return out;
}

}  // namespace ambulon
