#pragma once

#include <compare>
#include <memory_resource>
#include <string>
#include <string_view>
#include <vector>

#include "ambulon/errand/note.hpp"

namespace ambulon {

/// What happened to whom and why: the last so many notes, numbered from 0 since the world began.
/// Nothing is put into words until it is read.
class Journal {
 public:
  /// Keeps `size` notes, in `memory` taken at once; 0 keeps none.
  Journal(std::size_t size, std::pmr::memory_resource* memory);

  void write(const Note& note);
  /// Puts the notes from that number on in the order of their times; those of one time stay as they are.
  void sort_from(std::uint64_t number);

  /// Number of the oldest note still kept.
  std::uint64_t first() const { return written_ - kept_.size(); }
  /// Number that the next note will get: how many were ever written.
  std::uint64_t next() const { return written_; }
  /// The note with that number; it must lie in [first(), next()).
  const Note& operator[](std::uint64_t number) const { return kept_[number % size_]; }

 private:
  std::pmr::vector<Note> kept_;
  /// When a note was written, and where it lies from the first of those that are sorted.
  struct Place {
    double time;
    std::uint32_t from;
    auto operator<=>(const Place&) const = default;
  };
  std::pmr::vector<Place> order_;  // while it sorts
  std::size_t size_;
  std::uint64_t written_ = 0;
};

/// `note` as a sentence, such as "lamplighter reached waypoint 2 of 4 (lamp-2)".
/// `who`, `whom`: the names of the NPCs it is about; `place`: what to call the note's place.
std::string sentence(const Note& note, std::string_view who, std::string_view whom, std::string_view place);

}  // namespace ambulon
