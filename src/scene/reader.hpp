#pragma once
// Reads TOML according to keys.hpp. Errors name the place.

#include <optional>
#include <stdexcept>
#include <string>

#include <fmt/format.h>
#include <toml++/toml.h>

#include "ambulon/base/range.hpp"

#include "scene/keys.hpp"
#include "scene/scene.hpp"

namespace ambulon::scene {

/// A mistake in a scene file. It is turned into a `Problem` where reading began.
struct Mistake : std::runtime_error {
  using std::runtime_error::runtime_error;
};

/// Throws a mistake at the place of `node`.
[[noreturn]] void mistake(const std::string& file, const toml::node& node, const std::string& text);

/// Returns the most similar one of `known` as " (did you mean \"x\"?)"; empty if none is similar.
std::string did_you_mean(std::string_view word, std::span<const std::string_view> known);

/// Reads the values of one table. The constructor checks for unknown and missing keys.
class Reader {
 public:
  Reader(const std::string& file, const toml::table& toml, const Table& table);

  const toml::node* find(std::string_view key) const;
  const toml::node& node(std::string_view key) const { return *find(key); }
  bool has(std::string_view key) const { return find(key) != nullptr; }

  std::optional<double> number(std::string_view key) const;
  std::optional<std::int64_t> whole(std::string_view key) const;
  std::optional<bool> flag(std::string_view key) const;
  std::optional<std::string> text(std::string_view key) const;
  std::vector<std::string> texts(std::string_view key) const;
  /// Reads [x, y] or [x, y, z] as a vector, not a point.
  std::optional<vec3> vector(std::string_view key) const;
  /// Reads a list of `count` numbers.
  std::vector<float> numbers(std::string_view key, std::size_t count) const;
  std::optional<Range> range(std::string_view key) const;
  /// Returns the index of the word among those allowed.
  std::optional<std::size_t> one_of(std::string_view key) const;

  /// Writes the number of `key`, if any, times `factor` into `value`.
  void into(float& value, std::string_view key, float factor = 1.f) const;
  void into(bool& value, std::string_view key) const;

  [[noreturn]] void wrong(std::string_view key, const std::string& text) const;
  const std::string& file() const { return file_; }
  const toml::table& toml() const { return toml_; }

 private:
  const Key& key(std::string_view name) const;
  double number_in(const toml::node& node, const Key& key) const;

  const std::string& file_;
  const toml::table& toml_;
  const Table& table_;
};

/// Returns `node` as a table; throws a mistake if it is none.
const toml::table& as_table(const std::string& file, const toml::node& node, std::string_view what);
/// Returns `node` as an array; throws a mistake if it is none.
const toml::array& as_array(const std::string& file, const toml::node& node, std::string_view what);
/// Reads [x, y] or [x, y, z] in metres; throws a mistake if it is none.
vec3 coordinates(const std::string& file, const toml::node& node, const std::string& what);
/// Reads a finite number; throws a mistake if it is none.
double finite_number(const std::string& file, const toml::node& node, std::string_view what);

}  // namespace ambulon::scene
