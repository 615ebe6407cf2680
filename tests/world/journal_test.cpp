#include "quay.hpp"

namespace ambulon {
namespace {

TEST(Journal, KeepsTheLastNotesAndNumbersThemAll) {
  Journal journal(3, std::pmr::get_default_resource());
  EXPECT_EQ(journal.first(), journal.next());
  for (std::uint32_t i = 0; i < 8; ++i) journal.write({.event = Event::reached, .number = i});
  EXPECT_EQ(journal.first(), 5U);
  EXPECT_EQ(journal.next(), 8U);
  for (auto number = journal.first(); number < journal.next(); ++number)
    EXPECT_EQ(journal[number].number, number);
  Journal none(0, std::pmr::get_default_resource());
  none.write({});
  EXPECT_EQ(none.first(), none.next());
}

TEST(Journal, TellsAWalkInWords) {
  World world;
  const Npc npc = *world.add({.name = "lamplighter", .at = {2, 3, 0}});
  npc.go_to({4, 3, 0});
  pass(world, 3);
  npc.turn_to_heading(0.f);
  world.signal("bell");
  pass(world, 1);
  npc.remove();
  EXPECT_EQ(told(world),
            "lamplighter appeared at (2.00, 3.00)\n"
            "lamplighter was given the order go_to, to (4.00, 3.00)\n"
            "lamplighter's go_to ended as arrived: it is at its goal\n"
            "lamplighter was given the order turn_to\n"
            "the signal \"bell\" was given\n"
            "lamplighter's turn_to ended as done: it finished\n"
            "lamplighter was removed at (3.72, 3.00)\n");
}

TEST(Journal, ANameIsNotGivenToWhoeverTakesTheSlotNext) {
  World world;
  (*world.add({.name = "moth"})).remove();
  EXPECT_TRUE(contains(told(world), "moth appeared"));
  ASSERT_TRUE(world.add({.name = "duck"}));
  EXPECT_TRUE(contains(told(world), "npc 0.1 appeared")) << told(world);
  EXPECT_TRUE(contains(told(world), "duck appeared"));
}

}  // namespace
}  // namespace ambulon
