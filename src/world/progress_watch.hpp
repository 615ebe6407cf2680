#pragma once

namespace ambulon {

/// Detects a body without progress: it gains less than a tenth of the intended distance in consecutive parts
/// of its patience. The verdicts are, in order: plan the route again, step aside, stuck.
class ProgressWatch {
 public:
  enum class Verdict { fine, replan, side_step, stuck };

  /// Adds `seconds` of motion: `gained` metres in the intended direction, of `meant` metres. Returns each
  /// verdict other than fine once.
  Verdict see(float gained, float meant, float seconds, float patience) {
    gained_ += gained, meant_ += meant, seconds_ += seconds;
    if (seconds_ < patience * part) return Verdict::fine;
    const bool slow = meant_ > worth_judging && gained_ < slow_part * meant_;
    gained_ = meant_ = seconds_ = 0.f;
    slow_parts_ = slow ? slow_parts_ + 1 : 0;
    if (slow_parts_ == 3) return Verdict::replan;
    if (slow_parts_ == 5) return Verdict::side_step;
    return slow_parts_ >= 8 ? Verdict::stuck : Verdict::fine;
  }

  /// Returns the seconds without progress.
  float slow_for(float patience) const { return patience * part * static_cast<float>(slow_parts_); }

 private:
  static constexpr float part = 0.125f;  // of the patience
  static constexpr float slow_part = 0.1f;
  static constexpr float worth_judging = 0.02f;  // metres: less is not judged

  float gained_ = 0.f, meant_ = 0.f, seconds_ = 0.f;
  int slow_parts_ = 0;
};

}  // namespace ambulon
