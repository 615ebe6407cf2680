#pragma once
// Options that several commands have.

#include <string>
#include <vector>

#include <CLI/CLI.hpp>

#include "ambulon/base/body.hpp"
#include "ambulon/base/vec.hpp"

namespace ambulon::tool {

/// The longest time that can be played, in seconds.
inline constexpr double month = 30.0 * 86'400;

/// Accepts finite numbers from `min` to `max`.
CLI::Validator number_between(double min, double max);

/// Adds a command whose argument is a scene file.
CLI::App* add_command(CLI::App& app, const char* name, const char* what, std::string& scene);

/// Adds --width and --height of a picture, in pixels.
void add_size(CLI::App& command, int& width, int& height);

/// Adds --radius and --body. `*given`, if not null, becomes true when one of them is used. Both must outlive
/// the parsing of the command line.
void add_body(CLI::App& command, Body& body, bool* given = nullptr);

/// Parses numbers with commas between them. Returns none if the text is not that, or if one is not finite.
std::vector<float> numbers_of(const std::string& text);

/// Parses a point, "x,y" or "x,y,z". `name` is the option's, for the error that is thrown.
vec3 point_of(const std::string& name, const std::string& text);

/// Adds an option that is a point.
template <class Point>
CLI::Option* add_point(CLI::App& command, const char* name, Point& target, const char* what) {
  return command
      .add_option_function<std::string>(
          name, [&target, name](const std::string& text) { target = point_of(name, text); }, what)
      ->type_name("X,Y[,Z]");
}

}  // namespace ambulon::tool
