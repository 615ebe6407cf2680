#include "ambulon/world/journal.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <utility>

#include <fmt/format.h>

namespace ambulon {

Journal::Journal(std::size_t size, std::pmr::memory_resource* memory)
    : kept_(memory), order_(memory), size_(size) {
  kept_.reserve(size);
  order_.reserve(size);
}

void Journal::write(const Note& note) {
  if (size_ == 0) return;
  if (kept_.size() < size_)
    kept_.push_back(note);
  else
    kept_[written_ % size_] = note;
  ++written_;
}

void Journal::sort_from(std::uint64_t number) {
  number = std::max(number, first());
  bool in_order = true;
  for (std::uint64_t i = number + 1; in_order && i < written_; ++i)
    in_order = (*this)[i - 1].time <= (*this)[i].time;
  if (in_order) return;
  order_.clear();
  for (std::uint64_t i = number; i < written_; ++i)
    order_.push_back({(*this)[i].time, static_cast<std::uint32_t>(i - number)});
  std::ranges::sort(order_);
  const auto at = [&](std::size_t from) -> Note& { return kept_[(number + from) % size_]; };
  for (std::size_t i = 0; i < order_.size(); ++i) {  // in order of time
    if (order_[i].from == i) continue;
    const Note first = at(i);
    std::size_t here = i;
    while (order_[here].from != i) {
      const std::size_t next = order_[here].from;
      at(here) = at(next);
      order_[here].from = static_cast<std::uint32_t>(here);
      here = next;
    }
    at(here) = first;
    order_[here].from = static_cast<std::uint32_t>(here);
  }
}

namespace {

constexpr std::size_t event_count = static_cast<std::size_t>(Event::crosses) + 1;

// In the order of `Event`.
constexpr std::array<std::string_view, event_count> names = {
    "appeared",   "removed",      "ordered",      "ended",        "reached",       "pausing",
    "skipped",    "late",         "lap",          "signalled",    "pushed",        "lags",
    "held_fast",  "silent",       "moving_again", "sets_out",     "visited",       "gave_up",
    "new_target", "came_near",    "moved_away",   "touched",      "turned_around", "replans",
    "side_steps", "knocked_back", "suspended",    "resumed",      "teleported",    "not_teleported",
    "new_gait",   "new_body",     "boarded",      "left_deck",    "no_place",      "held_up",
    "waits",      "goes_on",      "gives_way",    "takes_detour", "route_opened",  "crosses"};

/// Sentences about orders and their goals; empty for other events.
std::string sentence_of_order(const Note& note, std::string_view who, std::string_view whom,
                              std::string_view place) {
  switch (note.event) {
    case Event::ordered:
      if (!whom.empty())
        return fmt::format("{} was given the order {}, {} {}", who, note.errand,
                           note.errand == "flee"     ? "from"
                           : note.errand == "escort" ? "with"
                                                     : "after",
                           whom);
      return place.empty() ? fmt::format("{} was given the order {}", who, note.errand)
                           : fmt::format("{} was given the order {}, to {}", who, note.errand, place);
    case Event::ended:
      return fmt::format("{}'s {} ended as {}: {}", who, note.errand, name(note.outcome.ending),
                         note.outcome.why());
    case Event::reached:
      return fmt::format("{} reached waypoint {} of {}, {}", who, note.number, note.of, place);
    case Event::pausing:
      return fmt::format("{} pauses for {:.1f} s", who, note.value);
    case Event::skipped:
      return fmt::format("{} skipped waypoint {} of {}: {}", who, note.number, note.of, note.outcome.why());
    case Event::late:
      return fmt::format("{} finished a lap in {:.1f} s, which is late: {:.1f} s were asked for", who,
                         note.value, note.other);
    case Event::lap:
      return fmt::format("{} finished a lap in {:.1f} s", who, note.value);
    case Event::sets_out:
      return whom.empty() ? fmt::format("{} sets out for {}", who, place)
                          : fmt::format("{} sets out for a place near {}, {}", who, whom, place);
    case Event::visited:
      return fmt::format("{} reached {}", who, place);
    case Event::gave_up:
      return fmt::format("{} gave up going to {}: {}", who, place, note.outcome.why());
    default:
      return {};
  }
}

/// Sentences about targets, other NPCs and obstacles; empty for other events.
std::string sentence_of_others(const Note& note, std::string_view who, std::string_view whom,
                               std::string_view place) {
  switch (note.event) {
    case Event::new_target:
      return fmt::format("{} has {} as its target now", who, whom);
    case Event::came_near:
      return fmt::format("{} came near {}: {:.2f} m", who, whom, note.value);
    case Event::moved_away:
      return fmt::format("{} moved away from {}: {:.2f} m", who, whom, note.value);
    case Event::touched:
      return fmt::format("{} touches {}, at a closing speed of {:.2f} m/s", who, whom, note.value);
    case Event::turned_around:
      return whom.empty() ? fmt::format("{} turned around at the edge, {}", who, place)
                          : fmt::format("{} turned around before {}, at {}", who, whom, place);
    case Event::held_up:
      return whom.empty()
                 ? fmt::format("{} has been held up for {:.1f} s, at {}", who, note.value, place)
                 : fmt::format("{} has been held up by {} for {:.1f} s, at {}", who, whom, note.value, place);
    case Event::goes_on:
      return fmt::format("{} goes on after {:.1f} s, from {}", who, note.value, place);
    case Event::gives_way:
      return fmt::format("{} gives way to those who come through a place {:.1f} m wide, at {}", who,
                         note.value, place);
    case Event::takes_detour:
      return fmt::format("{} takes a detour around the jam at {}: {:.1f} m instead of {:.1f} m", who, place,
                         note.value, note.other);
    case Event::waits:
      return fmt::format("{} waits for a route: {}", who, note.outcome.why());
    case Event::route_opened:
      return fmt::format("{} takes a shorter route that has opened: {:.1f} m instead of {:.1f} m", who,
                         note.value, note.other);
    case Event::replans:
      return fmt::format("{} has made no progress for {:.1f} s and plans its route again", who, note.value);
    case Event::side_steps:
      return fmt::format("{} has made no progress for {:.1f} s and steps aside", who, note.value);
    default:
      return {};
  }
}

/// Sentences about the body; empty for other events.
std::string sentence_of_body(const Note& note, std::string_view who, std::string_view whom,
                             std::string_view place) {
  switch (note.event) {
    case Event::pushed:
      return fmt::format("{} was pushed {:.2f} m off its route, at {}", who, note.value, place);
    case Event::lags:
      return fmt::format("{} lags: its body moves at {:.2f} m/s where {:.2f} m/s were advised, at {}", who,
                         note.value, note.other, place);
    case Event::held_fast:
      return fmt::format("{} is held fast at {}: its body does not move though {:.2f} m/s were advised", who,
                         place, note.other);
    case Event::silent:
      return fmt::format("{}'s body has not been reported for {:.1f} s; call Npc::report each tick", who,
                         note.value);
    case Event::moving_again:
      return fmt::format("{} moves as advised again, at {}", who, place);
    case Event::knocked_back:
      return fmt::format("{} was pushed at {:.2f} m/s for {:.2f} s, at {}", who, note.value, note.other,
                         place);
    case Event::new_gait:
      return fmt::format("{} moves at {:.2f} m/s from now on", who, note.value);
    case Event::new_body:
      return fmt::format("{} has a body of radius {:.2f} m and height {:.2f} m from now on", who, note.value,
                         note.other);
    case Event::boarded:
      return fmt::format("{} stepped onto {}", who, whom);
    case Event::left_deck:
      return fmt::format("{} stepped off {}", who, whom);
    case Event::crosses:
      return fmt::format("{} {} at {}: {:.2f} m far, {:.2f} m {}", who, note.errand, place, note.other,
                         std::abs(note.value), note.value < 0.f ? "down" : "up");
    default:
      return {};
  }
}

}  // namespace

std::string_view name(Event event) { return names[static_cast<std::size_t>(event)]; }

std::string sentence(const Note& note, std::string_view who, std::string_view whom, std::string_view place) {
  switch (note.event) {
    case Event::appeared:
      return fmt::format("{} appeared at {}", who, place);
    case Event::removed:
      return fmt::format("{} was removed at {}", who, place);
    case Event::signalled:
      return fmt::format("the signal \"{}\" was given", note.errand);
    case Event::suspended:
      return fmt::format("{} was suspended at {}", who, place);
    case Event::resumed:
      return fmt::format("{} resumes its order at {}", who, place);
    case Event::teleported:
      return fmt::format("{} was teleported to {}", who, place);
    case Event::not_teleported:
      return fmt::format("{} was not teleported: {}", who, note.outcome.why());
    case Event::no_place:
      return fmt::format("{} was not sent: the click hit nothing but sky", who);
    default:
      break;
  }
  for (const auto part : {sentence_of_order, sentence_of_others, sentence_of_body})
    if (std::string text = part(note, who, whom, place); !text.empty()) return text;
  return {};
}

void EventRange::skip_dropped(std::uint64_t& number) const {
  const std::uint64_t kept = std::min(journal_->first(), end_);
  if (number < kept) cursor_->lost += kept - std::exchange(number, kept);
}

}  // namespace ambulon
