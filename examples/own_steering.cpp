// Steering behaviours without a world: a duck keeps its place beside a raft with its own blend.
#include <ambulon/motion/steering.hpp>
#include <ambulon/motion/wish.hpp>
#include <cstdio>

using namespace ambulon;

int main() {
  constexpr float seconds = 1.f / 30.f;
  const Gait gait{.speed = 1.5f};
  Motion duck{.position = {-4, -3, 0}};
  vec2 raft(0.f);
  const vec2 raft_velocity(0.8f, 0.f), current(0.f, -0.3f);
  for (int tick = 0; tick < 600; ++tick) {
    const vec2 slot = raft + vec2(-1.f, -2.f) - flat(duck.position);
    const Wish wishes[] = {
        {follow_offset(duck, gait, slot, raft_velocity, gait.speed, seconds), 1.f},
        {current, 0.1f},  // the current of the canal
    };
    advance(duck, gait, {.velocity = blend_weighted(wishes)}, seconds);
    raft += seconds * raft_velocity;
  }
  const vec2 off = flat(duck.position) - raft;
  std::printf("the duck swims at (%.1f, %.1f) from the raft, at %.2f m/s\n", off.x, off.y, duck.speed());
}
