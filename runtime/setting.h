/* NAME=VALUE: a parameter's value at the start. */
#ifndef RUNTIME_SETTING_H
#define RUNTIME_SETTING_H

#include "rigpulse/engine.h"

#include <glib.h>

/* False with *error: no such parameter, no such value. */
bool rgp_set_param(rgp_engine *engine, const char *text, GError **error);

#endif
