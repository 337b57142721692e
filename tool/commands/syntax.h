/* The grammar of rig files, for editors. */
#ifndef TOOL_SYNTAX_H
#define TOOL_SYNTAX_H

#include <jansson.h>

/* A new reference. */
json_t *syntax_of_rigs(void);

#endif
