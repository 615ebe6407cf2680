#pragma once

#include "errand/rest.hpp"

namespace ambulon {

/// Stands still for a number of seconds (0 to 1e6). Ends as done.
class Pause final : public Errand {
 public:
  explicit Pause(float seconds) : seconds_(seconds), rest_(seconds) {}

  std::string_view name() const override { return "pause"; }
  Step step(const View& see, float seconds) override;
  Progress progress(const View& see) const override;
  std::string doing() const override;

 private:
  float seconds_;
  Rest rest_;
};

/// Stands still until a signal is given. Ends as done.
class WaitFor final : public Errand {
 public:
  /// `word`: name of the signal, for the journal. The text must outlive the errand.
  WaitFor(Signal signal, std::string_view word) : signal_(signal), word_(word) {}

  std::string_view name() const override { return "wait_for"; }
  Step step(const View& see, float seconds) override;
  Progress progress(const View&) const override { return {}; }
  std::string doing() const override;

 private:
  Signal signal_;
  std::string_view word_;
};

}  // namespace ambulon
