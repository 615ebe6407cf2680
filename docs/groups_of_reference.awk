# Makes Doxygen's groups of the sections of reference.md.
/^## /  { if (open) print "*/"; room = substr($0, 4); print "/** @defgroup " room " " room; open = 1; next }
open    { print }
END     { if (open) print "*/" }
