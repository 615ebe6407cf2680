#pragma once

#include "ambulon/errand/order_options.hpp"
#include "ambulon/ground/tiles/tile_map.hpp"

#include "errand/target_tracker.hpp"

namespace ambulon {

/// The errand of `Npc::thread`.
class Thread final : public Errand {
 public:
  explicit Thread(const ThreadOptions& options) : options_(options), tracker_(options.target) {}

  std::string_view name() const override { return "thread"; }
  NpcId target() const override { return tracker_.now(); }
  Step step(const View& see, float seconds) override;
  Progress progress(const View&) const override { return {}; }
  std::string doing() const override { return "threading the maze"; }

 private:
  std::optional<Outcome> begin(const View& see);
  std::optional<Outcome> look(const View& see);
  void go(const View& see, float metres, vec2& at);
  vec2 choose(const View& see, const TileMap& cells, Cell here);
  vec2 chosen_of(const Junction& junction, const View& see);

  ThreadOptions options_;
  TargetTracker tracker_;
  bool begun_ = false;
  bool entering_ = true;  // on its way to the centre of its first cell
  Cell from_, to_;        // it is between their centres
  vec2 heading_{0.f};     // from the one to the other; zero if it stands
  float speed_ = 0.f;
  std::optional<vec2> target_;  // the point of `toward` and `away`
  std::uint32_t chosen_ = 0;    // number of choices made
  std::uint32_t jumps_ = 0;
};

}  // namespace ambulon
