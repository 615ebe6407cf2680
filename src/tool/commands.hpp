#pragma once

namespace CLI {
class App;
}

namespace ambulon::tool {

// Each function adds one command with its options. If the program is called with that command, it runs while
// the arguments are parsed, and `exit_code` is its result (`Exit`).

void add_run(CLI::App& app, int& exit_code);
void add_journal(CLI::App& app, int& exit_code);
void add_draw(CLI::App& app, int& exit_code);
void add_route(CLI::App& app, int& exit_code);
void add_build(CLI::App& app, int& exit_code);
void add_check(CLI::App& app, int& exit_code);
void add_compare(CLI::App& app, int& exit_code);
void add_live(CLI::App& app, int& exit_code);
void add_schema(CLI::App& app, int& exit_code);

}  // namespace ambulon::tool
