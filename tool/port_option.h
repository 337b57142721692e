/* The options that say which port a rig runs on, for the commands that run one. */
#ifndef TOOL_PORT_OPTION_H
#define TOOL_PORT_OPTION_H

#include <glib.h>
#include <stdbool.h>

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

/* They count for each rig that is compiled and opened from now on. False with *error when there is no
 * such port. */
bool port_option_take(GError **error);

#endif
