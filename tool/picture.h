/* Drawing a figure with gnuplot. */
#ifndef TOOL_PICTURE_H
#define TOOL_PICTURE_H

#include "command.h"

#include "analysis/figures/figure.h"

/* True for a name that ends as a picture's does. */
bool picture_is_named(const char *path);

/* The same of what -o names, NULL for nothing; false has been said. */
bool picture_fits(const command *self, const char *path);

/* Has gnuplot draw a script, whose output is `path`. False with *error set when gnuplot is missing or fails. */
bool picture_run(const GString *script, const char *path, GError **error);

/* Draws into figure->path. False with *error set when gnuplot is missing or fails. */
bool picture_draw(const rgp_recording *recording, const rgp_figure *figure, GError **error);

#endif
