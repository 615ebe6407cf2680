// Rooms use only rooms before them, judged by the include lines of every source file.

#include <algorithm>
#include <array>
#include <filesystem>
#include <fstream>
#include <map>
#include <regex>
#include <set>

#include <gtest/gtest.h>

namespace {

namespace fs = std::filesystem;

// The order of the design's table, and the exceptions among the rooms.
const std::vector<std::string> rooms = {"base",  "ground", "route", "motion", "crowd", "errand",
                                        "world", "script", "scene", "draw",   "live",  "tool"};
const std::map<std::string, std::set<std::string>> only = {
    {"motion", {"base"}}, {"crowd", {"base", "motion"}}, {"route", {"base", "ground"}}};

std::size_t place_of(const std::string& room) {
  return static_cast<std::size_t>(std::find(rooms.begin(), rooms.end(), room) - rooms.begin());
}

/// The reason why `from` may not include `to`, or an empty string.
std::string forbidden(const std::string& from, const std::string& to) {
  if (from == to) return "";
  if (place_of(to) >= rooms.size()) return "unknown room " + to;
  if (const auto few = only.find(from); few != only.end() && !few->second.contains(to))
    return from + " may not use " + to;
  return place_of(to) > place_of(from) ? from + " stands before " + to : "";
}

/// The room of an include line, for public headers ("ambulon/ground/…") and those in src ("ground/…"); empty
/// for
/// other lines.
std::string room_included(const std::string& line) {
  std::string path = line.starts_with("#include \"") ? line.substr(10) : "";
  if (path.starts_with("ambulon/")) path = path.substr(8);
  const auto slash = path.find('/');
  return slash == std::string::npos ? "" : path.substr(0, slash);
}

/// Our own texts in a folder: code, documents and the page's sources.
std::vector<fs::path> files_below(const fs::path& folder) {
  static const std::set<std::string> kinds = {".hpp", ".cpp", ".md", ".ts", ".mjs", ".toml", ".txt"};
  std::vector<fs::path> files;
  for (auto at = fs::recursive_directory_iterator(folder); at != fs::recursive_directory_iterator(); ++at) {
    if (at->path().filename() == "node_modules")
      at.disable_recursion_pending();
    else if (kinds.contains(at->path().extension()))
      files.push_back(at->path());
  }
  return files;
}

TEST(Rooms, UseOnlyRoomsBeforeThem) {
  int files = 0, lines = 0;
  for (const char* top : {"include/ambulon", "src"})
    for (const auto& entry : fs::recursive_directory_iterator(fs::path(AMBULON_SOURCE_DIR) / top)) {
      if (entry.path().extension() != ".hpp" && entry.path().extension() != ".cpp") continue;
      const fs::path inside = fs::relative(entry.path(), fs::path(AMBULON_SOURCE_DIR) / top);
      if (std::distance(inside.begin(), inside.end()) < 2) continue;  // the header of the whole core
      const std::string room = *inside.begin();
      ASSERT_LT(place_of(room), rooms.size()) << entry.path() << " is in no room";
      ++files;
      std::ifstream stream(entry.path());
      for (std::string line; std::getline(stream, line);)
        if (const std::string used = room_included(line); !used.empty()) {
          ++lines;
          EXPECT_EQ(forbidden(room, used), "") << entry.path() << ": " << line;
        }
    }
  EXPECT_GT(files, 40);
  EXPECT_GT(lines, 60);
}

/// Where the classes of namespace `ambulon` are defined and declared, judged by lines that begin with them.
struct Classes {
  std::map<std::string, std::set<std::string>> defined_in;    // files, by class
  std::vector<std::pair<std::string, std::string>> declared;  // room and class
  std::map<std::string, std::string> room_of;                 // of the definition
};

/// Classes of unnamed and of inner namespaces are left out: other files cannot name them.
Classes classes_below(const fs::path& top) {
  static const std::regex definition(
      R"(^(?:class|struct|enum class) (?:AMBULON_\w+ )?(?:\[\[nodiscard\]\] )?(\w+)(?: final)?(?: : [^;]*)? \{)"),
      declaration(R"(^(?:class|struct) (\w+);)");
  Classes all;
  for (const auto& entry : fs::recursive_directory_iterator(top)) {
    if (entry.path().extension() != ".hpp" && entry.path().extension() != ".cpp") continue;
    const std::string room = *fs::relative(entry.path(), top).begin();
    std::ifstream stream(entry.path());
    int inner = 0;
    std::smatch found;
    for (std::string line; std::getline(stream, line);) {
      if (line == "namespace {" || line.starts_with("namespace detail") ||
          line.starts_with("namespace scene") || line.starts_with("namespace live") ||
          line.starts_with("namespace ambulon::"))
        ++inner;
      if (line.starts_with("}  // namespace") && line != "}  // namespace ambulon") --inner;
      if (inner > 0) continue;
      if (std::regex_search(line, found, definition)) {
        all.defined_in[found[1]].insert(entry.path().string());
        all.room_of[found[1]] = room;
      } else if (std::regex_search(line, found, declaration)) {
        all.declared.emplace_back(room, found[1]);
      }
    }
  }
  return all;
}

// A declaration is as good as an include for a room that depends on one below it.
TEST(Rooms, DeclareOnlyClassesOfRoomsBeforeThem) {
  Classes all = classes_below(fs::path(AMBULON_SOURCE_DIR) / "include/ambulon");
  const Classes internal = classes_below(fs::path(AMBULON_SOURCE_DIR) / "src");
  all.declared.insert(all.declared.end(), internal.declared.begin(), internal.declared.end());
  all.room_of.insert(internal.room_of.begin(), internal.room_of.end());
  EXPECT_GT(all.declared.size(), 20U);
  for (const auto& [room, name] : all.declared) {
    const auto defined = all.room_of.find(name);
    if (defined != all.room_of.end()) {
      EXPECT_EQ(forbidden(room, defined->second), "") << name;
    }
  }
}

// Two classes of one name in one namespace break the one-definition rule.
TEST(Rooms, DefineEachClassOnce) {
  Classes all = classes_below(fs::path(AMBULON_SOURCE_DIR) / "src");
  for (const auto& [name, files] : classes_below(fs::path(AMBULON_SOURCE_DIR) / "include/ambulon").defined_in)
    all.defined_in[name].insert(files.begin(), files.end());
  EXPECT_GT(all.defined_in.size(), 200U);
  for (const auto& [name, files] : all.defined_in)
    EXPECT_EQ(files.size(), 1U) << name << " in " << *files.begin();
}

/// Phrases that hide the subject of a sentence or a number. Our texts contain none.
const std::regex hard_to_read(
    R"((^|[.:;!?] |// |/// |\* |"|\()(Who|Whoever|Whom|Whose)\b|\b(a)new\b|at the (most)\b|\bso (many)\b|looked (on) from)");

/// True for matches of `hard_to_read`. Most lines contain none of these letters, and regular expressions are
/// slow.
bool is_hard_to_read(const std::string& line) {
  const bool may_be = std::ranges::any_of(std::array{"Who", "new", "at the", "so ", "looked"},
                                          [&](const char* part) { return line.find(part) != line.npos; });
  return may_be && std::regex_search(line, hard_to_read);
}

TEST(Words, SayWhatTheyAreAbout) {
  int lines = 0;
  for (const char* top : {"include", "src", "tests", "bench", "examples", "docs", "README.md", "CHANGELOG.md",
                          "CONTRIBUTING.md"}) {
    const fs::path path = fs::path(AMBULON_SOURCE_DIR) / top;
    for (const fs::path& file : fs::is_directory(path) ? files_below(path) : std::vector{path}) {
      if (file.filename() == "rooms_test.cpp") continue;
      std::ifstream stream(file);
      int number = 1;
      for (std::string line; std::getline(stream, line); ++lines, ++number)
        EXPECT_FALSE(is_hard_to_read(line)) << file.string() << ":" << number << ": " << line;
    }
  }
  EXPECT_GT(lines, 30'000);
}

TEST(Words, TheRuleItselfSeesWhatItShould) {
  for (const char* line :
       {"/// Who waits stands.", "planned anew.", "16 at the most", "so many metres", "// It rains. Whoever"})
    EXPECT_TRUE(is_hard_to_read(line)) << line;
  EXPECT_FALSE(is_hard_to_read("/// An NPC that waits stands; Whole numbers"));
}

/// Positions are the same to the bit on every machine, but these functions of the C library are not:
/// base/trig.hpp and base/angle.hpp have those that are.
TEST(Rooms, ThatMoveNpcsUseNoFunctionsThatDifferBetweenProcessors) {
  const std::regex differs(R"(std::(cos|sin|tan|acos|asin|atan2?|exp2?|pow|log\w*|cbrt)\()");
  EXPECT_TRUE(std::regex_search("return std::atan2(y, x);", differs));
  int files = 0;
  for (const char* room : {"base", "route", "motion", "crowd", "errand", "world", "script"})
    for (const fs::path& file : files_below(fs::path(AMBULON_SOURCE_DIR "/src") / room)) {
      ++files;
      std::ifstream stream(file);
      int number = 0;
      for (std::string line; std::getline(stream, line);) {
        ++number;
        EXPECT_FALSE(std::regex_search(line, differs)) << file << ":" << number << ": " << line;
      }
    }
  EXPECT_GT(files, 100);
}

TEST(Rooms, TheRuleItselfSeesAnUpwardInclude) {
  EXPECT_NE(forbidden("errand", "world"), "");
  EXPECT_NE(forbidden("motion", "ground"), "");
  EXPECT_NE(forbidden("base", "cellar"), "");
  EXPECT_EQ(forbidden("world", "errand"), "");
}

}  // namespace
