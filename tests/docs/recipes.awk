# Makes functions `PREFIX_1` … of the C++ blocks of a page, and the list `PREFIX` of them, in the file `out`.
function put(line) { print line > out }
/^##+ /   { heading = $0; sub(/^#+ /, "", heading) }
/^```cpp/ { inside = 1
            put("void " prefix "_" ++count "([[maybe_unused]] World& world, [[maybe_unused]] Npc cat, [[maybe_unused]] Npc courier) {")
            headings[count] = heading; put("#line " NR + 1 " \"docs/" page "\""); next }
/^```/    { if (inside) put("}"); inside = 0; next }
inside    { put($0) }
END       { put("constexpr Recipe " prefix "[] = {")
            for (i = 1; i <= count; ++i) put("  {\"" headings[i] "\", " prefix "_" i "},")
            put("};") }
