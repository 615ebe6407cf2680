#pragma once

#include "ambulon/errand/order_options.hpp"

#include "errand/rest.hpp"

namespace ambulon {

/// The errand of `Npc::pace`.
class Pace final : public Errand {
 public:
  explicit Pace(const PaceOptions& options) : options_(options) {}

  std::string_view name() const override { return "pace"; }
  Step step(const View& see, float seconds) override;
  Progress progress(const View& see) const override;
  std::string doing() const override;

 private:
  enum class Phase : std::uint8_t { beginning, walking, pausing, turning };
  struct Ahead {
    float metres;     // free distance
    NpcId whom = {};  // the NPC in the way; empty for an edge of the ground
  };

  std::optional<Outcome> mistake() const;
  Ahead look_ahead(const View& see, float metres) const;
  Step walk(const View& see, float seconds);

  PaceOptions options_;
  Phase phase_ = Phase::beginning;
  vec2 along_{1.f, 0.f};
  vec2 turned_at_{0.f};
  std::uint32_t turns_ = 0;
  Rest rest_;
};

}  // namespace ambulon
