/* The options that say which port a rig runs on, for the commands that run one. */
#ifndef TOOL_PORT_OPTION_H
#define TOOL_PORT_OPTION_H

#include "command.h"

#include "rigpulse/lang.h"

/* As they were given on the command line. */
typedef struct port_option {
    char *port;
    gboolean guard;
} port_option;

extern port_option port_options;

#define PORT_ENTRIES                                                                           \
    {"port",                                                                                   \
     0,                                                                                        \
     0,                                                                                        \
     G_OPTION_ARG_FILENAME,                                                                    \
     &port_options.port,                                                                       \
     "which hook-up of the file counts; the first if not "                                     \
     "said",                                                                                   \
     "PORT"},                                                                                  \
    {                                                                                          \
        "guard", 0, 0, G_OPTION_ARG_NONE, &port_options.guard,                                 \
            "real devices: a second process brings them to rest when this one is killed", NULL \
    }

/* They count for each rig that is compiled and opened from now on. False when there is no such port, which has been
 * said. */
bool port_option_take(const command *self);

/* What only a simulated port can heed, for a rig on a real one: false when something of it is asked, which has been
 * said. */
bool port_option_fits(const command *self, const rgp_rig *rig, bool fast, bool seed, bool pace);

#endif
