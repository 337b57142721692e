/* Parameters by name and value, as a person writes them: NAME=VALUE. */
#ifndef RUNTIME_SETTING_H
#define RUNTIME_SETTING_H

#include "rigpulse/engine.h"

#include <glib.h>

/* The parameter of that name; -1 with *error, which lists those that there are. */
int32_t rgp_param_find(const rgp_image_header *image, const char *name, GError **error);

/* A value of a parameter, in its unit, out of "3 cm". False with *error: it is none, or out of the parameter's range.
 */
bool rgp_param_value(const rgp_image_header *image, uint32_t param, const char *text, double *value, GError **error);

/* "NAME=VALUE", for the start. False with *error, which begins with "--set" and the text. */
bool rgp_set_param(rgp_engine *engine, const char *text, GError **error);

#endif
