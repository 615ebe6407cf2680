# Makes functions of the C++ recipes in the cookbook, and a list of them, in the file `out`.
function put(line) { print line > out }
/^### /   { heading = substr($0, 5) }
/^```cpp/ { inside = 1
            put("void recipe_" ++count "([[maybe_unused]] World& world, [[maybe_unused]] Npc cat, [[maybe_unused]] Npc courier) {")
            headings[count] = heading; put("#line " NR + 1 " \"docs/cookbook.md\""); next }
/^```/    { if (inside) put("}"); inside = 0; next }
inside    { put($0) }
END       { put("constexpr Recipe recipes[] = {")
            for (i = 1; i <= count; ++i) put("  {\"" headings[i] "\", recipe_" i "},")
            put("};") }
