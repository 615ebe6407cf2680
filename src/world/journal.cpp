#include "ambulon/world/journal.hpp"

#include <algorithm>
#include <cmath>

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

std::string_view name(Event event) {
  switch (event) {
    case Event::appeared:
      return "appeared";
    case Event::removed:
      return "removed";
    case Event::ordered:
      return "ordered";
    case Event::ended:
      return "ended";
    case Event::reached:
      return "reached";
    case Event::pausing:
      return "pausing";
    case Event::skipped:
      return "skipped";
    case Event::late:
      return "late";
    case Event::lap:
      return "lap";
    case Event::signalled:
      return "signalled";
    case Event::pushed:
      return "pushed";
    case Event::lags:
      return "lags";
    case Event::held_fast:
      return "held_fast";
    case Event::silent:
      return "silent";
    case Event::moving_again:
      return "moving_again";
    case Event::sets_out:
      return "sets_out";
    case Event::visited:
      return "visited";
    case Event::gave_up:
      return "gave_up";
    case Event::new_target:
      return "new_target";
    case Event::came_near:
      return "came_near";
    case Event::moved_away:
      return "moved_away";
    case Event::touched:
      return "touched";
    case Event::turned_around:
      return "turned_around";
    case Event::replans:
      return "replans";
    case Event::side_steps:
      return "side_steps";
    case Event::knocked_back:
      return "knocked_back";
    case Event::suspended:
      return "suspended";
    case Event::resumed:
      return "resumed";
    case Event::teleported:
      return "teleported";
    case Event::not_teleported:
      return "not_teleported";
    case Event::new_gait:
      return "new_gait";
    case Event::new_body:
      return "new_body";
    case Event::boarded:
      return "boarded";
    case Event::left_deck:
      return "left_deck";
    case Event::no_place:
      return "no_place";
    case Event::held_up:
      return "held_up";
    case Event::waits:
      return "waits";
    case Event::goes_on:
      return "goes_on";
    case Event::route_opened:
      return "route_opened";
    case Event::takes_detour:
      return "takes_detour";
    case Event::crosses:
      return "crosses";
  }
  return "";
}

std::string sentence(const Note& note, std::string_view who, std::string_view whom, std::string_view place) {
  switch (note.event) {
    case Event::appeared:
      return fmt::format("{} appeared at {}", who, place);
    case Event::removed:
      return fmt::format("{} was removed at {}", who, place);
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
    case Event::signalled:
      return fmt::format("the signal \"{}\" was given", note.errand);
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
    case Event::sets_out:
      return whom.empty() ? fmt::format("{} sets out for {}", who, place)
                          : fmt::format("{} sets out for a place near {}, {}", who, whom, place);
    case Event::visited:
      return fmt::format("{} reached {}", who, place);
    case Event::gave_up:
      return fmt::format("{} gave up going to {}: {}", who, place, note.outcome.why());
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
    case Event::replans:
      return fmt::format("{} has made no progress for {:.1f} s and plans its route again", who, note.value);
    case Event::side_steps:
      return fmt::format("{} has made no progress for {:.1f} s and steps aside", who, note.value);
    case Event::knocked_back:
      return fmt::format("{} was pushed at {:.2f} m/s for {:.2f} s, at {}", who, note.value, note.other,
                         place);
    case Event::suspended:
      return fmt::format("{} was suspended at {}", who, place);
    case Event::resumed:
      return fmt::format("{} resumes its order at {}", who, place);
    case Event::teleported:
      return fmt::format("{} was teleported to {}", who, place);
    case Event::not_teleported:
      return fmt::format("{} was not teleported: {}", who, note.outcome.why());
    case Event::new_gait:
      return fmt::format("{} moves at {:.2f} m/s from now on", who, note.value);
    case Event::new_body:
      return fmt::format("{} has a body of radius {:.2f} m and height {:.2f} m from now on", who, note.value,
                         note.other);
    case Event::boarded:
      return fmt::format("{} stepped onto {}", who, whom);
    case Event::left_deck:
      return fmt::format("{} stepped off {}", who, whom);
    case Event::no_place:
      return fmt::format("{} was not sent: the click hit nothing but sky", who);
    case Event::held_up:
      return whom.empty()
                 ? fmt::format("{} has been held up for {:.1f} s, at {}", who, note.value, place)
                 : fmt::format("{} has been held up by {} for {:.1f} s, at {}", who, whom, note.value, place);
    case Event::waits:
      return fmt::format("{} waits for a route: {}", who, note.outcome.why());
    case Event::goes_on:
      return fmt::format("{} goes on after {:.1f} s, from {}", who, note.value, place);
    case Event::takes_detour:
      return fmt::format("{} takes a detour around the jam at {}: {:.1f} m instead of {:.1f} m", who, place,
                         note.value, note.other);
    case Event::route_opened:
      return fmt::format("{} takes a shorter route that has opened: {:.1f} m instead of {:.1f} m", who,
                         note.value, note.other);
    case Event::crosses:
      return fmt::format("{} {} at {}: {:.2f} m far, {:.2f} m {}", who, note.errand, place, note.other,
                         std::abs(note.value), note.value < 0.f ? "down" : "up");
  }
  return {};
}

}  // namespace ambulon
