#pragma once

#include <algorithm>
#include <chrono>
#include <vector>

namespace ambulon::tool {

/// Durations of many queries, in microseconds.
class Times {
 public:
  using Clock = std::chrono::steady_clock;

  static double microseconds_since(Clock::time_point began) {
    return std::chrono::duration<double, std::micro>(Clock::now() - began).count();
  }

  void add(double microseconds) {
    all_.push_back(microseconds);
    sum_ += microseconds;
    sorted_ = false;
  }
  std::size_t count() const { return all_.size(); }
  double sum() const { return sum_; }
  double mean() const { return all_.empty() ? 0.0 : sum_ / static_cast<double>(all_.size()); }
  /// Returns the quantile `of` (0 to 1).
  double part(double of) {
    if (all_.empty()) return 0.0;
    if (!sorted_) std::ranges::sort(all_);
    sorted_ = true;
    return all_[std::min(all_.size() - 1, static_cast<std::size_t>(of * static_cast<double>(all_.size())))];
  }

 private:
  std::vector<double> all_;
  double sum_ = 0;
  bool sorted_ = true;
};

}  // namespace ambulon::tool
