/* Names that a user gives: found in an image, or the nearest of what it has. */
#ifndef TOOL_NAMES_H
#define TOOL_NAMES_H

#include "command.h"

#include "rigpulse/image.h"

#include <stdbool.h>

/* The loop of that name; false when there is none. */
bool names_loop(const rgp_image_header *image, const char *name, uint32_t *loop);

/* The same; what the image of the file `path` has instead is said. */
bool names_loop_or_refuse(const command *self, const rgp_image_header *image, const char *path, const char *name,
                          uint32_t *loop);

/* For a word that none of them is: "WHERE: there is no WHAT 'word'", with the nearest of them, or all. Returns false.
 */
bool names_refuse(const command *self, const char *where, const char *what, const char *word, const char *const *all,
                  uint32_t count);

/* The named value that is meant, or loop, if `loops`; the image's own; NULL when none is near. */
const char *names_nearest(const rgp_image_header *image, const char *name, bool loops);

#endif
