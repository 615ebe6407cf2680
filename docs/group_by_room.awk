# A filter for Doxygen: puts the names of a header into the group of its room.
BEGIN { if (match(ARGV[1], /include\/ambulon\/[a-z]+\//)) room = substr(ARGV[1], RSTART + 16, RLENGTH - 17) }
/^namespace AMBULON_PUBLIC ambulon \{/ && room != "" { print $0 " /** @addtogroup " room " */ /** @{ */"; next }
/^\}  \/\/ namespace ambulon$/ && room != "" { print "/** @} */ " $0; next }
{ print }
