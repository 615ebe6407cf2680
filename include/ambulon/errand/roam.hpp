#pragma once

#include "ambulon/errand/outing.hpp"

namespace ambulon {

/// Options of roaming.
struct RoamOptions {
  float radius = 10.f;                ///< metres around home in which spots are chosen, 0.1 to 1e5
  float not_nearer = 0.f;             ///< metres around home in which none are: less than `radius`
  std::optional<vec3> home = {};      ///< metres; without it, where it stands when it begins
  bool from_where_it_stands = false;  ///< the circle goes along with it, instead of staying at home
  Range pause{};                      ///< seconds at each spot, drawn anew each time; 0 to 1e6
  std::uint32_t visits = 0;           ///< spots after which it is done; 0: goes on for ever
  float leg_time = 0.f;               ///< seconds to one spot before it chooses another; 0: any; at most 1e6
  float within = 0.3f;                ///< metres from a spot that count as there, 0.001 to 1000
  Unreachable unreachable = Unreachable::wait;  ///< when eight spots in a row came to nothing
};

/// Walks to one random spot after another, each as likely by area of all that can be reached, and
/// stays a while. A spot that it cannot get to is given up for another. Ends as done after `visits`; when
/// eight spots in a row came to nothing, as stuck or timed_out, and where it is not to wait as no_way or
/// off_ground.
class Roam final : public Outing {
 public:
  explicit Roam(const RoamOptions& options)
      : Outing({.within = options.within, .visits = options.visits, .leg_time = options.leg_time},
               options.unreachable, options.pause),
        radius_(options.radius),
        not_nearer_(options.not_nearer),
        home_{.position = options.home.value_or(vec3(0.f))},
        home_given_(options.home.has_value()),
        from_where_it_stands_(options.from_where_it_stands) {}

  std::string_view name() const override { return "roam"; }

 private:
  std::optional<Outcome> mistake(const View& see) override;
  std::optional<Outcome> choose(const View& see, Stop& next) override;

  float radius_, not_nearer_;  // metres
  Spot home_;
  bool home_given_, from_where_it_stands_;
};

}  // namespace ambulon
