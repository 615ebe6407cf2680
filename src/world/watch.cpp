#include "world/watch.hpp"

#include <algorithm>

#include "base/geometry.hpp"

namespace ambulon {
namespace {

constexpr float stretch_seconds = 0.5f;  // an interval: long enough to tell a lag from one slow frame
constexpr float silent_seconds = 0.5f;
constexpr float sudden_push = 0.5f;     // metres in one tick beyond the advised displacement
constexpr float steady_push = 0.15f;    // metres in one interval
constexpr float worth_judging = 0.05f;  // metres advised in one interval: less is not judged
constexpr float held_part = 0.1f, lagging_part = 0.7f;

}  // namespace

std::optional<Note> BodyWatch::judge(Event verdict, float value, float other) {
  if (verdict == verdict_) return std::nullopt;
  verdict_ = verdict;
  if (verdict != Event::held_fast) held_for_ = 0.f;
  return Note{.event = verdict, .value = value, .other = other};
}

std::optional<Note> BodyWatch::see(vec2 advised, vec2 gone, bool reported, float seconds) {
  if (!reported) {
    silent_ += seconds;
    return silent_ < silent_seconds ? std::nullopt : judge(Event::silent, silent_, 0.f);
  }
  silent_ = 0.f;
  if (verdict_ == Event::held_fast) held_for_ += seconds;
  if (const float astray = glm::length(gone - advised);
      astray > sudden_push && glm::length(gone) > sudden_push) {
    advised_ = gone_ = vec2(0.f), stretch_ = 0.f, advised_metres_ = 0.f;
    verdict_ = Event::moving_again;  // each sudden push is reported
    return judge(Event::pushed, astray, 0.f);
  }

  advised_ += advised, gone_ += gone, stretch_ += seconds, advised_metres_ += glm::length(advised);
  if (stretch_ < stretch_seconds) return std::nullopt;

  // The fraction of the advised displacement that was covered, and the displacement beside or beyond it.
  const float square = glm::dot(advised_, advised_);
  const bool judged = advised_metres_ > worth_judging && square > 0.f;
  const float part = judged ? glm::dot(advised_, gone_) / square : 1.f;
  const float astray =
      judged ? glm::length(gone_ - std::clamp(part, 0.f, 1.f) * advised_) : glm::length(gone_ - advised_);
  const float speed = glm::length(gone_) / stretch_, advised_speed = advised_metres_ / stretch_;
  const float stretch = stretch_;
  advised_ = gone_ = vec2(0.f), stretch_ = 0.f, advised_metres_ = 0.f;

  if (astray > steady_push) return judge(Event::pushed, astray, 0.f);
  if (!judged)
    return verdict_ == Event::pushed || verdict_ == Event::silent ? judge(Event::moving_again, 0.f, 0.f)
                                                                  : std::nullopt;
  if (part < held_part) {
    const auto note = judge(Event::held_fast, speed, advised_speed);
    if (note) held_for_ = stretch;
    return note;
  }
  if (part < lagging_part) return judge(Event::lags, speed, advised_speed);
  return judge(Event::moving_again, 0.f, 0.f);
}

}  // namespace ambulon
