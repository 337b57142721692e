/* The options with which a rig is set going, for the commands that do so. */
#ifndef TOOL_BEGIN_H
#define TOOL_BEGIN_H

#include "command.h"
#include "port_option.h"
#include "runtime/door.h"

typedef struct begin_options {
    char *length, *record, *seed, *kept, *power, *pace;
    char **set;
    gboolean fast, dry, overwrite, realtime;
} begin_options;

/* Options that only a simulated port can heed, as of rigfile_fits_port(). */
bool begin_fits(const command *self, const begin_options *o, const rgp_rig *rig);

#define BEGIN_ENTRIES(o)                                                                                                 \
    {"for", 0, 0, G_OPTION_ARG_FILENAME, &(o)->length, "how long; else until it is ended by hand", "TIME"},              \
        {"seed", 0, 0, G_OPTION_ARG_FILENAME, &(o)->seed, "of the simulated noise; 1 if not said", "NUMBER"},            \
        {"record", 0, 0, G_OPTION_ARG_FILENAME, &(o)->record, "write a recording NAME.csv", "NAME"},                     \
        {"overwrite", 0, 0, G_OPTION_ARG_NONE, &(o)->overwrite, "also over a recording of that name", NULL},             \
        {"set", 0, 0, G_OPTION_ARG_FILENAME_ARRAY, &(o)->set, "begin with another value of a parameter", "NAME=VALUE"},  \
        {"kept", 0, 0, G_OPTION_ARG_FILENAME, &(o)->kept, "where what the rig keeps survives a power cycle", "FILE"},    \
        {"dry", 0, 0, G_OPTION_ARG_NONE, &(o)->dry, "a dry run: everything is shown, nothing is driven", NULL},          \
        {"realtime", 0, 0, G_OPTION_ARG_NONE, &(o)->realtime, "ticks go before all other work, memory is locked", NULL}, \
        {"pace", 0, 0, G_OPTION_ARG_FILENAME, &(o)->pace, "so many times as fast as the wall clock", "NUMBER"},          \
        PORT_ENTRIES,                                                                                                    \
    {                                                                                                                    \
        "power", 0, 0, G_OPTION_ARG_FILENAME, &(o)->power, "for first trials: drive nothing further than this",          \
            "PERCENT"                                                                                                    \
    }

/* False when something is wrong with them, which has been said. The options must outlive the setup. */
bool begin_parse(const command *self, const begin_options *o, rgp_door_setup *setup);

/* The number behind --pace. False when it is none, which has been said. */
bool begin_pace(const command *self, const char *text, double *pace);

/* True when any has been given that only a rig can heed: all but --pace. */
bool begin_any_of_rig(const begin_options *o);

void begin_clear(begin_options *o);

#endif
