#pragma once

#include <compare>
#include <memory_resource>
#include <string>
#include <string_view>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/errand/note.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The latest events of a world, numbered from 0 since it began. Sentences are made when they are read.
///
///     for (auto i = journal.first(); i < journal.next(); ++i) std::puts(world.sentence(journal[i]).c_str());
class Journal {
 public:
  /// Keeps the latest `size` notes; memory for them is allocated at once. 0 keeps none.
  Journal(std::size_t size, std::pmr::memory_resource* memory);

  void write(const Note& note);
  /// Sorts the notes from that number on by time; the sort is stable.
  void sort_from(std::uint64_t number);

  /// Returns the number of the oldest note kept.
  std::uint64_t first() const { return written_ - kept_.size(); }
  /// Returns the number of the next note: how many were written so far.
  std::uint64_t next() const { return written_; }
  /// Returns the note of that number, in [first(), next()).
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

/// How far a reader has read the events of a world (`World::events`).
struct EventCursor {
  std::uint64_t next = 0;  ///< number of the next event
  std::uint64_t lost = 0;  ///< events that the journal dropped before they were read, so far
};

/// A range of the journal, read through a cursor that must outlive it. Events may be written while it is
/// read, for example by orders: those that the journal drops for them are skipped and counted in
/// `EventCursor::lost`.
class EventRange {
 public:
  /// A forward iterator over notes. A reference to a note is valid until the next event.
  class Iterator {
   public:
    Iterator(const EventRange& range, std::uint64_t number) : range_(&range), number_(number) {}
    const Note& operator*() const { return (*range_->journal_)[number_]; }
    Iterator& operator++() {
      ++number_;
      range_->skip_dropped(number_);
      return *this;
    }
    bool operator==(const Iterator& other) const { return number_ == other.number_; }

   private:
    const EventRange* range_;
    std::uint64_t number_;
  };
  EventRange(const Journal& journal, EventCursor& cursor, std::uint64_t first, std::uint64_t end)
      : journal_(&journal), cursor_(&cursor), first_(first), end_(end) {}
  Iterator begin() const { return {*this, first_}; }
  Iterator end() const { return {*this, end_}; }
  std::size_t size() const { return end_ - first_; }

 private:
  void skip_dropped(std::uint64_t& number) const;

  const Journal* journal_;
  EventCursor* cursor_;
  std::uint64_t first_, end_;
};

/// Returns `note` as a sentence, such as "lamplighter reached waypoint 2 of 4 (lamp-2)".
/// `who`, `whom`: names of the NPCs; `place`: name of the note's place.
std::string sentence(const Note& note, std::string_view who, std::string_view whom, std::string_view place);

}  // namespace ambulon
