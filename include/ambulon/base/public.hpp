#pragma once
// The symbols that a shared library exports: what public headers declare, and no more.

#if defined(__GNUC__)
#define AMBULON_PUBLIC __attribute__((visibility("default")))
#define AMBULON_HIDDEN __attribute__((visibility("hidden")))
#else
#define AMBULON_PUBLIC
#define AMBULON_HIDDEN
#endif
