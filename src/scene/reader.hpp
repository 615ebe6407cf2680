#pragma once
// Reading TOML against the description in keys.hpp, with errors that point at the place.

#include <optional>
#include <stdexcept>
#include <string>

#include <fmt/format.h>
#include <toml++/toml.h>

#include "ambulon/base/range.hpp"
#include "ambulon/scene/scene.hpp"

#include "keys.hpp"

namespace ambulon::scene {

/// A mistake in a scene file; turned into a `Problem` where reading began.
struct Mistake : std::runtime_error {
  using std::runtime_error::runtime_error;
};

/// Throws a mistake at the place where `node` stands.
[[noreturn]] void mistake(const std::string& file, const toml::node& node, const std::string& text);

/// The one of `known` that `word` is most likely a slip of, as " (did you mean \"x\"?)"; else empty.
std::string did_you_mean(std::string_view word, std::span<const std::string_view> known);

/// Reads the values of one table. That it has no unknown keys and all required ones is checked first.
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
  /// [x, y] or [x, y, z], which is no point but a way or a size.
  std::optional<vec3> vector(std::string_view key) const;
  /// A list of that many numbers.
  std::vector<float> numbers(std::string_view key, std::size_t count) const;
  std::optional<Range> range(std::string_view key) const;
  /// Index of the word among those allowed.
  std::optional<std::size_t> one_of(std::string_view key) const;

  /// Puts the number of `key`, when there is one, into `value`, times `factor`.
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

/// `node` as a table, or a mistake that says what was expected.
const toml::table& as_table(const std::string& file, const toml::node& node, std::string_view what);
/// `node` as an array, or a mistake that says what was expected.
const toml::array& as_array(const std::string& file, const toml::node& node, std::string_view what);
/// [x, y] or [x, y, z] in metres, or a mistake.
vec3 coordinates(const std::string& file, const toml::node& node, const std::string& what);
/// A number that is finite, or a mistake.
double finite_number(const std::string& file, const toml::node& node, std::string_view what);

}  // namespace ambulon::scene
